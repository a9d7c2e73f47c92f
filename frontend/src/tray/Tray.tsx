// The in-tray: what runs out, what is ready, what waits on others; beside it a look at the one that is marked.
import { useQuery } from "@tanstack/react-query";
import { memo, useCallback, useEffect, useRef, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { useHotkey } from "../shared/keys";
import { Key, Squares, TimeLeft } from "../shared/Marks";
import { More, usePages } from "../shared/More";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { capital, day, exactly, since } from "../shared/say";
import { useSession } from "../shared/session";
import { say, things } from "../shared/text";
import { OwnViews } from "./OwnViews";
import { Peek } from "./Peek";
import { Picked } from "./Picked";
import "./tray.css";

type Row = Omit<Schemas["Row"], "squares"> & { squares: (string | boolean)[][] };
type Whose = Schemas["Tray"]["whose"];
type Group = Omit<Schemas["GroupPage"], "rows"> & { rows: Row[] };
const GROUPS: [Row["group"], string, string][] = [
  ["running out", say("Running out"), say("Nothing runs out in the next working days.")],
  ["at once", say("Can be finished now"), say("Nothing here is a matter of minutes.")],
  ["ready", say("Takes longer"), say("Nothing waits for you here.")],
  ["waiting", say("Waiting on others"), say("Nothing is waiting on others.")],
];
type View = "" | "answers came back" | "paid, unread" | "lapse this week" | "to hand over";
const VIEWS: View[] = ["answers came back", "paid, unread", "lapse this week", "to hand over"];
const WHOSE: [Whose, string][] = [
  ["mine", say("Mine")],
  ["nobody's yet", say("Nobody's yet")],
  ["everyone's", say("Everyone's")],
];

function greeting(): string {
  const hour = new Date().getHours();
  return hour < 12 ? say("Good morning") : hour < 18 ? say("Good afternoon") : say("Good evening");
}

export function Tray() {
  const [search, setSearch] = useSearchParams();
  const session = useSession();
  const navigate = useNavigate();
  const whose = (search.get("whose") as Whose) || "mine";
  const kind = search.get("kind") ?? "";
  const view = (search.get("view") as View) ?? "";
  const tray = useQuery({
    queryKey: ["tray", whose, kind, view],
    queryFn: () => ask(api.GET("/api/tray", { params: { query: { whose, kind, view } } })),
    placeholderData: (before) => before,
    refetchInterval: 30_000,
  });
  const shown = { whose, kind, view };
  const groups = tray.data?.groups;
  const running = useGroup(shown, "running out", groups);
  const atOnce = useGroup(shown, "at once", groups);
  const ready = useGroup(shown, "ready", groups);
  const waiting = useGroup(shown, "waiting", groups);
  const rows = [...running.rows, ...atOnce.rows, ...ready.rows, ...waiting.rows];
  const [marked, setMarked] = useState("");
  const [picked, setPicked] = useState<ReadonlySet<string>>(new Set());
  const at = Math.max(
    0,
    rows.findIndex((row) => row.reference === marked),
  );
  const chosen = rows[at];
  const list = useRef<HTMLDivElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another list begins at its top
  useEffect(() => {
    setMarked("");
    setPicked(new Set());
  }, [whose, kind, view]);
  const reviewer = session.data?.may?.moves === "reviewer";
  const judges = session.data?.may?.moves === "officer";
  /** The list with one of its filters turned on, or off again. */
  const turn = (name: string, value: string) => {
    const next = new URLSearchParams(search);
    if (!value || next.get(name) === value) next.delete(name);
    else next.set(name, value);
    setSearch(next);
  };
  useEffect(() => {
    list.current?.querySelector(`[data-row="${marked}"]`)?.scrollIntoView({ block: "nearest" });
  }, [marked]);
  const move = (by: number) => setMarked(rows[Math.max(0, Math.min(rows.length - 1, at + by))]?.reference ?? "");
  const open = useCallback((reference: string) => navigate(`/desk/${reference}`), [navigate]);
  useHotkey("ArrowDown", () => move(1));
  useHotkey("ArrowUp", () => move(-1));
  useHotkey("n", () => move(1));
  useHotkey("b", () => move(-1));
  const pick = (reference: string) =>
    setPicked((now) => {
      const next = new Set(now);
      if (!next.delete(reference)) next.add(reference);
      return next;
    });
  useHotkey("p", () => chosen && judges && pick(chosen.reference), judges);
  useHotkey("Enter", () => chosen && navigate(`/desk/${chosen.reference}`));
  const first = session.data?.person?.first_name;
  const me = session.data?.person?.name ?? "";

  return (
    <div className="tray">
      <aside className="tray-side">
        <h2>{say("Whose")}</h2>
        <ul>
          {WHOSE.filter(([id]) => !reviewer || id !== "nobody's yet").map(([id, label]) => (
            <li key={id}>
              <button type="button" aria-pressed={whose === id} onClick={() => turn("whose", id === "mine" ? "" : id)}>
                {label} <b>{tray.data?.counts[id] ?? ""}</b>
              </button>
            </li>
          ))}
        </ul>
        {(tray.data?.kinds.length ?? 0) > 0 && (
          <>
            <h2>{say("Kind")}</h2>
            <ul>
              {tray.data?.kinds.map((k) => (
                <li key={k.kind}>
                  <button
                    type="button"
                    aria-pressed={kind === k.kind}
                    title={k.title}
                    onClick={() => turn("kind", k.kind)}
                  >
                    <span>{k.title}</span> <b>{k.count}</b>
                  </button>
                </li>
              ))}
            </ul>
          </>
        )}
        {!reviewer && (
          <>
            <h2>{say("Only these")}</h2>
            <ul>
              {VIEWS.map((id) => (
                <li key={id}>
                  <button type="button" aria-pressed={view === id} onClick={() => turn("view", id)}>
                    {capital(id)} <b>{tray.data?.views[id] ?? ""}</b>
                  </button>
                </li>
              ))}
            </ul>
          </>
        )}
        <OwnViews shown={shown} />
        <p className="tray-file">
          {say("Take the list along:")}{" "}
          {["csv", "xlsx"].map((form) => (
            <a key={form} href={`/api/tray/file.${form}?${new URLSearchParams(shown)}`} download>
              {form.toUpperCase()}
            </a>
          ))}
        </p>
        <p className="tray-keys">
          <Key>↑</Key> <Key>↓</Key> {say("move")}
          <br />
          <Key>{say("Enter")}</Key> {say("open")}
          <br />
          {judges && (
            <>
              <Key>P</Key> {say("pick several")}
              <br />
            </>
          )}
          <Key>F</Key> {say("find")}
        </p>
      </aside>
      <main className="tray-main" ref={list}>
        <div className="tray-head">
          <h1>
            {greeting()}, {first}
          </h1>
          {tray.data && (
            <p>
              {tray.data.finishable
                ? say("{{finishable}} with us", { finishable: things(tray.data.finishable, "case") })
                : say("Nothing is with us here")}
              {atOnce.count ? say(", {{count}} can be finished now", { count: atOnce.count }) : ""}
              {tray.data.running_out
                ? say("; {{count}} run out in {{days}} working days", {
                    count: tray.data.running_out,
                    days: tray.data.running_out_within,
                  })
                : ""}
            </p>
          )}
          {(kind || view) && (
            <button type="button" className="jc-link" onClick={() => setSearch(whose === "mine" ? {} : { whose })}>
              {say("show all again")}
            </button>
          )}
          <p className="tray-sort">
            {say("sorted by")} <b>{say("time left")}</b>
          </p>
        </div>
        <ProblemNote error={tray.error} onAgain={() => tray.refetch()} />
        {tray.isPending && <Skeleton lines={10} />}
        {judges && <Picked picked={picked} onDone={() => setPicked(new Set())} />}
        <Words words={tray.data?.words ?? []} />
        {tray.data &&
          GROUPS.filter(([group]) => !reviewer || group !== "at once").map(([group, title, none]) => {
            const pages = { "running out": running, "at once": atOnce, ready, waiting }[group];
            return (
              <section key={group} aria-label={title}>
                <h2>
                  {title} <span>{pages.count}</span>
                </h2>
                {pages.rows.length === 0 && <p className="tray-none">{none}</p>}
                {pages.rows.map((row) => (
                  <TrayRow
                    key={row.reference}
                    row={row}
                    chosen={chosen === row}
                    owner={row.officer === me ? "" : row.officer || (whose === "everyone's" ? say("nobody's yet") : "")}
                    picked={picked.has(row.reference)}
                    onMark={setMarked}
                    onOpen={open}
                  />
                ))}
                <More pages={pages} />
              </section>
            );
          })}
      </main>
      <aside className="tray-peek" aria-label={say("The marked case")}>
        {chosen ? (
          <Peek row={chosen} judges={judges} me={session.data?.person?.id ?? ""} picked={picked} onPick={pick} />
        ) : (
          <p className="second">{say("Mark a case to see it here.")}</p>
        )}
      </aside>
    </div>
  );
}

const WANTS: Record<Schemas["WordView"]["what"], string> = {
  message: say("A message"),
  mention: say("You are named in a note"),
  "second person": say("A fee waits for a second person"),
  fell: say("Did not leave"),
};

/** What waits for a word besides the cases: messages, notes that name one, fees to confirm, steps that fell. */
function Words({ words }: { words: Schemas["WordView"][] }) {
  if (words.length === 0) return null;
  return (
    <section className="tray-words" aria-label={say("Waits for a word from you")}>
      <h2>
        {say("Waits for a word from you")} <span>{words.length}</span>
      </h2>
      <ul>
        {words.map((w) => (
          <li key={`${w.reference} ${w.at} ${w.what}`}>
            <Link to={`/desk/${w.reference}?look=${w.what === "message" || w.what === "mention" ? "talk" : ""}`}>
              <span className="mono">{w.reference}</span> <b>{WANTS[w.what]}</b>{" "}
              <span>
                {w.who}: {w.text}
              </span>
            </Link>
            <small title={exactly(w.at)}>{since(w.at)}</small>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** A group of the in-tray: its first page, and those that were asked for. */
function useGroup(shown: { whose: Whose; kind: string; view: View }, group: Group["group"], groups?: Group[]) {
  const first = groups?.find((g) => g.group === group) ?? { count: 0, rows: [], after: "" };
  const pages = usePages<Row>(["tray", "more", shown, group], first, (after) =>
    ask(api.GET("/api/tray/more", { params: { query: { ...shown, group, after } } })),
  );
  return { ...pages, count: first.count };
}

type RowProps = {
  row: Row;
  chosen: boolean;
  /** Who has it, where that is not oneself. */
  owner: string;
  picked: boolean;
  onMark: (reference: string) => void;
  onOpen: (reference: string) => void;
};

/** One case in the list; it is drawn anew only when it changes or is marked. */
const TrayRow = memo(function TrayRow({ row, chosen, owner, picked, onMark, onOpen }: RowProps) {
  return (
    <button
      type="button"
      data-row={row.reference}
      className={`tray-row${chosen ? " chosen" : ""}${picked ? " picked" : ""}`}
      aria-current={chosen || undefined}
      onFocus={(e) => e.target.matches(":focus-visible") && onMark(row.reference)}
      onClick={(e) => (chosen || e.detail === 0 ? onOpen(row.reference) : onMark(row.reference))}
      onDoubleClick={() => onOpen(row.reference)}
    >
      <span className="mono tray-ref">
        {picked && <span aria-hidden="true">✓ </span>}
        {row.reference}
        {picked && <span className="jc-hidden"> {say("picked")}</span>}
      </span>
      <span className="tray-what">
        <b className={row.group === "waiting" ? "plain" : ""} title={row.next}>
          {row.news && (
            <span className="tray-news" title={say("Something happened since you last looked")}>
              <span className="jc-hidden">{say("Something happened since you last looked")}: </span>
            </span>
          )}
          {row.next}
        </b>
        <small title={`${row.title} · ${row.applicant}`}>
          {owner && <em className="tray-owner">{owner} · </em>}
          {row.title}
          {!row.title.includes(row.applicant) && ` · ${row.applicant}`}
        </small>
      </span>
      <span className="tray-judged">
        <Squares squares={row.squares} />
      </span>
      <span className="tray-left" title={row.limit_of}>
        <TimeLeft time={row.time_left} quiet={row.holder !== "ours"} />
        <small>
          {row.limit_of && `${row.limit_of}: `}
          {row.limit_day &&
            (row.holder !== "ours"
              ? say("due {{day}}", { day: day(row.limit_day) })
              : row.step === "decision"
                ? say("decide by {{day}}", { day: day(row.limit_day) })
                : say("check by {{day}}", { day: day(row.limit_day) }))}
        </small>
      </span>
    </button>
  );
});
