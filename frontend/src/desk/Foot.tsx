// The foot of the desk: what comes next, by the state of the case.
import { useDisclosure } from "@mantine/hooks";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, ask } from "../api/client";
import { useHotkey } from "../shared/keys";
import { Key } from "../shared/Marks";
import { useSession } from "../shared/session";
import { say, things } from "../shared/text";
import { KEY } from "./deskKeys";
import { More } from "./More";
import { StepFirst, stepLetter } from "./StepFirst";
import { type CaseView, type OnDesk, path } from "./useCase";
import "./desk.css";
import "./more.css";

/** The lane in an address; the common one is named as well, for without a name it is the one that waits longest. */
export const ofLane = (desk: OnDesk) => (desk.lanes.length > 0 ? `?lane=${desk.lane}` : "");

/** Where the next letter of the lane is read. */
export const letterOf = (desk: OnDesk, reference: string) => `/desk/${reference}/letter${ofLane(desk)}`;

export function DeskFoot({ desk, view, role }: { desk: OnDesk; view: CaseView; role: string }) {
  const a = view.assessment;
  const states = useSession().data?.states;
  const navigate = useNavigate();
  const accept = a.moves.find((m) => m.role === role && m.move === "accept as complete");
  const letter = a.moves.find((m) => m.role === role && m.move === "send the letter");
  const [asked, { open: askFirst, close: stay }] = useDisclosure(false);
  const unjudged = a.requirements.filter((r) => r.asked && !r.judged).length;
  if (!accept || !letter || !states?.find((s) => s.state === a.state)?.checking)
    return (
      <footer className="desk-foot">
        <p>
          <b>
            {view.beside.some((one) => one.mine && !one.signed)
              ? say("Sign off, ask, or hand it back")
              : a.next_officer}
          </b>{" "}
          {view.reviewer && say("Reviewer: {{reviewer}}. ", { reviewer: view.reviewer })}
          {a.clock?.said}
          {view.beside.map((one) => (
            <span key={one.name} className={one.signed ? "desk-signed moss" : "desk-signed ochre"}>
              {one.signed
                ? one.words
                  ? say("{{name}} signed off: {{words}}", { name: one.name, words: one.words })
                  : say("{{name}} signed off", { name: one.name })
                : say("{{name}} has not signed off yet", { name: one.name })}
            </span>
          ))}
        </p>
        <span className="desk-foot-keys">
          <More desk={desk} view={view} role={role} />
          {view.permit_on && (
            <Link to={`/permits/${view.permit_on}`} className="jc-button">
              {view.permit_on === view.reference
                ? say("The {{grants}}", { grants: view.form.grants })
                : say("What this is filed on: {{reference}}", { reference: view.permit_on })}
            </Link>
          )}
          {view.reviewers.length > 0 && <HandOver desk={desk} view={view} />}
          <NextCase reference={view.reference} />
          <Link to="/tray" className="jc-button plain">
            {say("To the in-tray")} <Key>{KEY.tray.toUpperCase()}</Key>
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
      <StepKey on={KEY.accept} when={accept.allowed && !desk.busy} act={askFirst} />
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
        <NextCase reference={view.reference} />
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
          onClick={askFirst}
        >
          {say("Accept as complete")} <Key>{KEY.accept.toUpperCase()}</Key>
        </button>
        <StepFirst
          title={say("Accept as complete?")}
          yes={say("Accept as complete")}
          move="accept as complete"
          lane={desk.lane}
          view={view}
          letter={stepLetter(view.reference, "accept as complete", desk.lane)}
          opened={asked}
          onYes={doAccept}
          onClose={stay}
        />
      </span>
    </footer>
  );
}

function HandOver({ desk, view }: { desk: OnDesk; view: CaseView }) {
  const [to, setTo] = useState(view.reviewers[0]?.id ?? "");
  const [beside, setBeside] = useState<string[]>([]);
  const others = view.reviewers.filter((r) => r.id !== to);
  const [asked, { open: askFirst, close: stay }] = useDisclosure(false);
  const hand = () =>
    desk.move((seen) =>
      ask(
        api.POST("/api/cases/{reference}/hand-over", {
          params: path(view.reference),
          headers: seen,
          body: { to, beside: beside.filter((id) => id !== to) },
        }),
      ),
    );
  return (
    <>
      <button type="button" className="jc-button" disabled={desk.busy} onClick={askFirst}>
        {say("Hand over")} <Key>{KEY.handOver.toUpperCase()}</Key>
      </button>
      <StepKey on={KEY.handOver} when={!desk.busy} act={askFirst} />
      <StepFirst
        title={say("Hand the case over?")}
        yes={say("Hand over")}
        move="hand over"
        lane=""
        view={view}
        opened={asked}
        onYes={hand}
        onClose={stay}
      >
        <label className="desk-hand">
          {say("Who decides")}{" "}
          <select value={to} onChange={(e) => setTo(e.target.value)}>
            {view.reviewers.map((r) => (
              <option key={r.id} value={r.id}>
                {r.name}
              </option>
            ))}
          </select>
        </label>
        {others.length > 0 && (
          <fieldset className="desk-beside">
            <legend>{say("Who signs off before")}</legend>
            {others.map((r) => (
              <label key={r.id}>
                <input
                  type="checkbox"
                  checked={beside.includes(r.id)}
                  onChange={(e) => setBeside(e.target.checked ? [...beside, r.id] : beside.filter((id) => id !== r.id))}
                />{" "}
                {r.name}
              </label>
            ))}
          </fieldset>
        )}
      </StepFirst>
    </>
  );
}

/** A key for a step that is there only in some states. */
function StepKey({ on, when, act }: { on: string; when: boolean; act: () => void }) {
  useHotkey(on, act, when);
  return null;
}

/** On to the next case of one's own that is with the office, without the in-tray between. */
export function NextCase({ reference }: { reference: string }) {
  const navigate = useNavigate();
  const next = async () => {
    const tray = await ask(api.GET("/api/tray", { params: { query: { whose: "mine", kind: "", view: "" } } }));
    const ours = tray.groups.filter((g) => g.group !== "waiting").flatMap((g) => g.rows);
    const row = ours.find((r) => r.reference !== reference);
    navigate(row ? `/desk/${row.reference}` : "/tray");
  };
  useHotkey(KEY.nextCase, next);
  useHotkey(KEY.tray, () => navigate("/tray"));
  return (
    <button type="button" className="jc-button plain" onClick={next}>
      {say("Next case")} <Key>{KEY.nextCase.toUpperCase()}</Key>
    </button>
  );
}
