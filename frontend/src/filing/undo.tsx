// What was just removed can be brought back: one line, until something else is removed or the page is left.
import { createContext, useCallback, useState } from "react";
import { say } from "../shared/text";

/** What was removed, by name, and how it comes back. */
export type Removed = { what: string; back: () => unknown };
/** An answer at a place is removed: `put` gives the value that stands there afterwards, from the one that stands there now. */
export type OfferUndo = (what: string, part: string, put: (now: unknown) => unknown) => void;

/** Where questions tell that an item or a row was removed; without it nothing is offered. */
export const Undoing = createContext<OfferUndo | null>(null);

export function useUndo() {
  const [removed, setRemoved] = useState<Removed | null>(null);
  const undo = useCallback(() => {
    removed?.back();
    setRemoved(null);
  }, [removed]);
  return { removed, offer: setRemoved, undo };
}

export function UndoLine({ undo }: { undo: ReturnType<typeof useUndo> }) {
  return (
    <div role="status" className="filing-undo-place">
      {undo.removed && (
        <p className="filing-undo">
          {say("Removed: {{what}}.", { what: undo.removed.what })}{" "}
          <button type="button" className="jc-button plain small" onClick={undo.undo}>
            {say("Undo")}
          </button>
        </p>
      )}
    </div>
  );
}

/** A list with an item back where it was; at the end if the list has become shorter. */
export function putBack<T extends { id: number }>(now: T[], item: T, position: number): T[] {
  return now.some((other) => other.id === item.id) ? now : [...now.slice(0, position), item, ...now.slice(position)];
}
