// The lanes of a case side by side: what each was asked, in which version it answered, what time is left, how it ended.
import type { Schemas } from "../api/client";
import { Stamp } from "../shared/Marks";
import { clockWords } from "../shared/Ribbon";
import { day } from "../shared/say";
import { say, things } from "../shared/text";
import type { OnDesk } from "./useCase";

type Lane = Schemas["LaneView"];
type Round = Schemas["RoundView"];

/** How many points of a letter stand how, as `2 closed, 1 open`. */
export function pointsOf(round: Pick<Round, "points">): string {
  const counts = new Map<string, number>();
  for (const point of round.points) counts.set(point.state, (counts.get(point.state) ?? 0) + 1);
  return [...counts].map(([state, count]) => `${count} ${state}`).join(", ");
}

export function SideBySide({ desk, onChoose }: { desk: OnDesk; onChoose: (lane: string) => void }) {
  const letters = Math.max(0, ...desk.lanes.map((lane) => lane.rounds.length));
  return (
    <main className="desk-beside">
      <h2>{say("All parts side by side")}</h2>
      <table>
        <thead>
          <tr>
            <th scope="col">{say("Part")}</th>
            <th scope="col">{say("Stands")}</th>
            <th scope="col">{say("Judged")}</th>
            {Array.from({ length: letters }, (_, n) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: letters are numbered
              <th scope="col" key={n}>
                {say("Letter {{no}}", { no: n + 1 })}
              </th>
            ))}
            <th scope="col">{say("Version")}</th>
            <th scope="col">{say("Time left")}</th>
            <th scope="col">{say("Next")}</th>
          </tr>
        </thead>
        <tbody>
          {desk.lanes.map((lane) => (
            <tr key={lane.id}>
              <th scope="row">
                <button type="button" className="jc-link" onClick={() => onChoose(lane.id)}>
                  {lane.title}
                </button>
              </th>
              <td>
                <Stamp state={lane.state} small />
              </td>
              <td>
                <Judged lane={lane} />
              </td>
              {Array.from({ length: letters }, (_, n) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: letters are numbered
                <td key={n}>{lane.rounds[n] && <Letter round={lane.rounds[n]} />}</td>
              ))}
              <td className="mono">{lane.version}</td>
              <td>
                {lane.clock?.limit_day ? (
                  <>
                    <b>{clockWords(lane.clock)[0]}</b>
                    <br />
                    <small>{clockWords(lane.clock)[1]}</small>
                  </>
                ) : (
                  <span className="second">{say("nothing runs")}</span>
                )}
              </td>
              <td>{lane.next_officer}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </main>
  );
}

function Judged({ lane }: { lane: Lane }) {
  return (
    <>
      {say("{{judged}} of {{asked}}", { judged: lane.judged, asked: lane.asked })}
      {lane.points.length > 0 && lane.rounds.at(-1)?.answered_at !== null && (
        <>
          <br />
          <small className="madder">{say("to ask: {{points}}", { points: things(lane.points.length, "point") })}</small>
        </>
      )}
    </>
  );
}

function Letter({ round }: { round: Round }) {
  return (
    <>
      {say("{{day}}, about version {{version}}", { day: day(round.sent_at), version: round.version })}
      <br />
      <small>
        {pointsOf(round)}
        {" · "}
        {round.answered_at
          ? say("answered {{day}} with version {{version}}", {
              day: day(round.answered_at),
              version: round.answer_version,
            })
          : say("due {{day}}", { day: day(round.due) })}
      </small>
    </>
  );
}
