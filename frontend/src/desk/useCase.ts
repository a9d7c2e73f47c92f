// The case on the desk: looked at, changed by one move after the other, told when somebody else was faster.
import { useInterval } from "@mantine/hooks";
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import { api, ask, problemOf, type Schemas, SESSION_BACK } from "../api/client";
import { useQueue } from "../api/queue";
import type { CaseView, Seen } from "../api/views";
import { isOwn, useCaseView, useChangeCase } from "../shared/caseView";
import { inLane } from "../shared/Lanes";

export type { CaseView } from "../api/views";

/** How often an open desk says that it is open, in milliseconds. */
const OPENED_EVERY = 60_000;

/** So long after its instant something has surely left, in milliseconds. */
const LEFT_AFTER = 800;

/** What the server answers to whoever it does not know any more. */
const LOST = [401, 403];
const signedIn = () => ask(api.GET("/api/session")).then((session) => !!session.person);

export type Meets = { says: string; answer: (yes: boolean) => void };

/** Somebody was asked first and said no: nothing was done, and nothing is wrong. */
class LeftAlone extends Error {}

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
    const fresh = since ? latest.story.filter((m) => m.no > since && !isOwn(reference, m.no)) : [];
    tell(fresh);
    known.current = Math.max(known.current, latest.revision);
  }, [latest, reference, tell]);
  const [trouble, setTrouble] = useState<unknown>(null);
  const [busy, setBusy] = useState(false);
  const inLine = useQueue(`case ${reference}`);

  const change = useChangeCase(reference);
  /** Something is about to leave and would fall with the next step: whoever works here is asked first. */
  const [meets, setMeets] = useState<Meets | null>(null);
  const askFirst = useCallback(
    (says: string) => new Promise<boolean>((answer) => setMeets({ says, answer })).finally(() => setMeets(null)),
    [],
  );
  const takenBack = useCallback(
    (step: number) => (seen: Seen) =>
      ask(
        api.POST("/api/cases/{reference}/ready/taken-back", { params: path(reference), headers: seen, body: { step } }),
      ),
    [reference],
  );
  /** One move after the other, so that quick keys follow each other in order; each goes out over the state the last one left. */
  const move = useCallback(
    (work: (seen: Seen) => Promise<Schemas["CaseChanged"]>): Promise<CaseView | null> => {
      setBusy(true);
      return inLine(async () => {
        try {
          const { view, meanwhile } = await change(work).catch(async (error) => {
            const { step, detail, status } = problemOf(error);
            if (LOST.includes(status) && !(await signedIn())) {
              // the password is asked over the desk; the step is done when somebody is back
              await new Promise((back) => window.addEventListener(SESSION_BACK, back, { once: true }));
              return change(work);
            }
            if (!step || !(await askFirst(detail))) throw step ? new LeftAlone() : error;
            await change(takenBack(step));
            return change(work);
          });
          known.current = view.revision;
          const others = view.story.filter((m) => meanwhile.includes(m.no));
          tell(others);
          queries.invalidateQueries({ queryKey: ["tray"] });
          setTrouble(null);
          return view;
        } catch (error) {
          if (!(error instanceof LeftAlone)) setTrouble(error);
          return null;
        } finally {
          setBusy(false);
        }
      });
    },
    [change, queries, inLine, tell, askFirst, takenBack],
  );
  const [others, setOthers] = useState<string[]>([]);
  /** What others did since one looked last, as it stood when the case was opened. */
  const [missed, setMissed] = useState<{ of: string; at: string; moments: Schemas["Moment"][] } | null>(null);
  // the desk is where a case is opened; a glance from a list is not
  const open = useCallback(
    () =>
      ask(api.POST("/api/cases/{reference}/opened", { params: { path: { reference } } }))
        .then((told) => {
          setOthers(told.others_here);
          setMissed((now) =>
            now?.of === reference ? now : { of: reference, at: told.looked_at ?? "", moments: told.since },
          );
        })
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
  // the lane that waited longest when the case was opened: it stays where one is, however the others come to stand
  const first = useRef({ of: "", lane: "" });
  if (latest && first.current.of !== reference) first.current = { of: reference, lane: latest.lane_first };
  const lane = lanes.find((l) => l.id === asked)?.id ?? first.current.lane;
  const view = useMemo(() => latest && inLane(latest, lane), [latest, lane]);
  const choose = (id: string) => setQuery({ lane: id }, { replace: true });
  // the mark belongs to the case: another case begins at its own first
  const [mark, setMark] = useState({ of: "", id: "" });
  const chosen = mark.of === reference ? mark.id : "";
  const setChosen = useCallback((id: string) => setMark({ of: reference, id }), [reference]);
  const leaving = latest?.leaving.find((l) => l.lane === lane) ?? latest?.leaving[0];
  // once it has left the case is looked at again, so that nobody looks at what is no longer so
  const leavesAt = leaving?.leaves_at;
  useEffect(() => {
    if (!leavesAt) return;
    const look = () => queries.invalidateQueries({ queryKey: ["case", reference] });
    const timer = setTimeout(look, Math.max(0, Date.parse(leavesAt) - Date.now()) + LEFT_AFTER);
    return () => clearTimeout(timer);
  }, [leavesAt, queries, reference]);
  const takeBack = () => (leaving ? move(takenBack(leaving.id)) : Promise.resolve(null));
  const sendNow = () =>
    leaving
      ? move((seen) =>
          ask(
            api.POST("/api/cases/{reference}/ready/sent", {
              params: path(reference),
              headers: seen,
              body: { step: leaving.id },
            }),
          ),
        )
      : Promise.resolve(null);
  return {
    ...{ looked, view, whole: latest, lane, lanes, choose, move, trouble, again, busy, others },
    missed: missed?.of === reference && missed.moments.length > 0 ? missed : null,
    seen: () => setMissed((now) => now && { ...now, moments: [] }),
    news: news.filter((m) => !isOwn(reference, m.no)), // an own step may be heard of before it is answered
    ...{ meets, leaving, takeBack, sendNow, chosen, setChosen },
  };
}

export type OnDesk = ReturnType<typeof useCase>;
export const path = (reference: string) => ({ path: { reference } });

/** Where the content of a file of a case is. */
export const fileUrl = (reference: string, file: { attachment: { sha256: string } }) =>
  `/api/cases/${reference}/files/${file.attachment.sha256}`;
