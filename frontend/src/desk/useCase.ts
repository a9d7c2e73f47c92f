// The case on the desk: looked at, changed by one move after the other, told when somebody else was faster.
import { useInterval } from "@mantine/hooks";
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { useQueue } from "../api/queue";
import type { CaseView, Seen } from "../api/views";
import { useCaseView, useChangeCase } from "../shared/caseView";
import { inLane } from "../shared/Lanes";

export type { CaseView } from "../api/views";

/** How often an open desk says that it is open, in milliseconds. */
const OPENED_EVERY = 60_000;

export function useCase(reference: string) {
  const [query, setQuery] = useSearchParams();
  const queries = useQueryClient();
  const looked = useCaseView(reference, 15_000);
  const [news, setNews] = useState<Schemas["Moment"][]>([]);
  const tell = useCallback((moments: Schemas["Moment"][]) => {
    // a step is told once, whether it is heard of by the live events or by the answer to an own step
    setNews((before) => {
      const unheard = moments.filter((m) => !before.some((b) => b.no === m.no));
      return unheard.length > 0 ? [...before, ...unheard] : before;
    });
  }, []);
  const known = useRef(0);
  const latest = looked.data;
  useEffect(() => {
    // what others did since this person last saw the case; the own moves set `known` themselves
    if (!latest) return;
    const since = known.current;
    const fresh = since ? latest.story.filter((m) => m.no > since) : [];
    tell(fresh);
    known.current = Math.max(known.current, latest.revision);
  }, [latest, tell]);
  const [trouble, setTrouble] = useState<unknown>(null);
  const [busy, setBusy] = useState(false);
  const inLine = useQueue(`case ${reference}`);

  const change = useChangeCase(reference);
  /** One move after the other, so that quick keys follow each other in order; each goes out over the state the last one left. */
  const move = useCallback(
    (work: (seen: Seen) => Promise<Schemas["CaseChanged"]>): Promise<CaseView | null> => {
      setBusy(true);
      return inLine(async () => {
        try {
          const { view, meanwhile } = await change(work);
          known.current = view.revision;
          const others = view.story.filter((m) => meanwhile.includes(m.no));
          tell(others);
          queries.invalidateQueries({ queryKey: ["tray"] });
          setTrouble(null);
          return view;
        } catch (error) {
          setTrouble(error);
          return null;
        } finally {
          setBusy(false);
        }
      });
    },
    [change, queries, inLine, tell],
  );
  const [others, setOthers] = useState<string[]>([]);
  // the desk is where a case is opened; a glance from a list is not
  const open = useCallback(
    () =>
      ask(api.POST("/api/cases/{reference}/opened", { params: { path: { reference } } }))
        .then((told) => setOthers(told.others_here))
        .catch(() => undefined),
    [reference],
  );
  useEffect(() => {
    open();
  }, [open]);
  useInterval(open, OPENED_EVERY, { autoInvoke: true });

  const again = useCallback(() => {
    setTrouble(null);
    setNews([]);
    return queries.invalidateQueries({ queryKey: ["case", reference] });
  }, [queries, reference]);

  const lanes = latest?.assessment.lanes ?? [];
  const asked = query.get("lane");
  const lane = lanes.find((l) => l.id === asked)?.id ?? latest?.lane_first ?? "";
  const view = useMemo(() => latest && inLane(latest, lane), [latest, lane]);
  const choose = (id: string) => setQuery({ lane: id }, { replace: true });
  return { looked, view, whole: latest, lane, lanes, choose, move, trouble, news, again, busy, others };
}

export type OnDesk = ReturnType<typeof useCase>;
export const path = (reference: string) => ({ path: { reference } });
