// The public register: anybody finds what was decided by place, name, number, kind and day, and takes it along; a lead corrects it.
import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useCallback, useState } from "react";
import { Link, useSearchParams } from "react-router";
import { api, ask } from "../api/client";
import { More, usePages } from "../shared/More";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { capital, day } from "../shared/say";
import { useSession } from "../shared/session";
import { say, things } from "../shared/text";
import { ChangeEntry, type Line } from "./ChangeEntry";
import { TakeInAgain } from "./TakeInAgain";
import "./register.css";

const TownMap = lazy(() => import("./TownMap").then((m) => ({ default: m.TownMap })));

const FORMS = ["csv", "json", "geojson"] as const;

export function Register() {
  const [search, setSearch] = useSearchParams();
  const session = useSession().data;
  const asked = {
    words: search.get("words") ?? "",
    kind: search.get("kind") ?? "",
    since: search.get("since") || undefined,
    until: search.get("until") || undefined,
  };
  const found = useQuery({
    queryKey: ["register", asked],
    queryFn: () => ask(api.GET("/api/register", { params: { query: asked } })),
    placeholderData: (before) => before,
  });
  const first = found.data ?? { count: 0, rows: [], after: "", kinds: [] };
  const pages = usePages<Line>(["register", "more", asked], first, (after) =>
    ask(api.GET("/api/register", { params: { query: { ...asked, after } } })),
  );
  const onMap = search.get("map") !== null;
  const chosen = search.get("entry") ?? "";
  const choose = useCallback(
    (reference: string) => {
      setSearch(
        (now) => new URLSearchParams([...[...now].filter(([name]) => name !== "entry"), ["entry", reference]]),
        {
          replace: true,
        },
      );
      document.getElementById(reference)?.scrollIntoView({ block: "center" });
    },
    [setSearch],
  );
  const turn = (name: string, value: string) => {
    const next = new URLSearchParams(search);
    if (value) next.set(name, value);
    else next.delete(name);
    setSearch(next, { replace: true });
  };
  const leads = !!session?.may?.pages.includes("people");
  const query = new URLSearchParams(Object.entries(asked).flatMap(([k, v]) => (v ? [[k, v]] : []))).toString();
  return (
    <main className="jc-page register">
      {!session?.person && (
        <p>
          <Link to="/">{say("Back to the start")}</Link>
        </p>
      )}
      <h1>{say("Public register")}</h1>
      <p className="second">
        {say("What was decided here, as far as the law opens it to the public, and nothing else.")}
      </p>
      <search className="register-search">
        <label>
          {say("Place, name or number")}
          <input
            className="jc-field"
            value={asked.words}
            maxLength={200}
            onChange={(e) => turn("words", e.target.value)}
          />
        </label>
        <label>
          {say("Kind")}
          <select className="jc-field" value={asked.kind} onChange={(e) => turn("kind", e.target.value)}>
            <option value="">{say("All kinds")}</option>
            {first.kinds.map(([kind, title]) => (
              <option key={String(kind)} value={String(kind)}>
                {String(title)}
              </option>
            ))}
          </select>
        </label>
        <label>
          {say("Decided from")}
          <input
            className="jc-field"
            type="date"
            value={asked.since ?? ""}
            onChange={(e) => turn("since", e.target.value)}
          />
        </label>
        <label>
          {say("Decided until")}
          <input
            className="jc-field"
            type="date"
            value={asked.until ?? ""}
            onChange={(e) => turn("until", e.target.value)}
          />
        </label>
      </search>
      <ProblemNote error={found.error} onAgain={() => found.refetch()} />
      {found.isPending && <Skeleton lines={8} />}
      {found.data && (
        <p className="register-count" role="status">
          <b>
            {first.count
              ? things(first.count, "entry")
              : query
                ? say("Nothing in the register matches.")
                : say("Nothing stands in the register yet.")}
          </b>
          {first.count > 0 && (
            <span>
              <button
                type="button"
                className="jc-link"
                aria-pressed={onMap}
                onClick={() => turn("map", onMap ? "" : "yes")}
              >
                {onMap ? say("without the map") : say("on the map")}
              </button>
              {" · "}
              {say("Take it along as")}{" "}
              {FORMS.map((form) => (
                <a key={form} href={`/api/register/file.${form}?${query}`} download>
                  {form === "geojson" ? "GeoJSON" : form.toUpperCase()}
                </a>
              ))}
            </span>
          )}
        </p>
      )}
      {onMap && (
        <Suspense fallback={<Skeleton lines={8} />}>
          <TownMap asked={asked} onChoose={choose} />
        </Suspense>
      )}
      <ul className="register-lines">
        {pages.rows.map((line) => (
          <Entry key={line.reference} line={line} leads={leads} chosen={line.reference === chosen} />
        ))}
      </ul>
      <More pages={pages} />
      {leads && <TakeInAgain />}
    </main>
  );
}

function Entry({ line, leads, chosen }: { line: Line; leads: boolean; chosen: boolean }) {
  const [changing, setChanging] = useState(false);
  return (
    <li id={line.reference} className={chosen ? "chosen" : undefined}>
      <div className="register-head">
        <h2>{line.place || String(line.says[0]?.[1] ?? line.title)}</h2>
        <span className={`register-outcome ${line.outcome}`}>
          {line.outcome === "refused" ? capital(say("refused")) : capital(line.stands)}
        </span>
      </div>
      <p className="second">
        {line.title} · <span className="mono">{line.reference}</span> ·{" "}
        {line.outcome === "refused"
          ? say("refused on {{day}}", { day: day(line.decided) })
          : say("granted on {{day}}", { day: day(line.decided) })}
        {line.until && say(", until {{day}}", { day: day(line.until) })}
      </p>
      <dl>
        {line.says.map(([label, value]) => (
          <div key={String(label)}>
            <dt>{String(label)}</dt>
            <dd>{String(value)}</dd>
          </div>
        ))}
      </dl>
      {leads && !changing && (
        <button type="button" className="jc-link" onClick={() => setChanging(true)}>
          {say("correct or strike it")}
        </button>
      )}
      {changing && <ChangeEntry line={line} onDone={() => setChanging(false)} />}
    </li>
  );
}
