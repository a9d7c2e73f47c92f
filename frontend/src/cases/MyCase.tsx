// My case: what happened and what comes next, the points to answer, who has it, what it costs.
import { useInViewport } from "@mantine/hooks";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { api, ask, insteadOf } from "../api/client";
import type { CaseView } from "../api/views";
import { BeginLike } from "../filing/BeginLike";
import { Dockets } from "../filing/ByPost";
import { AnswerList, FileList } from "../filing/Filed";
import { InvitedHere } from "../filing/Held";
import { IssuersOfCase } from "../filing/Issuers";
import { viewIn } from "../filing/language";
import { useCaseView } from "../shared/caseView";
import { inLane, LaneTabs, laneOf } from "../shared/Lanes";
import { Stamp } from "../shared/Marks";
import { Messages } from "../shared/Messages";
import { MoneyExplained } from "../shared/MoneyExplained";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { paperCalled } from "../shared/papers";
import { Slip } from "../shared/Slip";
import { capital, day, exactly, shortDay } from "../shared/say";
import { LANGUAGE, say, things } from "../shared/text";
import { AddLater } from "./AddLater";
import { Answering } from "./Answering";
import { CaseMoves } from "./CaseMoves";
import { NextSteps } from "./NextSteps";
import { WhoHasIt } from "./WhoHasIt";
import "./answering.css";
import "./my-case.css";
import "./story.css";
import "../desk/answers.css";
import "../filing/read-over.css";

export function MyCase() {
  const { reference = "" } = useParams();
  const looked = useCaseView(reference, 30_000);
  const [drafts, setDrafts] = useState<Record<string, string>>({});
  const [sent, setSent] = useState(false);
  const [query] = useSearchParams();
  const [chosen, setChosen] = useState<string | null>(query.get("lane"));
  const queries = useQueryClient();
  const begin = useMutation({
    mutationFn: (of: string) =>
      ask(api.POST("/api/cases/{reference}/answering", { params: { path: { reference }, query: { lane: of } } })),
    onSuccess: ({ id }, of) => setDrafts((known) => ({ ...known, [of]: id })),
  });
  // a message counts as read when it was in sight, not when the page was opened
  const { ref: messages, inViewport } = useInViewport();
  const waits = looked.data ? looked.data.messages.some((m) => m.office && !m.read_at) : true;
  const seen = looked.data !== undefined && (!waits || inViewport);
  useEffect(() => {
    if (seen)
      ask(api.POST("/api/cases/{reference}/opened", { params: { path: { reference } } })).catch(() => undefined);
  }, [reference, seen]);
  const drafted = useQuery({ queryKey: ["drafts"], queryFn: () => ask(api.GET("/api/drafts")) });
  const lanes = looked.data?.assessment.lanes ?? [];
  const lane = chosen ?? looked.data?.lane_first ?? "";
  const draftId = drafts[lane];
  const own = looked.data && laneOf(looked.data.assessment, lane);
  const wanted = !!own?.rounds.at(-1) && !own.rounds.at(-1)?.answered_at && own.clock?.step === "answers";
  const mayAnswer = looked.data?.rights.includes("answer") ?? false;
  // biome-ignore lint/correctness/useExhaustiveDependencies: begun once when answers are wanted
  useEffect(() => {
    if (wanted && mayAnswer && !draftId) begin.mutate(lane);
  }, [wanted, mayAnswer, lane]);

  const instead = insteadOf(looked);
  if (instead)
    return (
      <main className="jc-page">
        <ProblemNote error={instead} />
      </main>
    );
  if (!looked.data) return <Skeleton lines={9} />;
  const whole = viewIn(looked.data, LANGUAGE);
  const view = inLane(whole, lane);
  const permit = view.story.find((m) => m.paper === "permit");
  const unread = view.messages.find((m) => m.office && !m.read_at);
  const mine = drafted.data?.find((d) => d.answers_case === reference);
  const tabs = <LaneTabs lanes={lanes} chosen={lane} onChoose={setChosen} />;
  if (wanted && draftId)
    return (
      <Answering
        key={draftId}
        view={view}
        id={draftId}
        lane={lane}
        side={<Story view={whole} />}
        above={tabs}
        below={<Issuers view={view} />}
        onSent={() => {
          setSent(true);
          setDrafts({});
          setChosen(null);
          queries.invalidateQueries();
        }}
      />
    );
  return (
    <div className="my-case">
      <aside className="my-case-story">
        <Story view={whole} />
      </aside>
      <main>
        {tabs}
        <p className="my-case-narrow">
          <span className="mono">{view.reference}</span> {view.assessment.title}, {view.assessment.state.toLowerCase()}
        </p>
        <ProblemNote error={begin.error} />
        {sent && (
          <p className="my-case-sent" role="status">
            {say("Your answers are sent. The office reads them; version {{version}} is below.", {
              version: view.assessment.version,
            })}
          </p>
        )}
        {unread && (
          <p className="my-case-message">
            <a href="#messages">{say("A message from {{who}}", { who: unread.who })}</a>
          </p>
        )}
        <h1>{view.assessment.next_applicant}</h1>
        {!view.own && <InvitedHere of={reference} owner={view.applicant} acting={view.acting} />}
        {Number(view.assessment.account.open) > 0 && view.rights.includes("pay") && (
          <p>
            <Link to={`/cases/${reference}/pay`} className="jc-button">
              {say("Pay now")}
            </Link>
          </p>
        )}
        {view.permit_on && (
          <p>
            <Link to={`/permits/${view.permit_on}`} className="jc-button">
              {permitIsOf(view)
                ? say("The {{grants}}: how it stands, and what you can do with it", { grants: view.form.grants })
                : say("What this is filed on: {{reference}}", { reference: view.permit_on })}
            </Link>
          </p>
        )}
        {permit && (
          <p className="my-case-permit">
            <a href={`/api/cases/${reference}/papers/${permit.no}`} target="_blank" rel="noreferrer">
              {say("The {{grants}} (PDF)", { grants: view.form.grants })}
            </a>
          </p>
        )}
        {mine && (
          <p>
            <Link to={`/filing/${mine.id}`} className="jc-button">
              {say("Go on with the filing")}
            </Link>
          </p>
        )}
        {view.permit_code && (
          <p className="my-case-permit">
            {say("Anyone can check the {{grants}} by its code:", { grants: view.form.grants })}{" "}
            <b className="mono">{view.permit_code}</b>{" "}
            <Link to={`/check/${view.permit_code}`}>{say("see what they see")}</Link>
          </p>
        )}
        {view.assessment.permit && (
          <p className="my-case-days">
            <b>{capital(view.assessment.permit.says)}</b>
            {view.assessment.permit.days.map((d) => (
              <span key={d.what}>
                {d.title} {day(d.day)} <small>{say("art. {{article}}", { article: d.article })}</small>
              </span>
            ))}
          </p>
        )}
        {view.assessment.rounds.map((r) => (
          <section key={r.no} className="my-case-round">
            <h2>
              {say("{{points}} the office asked", { points: things(r.points.length, "thing") })}{" "}
              <small>{r.answered_at ? say("answered {{at}}", { at: exactly(r.answered_at) }) : ""}</small>
            </h2>
            <ol>
              {r.points.map((p) => (
                <li key={p.no}>
                  <b>{p.title}</b> {p.text}
                  {p.words && <q>{p.words}</q>}
                  {p.changes.map((c) => (
                    <p key={c.place + c.now} className="cases-change">
                      {c.label}: {c.was && <s>{c.was}</s>} <b>{c.now || say("removed")}</b>
                    </p>
                  ))}
                </li>
              ))}
            </ol>
            {r.unasked.length > 0 && (
              <>
                <h3>{say("Also changed, not asked for")}</h3>
                {r.unasked.map(({ change: c }) => (
                  <p key={c.place + c.now} className="cases-change unasked">
                    {c.label}: {c.was && <s>{c.was}</s>} <b>{c.now || say("removed")}</b>
                  </p>
                ))}
              </>
            )}
            {r.note && (
              <p>
                {say("Your note:")} <q>{r.note}</q>
              </p>
            )}
          </section>
        ))}
        <Issuers view={view} />
        <AddLater view={view} />
        <Papers view={whole} />
        <div ref={messages} id="messages">
          <Messages view={view} />
        </div>
        <WhatWasFiled view={view} />
      </main>
      <aside className="my-case-side">
        <WhoHasIt view={view} />
        <h2>{say("What it costs")}</h2>
        <Slip fees={view.assessment.fees} linkTo={() => null} filed account={view.assessment.account} />
        <MoneyExplained said={view.money_explained} />
        {view.own && (
          <p>
            <Link to={`/cases/${reference}/others`}>{say("Others at work")}</Link>
            <br />
            <a href={`/api/cases/${reference}/package`} download>
              {say("Take the whole case along (ZIP)")}
            </a>
          </p>
        )}
        <CaseMoves view={view} lane={lane} />
      </aside>
    </div>
  );
}

/** What has a page is what was granted in this case, not what it is filed on. */
const permitIsOf = (view: CaseView) => view.permit_on === view.reference;

/** Documents that others send to the case. */
function Issuers({ view }: { view: CaseView }) {
  return (
    <IssuersOfCase
      reference={view.reference}
      files={view.versions.at(-1)?.files.length ?? 0}
      own={view.own && !!view.assessment.moves.find((m) => m.move === "withdraw")?.allowed}
      wanted={view.form.slots.filter((slot) => slot.delivered_by && isWanting(view, `documents.${slot.slot}`))}
    />
  );
}

const isWanting = (view: CaseView, place: string) =>
  view.assessment.requirements.find((r) => r.id === place)?.standing === "wanting";

/** Everything that can be kept: receipts, letters, what was granted; the newest first. */
function Papers({ view }: { view: CaseView }) {
  const papers = view.story.filter((m) => m.paper).reverse();
  if (papers.length === 0) return null;
  return (
    <section className="my-case-papers" aria-label={say("Papers")}>
      <h2>{say("Papers")}</h2>
      <ul>
        {papers.map((m) => (
          <li key={m.no}>
            <a href={`/api/cases/${view.reference}/papers/${m.no}`} target="_blank" rel="noreferrer">
              {capital(paperCalled(m.paper))}
            </a>{" "}
            <span className="second">
              {shortDay(m.at)}, {m.text}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** What was filed, folded by part; an earlier version is chosen by its number. */
function WhatWasFiled({ view }: { view: CaseView }) {
  const latest = view.versions.length;
  const [chosen, setNo] = useState<number | null>(null);
  const no = chosen ?? latest; // a new version is shown unless another was chosen
  const version = view.versions.find((v) => v.no === no) ?? view.versions.at(-1);
  if (!version) return null;
  return (
    <section aria-label={say("What you filed")}>
      <h2>{say("What you filed")}</h2>
      <p className="second">{say("Under the rules of {{in_force}}.", { in_force: shortDay(view.form.in_force) })}</p>
      {latest > 1 && (
        <p className="my-case-versions">
          {view.versions.toReversed().map((v) => (
            <button
              key={v.no}
              type="button"
              className="jc-button plain small"
              aria-pressed={v.no === version.no}
              onClick={() => setNo(v.no)}
            >
              {say("Version {{no}}, {{day}}", { no: v.no, day: shortDay(v.at) })}
            </button>
          ))}
        </p>
      )}
      <AnswerList
        form={view.form}
        assessment={view.assessment}
        answers={version.dossier.answers}
        said={version.no === latest ? undefined : version.said}
        folded
      />
      <details className="filed-part folded" open>
        <summary>{say("Documents")}</summary>
        <FileList files={version.files} url={(f) => `/api/cases/${view.reference}/files/${f.attachment.sha256}`} />
        <Dockets dockets={version.dossier.dockets ?? []} base={`/api/cases/${view.reference}`} />
      </details>
    </section>
  );
}

function Story({ view }: { view: CaseView }) {
  const { reference } = view;
  return (
    <>
      <p className="mono">
        {reference}
        {view.own_reference && ` · “${view.own_reference}”`}
      </p>
      <p className="my-case-title">{view.assessment.title}</p>
      <Stamp state={view.assessment.state} />
      <h2>{say("What has happened")}</h2>
      <ol className="story">
        {view.story.map((m) => (
          <li key={m.no} className={m.holder} title={exactly(m.at)}>
            <time dateTime={m.at}>{shortDay(m.at)}</time>
            <span>
              {m.text}
              {m.paper && (
                <>
                  {" "}
                  <a href={`/api/cases/${reference}/papers/${m.no}`} target="_blank" rel="noreferrer">
                    {paperCalled(m.paper)}
                  </a>
                </>
              )}
            </span>
          </li>
        ))}
      </ol>
      <NextSteps steps={view.next_steps} />
      <p>{view.own && <BeginLike name={reference} />}</p>
    </>
  );
}
