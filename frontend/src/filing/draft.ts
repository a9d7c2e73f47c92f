// A draft being worked on: kept as one types, one change after the other, nothing typed ever lost.
import { useDebouncedCallback, useThrottledCallback } from "@mantine/hooks";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { api, ask, insteadOf, problemOf, type Schemas } from "../api/client";
import { placeOf } from "../api/place";
import { useQueue } from "../api/queue";
import { ARRIVED } from "../api/sending";
import { afterChange, type DraftView, draftKey, fetchDraft, notOlder, type Seen, seenAt } from "../api/views";
import { LANGUAGE, say } from "../shared/text";
import { viewIn } from "./language";
import { type Answers, rebased } from "./rebase";
import { type OfferUndo, useUndo } from "./undo";

export type { DraftView } from "../api/views";
export type { Answers } from "./rebase";
/** What questions are shown over: a draft, or a form that is tried without one. */
export type FormView = Pick<DraftView, "form" | "assessment"> & {
  adding?: DraftView["adding"];
  dossier?: DraftView["dossier"];
  next_items?: DraftView["next_items"];
  read_only?: DraftView["read_only"];
};
export type Item = { id: number } & Record<string, unknown>;

/** What is gathered from a state of the form, gathered once for each. */
function once<T extends object, V>(gather: (from: T) => V): (from: T) => V {
  const kept = new WeakMap<T, V>();
  return (from) => {
    const there = kept.get(from);
    if (there !== undefined) return there;
    const found = gather(from);
    kept.set(from, found);
    return found;
  };
}

/** True for a place that stays as it was filed while a letter is answered; for a part, that it takes no further repeat. */
export function staysAsFiled(view: FormView, place: string): boolean {
  return view.assessment.locked?.includes(place) ?? false;
}

/** Why a place stays as it is. */
export function whyItStays(view: FormView, place: string): string {
  if (!view.adding) return say("Not asked about: it stays as it was filed.");
  return place === view.adding.adds ? say("It is the day on which you send it.") : say("It stays as it was filed.");
}

/** What is signed and declared stands on one page of the filing. */
const ON_SIGN = ["signature", "declarations"];

/** True for a place at which nothing can be written now: it stays as it was filed, somebody else writes there, or one was not invited to. */
export function isLocked(view: FormView, place: string): boolean {
  if (staysAsFiled(view, place)) return true;
  if (!view.read_only?.length) return false;
  const { head } = placeOf(place);
  return view.read_only.includes(ON_SIGN.includes(head) ? "sign" : head);
}

/** What the engine says of a place beyond the answer itself: a rule that does not hold, a fact that differs, something to be looked at. */
export type SaidAt = { id: string; text: string; look: boolean };
const SAID_THERE = ["rule", "agreement", "prerequisite"];

/** All of it, by place; gathered once for each state of the form. */
const saidOf = once((assessment: FormView["assessment"]) => {
  const found = new Map<string, SaidAt[]>();
  // which case has to be complete before is asked for like any question, as long as none is named
  const named = new Set(assessment.parts.flatMap((p) => p.questions.filter((q) => q.raw).map((q) => q.place)));
  for (const r of assessment.requirements) {
    if (!SAID_THERE.includes(r.kind) || (r.proposed !== "wanting" && r.proposed !== "in doubt")) continue;
    for (const { ref } of r.places) {
      if (r.kind === "prerequisite" && !named.has(ref)) continue;
      const there = found.get(ref) ?? [];
      if (there.some((s) => s.id === `${r.id}@${ref}`)) continue;
      found.set(ref, [...there, { id: `${r.id}@${ref}`, text: r.because, look: r.proposed === "in doubt" }]);
    }
  }
  return found;
});
const NOTHING_SAID: SaidAt[] = [];

export const saidAt = (view: FormView, place: string): SaidAt[] => saidOf(view.assessment).get(place) ?? NOTHING_SAID;

/** How a file stands that is right by itself and of which something is said. */
export const contradicted = (said: SaidAt[]) =>
  said.length === 0 ? null : said.some((s) => !s.look) ? "wanting" : "in doubt";

/** What files or a register state for a question that is open or says otherwise, each once. */
export const offersAt = (view: FormView, place: string): Schemas["TakeOver"][] =>
  offersOf(view.assessment).get(place) ?? NO_OFFER;

const offersOf = once((assessment: FormView["assessment"]) => {
  const found = new Map<string, Schemas["TakeOver"][]>();
  for (const o of assessment.requirements.flatMap((r) => r.table?.offers ?? [])) {
    const there = found.get(o.place) ?? [];
    if (!there.some((other) => other.raw === o.raw)) found.set(o.place, [...there, o]);
  }
  return found;
});
const NO_OFFER: Schemas["TakeOver"][] = [];

/** What papers and registers state for questions that are still open, each place once and with what its question is called. */
export function answersOffered(view: FormView): { offer: Schemas["TakeOver"]; label: string }[] {
  const open = new Map(
    view.assessment.parts.flatMap((p) =>
      p.questions.filter((q) => q.asked === "yes" && !q.raw).map((q) => [q.place, q]),
    ),
  );
  const asks = new Map(
    view.form.parts.flatMap((p) => p.questions.map((q): [string, string] => [`${p.id}.${q.id}`, q.ask])),
  );
  const found = view.assessment.requirements.flatMap((r) => r.table?.offers ?? []);
  const once = found.filter((o, n) => open.has(o.place) && found.findIndex((other) => other.place === o.place) === n);
  return once.map((offer) => {
    const { head, item, question } = placeOf(offer.place);
    const asked = asks.get(`${head}.${question}`) ?? offer.place;
    return { offer, label: item ? `${asked} (${item})` : asked };
  });
}

/** The answers of a part that stands once. */
export function givenIn(answers: Answers, part: string): Record<string, unknown> {
  const given = answers[part];
  return given && !Array.isArray(given) ? (given as Record<string, unknown>) : {};
}

/** The items of a part that repeats, each with its lasting number. */
export function itemsIn(answers: Answers, part: string): Item[] {
  const given = answers[part];
  // an item that bears its number stays the same object, so that only what was changed is drawn anew
  return Array.isArray(given)
    ? given.map((item, n) => (typeof item.id === "number" ? item : { ...item, id: Number(item.id ?? n + 1) }))
    : [];
}

/** True while the office has not read a file yet. */
export const isBeingRead = (file: { opens: string }): boolean => file.opens === "being read";

/** True for a file that went straight to the office and that whoever applied may not look into. */
export const isSealed = (file: { attachment: Schemas["Attachment"] }): boolean =>
  !!file.attachment.issuer && !file.attachment.issuer.shown;

const READING = 1000;
const QUIET = 450;
const AGAIN = 4000;

type Sent = Record<string, Record<string, unknown> | Record<string, unknown>[]>;
type Typed = {
  answers?: Answers;
  note?: string;
  own_reference?: string;
  folder?: string;
  words?: Record<string, string>;
};
/** What is typed on the screen; `settled` is the revision in which its answers are kept, from which on what stands there is shown. */
type OnScreen = Typed & { settled?: number };
/** Something typed that is in the line to the office, and the revision over which it was typed. */
type InLine = { typed: Typed; over: number | undefined };

export function useDraft(id: string) {
  const queries = useQueryClient();
  const draft = useQuery({
    queryKey: draftKey(id),
    queryFn: () =>
      notOlder(
        draftKey(id),
        () => fetchDraft(id),
        () => queries.getQueryData<DraftView>(draftKey(id)),
      ),
    staleTime: Number.POSITIVE_INFINITY,
    enabled: id !== "",
    // as long as a file is being read, what was noticed in it is on its way
    refetchInterval: (query) => (query.state.data?.files.some(isBeingRead) ? READING : false),
  });
  const [typed, setTyped] = useState<OnScreen>({});
  const [state, setState] = useState<"kept" | "typing" | "keeping" | "not kept">("kept");
  const [trouble, setTrouble] = useState<unknown>(null);
  const waiting = useRef<Typed>({});
  const inLine = useQueue(`draft ${id}`);
  const run = useRef<() => Promise<unknown>>(undefined);
  const soon = useDebouncedCallback(() => run.current?.(), QUIET);
  const again = useDebouncedCallback(() => run.current?.(), AGAIN);

  /** The revision over which was typed what waits to be sent: what comes from elsewhere meanwhile is not what was seen. */
  const basis = useRef<number>(undefined);

  /** What was typed and is in the line to the office, or on its way, in its order. */
  const line = useRef<InLine[]>([]);

  /** Send a change over the state that was seen, that at hand if nothing else is said, and show what it came to. */
  const sent = useCallback(
    async (work: (seen: Seen) => Promise<Schemas["DraftChanged"]>, keeps?: InLine): Promise<DraftView> => {
      const before = queries.getQueryData<DraftView>(draftKey(id));
      const base = keeps?.typed.answers ?? before?.dossier.answers ?? {};
      const reply = await work(seenAt(keeps?.over ?? before?.revision ?? 0));
      const view = (await afterChange(before, reply)) ?? (await fetchDraft(id));
      queries.setQueryData(draftKey(id), view);
      line.current = line.current.filter((other) => other !== keeps);
      // what was typed since goes over this change, and over what others changed, none of which it has seen
      const onto = (typed: Typed): Typed =>
        typed.answers ? { ...typed, answers: rebased(base, typed.answers, view.dossier.answers) } : typed;
      for (const later of line.current) Object.assign(later, { typed: onto(later.typed), over: view.revision });
      waiting.current = onto(waiting.current);
      if (basis.current !== undefined) basis.current = view.revision;
      const answers = [waiting.current, ...line.current.map((later) => later.typed).reverse()].find(
        (typed) => typed.answers,
      )?.answers;
      if (answers) setTyped((now) => ({ ...now, answers, settled: undefined }));
      else if (keeps?.typed.answers) setTyped((now) => ({ ...now, settled: view.revision }));
      return view;
    },
    [queries, id],
  );

  const flush = useCallback((): Promise<unknown> => {
    if (Object.keys(waiting.current).length === 0) return inLine(async () => undefined); // when all before it has ended
    const keeps: InLine = { typed: waiting.current, over: basis.current };
    waiting.current = {};
    basis.current = undefined;
    line.current.push(keeps);
    setState("keeping");
    return inLine(() =>
      sent((seen) => {
        const body = keeps.typed;
        return ask(
          api.PUT("/api/drafts/{draft}", {
            params: { path: { draft: id } },
            headers: seen,
            body: { ...body, answers: body.answers as Sent | undefined },
            // what is on its way arrives even if the page is left; browsers carry so much at most
            keepalive: JSON.stringify(body).length < 60_000,
          }),
        );
      }, keeps),
    )
      .then(() => {
        setTrouble(null);
        if (Object.keys(waiting.current).length === 0 && line.current.length === 0) setState("kept");
      })
      .catch((error: unknown) => {
        line.current = line.current.filter((other) => other !== keeps);
        waiting.current = { ...keeps.typed, ...waiting.current };
        basis.current = problemOf(error).status === 412 ? undefined : keeps.over;
        setState("not kept");
        setTrouble(error);
        // another window changed the same answer: nothing is tried again before somebody has looked
        if (problemOf(error).status !== 412) again();
      });
  }, [id, inLine, sent, again]);
  run.current = flush;

  const type = useCallback(
    (change: Typed) => {
      setTyped((now) => ({ ...now, ...change, ...(change.answers && { settled: undefined }) }));
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

  // the office's state comes to the screen a moment after it is known: what is typed stays until then
  const settled = typed.settled !== undefined && (draft.data?.revision ?? 0) >= typed.settled;
  const answers = ((settled ? undefined : typed.answers) ?? draft.data?.dossier.answers ?? {}) as Answers;
  const latest = useRef(answers);
  latest.current = answers;
  const undo = useUndo();
  /** An item or a row was removed: what stands there by then is put right by `put`. */
  const offerUndo = useCallback<OfferUndo>(
    (what, part, put) => {
      const back = () => type({ answers: { ...latest.current, [part]: put(latest.current[part]) } });
      undo.offer({ what, back });
    },
    [type, undo.offer],
  );
  // a file that has arrived is shown, wherever it was chosen; of many that arrive together not each by itself
  const lookAgain = useThrottledCallback(() => queries.refetchQueries({ queryKey: draftKey(id) }), READING);
  useEffect(() => {
    const arrived = (event: Event) => {
      if ((event as CustomEvent<string>).detail === id) lookAgain();
    };
    window.addEventListener(ARRIVED, arrived);
    return () => window.removeEventListener(ARRIVED, arrived);
  }, [id, lookAgain]);
  /** Forget what was typed over: the server's state is the truth again (after a change was dropped). */
  const forget = useCallback(() => {
    const known = queries.getQueryData<DraftView>(draftKey(id))?.revision;
    const later = [waiting.current, ...line.current.map((one) => one.typed)].some((one) => one.answers);
    setTyped(({ answers }) => ({ answers, settled: later ? undefined : known }));
  }, [queries, id]);
  /** Load the state of the other window; what was typed here over it is let go. */
  const loadAnew = useCallback(async () => {
    waiting.current = {};
    setTyped({});
    setTrouble(null);
    setState("kept");
    await queries.refetchQueries({ queryKey: draftKey(id) });
  }, [queries, id]);
  const view = useMemo(() => draft.data && viewIn(draft.data, LANGUAGE), [draft.data]);
  return {
    instead: insteadOf(draft),
    view,
    answers,
    typed,
    type,
    flush,
    change,
    state,
    trouble,
    forget,
    loadAnew,
    undo,
    offerUndo,
  };
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

/** The documents that are not asked for as things stand, by the ids of their requirements; those that may be added if one likes are. */
export function notAskedFor(view: DraftView): Set<string> {
  const free = new Set(view.form.slots.filter((s) => s.optional).map((s) => `documents.${s.slot}`));
  const not = view.assessment.requirements.filter(
    (r) =>
      r.kind === "document" && !r.asked && r.proposed !== "not known yet" && !free.has(r.id) && r.files.length === 0,
  );
  return new Set(not.map((r) => r.id));
}

/** What a repeat is called, as the requirements call it: `Person 1, Ines Marrow`. */
export function itemName(view: Pick<DraftView, "assessment">, item: string): string {
  return view.assessment.requirements.find((r) => r.item === item)?.item_label ?? item;
}
