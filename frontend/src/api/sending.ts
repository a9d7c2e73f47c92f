// Files on their way to the office: kept in the browser until they have arrived, sent one after the other, tried again by themselves.
import { createStore, delMany, entries, set, clear as wipe } from "idb-keyval";
import { useSyncExternalStore } from "react";
import { api, problemOf, SESSION_LOST } from "./client";

/** One file that has not arrived. A refused one is no longer kept: the office said why it does not take it. */
export type OnItsWay = {
  key: string;
  draft: string;
  slot: string;
  file: File;
  state: "waiting" | "sending" | "not arrived" | "refused";
  share: number;
  said: string;
  tried: number;
};
type Kept = { person: string; draft: string; slot: string; file: File; at: number };

/** Told when a file has arrived, with the id of its draft. */
export const ARRIVED = "jolly-clerk-file-arrived";
/** Milliseconds between tries of what did not arrive. */
const AGAIN = 4000;
/** Milliseconds that a browser keeps what did not arrive. */
const KEPT = 24 * 3600 * 1000;

let files: OnItsWay[] = [];
let number = 0;
let running = false;
let timer: ReturnType<typeof setTimeout> | undefined;
let stop: (() => void) | undefined;
const listeners = new Set<() => void>();
// a browser that keeps nothing (a private window) still sends what is in this page
const store = typeof indexedDB === "undefined" ? undefined : createStore("jolly-clerk", "files");
const quietly = (work: Promise<unknown> | undefined): Promise<unknown> => Promise.resolve(work).catch(() => undefined);

function show(next: OnItsWay[]): void {
  files = next;
  for (const tell of listeners) tell();
}

function change(key: string, to: Partial<OnItsWay>): void {
  show(files.map((f) => (f.key === key ? { ...f, ...to } : f)));
}

/** Put files on their way into a slot of a draft of this person. */
export function sendFiles(person: string, draft: string, slot: string, chosen: File[]): void {
  const fresh = chosen.map((file) => onItsWay(`${Date.now()}-${++number}`, { draft, slot, file }));
  for (const { key, file } of fresh) {
    const kept: Kept = { person, draft, slot, file, at: Date.now() };
    if (store) quietly(set(key, kept, store));
  }
  show([...files, ...fresh]);
  run();
}

const onItsWay = (key: string, of: Pick<OnItsWay, "draft" | "slot" | "file">): OnItsWay => ({
  ...of,
  key,
  state: "waiting",
  share: 0,
  said: "",
  tried: 0,
});

/** Take up what did not arrive before the page was left; what another person left here, or is too old, is forgotten. */
export async function takeUp(person: string): Promise<void> {
  const kept = ((store && (await quietly(entries<string, Kept>(store)))) ?? []) as [string, Kept][];
  const good = kept.filter(([, k]) => k.person === person && Date.now() - k.at < KEPT);
  const old = kept.filter((one) => !good.includes(one)).map(([key]) => key);
  if (store && old.length > 0) await quietly(delMany(old, store));
  const known = new Set(files.map((f) => f.key));
  show([...files, ...good.filter(([key]) => !known.has(key)).map(([key, k]) => onItsWay(key, k))]);
  run();
}

/** Give up one that has not arrived, or take away what was said of one that was refused. */
export function giveUp(key: string): void {
  if (files.find((f) => f.key === key)?.state === "sending") stop?.();
  leave(key);
}

function leave(key: string): void {
  if (store) quietly(delMany([key], store));
  show(files.filter((f) => f.key !== key));
}

/** Forget everything: somebody else may sit here next. */
export async function forgetFiles(): Promise<void> {
  stop?.();
  show([]);
  if (store) await quietly(wipe(store));
}

/** How many files have not arrived. */
export const notArrived = (): number => files.filter((f) => f.state !== "refused").length;

async function run(): Promise<void> {
  if (running) return;
  clearTimeout(timer);
  running = true;
  for (let next = files.find((f) => f.state === "waiting"); next; next = files.find((f) => f.state === "waiting")) {
    if (!(await sendOne(next))) {
      show(files.map((f) => (f.state === "waiting" ? { ...f, state: "not arrived" } : f)));
      timer = setTimeout(tryAgain, AGAIN);
    }
  }
  running = false;
}

function tryAgain(): void {
  show(files.map((f) => (f.state === "not arrived" ? { ...f, state: "waiting" } : f)));
  run();
}

/** Send one; false if the office could not be reached, so that the others need not be tried. */
async function sendOne(one: OnItsWay): Promise<boolean> {
  change(one.key, { state: "sending", share: 0, said: "", tried: one.tried + 1 });
  try {
    const { sendFile } = await import("./upload"); // fetched with the first file
    const sending = sendFile(one.draft, one.slot, one.file, (share) => change(one.key, { share }));
    stop = sending.stop;
    await sending.done;
    leave(one.key);
    window.dispatchEvent(new CustomEvent(ARRIVED, { detail: one.draft }));
  } catch (error) {
    const { status, detail } = problemOf(error);
    if (!files.some((f) => f.key === one.key)) return true; // given up meanwhile
    const ended = status === 401 || status === 403;
    if (ended) window.dispatchEvent(new Event(SESSION_LOST));
    if (ended || status === 0 || status === 409 || status === 429 || status >= 500) {
      change(one.key, { state: "not arrived", said: detail });
      return false;
    }
    if (one.tried > 0 && (await isThere(one))) {
      leave(one.key);
      window.dispatchEvent(new CustomEvent(ARRIVED, { detail: one.draft }));
      return true;
    }
    change(one.key, { state: "refused", said: detail });
    if (store) quietly(delMany([one.key], store));
  } finally {
    stop = undefined;
  }
  return true;
}

/** True if a file stands in its slot: it had arrived, and only the answer was lost with the line. */
async function isThere({ draft, slot, file }: OnItsWay): Promise<boolean> {
  const { data } = await api
    .GET("/api/drafts/{draft}", { params: { path: { draft } } })
    .catch(() => ({ data: undefined }));
  return (data?.files ?? []).some(
    ({ attachment: a }) => a.slot === slot && a.name === file.name && a.size === file.size,
  );
}

if (typeof window !== "undefined") window.addEventListener("online", () => tryAgain());

function listen(tell: () => void): () => void {
  listeners.add(tell);
  return () => listeners.delete(tell);
}

/** The files of all drafts that have not arrived, as they stand now. */
export function useOnTheirWay(): OnItsWay[] {
  return useSyncExternalStore(listen, () => files);
}
