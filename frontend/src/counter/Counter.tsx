// The counter: filings that came by post, by mail or with a visitor are recorded; things that were announced by a docket are taken in.
import { useDocumentTitle } from "@mantine/hooks";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { useHeading } from "../shared/heading";
import { useHotkey } from "../shared/keys";
import { Key } from "../shared/Marks";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { day } from "../shared/say";
import { say, things } from "../shared/text";
import { Things } from "./Things";
import { type Applying, NOBODY, WhoApplies } from "./WhoApplies";
import "./counter.css";

type Recording = Schemas["Recording"];
type Came = Recording["came"];
const CAME: [Came, string][] = [
  ["visit", say("with a visitor")],
  ["post", say("by post")],
  ["mail", say("by mail")],
];

export function Counter() {
  const navigate = useNavigate();
  const rows = useQuery({
    queryKey: ["counter"],
    queryFn: () => ask(api.GET("/api/counter/filings")),
    refetchInterval: 60_000,
  });
  useHeading(rows.isSuccess);
  useDocumentTitle(say("Counter"));
  const open = (rows.data ?? []).filter((one) => !one.reference);
  const filed = (rows.data ?? []).filter((one) => one.reference);
  useHotkey("r", () => document.querySelector<HTMLElement>(".counter-new select")?.focus());
  useHotkey("d", () => document.querySelector<HTMLElement>(".counter-things input")?.focus());
  return (
    <main className="jc-page counter">
      <h1 tabIndex={-1}>{say("Counter")}</h1>
      <ProblemNote error={rows.error} />
      <div className="counter-two">
        <NewRecording onBegun={(draft) => navigate(`/filing/${draft}/pile`)} />
        <div>
          <section aria-labelledby="counter-open">
            <h2 id="counter-open">
              {say("Being recorded")} <span>{open.length}</span>
            </h2>
            {rows.isPending && <Skeleton lines={4} />}
            {rows.data && open.length === 0 && <p className="second">{say("Nothing is being recorded.")}</p>}
            <ul className="counter-list">
              {open.map((one) => (
                <li key={one.draft}>
                  <Link to={one.in_pile ? `/filing/${one.draft}/pile` : `/filing/${one.draft}`}>
                    <b>{one.owner}</b>, {one.title || one.kind_title}
                  </Link>
                  <span className="second">
                    {one.kind_title} · {came(one)} · {say("begun by {{name}}", { name: one.recorded_by })}
                  </span>
                  <span className="counter-left">
                    {one.in_pile > 0 && say("{{papers}} to place", { papers: things(one.in_pile, "paper") })}
                    {one.in_pile > 0 && " · "}
                    {one.left > 0
                      ? say("{{left}} left", { left: things(one.left, "thing") })
                      : say("ready to be filed")}
                    {!one.signed && ` · ${say("no consent noted")}`}
                  </span>
                </li>
              ))}
            </ul>
            {filed.length > 0 && (
              <>
                <h2>{say("Recorded of late")}</h2>
                <ul className="counter-list">
                  {filed.map((one) => (
                    <li key={one.draft}>
                      <Link to={`/desk/${one.reference}`}>
                        <span className="mono">{one.reference}</span> {one.title}
                      </Link>
                      <span className="second">
                        {one.owner} · {came(one)} · {say("recorded by {{name}}", { name: one.recorded_by })}
                      </span>
                    </li>
                  ))}
                </ul>
              </>
            )}
          </section>
          <Things />
        </div>
      </div>
      <p className="second">
        <Key>R</Key> {say("record a filing")} <Key>D</Key> {say("a docket")}
      </p>
    </main>
  );
}

const came = (one: Recording) =>
  say("came {{how}}, {{day}}", { how: CAME.find(([id]) => id === one.came)?.[1] ?? "", day: day(one.reached) });

/** A new filing is begun: which kind, for whom, how and on which day it came. */
function NewRecording({ onBegun }: { onBegun: (draft: string) => void }) {
  const kinds = useQuery({ queryKey: ["kinds"], queryFn: () => ask(api.GET("/api/kinds")) });
  const today = new Date().toLocaleDateString("en-CA");
  const [kind, setKind] = useState("");
  const [came, setCame] = useState<Came>("visit");
  const [reached, setReached] = useState(today);
  const [who, setWho] = useState<Applying>(NOBODY);
  const begin = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/api/counter/filings", {
          body: { kind, came, reached, ...who, name: who.person ? "" : who.name },
        }),
      ),
    onSuccess: (made) => onBegun(made.id),
  });
  return (
    <form
      className="counter-new"
      aria-label={say("Record a filing")}
      onSubmit={(e) => {
        e.preventDefault();
        begin.mutate();
      }}
    >
      <h2>{say("Record a filing")}</h2>
      <KindChoice kinds={kinds.data ?? []} value={kind} onChange={setKind} />
      <fieldset>
        <legend>{say("How did it come?")}</legend>
        {CAME.map(([id, label]) => (
          <label key={id}>
            <input type="radio" name="came" checked={came === id} onChange={() => setCame(id)} /> {label}
          </label>
        ))}
      </fieldset>
      <label>
        {say("On which day did it reach the office?")}
        <input
          className="jc-field"
          type="date"
          max={today}
          value={reached}
          onChange={(e) => setReached(e.target.value)}
        />
      </label>
      <WhoApplies value={who} onChange={setWho} />
      <ProblemNote error={begin.error} />
      <button type="submit" className="jc-button" disabled={!kind || !reached || begin.isPending || !who.name.trim()}>
        {say("Begin")}
      </button>
    </form>
  );
}

/** The kind of a filing. */
export function KindChoice({
  kinds,
  value,
  onChange,
}: {
  kinds: readonly { kind: string; title: string }[];
  value: string;
  onChange: (kind: string) => void;
}) {
  return (
    <label>
      {say("What is applied for?")}
      <select className="jc-field" value={value} onChange={(e) => onChange(e.target.value)}>
        <option value="">{say("Choose…")}</option>
        {kinds.map((k) => (
          <option key={k.kind} value={k.kind}>
            {k.title}
          </option>
        ))}
      </select>
    </label>
  );
}
