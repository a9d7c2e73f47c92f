// The figures of the office for a time and a kind: each a chart with its table, to be taken along.
import { useQuery } from "@tanstack/react-query";
import { useSearchParams } from "react-router";
import { Bar, BarChart, CartesianGrid, Legend, ResponsiveContainer, Tooltip, XAxis, YAxis } from "recharts";
import { api, ask, type Schemas } from "../api/client";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { say } from "../shared/text";
import "./figures.css";

type Figure = Schemas["Figure"];
const COLOURS = ["var(--petrol)", "var(--ochre)", "var(--slate)"];

/** The first and last day of this year so far. */
function thisYear(): { since: string; until: string } {
  const today = new Date().toISOString();
  return { since: `${today.slice(0, 4)}-01-01`, until: today.slice(0, 10) };
}

export function Figures() {
  const [search, setSearch] = useSearchParams();
  const usual = thisYear();
  const asked = {
    since: search.get("since") || usual.since,
    until: search.get("until") || usual.until,
    kind: search.get("kind") ?? "",
  };
  const found = useQuery({
    queryKey: ["figures", asked],
    queryFn: () => ask(api.GET("/api/figures", { params: { query: asked } })),
    placeholderData: (before) => before,
  });
  const turn = (name: string, value: string) => {
    const next = new URLSearchParams(search);
    if (value) next.set(name, value);
    else next.delete(name);
    setSearch(next, { replace: true });
  };
  const query = new URLSearchParams(asked).toString();
  return (
    <main className="jc-page figures">
      <h1>{say("Figures")}</h1>
      <search className="figures-asked">
        <label>
          {say("From")}
          <input className="jc-field" type="date" value={asked.since} onChange={(e) => turn("since", e.target.value)} />
        </label>
        <label>
          {say("Until")}
          <input className="jc-field" type="date" value={asked.until} onChange={(e) => turn("until", e.target.value)} />
        </label>
        <label>
          {say("Kind")}
          <select className="jc-field" value={asked.kind} onChange={(e) => turn("kind", e.target.value)}>
            <option value="">{say("All kinds")}</option>
            {found.data?.kinds.map(([kind, title]) => (
              <option key={String(kind)} value={String(kind)}>
                {String(title)}
              </option>
            ))}
          </select>
        </label>
      </search>
      <ProblemNote error={found.error} onAgain={() => found.refetch()} />
      {found.isPending && <Skeleton lines={10} />}
      <div className="figures-all">
        {found.data?.tables.map((figure) => (
          <OneFigure key={figure.id} figure={figure} query={query} />
        ))}
      </div>
    </main>
  );
}

function OneFigure({ figure, query }: { figure: Figure; query: string }) {
  const data = figure.rows.map((row) =>
    Object.fromEntries(figure.columns.map((name, n) => [name, n === 0 ? row[0] : Number(row[n])])),
  );
  const [first = ""] = figure.columns;
  return (
    <section aria-labelledby={`figure-${figure.id}`}>
      <h2 id={`figure-${figure.id}`}>{figure.title}</h2>
      <p className="second">{figure.about}</p>
      {figure.rows.length === 0 ? (
        <p>{say("There is nothing of it in this time.")}</p>
      ) : (
        <>
          <div className="figures-chart" aria-hidden="true">
            <ResponsiveContainer width="100%" height={Math.max(120, 34 * data.length + 60)}>
              <BarChart data={data} layout="vertical" accessibilityLayer={false} margin={{ left: 8, right: 16 }}>
                <CartesianGrid horizontal={false} stroke="var(--line)" />
                <XAxis type="number" stroke="var(--ink-2)" allowDecimals={false} />
                <YAxis type="category" dataKey={first} width={170} stroke="var(--ink-2)" interval={0} />
                <Tooltip cursor={{ fill: "var(--slate-pale)" }} />
                {figure.drawn.length > 1 && <Legend />}
                {figure.drawn.map((n, at) => (
                  <Bar
                    key={figure.columns[n]}
                    dataKey={figure.columns[n]}
                    fill={COLOURS[at]}
                    isAnimationActive={false}
                  />
                ))}
              </BarChart>
            </ResponsiveContainer>
          </div>
          <table>
            <thead>
              <tr>
                {figure.columns.map((name) => (
                  <th key={name} scope="col">
                    {name}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {figure.rows.map((row) => (
                <tr key={String(row[0])}>
                  <th scope="row">{row[0]}</th>
                  {row.slice(1).map((cell, n) => (
                    <td key={figure.columns[n + 1]}>{cell}</td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
      <p className="figures-take">
        {say("Take it along as")}{" "}
        {(["csv", "xlsx"] as const).map((form) => (
          <a key={form} href={`/api/figures/${encodeURIComponent(figure.id)}.${form}?${query}`} download>
            {form.toUpperCase()}
          </a>
        ))}
      </p>
    </section>
  );
}
