// What the way in was told, kept in this window until one has signed in.
type Kept = { kind: string; answers: Record<string, Record<string, unknown> | Record<string, unknown>[]> };
const KEY = "jolly-clerk-way-in";

export function keepWayIn(kept: Kept): void {
  sessionStorage.setItem(KEY, JSON.stringify(kept));
}

export function takeWayIn(): Kept | null {
  const text = sessionStorage.getItem(KEY);
  sessionStorage.removeItem(KEY);
  return text ? (JSON.parse(text) as Kept) : null;
}

/** True if somebody came from the way in and has still to sign in. */
export function wayInWaits(): boolean {
  return sessionStorage.getItem(KEY) !== null;
}
