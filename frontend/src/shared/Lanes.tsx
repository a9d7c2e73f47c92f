// The lanes of a case: its common part and one for each site, each with a small stamp and its own limit; and the case as one of them sees it.
import type { Schemas } from "../api/client";
import type { CaseView } from "../api/views";
import { Stamp } from "./Marks";
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

export function LaneTabs({
  lanes,
  chosen,
  onChoose,
  counted,
}: {
  lanes: Schemas["LaneView"][];
  chosen: string;
  onChoose: (id: string) => void;
  counted?: boolean;
}) {
  if (lanes.length === 0) return null;
  return (
    <nav className="jc-lanes" aria-label={say("Parts that are judged by themselves")}>
      {lanes.map((lane) => (
        <button
          key={lane.id}
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
      ))}
    </nav>
  );
}
