// Who is away and who stands in: one's own absence, a lead's view of all.
import { NativeSelect } from "@mantine/core";
import { DatePickerInput } from "@mantine/dates";
import "@mantine/dates/styles.css";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, problemOf, type Schemas } from "../api/client";
import { ProblemNote } from "../shared/Notes";
import { day } from "../shared/say";
import { useSession } from "../shared/session";
import { say } from "../shared/text";
import "./people.css";

const KEY = ["absences"];

export function Absences({ people }: { people: { person: string; name: string }[] }) {
  const queries = useQueryClient();
  const session = useSession();
  const me = session.data?.person?.id ?? "";
  const leads = session.data?.may?.pages.includes("people") ?? false;
  const told = useQuery({ queryKey: KEY, queryFn: () => ask(api.GET("/api/absences")) });
  const [person, setPerson] = useState("");
  const [deputy, setDeputy] = useState("");
  const [first, setFirst] = useState<string | null>(null);
  const [last, setLast] = useState<string | null>(null);
  const keep = (rows: Schemas["AbsenceView"][]) => {
    queries.setQueryData(KEY, rows);
    queries.invalidateQueries({ queryKey: ["load"] });
    queries.invalidateQueries({ queryKey: ["tray"] });
  };
  const away = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/api/absences", {
          body: { person: person || me, deputy, first_day: first ?? "", last_day: last ?? "" },
        }),
      ),
    onSuccess: (rows) => {
      keep(rows);
      setDeputy("");
      setFirst(null);
      setLast(null);
    },
  });
  const back = useMutation({
    mutationFn: (absence: string) => ask(api.DELETE("/api/absences/{absence}", { params: { path: { absence } } })),
    onSuccess: keep,
  });
  const at = problemOf(away.error).place;
  const said = (field: string) => (away.error && at === field ? problemOf(away.error).detail : undefined);
  const whose = person || me;
  return (
    <section aria-label={say("Absences")}>
      <h2>{say("Absences")}</h2>
      <p className="second">{say("While somebody is away, their cases stand in the in-tray of whoever stands in.")}</p>
      {told.data?.length === 0 && <p>{say("Nobody is away, as far as is known.")}</p>}
      <ul className="absences">
        {told.data?.map((a) => (
          <li key={a.id}>
            <b>{a.name}</b>{" "}
            {say("from {{first}} until {{last}}; {{deputy}} stands in", {
              first: day(a.first_day),
              last: day(a.last_day),
              deputy: a.deputy_name,
            })}{" "}
            {a.mine && (
              <button type="button" className="jc-link" disabled={back.isPending} onClick={() => back.mutate(a.id)}>
                {say("end it")}
                <span className="jc-hidden"> {a.name}</span>
              </button>
            )}
          </li>
        ))}
      </ul>
      <form
        className="people-new"
        onSubmit={(e) => {
          e.preventDefault();
          away.mutate();
        }}
      >
        {leads && (
          <NativeSelect
            label={say("Who is away?")}
            value={whose}
            onChange={(e) => setPerson(e.target.value)}
            data={people.map((p) => ({ value: p.person, label: p.name }))}
          />
        )}
        <DatePickerInput
          label={leads ? say("First day") : say("Away from")}
          value={first}
          onChange={(d) => setFirst(d ? String(d) : null)}
          valueFormat="D MMM YYYY"
          firstDayOfWeek={1}
          w={150}
        />
        <DatePickerInput
          label={say("Last day")}
          value={last}
          onChange={(d) => setLast(d ? String(d) : null)}
          valueFormat="D MMM YYYY"
          firstDayOfWeek={1}
          w={150}
          error={said("last_day")}
        />
        <NativeSelect
          label={say("Who stands in?")}
          value={deputy}
          error={said("deputy")}
          onChange={(e) => setDeputy(e.target.value)}
          data={[
            { value: "", label: say("choose") },
            ...people.filter((p) => p.person !== whose).map((p) => ({ value: p.person, label: p.name })),
          ]}
        />
        <button type="submit" className="jc-button" disabled={!first || !last || !deputy || away.isPending}>
          {say("Note it")}
        </button>
      </form>
      {away.error && !["last_day", "deputy"].includes(at) ? <ProblemNote error={away.error} /> : null}
      <ProblemNote error={back.error} />
    </section>
  );
}
