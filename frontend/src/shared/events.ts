// What changes elsewhere: one stream a browser, shared between its tabs; polling goes on beside it as the way on.
import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";

/** What a page is told: what changed, which one, at which revision; never what in it. */
export type Told = { what: "case" | "draft" | "files" | "all"; name: string; revision: number };

const CHANNEL = "jolly-clerk-events";
/** The stream ends with the session; so many milliseconds later it is tried again. */
const AGAIN = 15_000;

/** Which queries may show something else after a change; nothing if this window shows that revision already. */
export function touchedBy(told: Told, seen: (key: readonly unknown[]) => number | undefined): readonly unknown[][] {
  if (told.what === "all") return [[]];
  if (told.what === "files") return [["draft"]];
  if (told.what === "draft") {
    const key = ["draft", told.name];
    const at = seen(key);
    return at === undefined || at >= told.revision ? [["drafts"]] : [key, ["drafts"]];
  }
  const key = ["case", told.name];
  const at = seen(key);
  const lists = [["tray"], ["my-cases"], ["my-messages"], ["summary", told.name]];
  return at === undefined || at >= told.revision ? lists : [key, ...lists];
}

function tell(queries: QueryClient, told: Told): void {
  const seen = (key: readonly unknown[]) => queries.getQueryData<{ revision?: number }>(key)?.revision;
  for (const queryKey of touchedBy(told, seen)) queries.invalidateQueries({ queryKey });
}

/** Listen until `over` is aborted; told to the other tabs as well. Resolves when the stream has ended for good. */
function listen(channel: BroadcastChannel, heard: (told: Told) => void, over: AbortSignal): Promise<void> {
  return new Promise((resolve) => {
    let stream: EventSource | undefined;
    let later: ReturnType<typeof setTimeout> | undefined;
    const open = () => {
      stream = new EventSource("/api/events");
      stream.addEventListener("change", (event) => {
        const told = JSON.parse((event as MessageEvent<string>).data) as Told;
        heard(told);
        channel.postMessage(told);
      });
      stream.onerror = () => {
        // the browser tries again by itself, with the id of the last event, unless it was refused
        if (stream?.readyState === EventSource.CLOSED) later = setTimeout(open, AGAIN);
      };
    };
    over.addEventListener("abort", () => {
      stream?.close();
      clearTimeout(later);
      resolve();
    });
    open();
  });
}

/** Keep what is on the screen up to what happens elsewhere, as long as somebody is signed in. */
export function useEvents(signedIn: boolean): void {
  const queries = useQueryClient();
  useEffect(() => {
    if (!signedIn || typeof EventSource === "undefined" || typeof BroadcastChannel === "undefined") return;
    const over = new AbortController();
    const channel = new BroadcastChannel(CHANNEL);
    const heard = (told: Told) => tell(queries, told);
    channel.onmessage = (event: MessageEvent<Told>) => heard(event.data);
    // the tab that holds the lock listens for all; when it is closed, another takes its place
    navigator.locks
      ?.request(CHANNEL, { signal: over.signal }, () => listen(channel, heard, over.signal))
      .catch(() => undefined);
    return () => {
      over.abort();
      channel.close();
    };
  }, [queries, signedIn]);
}
