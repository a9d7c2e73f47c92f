// The filing: parts on the left, questions in the middle with their help, the slip and what to bring on the right.

import { TextInput } from "@mantine/core";
import { useDocumentTitle, useInterval, useMediaQuery } from "@mantine/hooks";
import { useMutation, useQuery } from "@tanstack/react-query";
import { memo, useEffect, useMemo, useRef, useState } from "react";
import { Link, useLocation, useNavigate, useParams } from "react-router";
import { api, ask, problemOf, type Schemas } from "../api/client";
import { placeOf } from "../api/place";
import { seenAt } from "../api/views";
import { CounterHere } from "../counter/CounterHere";
import { Left } from "../shared/Marks";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { Slip } from "../shared/Slip";
import { day, since } from "../shared/say";
import { say, things } from "../shared/text";
import { AddingNote, isOfAddition, SendAddition } from "./AddingHere";
import { BeginLike } from "./BeginLike";
import { Bring } from "./Bring";
import { Documents } from "./Documents";
import { type DraftView, placeLink, useDraft } from "./draft";
import { Grouping, useGrouping } from "./group";
import { Held, InvitedHere } from "./Held";
import { LanguageSwitch } from "./LanguageSwitch";
import { NotArrived } from "./OnTheirWay";
import { Questions } from "./Questions";
import { Asking, RegisterBox } from "./RegisterBox";
import { SignPart } from "./SignPart";
import { Transfer } from "./Transfer";
import { TurnsHere } from "./TurnsHere";
import { Usual } from "./Usual";
import { Undoing, UndoLine } from "./undo";
import { WayInSays } from "./WayInSays";
import "./filing.css";

export function Filing() {
  const { draft: id = "", part } = useParams();
  return <OneFiling key={id} id={id} named={part} />; // what is typed in one goes into no other
}

function OneFiling({ id, named }: { id: string; named: string | undefined }) {
  const work = useDraft(id);
  const group = useGrouping(id, work);
  const asking = useMemo(() => ({ work, id }), [work, id]);
  const narrow = useMediaQuery("(max-width: 820px)", false, { getInitialValueInEffect: false });
  const view = work.view;
  const location = useLocation();
  const navigate = useNavigate();
  const base = `/filing/${id}`;
  const throwAway = useMutation({
    mutationFn: () =>
      ask(api.DELETE("/api/drafts/{draft}", { params: { path: { draft: id } }, headers: seenAt(view?.revision ?? 0) })),
    onSuccess: () =>
      view?.adding
        ? navigate(`/cases/${view.answers_case}`)
        : navigate("/cases", { state: { thrownAway: id, title: view?.assessment.title } }),
  });

  const loaded = view !== undefined;
  const heading = useRef<HTMLElement>(null);
  const shown = view?.form.parts.find((p) => p.id === named)?.title;
  useDocumentTitle([shown ?? say("Filing"), view?.form.title].filter(Boolean).join(" - "));
  const firstLook = useRef(true);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another part begins at its heading
  useEffect(() => {
    if (!loaded || location.hash) return;
    if (!firstLook.current) {
      window.scrollTo(0, 0);
      heading.current?.querySelector<HTMLElement>("h1")?.focus({ preventScroll: true });
    }
    firstLook.current = false;
  }, [location.pathname, loaded]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the page of another part is another place to look in
  useEffect(() => {
    const target = loaded && location.hash ? document.getElementById(decodeURIComponent(location.hash.slice(1))) : null;
    if (!target) return;
    target.closest("details")?.setAttribute("open", "");
    target.scrollIntoView({ block: "center" });
    const field = target.matches("input, textarea, select, [data-cell]")
      ? target
      : target.querySelector<HTMLElement>("input, textarea, select, button");
    (field as HTMLElement | null)?.focus();
  }, [location.hash, location.pathname, loaded]);

  const { sections, link } = useMemo(
    () => ({ sections: view ? sectionsOf(view) : [], link: view ? placeLink(view, base) : () => null }),
    [view, base],
  );
  if (work.instead)
    return (
      <main className="jc-page">
        <ProblemNote error={work.instead} />
      </main>
    );
  if (!view) return <Skeleton lines={9} />;
  const conflict = problemOf(work.trouble).status === 412;
  const now = named ?? sections[0]?.id ?? "";
  const at = sections.findIndex((s) => s.id === now);
  const part = view.form.parts.find((p) => p.id === now);
  const next = sections[at + 1];
  const before = sections[at - 1];

  const answerPart = (value: unknown) => work.type({ answers: { ...work.answers, [now]: value } });
  const states = view.assessment.parts.find((p) => p.id === now)?.questions ?? [];
  const notAsked = new Set(states.filter((q) => q.asked === "no").map((q) => placeOf(q.place).question));
  const register = part?.each ? undefined : part?.questions.find((q) => q.register && !notAsked.has(q.id))?.register;
  const source = register ? placeOf(register).head : undefined;

  return (
    <div className="filing">
      <aside className="filing-parts">
        <details className="filing-switch" open={!narrow} key={`${now} ${narrow}`}>
          <summary>
            {say("{{at}} of {{all}}: {{title}}", {
              at: at + 1,
              all: sections.length,
              title: sections[at]?.title ?? "",
            })}
            {sections[at] && <SectionState of={sections[at]} />}
          </summary>
          <p className="mono second">
            {view.adding
              ? say("added to {{case}}", { case: view.answers_case })
              : view.answers_case
                ? say("taken back · {{case}}", { case: view.answers_case })
                : say("draft")}
            {view.own_reference && ` · “${view.own_reference}”`}
          </p>
          <p className="filing-kind">{view.form.title}</p>
          {view.assessment.title !== view.form.title && <p className="filing-title">{view.assessment.title}</p>}
          <LanguageSwitch />
          <Parts view={view} base={base} now={now} sections={sections} link={link} />
          {view.own && !view.adding && <OwnReference work={work} />}
          {view.own && !view.answers_case && <OwnFolder work={work} />}
        </details>
        <p className="filing-kept" role="status">
          {work.state === "not kept" ? (
            <b className="madder">
              {conflict
                ? say("Not kept: another window changed the same.")
                : say("Not kept yet; it will be tried again. Do not close this window.")}
            </b>
          ) : work.state === "kept" ? (
            <KeptAgo at={view.kept_at} />
          ) : (
            say("Keeping…")
          )}
        </p>
        <NotArrived draft={id} />
        {view.counter ? (
          <CounterHere owner={view.owner} id={id} />
        ) : view.adding ? null : view.own ? (
          <p>
            <Link to={`${base}/others`}>{say("Others at work")}</Link>
          </p>
        ) : (
          <InvitedHere of={view.answers_case || id} owner={view.owner} acting={view.acting} />
        )}
        {view.answers_case ? (
          <>
            <p>
              <Link to={`/cases/${view.answers_case}`}>
                {view.adding ? say("To the case") : say("To the case, and to withdraw it")}
              </Link>
            </p>
            {view.adding && view.own && (
              <button type="button" className="jc-link quiet" onClick={() => throwAway.mutate()}>
                {say("Add nothing after all")}
              </button>
            )}
          </>
        ) : (
          view.own && (
            <div>
              <BeginLike name={id} first={work.flush} />
              <Transfer work={work} id={id} />
              <button type="button" className="jc-link quiet" onClick={() => throwAway.mutate()}>
                {say("Throw this draft away")}
              </button>
            </div>
          )
        )}
      </aside>
      <main className="filing-main" ref={heading}>
        <ProblemNote error={work.trouble} />
        {conflict && (
          <p>
            <button type="button" className="jc-button plain small" onClick={work.loadAnew}>
              {say("Load the other state")}
            </button>
          </p>
        )}
        {view.adding ? <AddingNote view={view} /> : <WayInSays work={work} id={id} />}
        <TurnsHere turns={view.turns} base={base} />
        <Held work={work} id={id} part={now} />
        {part && (
          <>
            <h1 tabIndex={-1}>{part.title}</h1>
            {source && !view.read_only.includes(now) && <RegisterBox key={source} work={work} id={id} name={source} />}
            <Usual work={work} id={id} part={now} />
            <Undoing value={work.offerUndo}>
              <Grouping value={group}>
                <Asking.Provider value={asking}>
                  <Questions view={view} part={part} answers={work.answers} onPart={answerPart} />
                </Asking.Provider>
              </Grouping>
            </Undoing>
          </>
        )}
        {now === "documents" && <Documents work={work} id={id} />}
        {now === "sign" && <SignPart work={work} id={id} />}
        {now === "sign" && view.adding && <SendAddition work={work} id={id} />}
        <UndoLine undo={work.undo} />
        <div className="filing-on">
          {before ? (
            <Link to={`${base}/${before.id}`}>{say("Back to {{title}}", { title: before.title })}</Link>
          ) : (
            <span />
          )}
          {next ? (
            <Link to={`${base}/${next.id}`} className="jc-button">
              {say("On to {{title}}", { title: next.title })}
            </Link>
          ) : view.adding ? (
            <span />
          ) : (
            <Link to={`${base}/read-over`} className="jc-button">
              {say("Read it over")}
            </Link>
          )}
        </div>
      </main>
      <Beside view={view} base={base} link={link} />
    </div>
  );
}

function sectionsOf(view: DraftView): Schemas["SectionView"][] {
  const titles = new Map(view.form.parts.map((p) => [p.id, p.title]));
  const asked = view.assessment.sections.filter((s) => s.asked && isOfAddition(view, s.id));
  return asked.map((s) => ({ ...s, title: titles.get(s.id) ?? s.title }));
}

/** The parts, with what is left in each and in all. Drawn anew only when the engine has said something. */
const Parts = memo(function Parts({
  view,
  base,
  now,
  sections,
  link,
}: {
  view: DraftView;
  base: string;
  now: string;
  sections: Schemas["SectionView"][];
  link: ReturnType<typeof placeLink>;
}) {
  const left = view.assessment.left;
  const first = left[0]?.place ? link(left[0].place.ref) : null;
  return (
    <>
      <nav aria-label={say("Parts of the filing")}>
        {sections.map((s) => (
          <Link
            key={s.id}
            to={`${base}/${s.id}`}
            className={s.id === now ? "now" : ""}
            aria-current={s.id === now ? "step" : undefined}
          >
            <span>{s.title}</span>
            <i aria-hidden="true" />
            <SectionState of={s} />
          </Link>
        ))}
      </nav>
      <div className="filing-left">
        {left.length > 0 ? (
          <>
            <b>{say("{{left}} left.", { left: things(left.length, "thing") })}</b>{" "}
            {first && (
              <>
                {say("First:")} <Link to={first[0]}>{left[0]?.title}</Link>
              </>
            )}
            {left.length > 1 && (
              <details className="filing-all-left">
                <summary>{say("All of them")}</summary>
                <ul>
                  {left.map((gap) => {
                    const to = gap.place ? link(gap.place.ref) : null;
                    return <li key={gap.text}>{to ? <Link to={to[0]}>{gap.title || gap.text}</Link> : gap.text}</li>;
                  })}
                </ul>
              </details>
            )}
          </>
        ) : (
          <b>{say("Nothing is left.")}</b>
        )}
        {!view.adding && (
          <p>
            <Link to={`${base}/read-over`} className={`jc-button small${left.length > 0 ? " plain" : ""}`}>
              {say("Read it over")}
            </Link>
          </p>
        )}
      </div>
    </>
  );
});

/** What it costs and what to bring. Drawn anew only when the engine has said something. */
const Beside = memo(function Beside({
  view,
  base,
  link,
}: {
  view: DraftView;
  base: string;
  link: ReturnType<typeof placeLink>;
}) {
  return (
    <aside className="filing-slip">
      <h2>{say("What it costs")}</h2>
      <Slip
        fees={view.assessment.fees}
        filed={!!view.adding}
        linkTo={link}
        debts={view.assessment.account.debts}
        account={view.answers_case && Number(view.assessment.account.paid) > 0 ? view.assessment.account : undefined}
      />
      {!view.adding && (
        <p className="filing-assumed">
          {view.counter
            ? say("Reckoned for a filing on {{day}}, when it reached the office.", {
                day: day(view.assessment.filing_day),
              })
            : say("Reckoned for a filing on {{day}}, today.", { day: day(view.assessment.filing_day) })}
        </p>
      )}
      {view.assessment.requirements.some((r) => r.kind === "document") && <h2>{say("What to bring")}</h2>}
      <Bring view={view} base={base} />
    </aside>
  );
});

function KeptAgo({ at }: { at: string }) {
  const [, tick] = useState(0);
  useInterval(() => tick((n) => n + 1), 5000, { autoInvoke: true });
  return <>{say("Kept {{at}}. You can leave and come back.", { at: since(at) })}</>;
}

/** What is left on a page of the filing; dashed where it is not known yet whether it is asked at all. */
function SectionState({ of }: { of: Schemas["SectionView"] }) {
  return of.waits ? <span className="filing-not-known">{say("not known yet")}</span> : <Left count={of.left} />;
}

/** The folder in which the draft lies among one's own; those that there are already are offered. */
function OwnFolder({ work }: { work: ReturnType<typeof useDraft> }) {
  const drafts = useQuery({ queryKey: ["own-folders"], queryFn: () => ask(api.GET("/api/drafts")) });
  const there = [...new Set(drafts.data?.map((d) => d.folder).filter(Boolean))];
  return (
    <>
      <TextInput
        label={say("In which folder")}
        size="xs"
        mt={8}
        value={work.typed.folder ?? work.view?.folder ?? ""}
        onChange={(e) => work.type({ folder: e.target.value })}
        maxLength={60}
        placeholder={say("if you like")}
        list="own-folders"
      />
      <datalist id="own-folders">
        {there.map((folder) => (
          <option key={folder} value={folder} />
        ))}
      </datalist>
    </>
  );
}

function OwnReference({ work }: { work: ReturnType<typeof useDraft> }) {
  return (
    <TextInput
      label={say("A reference of your own")}
      size="xs"
      value={work.typed.own_reference ?? work.view?.own_reference ?? ""}
      onChange={(e) => work.type({ own_reference: e.target.value })}
      maxLength={80}
      placeholder={say("if you like")}
    />
  );
}
