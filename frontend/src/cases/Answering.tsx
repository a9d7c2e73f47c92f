// Answering a letter, point by point: words, changed answers, new files; what changed besides is said.
import { Textarea } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useEffect } from "react";
import { useSearchParams } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { placeOf } from "../api/place";
import { type CaseView, type DraftView, draftKey, seenAt } from "../api/views";
import { SlotBox } from "../filing/Documents";
import { useDraft } from "../filing/draft";
import { Questions } from "../filing/Questions";
import { SignPart } from "../filing/SignPart";
import { UndoLine } from "../filing/undo";
import { AskFirst } from "../shared/Dialog";
import { laneOf, laneOfSlot } from "../shared/Lanes";
import { Tab } from "../shared/Marks";
import { Messages } from "../shared/Messages";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { Slip } from "../shared/Slip";
import { since } from "../shared/say";
import { say, things } from "../shared/text";
import { AskedPoint } from "./AskedPoint";
import { CaseMoves } from "./CaseMoves";
import { WhoHasIt } from "./WhoHasIt";
import "./answering.css";
import "./my-case.css";
import "../desk/answers.css";

type Work = ReturnType<typeof useDraft>;

export function Answering({
  view,
  id,
  lane,
  side,
  above,
  below,
  onSent,
}: {
  view: CaseView;
  id: string;
  lane: string;
  side: ReactNode;
  above: ReactNode;
  below: ReactNode;
  onSent: () => void;
}) {
  const work = useDraft(id);
  const queries = useQueryClient();
  const draft = work.view;
  const send = useMutation({
    mutationFn: async () => {
      await work.flush();
      return ask(
        api.POST("/api/drafts/{draft}/answers", {
          params: { path: { draft: id } },
          headers: seenAt(queries.getQueryData<DraftView>(draftKey(id))?.revision ?? 0),
          body: { take_gaps: false, code: "" },
        }),
      );
    },
    onSuccess: onSent,
  });
  // a link of the letter leads to its point
  const [query] = useSearchParams();
  const asked = query.get("point");
  const there = !!draft;
  useEffect(() => {
    if (!there || !asked) return;
    const point = document.querySelector<HTMLElement>(`[data-point="${CSS.escape(asked)}"]`);
    point?.scrollIntoView({ block: "start" });
    point?.focus({ preventScroll: true });
  }, [there, asked]);
  if (work.instead) return <ProblemNote error={work.instead} />;
  if (!draft) return <Skeleton lines={9} />;
  const a = laneOf(draft.assessment, lane);
  const round = a.rounds.at(-1);
  if (!round) return null;
  const words = (work.typed.words ?? draft.words) as Record<string, string>;
  const answered = round.points.filter((p) => !p.needs).length;
  const move = a.moves.find((m) => m.move === "send the answers");
  // what was signed is changed by the answers: it is signed anew, unless a point asks for it anyway
  const again = move?.why_not.some((w) => w.place?.ref === "signature");
  const letter = view.story.findLast((m) => m.paper === "letter" && m.lane === lane);

  async function dropAll() {
    for (const u of round?.unasked ?? []) await drop(u.change.place);
  }

  async function drop(place: string) {
    await work.change((seen) =>
      ask(
        api.POST("/api/drafts/{draft}/put-back", { params: { path: { draft: id } }, headers: seen, body: { place } }),
      ),
    );
    work.forget();
  }

  return (
    <div className="my-case">
      <aside className="my-case-story">{side}</aside>
      <main>
        {above}
        <p className="my-case-narrow">
          <span className="mono">{view.reference}</span> {view.assessment.title}, {view.assessment.state.toLowerCase()}
        </p>
        <div className="answering-head">
          <h1>{say("{{points}} to put right", { points: things(round.points.length, "thing") })}</h1>
          <p className="second">
            {say("{{answered}} answered, {{points}} left", { answered, points: round.points.length - answered })}
          </p>
          {letter && (
            <a href={`/api/cases/${view.reference}/papers/${letter.no}`} target="_blank" rel="noreferrer">
              {say("The letter (PDF)")}
            </a>
          )}
        </div>
        <UndoLine undo={work.undo} />
        {round.points.map((point) => (
          <AskedPoint key={point.no} point={point} needs={point.needs}>
            <Textarea
              label={say("Your answer in words")}
              autosize
              minRows={2}
              value={words[String(point.no)] ?? ""}
              onChange={(e) => work.type({ words: { ...words, [point.no]: e.target.value } })}
            />
            {point.places.map((place) => (
              <PlaceField key={place.ref} work={work} id={id} place={place} />
            ))}
            {point.changes.map((c) => (
              <Change key={c.place + c.now} change={c} onDrop={() => drop(c.place)} />
            ))}
          </AskedPoint>
        ))}
        {round.unasked.length > 0 && (
          <section className="answering-point" aria-label={say("Also changed")}>
            <Tab standing="in doubt" given />
            <h2>{say("Also changed, not asked for")}</h2>
            {round.unasked.map((u) => (
              <Change
                key={u.change.place + u.change.now}
                change={u.change}
                onDrop={() => drop(u.change.place)}
                unasked
              />
            ))}
            <p className="second">
              {say("Allowed, and the officer will be told.")}{" "}
              {round.unasked.length > 1 && (
                <AskFirst
                  question={say("Undo everything that was changed without being asked?")}
                  yes={say("Undo all of it")}
                  onYes={dropAll}
                  className="jc-link"
                >
                  {say("Undo all of it")}
                </AskFirst>
              )}
            </p>
          </section>
        )}
        {again && (
          <section className="answering-point" aria-label={say("Sign again")}>
            <Tab standing="wanting" given />
            <SignPart work={work} id={id} />
          </section>
        )}
        <Others work={work} id={id} points={round.points} lane={lane} />
        {below}
        <Messages view={view} />
      </main>
      <aside className="my-case-side">
        <WhoHasIt view={view} />
        <h2>{say("What it changes")}</h2>
        <Slip fees={draft.assessment.fees} linkTo={() => null} filed account={draft.assessment.account} />
        <h2>{say("A word to the officer")}</h2>
        <Textarea
          aria-label={say("A word to the officer")}
          autosize
          minRows={2}
          placeholder={say("Anything the points do not cover")}
          value={work.typed.note ?? draft.dossier.note ?? ""}
          onChange={(e) => work.type({ note: e.target.value })}
        />
        <ProblemNote error={send.error ?? work.trouble} />
        <button
          type="button"
          className="jc-button wide apart"
          disabled={!move?.allowed || send.isPending}
          onClick={() => send.mutate()}
        >
          {say("Send the answers")}
        </button>
        {move && !move.allowed && (
          <p>
            <b>{say("Not yet:")}</b>{" "}
            {move.why_not
              .map((w) => w.text.charAt(0).toLowerCase() + w.text.slice(1))
              .join("; ")
              .replaceAll(".;", ";")}
          </p>
        )}
        <p className="second" role="status">
          {work.state === "kept"
            ? say("Kept {{kept_at}}.", { kept_at: since(draft.kept_at) })
            : work.state === "not kept"
              ? say("Not kept yet; it will be tried again.")
              : say("Keeping…")}
        </p>
        <CaseMoves view={view} lane={lane} />
      </aside>
    </div>
  );
}

function Change({ change, onDrop, unasked }: { change: Schemas["Difference"]; onDrop: () => void; unasked?: boolean }) {
  return (
    <p className={`cases-change${unasked ? " unasked" : ""}`}>
      <span>
        {change.label}: {change.was && <s>{change.was}</s>} <b>{change.now || say("removed")}</b>
      </span>
      <button type="button" className="jc-link" onClick={onDrop}>
        {say("Undo this change")}
      </button>
    </p>
  );
}

/** The field or slot at a place, to be changed right where the point speaks of it. */
function PlaceField({ work, id, place }: { work: Work; id: string; place: Schemas["Place"] }) {
  const draft = work.view;
  if (!draft) return null;
  const { head, rest } = placeOf(place.ref);
  if (head === "documents") {
    const slot = draft.form.slots.find((s) => s.slot === rest);
    return slot ? (
      <div className="answering-place">
        <p className="answering-label">{place.label}</p>
        <SlotBox work={work} id={id} slot={slot} bare />
      </div>
    ) : null;
  }
  if (head === "signature" || head === "declarations") return <SignPart work={work} id={id} />;
  const part = draft.form.parts.find((p) => p.id === head);
  if (!part) return null;
  return (
    <div className="answering-place">
      <Questions
        view={draft}
        part={part}
        only={place.ref}
        answers={work.answers}
        onPart={(value) => work.type({ answers: { ...work.answers, [head]: value } })}
      />
    </div>
  );
}

/** Everything the letter did not ask about: open, but flagged to the officer. */
function Others({ work, id, points, lane }: { work: Work; id: string; points: Schemas["PointView"][]; lane: string }) {
  const draft = work.view;
  if (!draft) return null;
  const lanes = draft.assessment.lanes ?? [];
  const { head: apart, rest: number } = placeOf(lane);
  // what stands in another lane is answered there
  const mine = (slot: string) => lanes.length === 0 || laneOfSlot(draft.assessment, slot) === lane;
  const site = placeOf(lanes.find((l) => l.id)?.id ?? "").head;
  const asked = new Set(points.flatMap((p) => p.places.map((x) => x.ref)));
  return (
    <details className="answering-others">
      <summary>{say("Change something the letter did not ask about")}</summary>
      {draft.form.parts
        .filter((part) => (lane ? part.id === apart : part.id !== site))
        .map((part) => (
          <section key={part.id}>
            <h3>{part.title}</h3>
            {lane &&
              part.questions
                .map((q) => `${part.id}.${number}.${q.id}`)
                .filter((place) => !asked.has(place))
                .map((place) => (
                  <Questions
                    key={place}
                    view={draft}
                    part={part}
                    only={place}
                    answers={work.answers}
                    onPart={(value) => work.type({ answers: { ...work.answers, [part.id]: value } })}
                  />
                ))}
            {part.each && !lane && (
              <Questions
                view={draft}
                part={part}
                answers={work.answers}
                onPart={(value) => work.type({ answers: { ...work.answers, [part.id]: value } })}
              />
            )}
            {(part.each ? [] : part.questions)
              .filter((q) => !asked.has(`${part.id}.${q.id}`))
              .map((q) => (
                <Questions
                  key={q.id}
                  view={draft}
                  part={part}
                  only={`${part.id}.${q.id}`}
                  answers={work.answers}
                  onPart={(value) => work.type({ answers: { ...work.answers, [part.id]: value } })}
                />
              ))}
          </section>
        ))}
      <section>
        <h3>{say("Documents")}</h3>
        {draft.form.slots
          .filter((s) => mine(s.slot) && !asked.has(`documents.${s.slot}`))
          .map((slot) => (
            <SlotBox key={slot.slot} work={work} id={id} slot={slot} />
          ))}
      </section>
    </details>
  );
}
