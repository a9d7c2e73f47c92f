// On the agenda of which meeting a case goes: those to come, and why it cannot go on some.
import { useQuery } from "@tanstack/react-query";
import { api, ask } from "../api/client";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { say } from "../shared/text";
import { path } from "./useCase";

/** What is chosen to take the case off its agenda. */
export const OFF = "off";

export function WhichAgenda({
  reference,
  chosen,
  onChoose,
}: {
  reference: string;
  chosen: string;
  onChoose: (meeting: string) => void;
}) {
  const told = useQuery({
    queryKey: ["meetings", "choices", reference],
    queryFn: () => ask(api.GET("/api/cases/{reference}/agendas", { params: path(reference) })),
  });
  if (!told.data) return told.isPending ? <Skeleton lines={2} /> : <ProblemNote error={told.error} />;
  const closed = told.data.filter((one) => one.why_not);
  if (told.data.length === 0)
    return <p>{say("No meeting is planned. An officer plans one under Office, Meetings.")}</p>;
  return (
    <>
      <label htmlFor="step-agenda">{say("Which meeting?")}</label>
      <select id="step-agenda" value={chosen} onChange={(e) => onChoose(e.target.value)}>
        <option value="">{say("Choose…")}</option>
        {told.data.map((one) => (
          <option key={one.id} value={one.id} disabled={one.why_not !== "" || one.here}>
            {one.here ? say("{{meeting}} (it is on this agenda)", { meeting: one.says }) : one.says}
          </option>
        ))}
        {told.data.some((one) => one.here) && <option value={OFF}>{say("none: take it off its agenda")}</option>}
      </select>
      {closed.map((one) => (
        <p key={one.id} className="second">
          {say("Not {{meeting}}: {{why}}", { meeting: one.says, why: one.why_not })}
        </p>
      ))}
    </>
  );
}
