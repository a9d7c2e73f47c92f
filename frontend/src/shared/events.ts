// What changes elsewhere: one stream a browser, shared between its tabs; polling goes on beside it as the way on.
import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { noteRevision } from "../api/views";

/** What a page is told: what changed, which one, at which revision; never what in it. */
export type Told = { what: "case" | "draft" | "files" | "all"; name: string; revision: number };

/** The same with the number of its event, by which one that missed some takes them up. */
type Heard = Told & { id: number };
/** What tabs tell each other: what was heard, or after which event a tab that has come wants to be told. */
type Passed = Heard | { after: number };

const CHANNEL = "jolly-clerk-events";
/** So many events are kept for tabs that come. */
const KEPT = 200;
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

/** The last event that this page knows of; at first the newest one when it began, before anything was fetched. */
let last: number | undefined;
export function beginWith(event: number): void {
  last ??= event;
}

/** What was heard lately, from after one event on, for tabs that come. */
export class Recent {
  private heard: Heard[] = [];
  private from: number;
  constructor(from: number) {
    this.from = from;
  }

  keep(told: Heard): void {
    this.heard.push(told);
    if (this.heard.length > KEPT) this.from = (this.heard.shift() as Heard).id;
  }

  /** What came after an event; that everything may have changed, if that is too long ago. */
  after(event: number): Heard[] {
    if (event < this.from) return [{ what: "all", name: "", revision: 0, id: this.heard.at(-1)?.id ?? this.from }];
    return this.heard.filter((told) => told.id > event);
  }
}

function tell(queries: QueryClient, told: Heard): void {
  last = Math.max(last ?? 0, told.id);
  if (told.what === "case" || told.what === "draft") noteRevision([told.what, told.name], told.revision);
  const seen = (key: readonly unknown[]) => queries.getQueryData<{ revision?: number }>(key)?.revision;
  for (const queryKey of touchedBy(told, seen)) queries.invalidateQueries({ queryKey });
}

/** Listen until `over` is aborted; told to the other tabs as well. Resolves when the stream has ended for good. */
function listen(channel: BroadcastChannel, heard: (told: Heard) => void, over: AbortSignal): Promise<void> {
  return new Promise((resolve) => {
    const recent = new Recent(last ?? 0);
    channel.addEventListener("message", ({ data }: MessageEvent<Passed>) => {
      if ("after" in data) for (const missed of recent.after(data.after)) channel.postMessage(missed);
    });
    let stream: EventSource | undefined;
    let later: ReturnType<typeof setTimeout> | undefined;
    const open = () => {
      stream = new EventSource(`/api/events?since=${last ?? 0}`);
      stream.addEventListener("change", ({ data, lastEventId }: MessageEvent<string>) => {
        const told: Heard = { ...(JSON.parse(data) as Told), id: Number(lastEventId) };
        heard(told);
        recent.keep(told);
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
    const heard = (told: Heard) => tell(queries, told);
    channel.addEventListener("message", ({ data }: MessageEvent<Passed>) => {
      if (!("after" in data)) heard(data);
    });
    channel.postMessage({ after: last ?? 0 } satisfies Passed);
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
