// The way in: a few questions before an account is needed; what to bring, what it costs, and a letter that can be kept.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useMemo, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { plainForm } from "../api/views";
import { beginFiling } from "../filing/beginning";
import { type Answers, givenIn } from "../filing/draft";
import { LanguageSwitch } from "../filing/LanguageSwitch";
import { formIn } from "../filing/language";
import { Questions } from "../filing/Questions";
import { Tab } from "../shared/Marks";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { PrintButton, PrintHead } from "../shared/PrintHead";
import { Slip } from "../shared/Slip";
import { day } from "../shared/say";
import { useSession } from "../shared/session";
import { LANGUAGE, say } from "../shared/text";
import { Closer } from "./Closer";
import { keepWayIn } from "./kept";
import { Verdict } from "./Verdict";
import "../filing/bring.css";
import "../filing/filing.css";
import "./wayin.css";

type Sent = Record<string, Record<string, unknown> | Record<string, unknown>[]>;

export function WayIn() {
  const { kind = "" } = useParams();
  const [answers, setAnswers] = useState<Answers>({});
  const session = useSession();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const said = useQuery({
    queryKey: ["way-in", kind, answers],
    queryFn: async () => {
      const told = await ask(
        api.POST("/api/kinds/{kind}/way-in", { params: { path: { kind } }, body: { answers: answers as Sent } }),
      );
      return { ...told, form: await plainForm(told.edition_sha256) };
    },
    placeholderData: (before) => before,
  });
  const begin = useMutation({
    mutationFn: () => beginFiling({ kind, answers: answers as Sent }),
    onSuccess: (id) => {
      queries.invalidateQueries({ queryKey: ["drafts"] });
      navigate(`/filing/${id}`);
    },
  });
  const view = useMemo(() => said.data && { ...said.data, form: formIn(said.data.form, LANGUAGE) }, [said.data]);
  if (said.error && !said.data)
    return (
      <main className="jc-page">
        <ProblemNote error={said.error} />
        <Link to="/">{say("Back to the start")}</Link>
      </main>
    );
  if (!view) return <Skeleton lines={8} />;
  const places = view.form.way_in_asks.filter((p) => view.answered.includes(p) || p === view.ask_next[0]);
  const decided = view.decided;
  const signedIn = !!session.data?.person;
  const files = session.data?.may?.moves === "applicant";
  // what would be answered here from now on would not reach the filing that is begun
  const leaving = begin.isPending || begin.isSuccess;
  function part(id: string, value: unknown) {
    setAnswers((now) => ({ ...now, [id]: value }));
  }
  function goOn() {
    if (files) begin.mutate();
    else {
      keepWayIn({ kind, answers: answers as Sent });
      navigate("/");
    }
  }
  return (
    <div className="way-in">
      <main>
        <PrintHead title={say("{{title}}: estimate and what to bring", { title: view.form.title })} />
        <p className="jc-no-print">
          <Link to="/">{say("Back to the start")}</Link>
        </p>
        <LanguageSwitch />
        <h1>{say("{{title}}: do you need it?", { title: view.form.title })}</h1>
        <p className="second">
          {files
            ? say("A few questions; your answers go into the filing.")
            : say("A few questions; nothing is kept and no account is needed.")}
        </p>
        {files && !decided?.then && (
          <p>
            <Begin quiet leaving={leaving} onBegin={goOn}>
              {say("I know that I need it: go to the form")}
            </Begin>
          </p>
        )}
        <fieldset className="filing-lock" disabled={leaving}>
          {places.map((place) => {
            const own = view.form.parts.find((p) => place.startsWith(`${p.id}.`));
            if (!own) return null;
            return (
              <Questions
                key={place}
                view={view}
                part={own}
                answers={{ [own.id]: givenIn(answers, own.id) }}
                only={place}
                onPart={(value) => part(own.id, value)}
              />
            );
          })}
        </fieldset>
        {decided?.then && (
          <Verdict decided={decided} kind={kind} law={view.form.law} answers={answers}>
            {!decided.stops ? (
              <>
                {view.assessment.pathway && (
                  <p>
                    {say("Pathway:")} <b>{view.assessment.pathway.title}</b>. {view.assessment.pathway.says}
                  </p>
                )}
                <ProblemNote error={begin.error} />
                {(!signedIn || files) && (
                  <Begin leaving={leaving} onBegin={goOn}>
                    {signedIn
                      ? say("Begin the filing with these answers")
                      : say("Sign in and begin with these answers")}
                  </Begin>
                )}
              </>
            ) : (
              files &&
              decided.insist && (
                <p>
                  <Begin quiet leaving={leaving} onBegin={goOn}>
                    {say("File it all the same, with a reason")}
                  </Begin>
                </p>
              )
            )}
          </Verdict>
        )}
        {decided?.then && !decided.stops && (
          <fieldset className="filing-lock" disabled={leaving}>
            <Closer view={view} answers={answers} onPart={part} />
          </fieldset>
        )}
        {decided?.then && !decided.stops && (
          <p>
            <PrintButton>{say("Print this estimate")}</PrintButton>
          </p>
        )}
      </main>
      <aside className="filing-slip">
        {decided?.stops ? (
          <p className="second">{say("Nothing is to be paid or brought here.")}</p>
        ) : (
          <>
            <h2>{say("What it costs")}</h2>
            <Slip fees={view.assessment.fees} linkTo={() => null} />
            <p className="filing-assumed">
              {say("Reckoned from what you have said so far, for a filing on {{day}}, today. It binds nobody.", {
                day: day(view.assessment.filing_day),
              })}
            </p>
            <Bring requirements={view.assessment.requirements} />
          </>
        )}
      </aside>
    </div>
  );
}

/** What to bring; a document that each person or stall needs stands once, with how many. */
function Bring({ requirements }: { requirements: Schemas["RequirementView"][] }) {
  const shown = requirements.filter((r) => r.kind === "document" && r.proposed !== "not asked");
  const titles = [...new Set(shown.map((r) => r.plain_title))];
  const alike = (title: string) => shown.filter((r) => r.plain_title === title);
  if (titles.length === 0) return null;
  return (
    <>
      <h2>{say("What to bring")}</h2>
      <ul className="filing-bring">
        {titles
          .flatMap((title) => alike(title).slice(0, 1))
          .map((r) => (
            <li key={r.id}>
              <Tab standing={r.proposed === "wanting" ? "to read" : r.proposed} given />
              {r.plain_title}
              {alike(r.plain_title).length > 1 && ` × ${alike(r.plain_title).length}`}
              <small>{r.proposed === "not known yet" ? r.because : r.says}</small>
            </li>
          ))}
      </ul>
    </>
  );
}

/** A way into the form; beside the one that was pressed it is said that the filing begins. */
function Begin(props: { quiet?: boolean; leaving: boolean; onBegin: () => void; children: ReactNode }) {
  const [pressed, setPressed] = useState(false);
  const begin = () => {
    setPressed(true);
    props.onBegin();
  };
  return (
    <>
      <button type="button" className={props.quiet ? "jc-link" : "jc-button"} onClick={begin} disabled={props.leaving}>
        {props.children}
      </button>{" "}
      <span className="second" role="status">
        {pressed && props.leaving ? say("Your filing begins…") : ""}
      </span>
    </>
  );
}
