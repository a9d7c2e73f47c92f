// Days on which the office was shut: what would move is shown first, then a lead declares it.
import { TextInput } from "@mantine/core";
import { DatePickerInput, TimeInput } from "@mantine/dates";
import "@mantine/dates/styles.css";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { AskFirst } from "../shared/Dialog";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { exactly } from "../shared/say";
import { say, things } from "../shared/text";
import "./people.css";

const NOTHING = { day: "", begins: "", ends: "", reason: "", article: "" };

export function ClosedDays() {
  const queries = useQueryClient();
  const told = useQuery({ queryKey: ["closures"], queryFn: () => ask(api.GET("/api/closures")) });
  const [shut, setShut] = useState(NOTHING);
  const body: Schemas["ShutOn"] = { ...shut, begins: shut.begins || null, ends: shut.ends || null };
  const hours = [shut.begins, shut.ends].filter(Boolean).length; // both, or none
  const foreseen = useQuery({
    queryKey: ["closures", shut.day, shut.begins, shut.ends],
    queryFn: () => ask(api.POST("/api/closures/foreseen", { body: { ...body, reason: "", article: "" } })),
    enabled: !!shut.day && hours !== 1,
    retry: false,
  });
  const declare = useMutation({
    mutationFn: () => ask(api.POST("/api/closures", { body })),
    onSuccess: () => {
      setShut(NOTHING);
      for (const key of ["closures", "tray", "closed days"]) queries.invalidateQueries({ queryKey: [key] });
    },
  });
  const put = (part: Partial<typeof shut>) => {
    declare.reset();
    setShut({ ...shut, ...part });
  };
  const found = foreseen.data;
  return (
    <main className="jc-page people">
      <h1>{say("Closed days")}</h1>
      <p className="second">
        {say(
          "A day on which the office was shut or could not be reached, or hours of it (leave both empty for the whole day). What would end then ends later; nothing ends earlier. Each case that it touches gets an entry and a letter.",
        )}
      </p>
      <form className="people-new" onSubmit={(e) => e.preventDefault()}>
        <DatePickerInput
          label={say("Which day?")}
          value={shut.day || null}
          onChange={(day) => put({ day: day ? String(day) : "" })}
          valueFormat="ddd D MMM YYYY"
          firstDayOfWeek={1}
          w={160}
        />
        <TimeInput label={say("From")} value={shut.begins} onChange={(e) => put({ begins: e.target.value })} w={120} />
        <TimeInput label={say("To")} value={shut.ends} onChange={(e) => put({ ends: e.target.value })} w={120} />
        <TextInput
          label={say("Why")}
          value={shut.reason}
          maxLength={300}
          onChange={(e) => put({ reason: e.target.value })}
          w={320}
        />
        <TextInput
          label={say("Article, if there is one")}
          value={shut.article}
          maxLength={40}
          onChange={(e) => put({ article: e.target.value })}
          w={180}
        />
      </form>
      <ProblemNote error={foreseen.error ?? declare.error ?? told.error} />
      {declare.data && (
        <p className="moss" role="status">
          {declare.data.looked < declare.data.living
            ? say("Declared: {{said}}. The cases that it touches are told one after the other.", {
                said: declare.data.said,
              })
            : say("Declared: {{said}}. It is told in {{cases}}.", {
                said: declare.data.said,
                cases: things(declare.data.cases, "case"),
              })}
        </p>
      )}
      {foreseen.isFetching && <Skeleton lines={3} />}
      {found && !foreseen.isFetching && (
        <section aria-label={say("What would move")}>
          <h2>{say("If you declare {{said}}", { said: found.said })}</h2>
          <p>
            {say("Told in {{cases}}. Limits that move: {{limits}}. Come back after a lapse: {{back}}.", {
              cases: things(found.cases, "case"),
              limits: found.limits,
              back: things(found.come_back, "case"),
            })}{" "}
            {found.looked < found.living &&
              say("Only the {{looked}} of {{living}} cases whose limits come first were looked at.", {
                looked: found.looked,
                living: found.living,
              })}
          </p>
          {shut.reason.trim().length < 3 ? (
            <p className="second">{say("Say why, then it can be declared.")}</p>
          ) : (
            <AskFirst
              question={say("Declare that the office was shut on {{said}}? It is told to everybody it touches.", {
                said: found.said,
              })}
              yes={say("Declare it")}
              onYes={() => declare.mutate()}
              className="jc-button"
            >
              {say("Declare it")}
            </AskFirst>
          )}
          {found.touched.length > 0 && <Moves touched={found.touched} />}
        </section>
      )}
      <section aria-label={say("Declared before")}>
        <h2>{say("Declared before")}</h2>
        {told.isPending && <Skeleton lines={2} />}
        {told.data?.length === 0 && <p className="second">{say("No day was declared closed yet.")}</p>}
        {told.data?.map((d) => (
          <p key={d.said + d.at}>
            <b>{d.said}</b>: {d.reason} {d.article && say("(art. {{article}})", { article: d.article })}{" "}
            <span className="second">{say("{{by}}, {{at}}", { by: d.by, at: exactly(d.at) })}</span>
          </p>
        ))}
      </section>
    </main>
  );
}

function Moves({ touched }: { touched: Schemas["Touched"][] }) {
  return (
    <table>
      <thead>
        <tr>
          <th scope="col">{say("Case")}</th>
          <th scope="col">{say("What it is")}</th>
          <th scope="col">{say("What moves")}</th>
        </tr>
      </thead>
      <tbody>
        {touched.map((t) => (
          <tr key={t.reference}>
            <td className="mono">{t.reference}</td>
            <td>{t.title}</td>
            <td>
              {t.comes_back && <b>{say("Comes back.")} </b>}
              {t.moves.join(" ")}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
