// The office as a lead minds it: its condition in words, what could not be sent, cases of other offices, registers, settings.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, ask, type Schemas } from "../api/client";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { exactly } from "../shared/say";
import { TableHead } from "../shared/TableHead";
import { say } from "../shared/text";
import { ReadIn } from "./ReadIn";
import { Registers } from "./Registers";
import { Settings } from "./Settings";
import "../people/people.css";
import "./office.css";

export function Office() {
  const told = useQuery({
    queryKey: ["office"],
    queryFn: () => ask(api.GET("/api/office")),
    refetchInterval: (query) => (query.state.data?.copying ? 2000 : false),
  });
  if (!told.data)
    return (
      <main className="jc-page people">
        <h1>{say("The office")}</h1>
        <ProblemNote error={told.error} />
        {told.isPending && <Skeleton lines={8} />}
      </main>
    );
  const { parts, stuck, more_stuck, settings, registers, changes, copying } = told.data;
  return (
    <main className="jc-page people office">
      <h1>{say("The office")}</h1>
      <Condition parts={parts} />
      <TakeCopy copying={copying} />
      {stuck.length > 0 && <NotSent stuck={stuck} more={more_stuck} />}
      <ReadIn />
      {registers.length > 0 && <Registers registers={registers} />}
      <Settings settings={settings} />
      <Changes changes={changes} />
    </main>
  );
}

function Condition({ parts }: { parts: Schemas["OfficePart"][] }) {
  return (
    <section aria-label={say("How the office is")}>
      <dl className="office-parts">
        {parts.map((part) => (
          <div key={part.name} className={part.well ? "" : "wanting"}>
            <dt>{part.name}</dt>
            <dd>
              {!part.well && <b>{say("Look after it.")} </b>}
              {part.says}
            </dd>
          </div>
        ))}
      </dl>
    </section>
  );
}

function TakeCopy({ copying }: { copying: boolean }) {
  const queries = useQueryClient();
  const take = useMutation({
    mutationFn: () => ask(api.POST("/api/office/copies")),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["office"] }),
  });
  return (
    <>
      <p>
        <button
          type="button"
          className="jc-button plain"
          disabled={copying || take.isPending}
          onClick={() => take.mutate()}
        >
          {say("Take a copy now")}
        </button>{" "}
        <span role="status">{copying && say("A copy is being taken; everybody goes on working.")}</span>
      </p>
      <ProblemNote error={take.error} />
    </>
  );
}

function NotSent({ stuck, more }: { stuck: Schemas["Stuck"][]; more: number }) {
  const queries = useQueryClient();
  const again = useMutation({
    mutationFn: (key: string) => ask(api.POST("/api/office/outbox/again", { body: { key } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["office"] }),
  });
  return (
    <section aria-label={say("What could not be sent")}>
      <h2>{say("What could not be sent")}</h2>
      <ProblemNote error={again.error} />
      <table>
        <TableHead columns={[say("To"), say("About"), say("Why"), say("Since")]} />
        <tbody>
          {stuck.map((one) => (
            <tr key={one.key}>
              <td>{one.to}</td>
              <td>
                {one.subject} {one.reference && <span className="mono">{one.reference}</span>}
              </td>
              <td>{one.why}</td>
              <td>{exactly(one.since)}</td>
              <td>
                <button
                  type="button"
                  className="jc-link"
                  disabled={again.isPending}
                  onClick={() => again.mutate(one.key)}
                >
                  {say("send once more")}
                  <span className="jc-hidden">: {one.to}</span>
                </button>{" "}
                <a href={`/api/office/outbox/mail?key=${encodeURIComponent(one.key)}`} download>
                  {say("the mail (EML)")}
                </a>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {more > 0 && <p className="second">{say("And {{more}} more.", { more })}</p>}
    </section>
  );
}

function Changes({ changes }: { changes: Schemas["ChangeTold"][] }) {
  return (
    <section aria-label={say("What was done to the office")}>
      <h2>{say("What was done to the office")}</h2>
      {changes.length === 0 && <p className="second">{say("Nothing yet.")}</p>}
      {changes.map((one) => (
        <p key={one.at + one.said}>
          {one.said} <span className="second">{say("{{by}}, {{at}}", { by: one.who, at: exactly(one.at) })}</span>
        </p>
      ))}
    </section>
  );
}
