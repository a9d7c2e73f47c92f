// The case on the desk: looked at, changed by one move after the other, told when somebody else was faster.
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import { problemOf, type Schemas } from "../api/client";
import { useCaseView } from "../shared/caseView";
import { firstLane, inLane } from "../shared/Lanes";

export type CaseView = Schemas["CaseView"];

export function useCase(reference: string) {
  const [query, setQuery] = useSearchParams();
  const queries = useQueryClient();
  const looked = useCaseView(reference, 15_000);
  const [news, setNews] = useState<Schemas["Moment"][]>([]);
  const known = useRef(0);
  const latest = looked.data;
  useEffect(() => {
    // what others did since this person last saw the case; the own moves set `known` themselves
    if (!latest) return;
    const since = known.current;
    const fresh = since ? latest.story.filter((m) => m.no > since) : [];
    if (fresh.length > 0) setNews((before) => [...before, ...fresh]);
    known.current = Math.max(known.current, latest.seen);
  }, [latest]);
  const [trouble, setTrouble] = useState<unknown>(null);
  const [busy, setBusy] = useState(false);
  const line = useRef<Promise<unknown>>(Promise.resolve());

  /** One move; `seen` is taken when its turn comes, so that quick keys follow each other in order. */
  const move = useCallback(
    (work: (seen: number) => Promise<CaseView>): Promise<CaseView | null> => {
      setBusy(true);
      const turn = line.current.then(async () => {
        const now = queries.getQueryData<CaseView>(["case", reference]);
        try {
          const view = await work(now?.seen ?? 0);
          known.current = view.seen;
          queries.setQueryData(["case", reference], view);
          queries.invalidateQueries({ queryKey: ["tray"] });
          setTrouble(null);
          return view;
        } catch (error) {
          setTrouble(error);
          if (problemOf(error).status === 409) await queries.refetchQueries({ queryKey: ["case", reference] });
          return null;
        } finally {
          setBusy(false);
        }
      });
      line.current = turn;
      return turn;
    },
    [queries, reference],
  );

  const again = useCallback(() => {
    setTrouble(null);
    setNews([]);
    return queries.invalidateQueries({ queryKey: ["case", reference] });
  }, [queries, reference]);

  const lanes = latest?.assessment.lanes ?? [];
  const asked = query.get("lane");
  const lane =
    lanes.find((l) => l.id === asked)?.id ?? firstLane(latest?.assessment, ["Being checked", "Answers came back"]);
  const view = useMemo(() => latest && inLane(latest, lane), [latest, lane]);
  const choose = (id: string) => setQuery({ lane: id }, { replace: true });
  return { looked, view, whole: latest, lane, lanes, choose, move, trouble, news, again, busy };
}

export type OnDesk = ReturnType<typeof useCase>;
export const path = (reference: string) => ({ path: { reference } });
