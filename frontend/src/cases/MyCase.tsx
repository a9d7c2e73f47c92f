// My case: what happened and what comes next, the points to answer, who has it, what it costs.
import { useInViewport } from "@mantine/hooks";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useParams } from "react-router";
import { api, ask } from "../api/client";
import type { CaseView } from "../api/views";
import { AnswerList, FileList } from "../filing/Filed";
import { useCaseView } from "../shared/caseView";
import { inLane, LaneTabs, laneOf } from "../shared/Lanes";
import { Stamp } from "../shared/Marks";
import { Messages } from "../shared/Messages";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { Slip } from "../shared/Slip";
import { capital, day, exactly, shortDay } from "../shared/say";
import { say, things } from "../shared/text";
import { Answering } from "./Answering";
import { CaseMoves } from "./CaseMoves";
import { WhoHasIt } from "./WhoHasIt";
import "./answering.css";
import "./my-case.css";
import "../desk/answers.css";
import "../filing/read-over.css";

export function MyCase() {
  const { reference = "" } = useParams();
  const looked = useCaseView(reference, 30_000);
  const [drafts, setDrafts] = useState<Record<string, string>>({});
  const [sent, setSent] = useState(false);
  const [chosen, setChosen] = useState<string | null>(null);
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
  // biome-ignore lint/correctness/useExhaustiveDependencies: begun once when answers are wanted
  useEffect(() => {
    if (wanted && !draftId) begin.mutate(lane);
  }, [wanted, lane]);

  if (looked.error)
    return (
      <main className="jc-page">
        <ProblemNote error={looked.error} />
      </main>
    );
  if (!looked.data) return <Skeleton lines={9} />;
  const whole = looked.data;
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
        {Number(view.assessment.account.open) > 0 && (
          <p>
            <Link to={`/cases/${reference}/pay`} className="jc-button">
              {say("Pay now")}
            </Link>
          </p>
        )}
        {permit && (
          <p>
            <a
              href={`/api/cases/${reference}/papers/${permit.no}`}
              target="_blank"
              rel="noreferrer"
              className="jc-button"
            >
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
            <b>{capital(view.assessment.permit.state)}</b>
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
          </section>
        ))}
        <h2>{say("What you filed")}</h2>
        <p className="second">
          {say("Version {{version}}, under the edition of {{in_force}}.", {
            version: view.assessment.version,
            in_force: view.form.in_force,
          })}
        </p>
        <AnswerList
          form={view.form}
          assessment={view.assessment}
          answers={view.versions.at(-1)?.dossier.answers ?? {}}
        />
        <section className="filed-part">
          <h2>{say("Documents")}</h2>
          <FileList
            files={view.versions.at(-1)?.files ?? []}
            url={(f) => `/api/cases/${reference}/files/${f.attachment.sha256}`}
          />
        </section>
        <div ref={messages} id="messages">
          <Messages view={view} />
        </div>
      </main>
      <aside className="my-case-side">
        <WhoHasIt view={view} />
        <h2>{say("What it costs")}</h2>
        <Slip fees={view.assessment.fees} linkTo={() => null} filed account={view.assessment.account} />
        <CaseMoves view={view} lane={lane} />
      </aside>
    </div>
  );
}

function Story({ view }: { view: CaseView }) {
  const { reference } = view;
  return (
    <>
      <p className="mono">{reference}</p>
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
                    {m.paper}
                  </a>
                </>
              )}
            </span>
          </li>
        ))}
      </ol>
      {view.next_steps.length > 0 && (
        <>
          <h2>{say("What comes next")}</h2>
          <ol className="story to-come">
            {view.next_steps.map((s) => (
              <li key={`${s.day}${s.text}`}>
                <time>{s.day ? shortDay(s.day) : s.after}</time>
                <span>{s.text}</span>
              </li>
            ))}
          </ol>
        </>
      )}
    </>
  );
}
