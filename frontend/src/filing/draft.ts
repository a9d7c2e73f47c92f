// A draft being worked on: kept as one types, one change after the other, nothing typed ever lost.
import { useDebouncedCallback } from "@mantine/hooks";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { api, ask, problemOf, type Schemas } from "../api/client";
import { placeOf } from "../api/place";
import { useQueue } from "../api/queue";
import { afterChange, type DraftView, draftKey, fetchDraft, type Seen, seenAt } from "../api/views";
import { say } from "../shared/text";
import { useLanguage, viewIn } from "./language";

export type { DraftView } from "../api/views";
export type Answers = Record<string, unknown>;
/** What questions are shown over: a draft, or a form that is tried without one. */
export type FormView = Pick<DraftView, "form" | "assessment"> & {
  dossier?: DraftView["dossier"];
  next_items?: DraftView["next_items"];
};
export type Item = { id: number } & Record<string, unknown>;

/** True for a place that stays as it was filed while a letter is answered; for a part, that it takes no further repeat. */
export function isLocked(view: FormView, place: string): boolean {
  return view.assessment.locked?.includes(place) ?? false;
}

/** What the engine says of a place beyond the answer itself: a rule that does not hold, a fact that differs, something to be looked at. */
export type SaidAt = { id: string; text: string; look: boolean };
const SAID_THERE = ["rule", "agreement", "prerequisite"];

export function saidAt(view: FormView, place: string): SaidAt[] {
  return view.assessment.requirements
    .filter((r) => SAID_THERE.includes(r.kind) && (r.proposed === "wanting" || r.proposed === "in doubt"))
    .filter((r) => r.places.some((p) => p.ref === place))
    .map((r) => ({ id: `${r.id}@${place}`, text: r.because, look: r.proposed === "in doubt" }));
}

/** The answers of a part that stands once. */
export function givenIn(answers: Answers, part: string): Record<string, unknown> {
  const given = answers[part];
  return given && !Array.isArray(given) ? (given as Record<string, unknown>) : {};
}

/** The items of a part that repeats, each with its lasting number. */
export function itemsIn(answers: Answers, part: string): Item[] {
  const given = answers[part];
  return Array.isArray(given) ? given.map((item, n) => ({ ...item, id: Number(item.id ?? n + 1) })) : [];
}

/** True while the office has not read a file yet. */
export const isBeingRead = (file: { opens: string }): boolean => file.opens === "being read";

const READING = 1000;
const QUIET = 450;
const AGAIN = 4000;

type Sent = Record<string, Record<string, unknown> | Record<string, unknown>[]>;
type Typed = { answers?: Answers; note?: string; own_reference?: string; words?: Record<string, string> };

export function useDraft(id: string) {
  const queries = useQueryClient();
  const draft = useQuery({
    queryKey: draftKey(id),
    queryFn: () => fetchDraft(id),
    staleTime: Number.POSITIVE_INFINITY,
    enabled: id !== "",
    // as long as a file is being read, what was noticed in it is on its way
    refetchInterval: (query) => (query.state.data?.files.some(isBeingRead) ? READING : false),
  });
  const [typed, setTyped] = useState<Typed>({});
  const [state, setState] = useState<"kept" | "typing" | "keeping" | "not kept">("kept");
  const [trouble, setTrouble] = useState<unknown>(null);
  const waiting = useRef<Typed>({});
  const inLine = useQueue(`draft ${id}`);
  const run = useRef<() => Promise<unknown>>(undefined);
  const soon = useDebouncedCallback(() => run.current?.(), QUIET);
  const again = useDebouncedCallback(() => run.current?.(), AGAIN);

  /** The revision over which was typed what waits to be sent: what comes from elsewhere meanwhile is not what was seen. */
  const basis = useRef<number>(undefined);

  /** Send a change over the state that was seen, that at hand if nothing else is said, and show what it came to. */
  const sent = useCallback(
    async (work: (seen: Seen) => Promise<Schemas["DraftChanged"]>, seen?: number): Promise<DraftView> => {
      const before = queries.getQueryData<DraftView>(draftKey(id));
      const reply = await work(seenAt(seen ?? before?.revision ?? 0));
      const view = (await afterChange(before, reply)) ?? (await fetchDraft(id));
      queries.setQueryData(draftKey(id), view);
      if (basis.current !== undefined) basis.current = view.revision; // what is typed goes over the own change
      return view;
    },
    [queries, id],
  );

  const flush = useCallback((): Promise<unknown> => {
    const body = waiting.current;
    const over = basis.current;
    if (Object.keys(body).length === 0) return inLine(async () => undefined); // when all before it has ended
    waiting.current = {};
    basis.current = undefined;
    setState("keeping");
    return inLine(() =>
      sent(
        (seen) =>
          ask(
            api.PUT("/api/drafts/{draft}", {
              params: { path: { draft: id } },
              headers: seen,
              body: { ...body, answers: body.answers as Sent | undefined },
              // what is on its way arrives even if the page is left; browsers carry so much at most
              keepalive: JSON.stringify(body).length < 60_000,
            }),
          ),
        over,
      ),
    )
      .then(() => {
        setTrouble(null);
        if (Object.keys(waiting.current).length === 0) setState("kept");
      })
      .catch((error: unknown) => {
        waiting.current = { ...body, ...waiting.current };
        basis.current = problemOf(error).status === 412 ? undefined : over;
        setState("not kept");
        setTrouble(error);
        // another window changed the same answer: nothing is tried again before somebody has looked
        if (problemOf(error).status !== 412) again();
      });
  }, [id, inLine, sent, again]);
  run.current = flush;

  const type = useCallback(
    (change: Typed) => {
      setTyped((now) => ({ ...now, ...change }));
      waiting.current = { ...waiting.current, ...change };
      basis.current ??= queries.getQueryData<DraftView>(draftKey(id))?.revision;
      setState("typing");
      soon();
    },
    [soon, queries, id],
  );

  useEffect(() => {
    const leave = () => {
      if (document.visibilityState === "hidden") flush();
    };
    document.addEventListener("visibilitychange", leave);
    return () => {
      document.removeEventListener("visibilitychange", leave);
      flush();
    };
  }, [flush]);

  /** Any other change of the draft: first what was typed, then this. */
  const change = useCallback(
    async (work: (seen: Seen) => Promise<Schemas["DraftChanged"]>) => {
      await flush();
      return inLine(() => sent(work));
    },
    [flush, inLine, sent],
  );

  const answers = (typed.answers ?? draft.data?.dossier.answers ?? {}) as Answers;
  /** Forget what was typed over: the server's state is the truth again (after a change was dropped). */
  const forget = useCallback(() => setTyped({}), []);
  /** Load the state of the other window; what was typed here over it is let go. */
  const loadAnew = useCallback(async () => {
    waiting.current = {};
    setTyped({});
    setTrouble(null);
    setState("kept");
    await queries.refetchQueries({ queryKey: draftKey(id) });
  }, [queries, id]);
  const [language] = useLanguage();
  const view = useMemo(() => draft.data && viewIn(draft.data, language), [draft.data, language]);
  return { draft, view, answers, typed, type, flush, change, state, trouble, forget, loadAnew };
}

export type Work = ReturnType<typeof useDraft>;

/** The address of a place in a filing, and its words. */
export function placeLink(view: DraftView, base: string) {
  return (ref: string): [string, string] | null => {
    const { head, rest, question: asked } = placeOf(ref);
    if (head === "documents") {
      const slot = view.form.slots.find((s) => s.slot === rest);
      return [`${base}/documents#documents.${rest}`, slot?.title ?? say("Documents")];
    }
    if (head === "declarations") {
      const declared = view.form.declarations.find((d) => d.declare === rest);
      return [`${base}/sign#${ref}`, declared?.title ?? say("Promise and sign")];
    }
    if (head === "signature") return [`${base}/sign#signature`, say("Promise and sign")];
    const part = view.form.parts.find((p) => p.id === head);
    const question = part?.questions.find((q) => q.id === asked);
    return part ? [`${base}/${part.id}#${ref}`, question?.ask ?? part.title] : null;
  };
}

/** What a repeat is called, as the requirements call it: `Person 1, Ines Marrow`. */
export function itemName(view: Pick<DraftView, "assessment">, item: string): string {
  return view.assessment.requirements.find((r) => r.item === item)?.item_label ?? item;
}
