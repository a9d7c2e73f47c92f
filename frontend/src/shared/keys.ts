// Single-letter keys, which can be switched off (WCAG 2.1.4), never while somebody types.
import { useEffect, useRef, useSyncExternalStore } from "react";

const OFF = "jolly-clerk-keys-off";
const listeners = new Set<() => void>();

export function setKeysOn(on: boolean): void {
  if (on) localStorage.removeItem(OFF);
  else localStorage.setItem(OFF, "1");
  for (const tell of listeners) tell();
}

export function useKeysOn(): boolean {
  return useSyncExternalStore(
    (tell) => {
      listeners.add(tell);
      return () => listeners.delete(tell);
    },
    () => localStorage.getItem(OFF) === null,
  );
}

/** Call `act` on a key, unless a field has the focus, a modifier is held, or keys are off. */
export function useHotkey(key: string, act: () => void, when = true): void {
  const on = useKeysOn();
  // kept in a ref, so that a quick key meets what is on the screen and not what was there a moment ago
  const latest = useRef({ act, live: when && on });
  latest.current = { act, live: when && on };
  useEffect(() => {
    function onKey(event: KeyboardEvent) {
      if (!latest.current.live) return;
      const target = event.target instanceof HTMLElement ? event.target : null;
      if (target?.matches("input, textarea, select, [contenteditable=true]")) return;
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      if (key === "Enter" && target?.matches("button, a")) return;
      if (event.key.toLowerCase() !== key.toLowerCase()) return;
      event.preventDefault();
      latest.current.act();
    }
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [key]);
}
