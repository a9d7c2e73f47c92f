// The lanes of a case: its common part and one for each site, each with a small stamp and its own limit; and the case as one of them sees it.
import { type ReactNode, useState } from "react";
import type { Schemas } from "../api/client";
import type { CaseView } from "../api/views";
import { useHotkey } from "./keys";
import { Key, Stamp } from "./Marks";
import { clockWords } from "./Ribbon";
import { say, things } from "./text";

type Assessment = Schemas["AssessmentView"];

/** What was assessed, as one lane has it: its own stamp, requirements, points, rounds, clock and moves; all else of the whole case. */
export function laneOf(a: Assessment, id: string): Assessment {
  const lane = a.lanes?.find((l) => l.id === id);
  if (!lane) return a;
  const own = new Set(lane.moves.map((m) => m.role + m.move));
  return {
    ...a,
    state: lane.state,
    version: lane.version,
    requirements: a.requirements
      .filter((r) => r.lane === id)
      .map((r) => (r.item_label === lane.title ? { ...r, title: r.plain_title } : r)),
    points: lane.points,
    rounds: lane.rounds,
    clock: lane.clock ?? a.clock,
    moves: id === "" ? a.moves : [...lane.moves, ...a.moves.filter((m) => !own.has(m.role + m.move))],
    next_officer: lane.next_officer,
    next_applicant: lane.next_applicant,
  };
}

/** The lane in which a slot is judged. */
export const laneOfSlot = (a: Assessment, slot: string) =>
  a.requirements.find((r) => r.id === `documents.${slot}`)?.lane ?? "";

/** The view of a case as one lane has it. */
export function inLane(view: CaseView, id: string): CaseView {
  return view.assessment.lanes?.length ? { ...view, assessment: laneOf(view.assessment, id) } : view;
}

type Lane = Schemas["LaneView"];
type LanesProps = {
  lanes: Lane[];
  chosen: string;
  onChoose: (id: string) => void;
  counted?: boolean;
  /** A key that leads to the next one. */
  nextKey?: string;
  /** What stands behind them. */
  children?: ReactNode;
};

/** So many lanes stand side by side; more stand in a list, so that the desk keeps its room. */
const SIDE_BY_SIDE = 6;

/** The lanes of a case, one of them chosen. */
export function LaneTabs(props: LanesProps) {
  const { lanes, chosen, nextKey, onChoose } = props;
  const next = lanes[(lanes.findIndex((lane) => lane.id === chosen) + 1) % Math.max(1, lanes.length)];
  useHotkey(nextKey ?? "", () => next && onChoose(next.id), !!nextKey && lanes.length > 1);
  if (props.lanes.length === 0) return null;
  if (props.lanes.length > SIDE_BY_SIDE) return <LaneList {...props} />;
  return (
    <nav className="jc-lanes" aria-label={say("Parts that are judged by themselves")}>
      {props.lanes.map((lane) => (
        <LaneButton key={lane.id} lane={lane} {...props} />
      ))}
      {nextKey && (
        <span className="second">
          {say("next")} <Key>{nextKey}</Key>
        </span>
      )}
      {props.children}
    </nav>
  );
}

function LaneButton({ lane, chosen, onChoose, counted }: LanesProps & { lane: Lane }) {
  return (
    <button
      type="button"
      className="jc-lane"
      aria-current={lane.id === chosen || undefined}
      onClick={() => onChoose(lane.id)}
    >
      <b>{lane.title}</b>
      <Stamp state={lane.state} small />
      <small>
        {[
          lane.clock?.limit_day ? clockWords(lane.clock)[0] : "",
          counted ? say("{{judged}} of {{asked}} judged", { judged: lane.judged, asked: lane.asked }) : "",
          !counted && lane.rounds.length > 0 ? things(lane.rounds.length, "letter") : "",
        ]
          .filter(Boolean)
          .join(" · ")}
      </small>
    </button>
  );
}

/** Which lanes hold each of the words, in their title or their state. */
export function lanesWith<L extends { title: string; state: string }>(lanes: L[], words: string): L[] {
  const asked = words.toLowerCase().match(/\S+/g);
  return lanes.filter((lane) => (asked ?? []).every((w) => `${lane.title} ${lane.state}`.toLowerCase().includes(w)));
}

/** Many lanes: the chosen one, and a list with a filter that opens over the page. */
function LaneList(props: LanesProps) {
  const [open, setOpen] = useState(false);
  const [words, setWords] = useState("");
  const { lanes, chosen, onChoose } = props;
  const at = lanes.findIndex((lane) => lane.id === chosen);
  const now = lanes[at] ?? lanes[0];
  const shown = lanesWith(lanes, words);
  function choose(id: string) {
    setOpen(false);
    setWords("");
    onChoose(id);
  }
  const step = (by: number) => choose(lanes[(Math.max(at, 0) + by + lanes.length) % lanes.length]?.id ?? "");
  return (
    <nav className="jc-lanes many" aria-label={say("Parts that are judged by themselves")}>
      {now && <LaneButton {...props} lane={now} chosen={now.id} onChoose={() => setOpen(!open)} />}
      <button type="button" className="jc-link" onClick={() => step(-1)}>
        {say("the one before")}
      </button>
      <button type="button" className="jc-link" onClick={() => step(1)}>
        {say("the next")}
      </button>
      <button type="button" className="jc-button plain small" aria-expanded={open} onClick={() => setOpen(!open)}>
        {say("All {{count}} parts", { count: lanes.length })}
      </button>
      <span className="second">
        {[...new Set(lanes.map((lane) => lane.state))]
          .map((state) => `${state} ${lanes.filter((lane) => lane.state === state).length}`)
          .join(" · ")}
      </span>
      {props.children}
      {open && (
        <div className="jc-lane-list" onKeyDown={(e) => e.key === "Escape" && setOpen(false)}>
          <input
            autoFocus
            aria-label={say("Filter the parts")}
            placeholder={say("Name or state…")}
            value={words}
            onChange={(e) => setWords(e.target.value)}
            onKeyDown={(e) => e.key === "Enter" && shown[0] && choose(shown[0].id)}
          />
          <div>
            {shown.map((lane) => (
              <LaneButton key={lane.id} {...props} lane={lane} onChoose={choose} />
            ))}
            {shown.length === 0 && <p className="second">{say("No part matches.")}</p>}
          </div>
        </div>
      )}
    </nav>
  );
}
