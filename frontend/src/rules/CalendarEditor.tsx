// The calendar of the office as the rule-keeper writes it: the text, its faults, the closed days it makes, and what a lead confirms.
import { Textarea } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { AskFirst } from "../shared/Dialog";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { day, since } from "../shared/say";
import { say } from "../shared/text";
import "./rules.css";
import "./calendar.css";

type Page = Schemas["CalendarPage"];
const KEY = ["rules", "calendar"];

export function CalendarEditor() {
  const told = useQuery({ queryKey: KEY, queryFn: () => ask(api.GET("/api/rules/calendar")) });
  return (
    <main className="jc-page calendar">
      <p className="second">
        <Link to="/rules">{say("Rulebooks")}</Link>
      </p>
      <h1>{say("Calendar of the office")}</h1>
      <p className="second">
        {say(
          "Editions that are published from its confirmation on go by it. An edition keeps the calendar that it was published with, and so do its cases.",
        )}
      </p>
      <ProblemNote error={told.error} />
      {told.isPending && <Skeleton lines={8} />}
      {told.data && <Writing page={told.data} />}
    </main>
  );
}

function Writing({ page }: { page: Page }) {
  const queries = useQueryClient();
  const [typed, setTyped] = useState(page.text);
  const took = (fresh: Page) => queries.setQueryData(KEY, fresh);
  const keep = useMutation({
    mutationFn: () => ask(api.PUT("/api/rules/calendar", { body: { text: typed, seen: page.revision } })),
    onSuccess: took,
  });
  const step = useMutation({
    mutationFn: (what: "asking" | "taking-back" | "confirmation" | "away") =>
      ask(
        what === "away"
          ? api.DELETE("/api/rules/calendar")
          : what === "asking"
            ? api.POST("/api/rules/calendar/asking")
            : what === "confirmation"
              ? api.POST("/api/rules/calendar/confirmation")
              : api.POST("/api/rules/calendar/taking-back"),
      ),
    onSuccess: (fresh) => {
      took(fresh);
      setTyped(fresh.text);
    },
  });
  const changed = typed !== page.text;
  return (
    <>
      <p>
        <span className="mono">{page.name}</span> {say("version {{version}}", { version: page.version })}
        {page.written && page.kept_at && (
          <span className="second">
            {" · "}
            {say("written by {{who}}, {{at}}", { who: page.by, at: since(page.kept_at) })}
            {page.asked_at && ` · ${say("laid before a lead by {{who}}", { who: page.asked_by })}`}
          </span>
        )}
      </p>
      <div className="calendar-columns">
        <div>
          <Textarea
            label={say("Text of the calendar")}
            value={typed}
            onChange={(e) => setTyped(e.target.value)}
            readOnly={!page.writes}
            autosize
            minRows={12}
            maxRows={28}
            spellCheck={false}
            classNames={{ input: "mono" }}
          />
          {page.faults.length > 0 && (
            <ul className="rules-messages" aria-label={say("What the check says")}>
              {page.faults.map((fault) => (
                <li key={`${fault.line} ${fault.text}`} className="fault">
                  <span className="mono">{say("line {{line}}", { line: fault.line })}</span> {fault.text}
                </li>
              ))}
            </ul>
          )}
          {page.differs.map((told) => (
            <p key={told} className="ochre">
              {told}
            </p>
          ))}
          <ProblemNote error={keep.error ?? step.error} />
          <p className="calendar-steps">
            {page.writes && (
              <button
                type="button"
                className="jc-button plain"
                disabled={!changed || keep.isPending}
                onClick={() => keep.mutate()}
              >
                {say("Keep and look it over")}
              </button>
            )}
            {page.writes && page.written && (
              <button
                type="button"
                className="jc-button"
                disabled={changed || page.faults.length > 0 || step.isPending}
                onClick={() => step.mutate("asking")}
              >
                {say("Ask for confirmation")}
              </button>
            )}
            {page.confirms && (
              <AskFirst
                className="jc-button"
                question={say("Confirm this calendar? Editions that are published from now on go by it.")}
                yes={say("Confirm it")}
                onYes={() => step.mutate("confirmation")}
              >
                {say("Confirm it")}
              </AskFirst>
            )}
            {page.asked_at && (
              <button type="button" className="jc-button plain" onClick={() => step.mutate("taking-back")}>
                {page.confirms ? say("Send it back") : say("Take it back and write on")}
              </button>
            )}
            {page.writes && page.written && (
              <AskFirst
                className="jc-link"
                question={say("Throw away what was written?")}
                yes={say("Throw it away")}
                onYes={() => step.mutate("away")}
              >
                {say("throw it away")}
              </AskFirst>
            )}
          </p>
        </div>
        <Days days={page.days} />
      </div>
    </>
  );
}

function Days({ days }: { days: Page["days"] }) {
  const years = [...new Set(days.map((one) => one.day.slice(0, 4)))];
  return (
    <section aria-label={say("Closed days")}>
      {years.map((year) => (
        <div key={year}>
          <h2>{year}</h2>
          <ul className="calendar-days">
            {days
              .filter((one) => one.day.startsWith(year))
              .map((one) => (
                <li key={one.day} className={one.change}>
                  <b>{day(one.day)}</b> {one.title}
                  {one.change && <i>{one.change === "new" ? say("new") : say("gone")}</i>}
                </li>
              ))}
          </ul>
        </div>
      ))}
    </section>
  );
}
