// Mandates: who acts for me, for whom I act; given, accepted, declined, ended; what was sent until the end.
import { Checkbox, TextInput } from "@mantine/core";
import { DatePickerInput } from "@mantine/dates";
import "@mantine/dates/styles.css";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { AskFirst } from "../shared/Dialog";
import { ProblemNote } from "../shared/Notes";
import { day, shortDay } from "../shared/say";
import { say } from "../shared/text";
import "./mandates.css";

type Given = Schemas["MandateView"];
type Right = Given["rights"][number];
const KEY = ["mandates"];
const NOBODY = {
  mail: "",
  name: "",
  rights: ["prepare", "letters"] as Right[],
  kinds: [] as string[],
  first_day: "",
  last_day: "",
};
const rightsToGive = (): [Right, string][] => [
  ["prepare", say("Prepare filings and answers")],
  ["file", say("Sign, file and send the answers")],
  ["pay", say("Pay")],
  ["letters", say("Receive the letters as well")],
];

export function Mandates() {
  const all = useQuery({ queryKey: KEY, queryFn: () => ask(api.GET("/api/mandates")) });
  const [giving, setGiving] = useState(false);
  const mine = all.data?.filter((m) => m.mine) ?? [];
  const others = all.data?.filter((m) => !m.mine) ?? [];
  return (
    <section className="mandates" aria-label={say("Mandates")}>
      <h2>{say("Who acts for you")}</h2>
      <p className="second">
        {say(
          "Somebody who acts for you prepares, files or pays in your name, as you allow. The filings and the cases stay yours; you see what is done, and by whom.",
        )}
      </p>
      <ProblemNote error={all.error} />
      <ul>
        {mine.map((one) => (
          <OneMandate key={one.id} one={one} />
        ))}
      </ul>
      {giving ? (
        <GiveMandate onDone={() => setGiving(false)} />
      ) : (
        <button type="button" className="jc-button plain" onClick={() => setGiving(true)}>
          {say("Let somebody act for you")}
        </button>
      )}
      {others.length > 0 && (
        <>
          <h2>{say("For whom you act")}</h2>
          <ul>
            {others.map((one) => (
              <OneMandate key={one.id} one={one} />
            ))}
          </ul>
        </>
      )}
    </section>
  );
}

function stateOf(one: Given): string {
  if (one.state === "offered") return one.mine ? say("not accepted yet") : say("waits for your answer");
  if (one.state === "to come") return say("from {{day}}", { day: day(one.first_day) });
  if (one.state === "over") return say("over since {{day}}", { day: day(one.last_day ?? one.first_day) });
  if (one.state === "ended") return say("ended on {{day}}", { day: day(one.ended_day ?? one.first_day) });
  return one.last_day ? say("until {{day}}", { day: day(one.last_day) }) : say("in force");
}

function OneMandate({ one }: { one: Given }) {
  const queries = useQueryClient();
  const params = { path: { mandate: one.id } };
  const after = { onSettled: () => queries.invalidateQueries() };
  const accept = useMutation({
    mutationFn: () => ask(api.POST("/api/mandates/{mandate}/acceptance", { params })),
    ...after,
  });
  const end = useMutation({ mutationFn: () => ask(api.DELETE("/api/mandates/{mandate}", { params })), ...after });
  const open = !["ended", "over"].includes(one.state);
  const offered = one.state === "offered";
  return (
    <li className={open ? "" : "over"}>
      <p>
        <b>{one.name}</b> <span className="second">{one.mail}</span>{" "}
        <span className="mandates-state">{stateOf(one)}</span>
      </p>
      <p>{one.mine ? say("may {{said}}", { said: one.said }) : say("you may {{said}}", { said: one.said })}</p>
      <ProblemNote error={accept.error ?? end.error} />
      {open && (
        <p>
          {offered && !one.mine && (
            <button
              type="button"
              className="jc-button small"
              disabled={accept.isPending}
              onClick={() => accept.mutate()}
            >
              {say("Accept it")}
              <span className="jc-hidden">: {one.name}</span>
            </button>
          )}{" "}
          <AskFirst
            question={say("End this mandate now? No limit moves by it, and what was done stays.")}
            yes={say("End it")}
            onYes={() => end.mutate()}
            className="jc-link"
          >
            {offered && !one.mine ? say("Decline it") : say("End it now")}
            <span className="jc-hidden">: {one.name}</span>
          </AskFirst>
        </p>
      )}
      {!open && !one.mine && <SentUntil id={one.id} />}
    </li>
  );
}

/** What was sent while one acted; it stays to be read. */
function SentUntil({ id }: { id: string }) {
  const [open, setOpen] = useState(false);
  const params = { path: { mandate: id } };
  const sent = useQuery({
    queryKey: ["mandates", id],
    queryFn: () => ask(api.GET("/api/mandates/{mandate}/papers", { params })),
    enabled: open,
  });
  return (
    <details onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>{say("What was sent until then")}</summary>
      <ProblemNote error={sent.error} />
      {sent.data?.length === 0 && <p className="second">{say("Nothing was sent.")}</p>}
      <ul>
        {sent.data?.map((one) => (
          <li key={`${one.reference} ${one.no}`}>
            <a href={`/api/mandates/${id}/papers/${one.reference}/${one.no}`} target="_blank" rel="noreferrer">
              {shortDay(one.at)}, {one.text}
            </a>{" "}
            <span className="second">
              <span className="mono">{one.reference}</span> {one.title}
            </span>
          </li>
        ))}
      </ul>
    </details>
  );
}

function GiveMandate({ onDone }: { onDone: () => void }) {
  const queries = useQueryClient();
  const [given, setGiven] = useState(NOBODY);
  const kinds = useQuery({ queryKey: ["kinds", ""], queryFn: () => ask(api.GET("/api/kinds")) });
  const put = useMutation({
    mutationFn: () => {
      const { first_day, last_day, ...rest } = given;
      const body = { ...rest, cases: [], first_day: first_day || null, last_day: last_day || null };
      return ask(api.POST("/api/mandates", { body }));
    },
    onSuccess: (all) => {
      queries.setQueryData(KEY, all);
      onDone();
    },
  });
  const toggled = <T,>(all: T[], one: T) => (all.includes(one) ? all.filter((x) => x !== one) : [...all, one]);
  return (
    <form
      className="mandates-form"
      aria-label={say("Let somebody act for you")}
      onSubmit={(e) => {
        e.preventDefault();
        put.mutate();
      }}
    >
      <ProblemNote error={put.error} />
      <div className="mandates-fields">
        <TextInput
          label={say("Name")}
          required
          maxLength={120}
          value={given.name}
          onChange={(e) => setGiven({ ...given, name: e.target.value })}
        />
        <TextInput
          label={say("Mail address")}
          type="email"
          required
          maxLength={200}
          value={given.mail}
          onChange={(e) => setGiven({ ...given, mail: e.target.value })}
        />
        <DatePickerInput
          label={say("First day (today, if empty)")}
          value={given.first_day || null}
          onChange={(d) => setGiven({ ...given, first_day: d ? String(d) : "" })}
          valueFormat="ddd D MMM YYYY"
          firstDayOfWeek={1}
          clearable
        />
        <DatePickerInput
          label={say("Last day (none, if empty)")}
          value={given.last_day || null}
          onChange={(d) => setGiven({ ...given, last_day: d ? String(d) : "" })}
          valueFormat="ddd D MMM YYYY"
          firstDayOfWeek={1}
          clearable
        />
      </div>
      <fieldset>
        <legend>{say("They may look at it all, and")}</legend>
        {rightsToGive().map(([right, title]) => (
          <Checkbox
            key={right}
            label={title}
            checked={given.rights.includes(right)}
            onChange={() => setGiven({ ...given, rights: toggled(given.rights, right) })}
          />
        ))}
      </fieldset>
      <fieldset>
        <legend>{say("In filings of these kinds (all, if none is ticked)")}</legend>
        {kinds.data
          ?.filter((k) => !k.sub_kind_of)
          .map((k) => (
            <Checkbox
              key={k.kind}
              label={k.title}
              checked={given.kinds.includes(k.kind)}
              onChange={() => setGiven({ ...given, kinds: toggled(given.kinds, k.kind) })}
            />
          ))}
      </fieldset>
      <p>
        <button type="submit" className="jc-button" disabled={put.isPending}>
          {say("Ask them to act for you")}
        </button>{" "}
        <button type="button" className="jc-link" onClick={onDone}>
          {say("cancel")}
        </button>
      </p>
    </form>
  );
}
