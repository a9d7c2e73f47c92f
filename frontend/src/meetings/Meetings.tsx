// All meetings: those to come, what waits for an agenda, those that are over; a new one is planned here.
import { Select, TextInput } from "@mantine/core";
import { DatePickerInput, TimeInput } from "@mantine/dates";
import "@mantine/dates/styles.css";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { day } from "../shared/say";
import { say, things } from "../shared/text";
import "../people/people.css";
import "./meetings.css";

export function Meetings() {
  const told = useQuery({ queryKey: ["meetings"], queryFn: () => ask(api.GET("/api/meetings")) });
  const page = told.data;
  return (
    <main className="jc-page people">
      <h1>{say("Meetings")}</h1>
      <ProblemNote error={told.error} />
      {told.isPending && <Skeleton lines={6} />}
      {page && page.bodies.length === 0 && page.past.length === 0 && (
        <p>{say("No edition in force sends its cases before a meeting.")}</p>
      )}
      {page && page.waiting.length > 0 && <Waiting cases={page.waiting} />}
      {page && page.bodies.length > 0 && (
        <section aria-label={say("To come")}>
          <h2>{say("To come")}</h2>
          {page.to_come.length === 0 && <p className="second">{say("No meeting is planned.")}</p>}
          <Lines lines={page.to_come} />
          {page.may_plan && <Plan bodies={page.bodies} />}
        </section>
      )}
      {page && page.past.length > 0 && (
        <section aria-label={say("Over")}>
          <h2>{say("Over")}</h2>
          <Lines lines={page.past} />
        </section>
      )}
    </main>
  );
}

function Waiting({ cases }: { cases: Schemas["WaitingCase"][] }) {
  return (
    <section aria-label={say("Waiting for an agenda")}>
      <h2>{say("Waiting for an agenda")}</h2>
      <p className="second">{say("Whoever decides puts a case on an agenda, at its desk.")}</p>
      <table>
        <thead>
          <tr>
            <th scope="col">{say("Case")}</th>
            <th scope="col">{say("Who meets")}</th>
            <th scope="col">{say("Who decides")}</th>
            <th scope="col">{say("Decide by")}</th>
          </tr>
        </thead>
        <tbody>
          {cases.map((one) => (
            <tr key={one.reference}>
              <td>
                <Link to={`/desk/${one.reference}`}>
                  <span className="mono">{one.reference}</span> {one.title}
                </Link>
              </td>
              <td>{one.body}</td>
              <td>{one.reviewer}</td>
              <td>{one.limit ? day(one.limit) : ""}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function Lines({ lines }: { lines: Schemas["MeetingLine"][] }) {
  if (lines.length === 0) return null;
  return (
    <table>
      <thead>
        <tr>
          <th scope="col">{say("When")}</th>
          <th scope="col">{say("Who meets")}</th>
          <th scope="col">{say("Where")}</th>
          <th scope="col">{say("On the agenda")}</th>
        </tr>
      </thead>
      <tbody>
        {lines.map((one) => (
          <tr key={one.id} className={one.called_off ? "meetings-off" : ""}>
            <td>
              <Link to={`/meetings/${one.id}`}>
                {day(one.day)}, {one.at}
              </Link>
            </td>
            <td>{one.title}</td>
            <td>{one.place}</td>
            <td>
              {one.called_off ? say("called off") : things(one.cases, "case")}
              {one.minuted > 0 && ` · ${say("{{minuted}} minuted", { minuted: one.minuted })}`}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Plan({ bodies }: { bodies: Schemas["Body"][] }) {
  const queries = useQueryClient();
  const [body, setBody] = useState(bodies.length === 1 ? (bodies[0]?.id ?? "") : "");
  const [on, setOn] = useState("");
  const [at, setAt] = useState("");
  const [place, setPlace] = useState("");
  const plan = useMutation({
    mutationFn: () => ask(api.POST("/api/meetings", { body: { body, on, at, place } })),
    onSuccess: () => {
      setOn("");
      queries.invalidateQueries({ queryKey: ["meetings"] });
    },
  });
  return (
    <>
      <h3>{say("Plan a meeting")}</h3>
      <form
        className="people-new"
        aria-label={say("Plan a meeting")}
        onSubmit={(e) => {
          e.preventDefault();
          plan.mutate();
        }}
      >
        <Select
          label={say("Who meets")}
          data={bodies.map((one) => ({ value: one.id, label: one.title }))}
          value={body || null}
          onChange={(chosen) => setBody(chosen ?? "")}
          allowDeselect={false}
          w={240}
        />
        <DatePickerInput
          label={say("Which day?")}
          value={on || null}
          onChange={(chosen) => setOn(chosen ? String(chosen) : "")}
          valueFormat="ddd D MMM YYYY"
          firstDayOfWeek={1}
          w={160}
        />
        <TimeInput label={say("At")} value={at} onChange={(e) => setAt(e.target.value)} w={110} />
        <TextInput
          label={say("Where")}
          value={place}
          maxLength={200}
          onChange={(e) => setPlace(e.target.value)}
          w={240}
        />
        <button type="submit" className="jc-button" disabled={!body || !on || !at || place.trim().length < 3}>
          {say("Plan it")}
        </button>
      </form>
      <ProblemNote error={plan.error} />
    </>
  );
}
