// Single-letter keys, which can be switched off (WCAG 2.1.4), never while somebody types.
import { readLocalStorageValue, useLocalStorage, useWindowEvent } from "@mantine/hooks";
import { useCallback, useRef } from "react";

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

/** Call `act` on a key, unless a field has the focus, a dialog is open, a modifier is held, or keys are off. */
export function useHotkey(key: string, act: () => void, when = true): void {
  // kept in a ref, so that a quick key meets what is on the screen and not what was there a moment ago
  const latest = useRef({ act, live: when });
  latest.current = { act, live: when };
  const onKey = useCallback(
    (event: KeyboardEvent) => {
      if (!latest.current.live || !readLocalStorageValue(STORED)) return;
      const target = event.target instanceof HTMLElement ? event.target : null;
      if (target?.matches("input, textarea, select, [contenteditable=true]") || target?.closest("[aria-modal=true]"))
        return;
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      if (key === "Enter" && target?.matches("button, a")) return;
      if (event.key.toLowerCase() !== key.toLowerCase()) return;
      event.preventDefault();
      latest.current.act();
    },
    [key],
  );
  useWindowEvent("keydown", onKey);
}
