// What was on the screen of this sitting, of each version of a case: sheets of files, parts of the answers.
import { useCallback, useReducer } from "react";

const SEEN = new Map<string, Set<string>>();

/** What was seen of a version of a case, and how more is noted; what rests on nothing of paper has always been seen. */
export function useOnScreen(reference: string, version: number) {
  const key = `${reference} ${version}`;
  const [, tell] = useReducer((n: number) => n + 1, 0);
  const note = useCallback(
    (what: string) => {
      const seen = SEEN.get(key) ?? new Set<string>();
      if (seen.has(what)) return;
      SEEN.set(key, seen.add(what));
      tell();
    },
    [key],
  );
  const seen = (what: string[]) => what.every((one) => SEEN.get(key)?.has(one));
  return { note, seen };
}

export type OnScreen = ReturnType<typeof useOnScreen>;
