// The desk: the head of a case and what is done with it, by its state.
import { useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { LaneTabs } from "../shared/Lanes";
import { Stamp } from "../shared/Marks";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { clockWords, Ribbon } from "../shared/Ribbon";
import { day, exactly, since } from "../shared/say";
import { useSession } from "../shared/session";
import { say, things } from "../shared/text";
import { AnswersDesk } from "./AnswersDesk";
import { Checking } from "./Checking";
import { KEY } from "./deskKeys";
import { Leaving } from "./Leaving";
import { SideBySide } from "./SideBySide";
import { type CaseView, type OnDesk, useCase } from "./useCase";
import "./desk.css";

export function Desk() {
  const { reference = "" } = useParams();
  const desk = useCase(reference);
  const [query] = useSearchParams();
  const [whole, setWhole] = useState(query.get("look") === "talk");
  const [beside, setBeside] = useState(false);
  const view = desk.view;
  const session = useSession().data;
  const { states } = session ?? {};
  const role = session?.person?.role;
  if (desk.looked.error && !view)
    return (
      <main className="jc-page">
        <ProblemNote error={desk.looked.error} onAgain={() => desk.looked.refetch()} />
        <p>
          <Link to="/tray">{say("Back to the in-tray")}</Link>
        </p>
      </main>
    );
  if (!view) return <Skeleton lines={10} />;
  const choose = (lane: string) => {
    setBeside(false);
    desk.choose(lane);
  };
  const checking = states?.find((s) => s.state === view.assessment.state)?.checking;
  const mayJudge = view.assessment.moves.some((m) => m.role === role && m.move === "judge");
  const came = !!checking && !!view.assessment.rounds.at(-1)?.answered_at;
  return (
    <div className="desk">
      <DeskHead view={view} state={desk.whole?.assessment.state ?? ""} />
      <LaneTabs lanes={desk.lanes} chosen={beside ? " " : desk.lane} onChoose={choose} counted nextKey={KEY.lane}>
        <button type="button" className="jc-link" aria-pressed={beside} onClick={() => setBeside(!beside)}>
          {beside ? say("one by one") : say("side by side")}
        </button>
      </LaneTabs>
      <Told desk={desk} />
      <Leaving desk={desk} may={mayJudge} />
      {beside ? (
        <SideBySide desk={desk} onChoose={choose} />
      ) : came && !whole ? (
        <AnswersDesk key={desk.lane} desk={desk} view={view} onWhole={() => setWhole(true)} />
      ) : (
        <Checking desk={desk} view={view} onAnswers={came ? () => setWhole(false) : undefined} />
      )}
    </div>
  );
}

function DeskHead({ view, state }: { view: CaseView; state: string }) {
  const a = view.assessment;
  const latest = view.versions.at(-1);
  const words = a.clock ? clockWords(a.clock) : null;
  return (
    <header className="desk-head">
      <div>
        <p className="mono">
          <b>{view.reference}</b>{" "}
          <span className="second">
            {say("edition {{in_force}} · version {{version}}", {
              in_force: day(view.form.in_force),
              version: a.version,
            })}
          </span>
        </p>
        <h1>{a.title}</h1>
      </div>
      <Stamp state={state} />
      <p className="desk-who">
        {view.applicant}
        <br />
        {say("filed {{filing_day}}, {{files}}", {
          filing_day: day(a.filing_day),
          files: things(latest?.files.length ?? 0, "file"),
        })}
        {" · "}
        <b>{view.officer ? say("with {{officer}}", { officer: view.officer }) : say("nobody has it yet")}</b>
        {latest?.dossier.note && (
          <>
            <br />“{latest.dossier.note}”
          </>
        )}
      </p>
      {a.clock && words && (
        <p className="desk-clock" title={a.clock.why.join(" ")}>
          <Ribbon clock={a.clock} />
          <span>
            <b>{words[0]}</b> · {words[1]}
          </span>
        </p>
      )}
    </header>
  );
}

/** So many steps of others are told one by one; the desk below them is what one came for. */
const MOST_TOLD = 4;

/** What went wrong, what others did meanwhile, who else is here. Nothing that was typed is lost by any of it. */
export function Told({ desk }: { desk: OnDesk }) {
  const stale = desk.trouble !== null && desk.news.length > 0;
  if (desk.trouble === null && desk.news.length === 0 && desk.others.length === 0 && !desk.missed) return null;
  return (
    <div className="desk-trouble">
      {desk.missed && desk.news.length === 0 && (
        <section className="desk-missed" aria-label={say("Since you last looked")}>
          <b title={exactly(desk.missed.at)}>
            {say("Since you last looked, {{when}}", { when: since(desk.missed.at) })}
          </b>
          <ul>
            {desk.missed.moments.length > MOST_TOLD && (
              <li>{say("{{count}} earlier", { count: desk.missed.moments.length - MOST_TOLD })}</li>
            )}
            {desk.missed.moments.slice(-MOST_TOLD).map((m) => (
              <li key={m.no} title={exactly(m.at)}>
                {m.text}
              </li>
            ))}
          </ul>
          <button type="button" className="jc-link" onClick={desk.seen}>
            {say("I have seen it")}
          </button>
        </section>
      )}
      {desk.others.length > 0 && desk.news.length === 0 && (
        <p className="desk-others" role="status">
          {desk.others.length > 1
            ? say("{{names}} have this case open too.", { names: desk.others.join(", ") })
            : say("{{name}} has this case open too.", { name: desk.others[0] })}
        </p>
      )}
      {desk.news.length > 0 && (
        <div className="desk-news" role="alert">
          <b>
            {stale
              ? say("Somebody else was faster; your step was not done.")
              : say("Somebody else worked on this case.")}
          </b>{" "}
          <ul>
            {desk.news.length > MOST_TOLD && (
              <li>{say("{{count}} earlier", { count: desk.news.length - MOST_TOLD })}</li>
            )}
            {desk.news.slice(-MOST_TOLD).map((m) => (
              <li key={m.no}>{m.text}</li>
            ))}
          </ul>
          {say("The case is shown as it is now; what you typed is still there.")}{" "}
          <button type="button" className="jc-link" onClick={desk.again}>
            {say("Go on")}
          </button>
        </div>
      )}
      {!stale && desk.trouble !== null && <ProblemNote error={desk.trouble} onAgain={desk.again} />}
    </div>
  );
}
