// The foot of the desk: what comes next, by the state of the case.
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, ask } from "../api/client";
import { Key } from "../shared/Marks";
import { useSession } from "../shared/session";
import { say, things } from "../shared/text";
import { More } from "./More";
import { type CaseView, type OnDesk, path } from "./useCase";
import "./desk.css";
import "./more.css";

/** Where the next letter of the lane is read. */
export const letterOf = (desk: OnDesk, reference: string) =>
  `/desk/${reference}/letter${desk.lane ? `?lane=${desk.lane}` : ""}`;

export function DeskFoot({ desk, view, role }: { desk: OnDesk; view: CaseView; role: string }) {
  const a = view.assessment;
  const states = useSession().data?.states;
  const navigate = useNavigate();
  const accept = a.moves.find((m) => m.role === role && m.move === "accept as complete");
  const letter = a.moves.find((m) => m.role === role && m.move === "send the letter");
  const unjudged = a.requirements.filter((r) => r.asked && !r.judged).length;
  if (!accept || !letter || !states?.find((s) => s.state === a.state)?.checking)
    return (
      <footer className="desk-foot">
        <p>
          <b>{a.next_officer}</b> {view.reviewer && say("Reviewer: {{reviewer}}. ", { reviewer: view.reviewer })}
          {a.clock?.said}
        </p>
        <span className="desk-foot-keys">
          <More desk={desk} view={view} role={role} />
          {view.reviewers.length > 0 && <HandOver desk={desk} view={view} />}
          <Link to="/tray" className="jc-button plain">
            {say("To the in-tray")}
          </Link>
        </span>
      </footer>
    );
  const stops = accept.why_not[0];
  const doAccept = async () => {
    const done = await desk.move((seen) =>
      ask(
        api.POST("/api/cases/{reference}/acceptance", {
          params: path(view.reference),
          headers: seen,
          body: { lane: desk.lane },
        }),
      ),
    );
    if (done) window.scrollTo(0, 0);
  };
  return (
    <footer className="desk-foot">
      <p>
        <b>{say("Correction letter")}</b> {things(a.points.length, "point")}
        {a.points.length > 0 && (
          <span className="second">
            {" "}
            {say("· if sent today, answers are due {{due_if_sent}}", { due_if_sent: view.due_if_sent })}
          </span>
        )}
        <span className="second"> {say("· not yet judged: {{unjudged}}", { unjudged })}</span>
        {a.points.length === 0 && stops && (
          <span className="second"> {say("· not yet complete: {{text}}", { text: stops.text })}</span>
        )}
      </p>
      <span className="desk-foot-keys">
        <More desk={desk} view={view} role={role} />
        <button
          type="button"
          className="jc-button plain"
          disabled={a.points.length === 0}
          onClick={() => navigate(letterOf(desk, view.reference))}
        >
          {view.assessment.rounds.length ? say("Read the next letter") : say("Read the letter")} <Key>L</Key>
        </button>
        <button
          type="button"
          className="jc-button"
          disabled={!accept.allowed || desk.busy}
          title={accept.why_not.map((w) => w.text).join(" ")}
          onClick={doAccept}
        >
          {say("Accept as complete")}
        </button>
      </span>
    </footer>
  );
}

function HandOver({ desk, view }: { desk: OnDesk; view: CaseView }) {
  const [to, setTo] = useState(view.reviewers[0]?.id ?? "");
  const hand = () =>
    desk.move((seen) =>
      ask(api.POST("/api/cases/{reference}/hand-over", { params: path(view.reference), headers: seen, body: { to } })),
    );
  return (
    <span className="desk-hand">
      <label>
        <span className="jc-hidden">{say("To which reviewer")}</span>
        <select value={to} onChange={(e) => setTo(e.target.value)}>
          {view.reviewers.map((r) => (
            <option key={r.id} value={r.id}>
              {r.name}
            </option>
          ))}
        </select>
      </label>
      <button type="button" className="jc-button" disabled={desk.busy} onClick={hand}>
        {say("Hand over")}
      </button>
    </span>
  );
}
