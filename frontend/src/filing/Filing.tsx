// The filing: parts on the left, questions in the middle with their help, the slip and what to bring on the right.

import { TextInput } from "@mantine/core";
import { useDocumentTitle, useInterval, useMediaQuery } from "@mantine/hooks";
import { useMutation } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link, useLocation, useNavigate, useParams } from "react-router";
import { api, ask, problemOf, type Schemas } from "../api/client";
import { placeOf } from "../api/place";
import { seenAt } from "../api/views";
import { AskFirst } from "../shared/Dialog";
import { Left, Tab } from "../shared/Marks";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { Slip } from "../shared/Slip";
import { since } from "../shared/say";
import { say, things } from "../shared/text";
import { Documents } from "./Documents";
import { type DraftView, itemName, placeLink, useDraft } from "./draft";
import { LanguageSwitch } from "./LanguageSwitch";
import { Questions } from "./Questions";
import { RegisterBox } from "./RegisterBox";
import { SignPart } from "./SignPart";
import { WayInSays } from "./WayInSays";
import "./filing.css";

export function Filing() {
  const { draft: id = "", part: named } = useParams();
  const work = useDraft(id);
  const narrow = useMediaQuery("(max-width: 820px)", false, { getInitialValueInEffect: false });
  const view = work.view;
  const location = useLocation();
  const navigate = useNavigate();
  const base = `/filing/${id}`;
  const throwAway = useMutation({
    mutationFn: () =>
      ask(api.DELETE("/api/drafts/{draft}", { params: { path: { draft: id } }, headers: seenAt(view?.revision ?? 0) })),
    onSuccess: () => navigate("/cases"),
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
    target.scrollIntoView({ block: "center" });
    const field = target.matches("input, textarea, select")
      ? target
      : target.querySelector<HTMLElement>("input, textarea, select, button");
    (field as HTMLElement | null)?.focus();
  }, [location.hash, location.pathname, loaded]);

  if (work.draft.error)
    return (
      <main className="jc-page">
        <ProblemNote error={work.draft.error} />
      </main>
    );
  if (!view) return <Skeleton lines={9} />;
  const conflict = problemOf(work.trouble).status === 412;
  const titles = new Map(view.form.parts.map((p) => [p.id, p.title]));
  const sections = view.assessment.sections
    .filter((s) => s.asked)
    .map((s) => ({ ...s, title: titles.get(s.id) ?? s.title }));
  const now = named ?? sections[0]?.id ?? "";
  const at = sections.findIndex((s) => s.id === now);
  const part = view.form.parts.find((p) => p.id === now);
  const link = placeLink(view, base);
  const left = view.assessment.left;
  const first = left[0]?.place ? link(left[0].place.ref) : null;
  const next = sections[at + 1];
  const before = sections[at - 1];

  const answerPart = (value: unknown) => work.type({ answers: { ...work.answers, [now]: value } });
  const register = part?.questions.find((q) => q.register)?.register;
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
            {view.answers_case ? say("taken back · {{case}}", { case: view.answers_case }) : say("draft")}
          </p>
          <p className="filing-kind">{view.form.title}</p>
          {view.assessment.title !== view.form.title && <p className="filing-title">{view.assessment.title}</p>}
          <LanguageSwitch form={view.form} />
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
                        return (
                          <li key={gap.text}>{to ? <Link to={to[0]}>{gap.title || gap.text}</Link> : gap.text}</li>
                        );
                      })}
                    </ul>
                  </details>
                )}
              </>
            ) : (
              <b>{say("Nothing is left.")}</b>
            )}
            <p>
              <Link to={`${base}/read-over`} className={`jc-button small${left.length > 0 ? " plain" : ""}`}>
                {say("Read it over")}
              </Link>
            </p>
          </div>
          <OwnReference work={work} />
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
        {view.answers_case ? (
          <p>
            <Link to={`/cases/${view.answers_case}`}>{say("To the case, and to withdraw it")}</Link>
          </p>
        ) : (
          <AskFirst
            question={say("Throw this draft away? It cannot be brought back.")}
            yes={say("Throw it away")}
            onYes={() => throwAway.mutate()}
            className="jc-link quiet"
          >
            {say("Throw this draft away")}
          </AskFirst>
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
        <WayInSays work={work} id={id} />
        {part && (
          <>
            <h1 tabIndex={-1}>{part.title}</h1>
            {source && <RegisterBox key={source} work={work} id={id} name={source} />}
            <Questions view={view} part={part} answers={work.answers} onPart={answerPart} />
          </>
        )}
        {now === "documents" && <Documents work={work} id={id} />}
        {now === "sign" && <SignPart work={work} id={id} />}
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
          ) : (
            <Link to={`${base}/read-over`} className="jc-button">
              {say("Read it over")}
            </Link>
          )}
        </div>
      </main>
      <aside className="filing-slip">
        <h2>{say("What it costs")}</h2>
        <Slip
          fees={view.assessment.fees}
          linkTo={link}
          debts={view.assessment.account.debts}
          account={view.answers_case && Number(view.assessment.account.paid) > 0 ? view.assessment.account : undefined}
        />
        <p className="filing-assumed">{say("Reckoned as if you filed today.")}</p>
        <h2>{say("What to bring")}</h2>
        <Bring view={view} base={base} />
      </aside>
    </div>
  );
}

function KeptAgo({ at }: { at: string }) {
  const [, tick] = useState(0);
  useInterval(() => tick((n) => n + 1), 5000, { autoInvoke: true });
  return <>{say("Kept {{at}}. You can leave and come back.", { at: since(at) })}</>;
}

/** What is left on a page of the filing; dashed where it is not known yet whether it is asked at all. */
function SectionState({ of }: { of: Schemas["SectionView"] }) {
  return of.waits ? <span className="filing-not-known">{say("not known yet")}</span> : <Left count={of.left} />;
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

/** What to bring: each document; those of one person or one stall together, folded to what is missing. */
export function Bring({ view, base }: { view: DraftView; base: string }) {
  const documents = view.assessment.requirements.filter((r) => r.kind === "document");
  const items = [...new Set(documents.map((r) => r.item).filter(Boolean))];
  return (
    <>
      <BringList requirements={documents.filter((r) => !r.item)} base={base} />
      {items.map((item) => {
        const own = documents.filter((r) => r.item === item && r.proposed !== "not asked");
        const missing = own.filter((r) => r.proposed === "wanting").length;
        return (
          <details key={item} className="filing-bring-item">
            <summary>
              {itemName(view, item)}{" "}
              <small className={missing ? "madder" : "moss"}>
                {missing
                  ? say("{{missing}} of {{own}} missing", { missing, own: own.length })
                  : own.length
                    ? say("all there")
                    : say("nothing needed")}
              </small>
            </summary>
            <BringList requirements={own} base={base} />
          </details>
        );
      })}
    </>
  );
}

function BringList({ requirements, base }: { requirements: Schemas["RequirementView"][]; base: string }) {
  return (
    <ul className="filing-bring">
      {requirements.map((r) => {
        const shown = r.proposed === "to read" ? "met" : r.proposed;
        const names = r.files.map((f) => f.name).join(", ");
        return (
          <li key={r.id} className={shown === "not asked" ? "quiet" : ""}>
            <Tab standing={shown} given />
            <Link to={`${base}/documents#${r.places[0]?.ref ?? r.id}`}>
              {r.plain_title}
              {shown === "not asked" && say(", not asked")}
            </Link>
            {shown !== "not asked" && (
              <small className={shown === "wanting" ? "madder" : ""}>
                {r.files.length === 0
                  ? shown === "wanting" && r.stops_filing
                    ? say("nothing yet")
                    : r.because
                  : r.proposed === "to read"
                    ? say("{{names}}, read", { names })
                    : r.because}
              </small>
            )}
          </li>
        );
      })}
    </ul>
  );
}
