// The letter before it goes: its points in words that can still be changed, and the very PDF that will be sent.
import { useRef, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { useHotkey } from "../shared/keys";
import { Key, Stamp } from "../shared/Marks";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { PdfView } from "../shared/PdfView";
import { useSession } from "../shared/session";
import { say, things } from "../shared/text";
import { AsApplicant } from "./AsApplicant";
import { Told } from "./Desk";
import { KEY } from "./deskKeys";
import { NextCase, ofLane } from "./Foot";
import { Leaving } from "./Leaving";
import { PointText } from "./Rule";
import { path, useCase } from "./useCase";
import "./desk.css";
import "./letter.css";

export function Letter() {
  const { reference = "" } = useParams();
  const desk = useCase(reference);
  const session = useSession();
  const navigate = useNavigate();
  const [sending, setSending] = useState(false);
  const [onScreen, setOnScreen] = useState(false);
  const unkept = useRef(new Map<string, () => Promise<boolean>>());
  const view = desk.view;
  const latest = view?.assessment.rounds.at(-1);
  const sent = !!latest && !latest.answered_at; // a letter is out: told by the case, also when the page is opened again or it was taken back
  const may = view?.assessment.moves.some(
    (m) => m.role === session.data?.person?.role && m.move === "send the letter" && m.allowed,
  );
  useHotkey(KEY.send, send, !!may && !sending && !sent && !desk.leaving);
  if (desk.looked.error && !view)
    return (
      <main className="jc-page">
        <ProblemNote error={desk.looked.error} />
      </main>
    );
  if (!view) return <Skeleton lines={8} />;
  const points = view.assessment.points;
  const own = desk.lanes.find((l) => l.id === desk.lane);
  const back = `/desk/${reference}${ofLane(desk)}`;
  const move = view.assessment.moves.find((m) => m.role === session.data?.person?.role && m.move === "send the letter");
  const arrange = (groups: string[][]) =>
    desk.move((seen) =>
      ask(
        api.POST("/api/cases/{reference}/arrangement", {
          params: path(reference),
          headers: seen,
          body: { groups, lane: desk.lane },
        }),
      ),
    );
  async function send() {
    if (sending) return;
    setSending(true);
    // what goes is what is on the screen: words still in their box are kept first, and without them nothing goes
    for (const keep of [...unkept.current.values()])
      if (!(await keep())) {
        setSending(false);
        return;
      }
    await desk.move((seen) =>
      ask(
        api.POST("/api/cases/{reference}/letter", {
          params: path(reference),
          headers: seen,
          body: { lane: desk.lane },
        }),
      ),
    );
    setSending(false);
  }
  const ready = desk.leaving && desk.leaving.lane === desk.lane;
  if (sent || ready)
    return (
      <main className="jc-page">
        <p className="mono">{reference}</p>
        <h1>{ready ? say("The letter is ready") : say("The letter is sent")}</h1>
        <Leaving desk={desk} may />
        <Stamp state={view.assessment.state} />
        {own && <p>{own.title}</p>}
        <p>
          {ready
            ? say("Until it leaves nobody outside the office sees it. Answers will be due {{due}}.", {
                due: view.due_if_sent,
              })
            : say("Sent to {{applicant}} and shown in the case. {{why}} Answers are due {{said}}.", {
                applicant: view.applicant,
                why: view.assessment.clock?.why.join(" "),
                said: view.assessment.clock?.said,
              })}
        </p>
        <p>
          <Link to="/tray" className="jc-button">
            {say("To the in-tray")} <Key>{KEY.tray.toUpperCase()}</Key>
          </Link>{" "}
          <NextCase reference={reference} /> <Link to={back}>{say("Back to the case")}</Link>
        </p>
      </main>
    );
  return (
    <div className="letter">
      <main>
        <p>
          <Link to={back}>{say("Back to the desk")}</Link> · <span className="mono">{reference}</span>
          {own && ` · ${own.title}`}
        </p>
        <h1>{say("The letter, {{points}}", { points: things(points.length, "point") })}</h1>
        <p className="second">
          {say("If it is sent today, answers are due")} <b>{view.due_if_sent}</b>
          {say(": {{due_why}}. The clock stands still from today.", { due_why: view.due_why.join("; ") })}
        </p>
        <Told desk={desk} />
        {points.length === 0 && <p>{say("There is no point to ask: judge something wanting first.")}</p>}
        {points.map((p, n) => (
          <section key={p.requirement} className="letter-point" aria-label={say("Point {{no}}", { no: p.no })}>
            <h2>
              {p.no} {p.title} {p.article && <small>{say("art. {{article}}", { article: p.article })}</small>}
            </h2>
            {points.length > 1 && (
              <p className="letter-order">
                {n > 0 && (
                  <>
                    <button type="button" className="jc-link" onClick={() => arrange(moved(points, n, n - 1))}>
                      {say("up")}
                      <span className="jc-hidden">{say(": point {{no}}", { no: p.no })}</span>
                    </button>{" "}
                    <button type="button" className="jc-link" onClick={() => arrange(merged(points, n))}>
                      {say("merge into point {{no}}", { no: p.no - 1 })}
                    </button>{" "}
                  </>
                )}
                {n < points.length - 1 && (
                  <button type="button" className="jc-link" onClick={() => arrange(moved(points, n, n + 1))}>
                    {say("down")}
                    <span className="jc-hidden">{say(": point {{no}}", { no: p.no })}</span>
                  </button>
                )}
              </p>
            )}
            {p.also.length > 0 && (
              <p className="letter-order">
                <button type="button" className="jc-link" onClick={() => arrange(parted(points, n))}>
                  {say("split it again")}
                </button>
              </p>
            )}
            <PointText
              key={`${p.requirement}${p.also.join()}`}
              desk={desk}
              view={view}
              point={p}
              unkept={unkept.current}
            />
          </section>
        ))}
        {move?.warnings?.map((w) => (
          <p key={w.text} className="ochre">
            {w.text}
          </p>
        ))}
        {move && !move.allowed && (
          <ul className="madder">
            {move.why_not.map((w) => (
              <li key={w.text}>{w.text}</li>
            ))}
          </ul>
        )}
        <p>
          <button type="button" className="jc-button" disabled={!move?.allowed || sending} onClick={send}>
            {say("Send and pause the clock")} <Key>{KEY.send.toUpperCase()}</Key>
          </button>{" "}
          <button type="button" className="jc-link" onClick={() => navigate(back)}>
            {say("Not yet")}
          </button>
        </p>
      </main>
      <aside className="letter-paper" aria-label={say("The letter as it will be sent")}>
        {points.length > 0 && (
          <div className="desk-switch" role="group" aria-label={say("What to look at")}>
            <button type="button" aria-pressed={!onScreen} onClick={() => setOnScreen(false)}>
              {say("As a letter")}
            </button>
            <button type="button" aria-pressed={onScreen} onClick={() => setOnScreen(true)}>
              {say("In the applicant's case")}
            </button>
          </div>
        )}
        {points.length > 0 && onScreen && <AsApplicant view={view} points={points} />}
        {points.length > 0 && !onScreen && (
          <PdfView
            key={view.revision}
            url={`/api/cases/${reference}/letter?lane=${desk.lane}`}
            label={say("The letter as it will be sent")}
          />
        )}
      </aside>
    </div>
  );
}

type Points = Schemas["PointToAsk"][];
const groupsOf = (points: Points) => points.map((p) => [p.requirement, ...p.also]);

/** The points with one of them in another place. */
function moved(points: Points, from: number, to: number): string[][] {
  const groups = groupsOf(points);
  const [group] = groups.splice(from, 1);
  groups.splice(to, 0, group ?? []);
  return groups;
}

/** The points with one of them merged into the one before. */
function merged(points: Points, at: number): string[][] {
  const groups = groupsOf(points);
  const [group] = groups.splice(at, 1);
  groups[at - 1] = [...(groups[at - 1] ?? []), ...(group ?? [])];
  return groups;
}

/** The points with a merged one parted again. */
function parted(points: Points, at: number): string[][] {
  return groupsOf(points).flatMap((group, n) => (n === at ? group.map((id) => [id]) : [group]));
}
