// Single-letter keys, which can be switched off (WCAG 2.1.4), never while somebody types.
import { readLocalStorageValue, useLocalStorage, useWindowEvent } from "@mantine/hooks";
import { useCallback, useEffect, useRef } from "react";

const STORED = {
  key: "jolly-clerk-keys-off",
  defaultValue: true,
  deserialize: (text: string | undefined) => text !== "1",
};

/** Whether the letter keys are on, and how to change it; remembered in this browser. */
export function useKeysOn(): [boolean, (on: boolean) => void] {
  const [on, setOn] = useLocalStorage<boolean>({
    ...STORED,
    getInitialValueInEffect: false,
    serialize: (value) => (value ? "" : "1"),
  });
  return [on, setOn];
}

const OPEN = "data-keys-rest";
const MARK = "data-mark";

/** What is marked on the desk; the focus goes there when what was opened is closed. */
export const marked = (chosen: boolean) => (chosen ? { [MARK]: true } : {});

/**
 * What opens takes the focus in its first field, and letters are words until it is closed; then the focus goes back to where it was,
 * or to the mark. Spread `rest` on it.
 */
export function useOpened<T extends HTMLElement>() {
  const ref = useRef<T>(null);
  useEffect(() => {
    const before = document.activeElement;
    ref.current?.querySelector<HTMLElement>("input, select, textarea, button, a")?.focus();
    return () => {
      const there = before instanceof HTMLElement && before !== document.body && before.isConnected;
      const back = there ? before : document.querySelector<HTMLElement>(`[${MARK}]`);
      back?.focus({ preventScroll: true });
    };
  }, []);
  return { ref, [OPEN]: true };
}

type Bound = { act: () => void; live: boolean };
const BOUND = new Map<string, Set<{ current: Bound }>>();
const boundTo = (key: string) => [...(BOUND.get(key) ?? [])].filter((b) => b.current.live);

/** True if a key does something where one is now; and what it does, done. */
export const isBound = (key: string) => boundTo(key).length > 0;
export const press = (key: string) => boundTo(key)[0]?.current.act();

/**
 * Call `act` on a key, unless a field has the focus, something is open, a modifier is held, or keys are off. A key that closes what is
 * open works `evenOpen`.
 */
export function useHotkey(key: string, act: () => void, when = true, evenOpen = false): void {
  // kept in a ref, so that a quick key meets what is on the screen and not what was there a moment ago
  const latest = useRef<Bound>({ act, live: when });
  latest.current = { act, live: when };
  useEffect(() => {
    const own = BOUND.get(key) ?? new Set();
    BOUND.set(key, own.add(latest));
    return () => {
      own.delete(latest);
    };
  }, [key]);
  const onKey = useCallback(
    (event: KeyboardEvent) => {
      if (!latest.current.live || !readLocalStorageValue(STORED)) return;
      const target = event.target instanceof HTMLElement ? event.target : null;
      if (target?.matches("input, textarea, select, [contenteditable=true]") || target?.closest("[aria-modal=true]"))
        return;
      if (!evenOpen && document.querySelector(`[${OPEN}]`)) return;
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      if ((key === "Enter" || key === " ") && target?.matches(`button:not([${MARK}]), a, summary`)) return;
      if (event.key.toLowerCase() !== key.toLowerCase()) return;
      event.preventDefault();
      latest.current.act();
    },
    [key, evenOpen],
  );
  useWindowEvent("keydown", onKey);
}
