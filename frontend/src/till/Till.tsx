// The till: what the bank tells is placed on cases, cash and cheques are taken, and the day has to agree.
import { useDisclosure, useDocumentTitle } from "@mantine/hooks";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { ChooseFiles } from "../shared/ChooseFiles";
import { useHeading } from "../shared/heading";
import { marked as atMark, useHotkey } from "../shared/keys";
import { Key, Tab } from "../shared/Marks";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { amount, day, exactly, shortDay, since, timeOf } from "../shared/say";
import { say, things } from "../shared/text";
import { AtCounter } from "./AtCounter";
import { Movement, movementQuery, type Parts } from "./Movement";
import { ThisDay } from "./ThisDay";
import "../filing/pile.css";
import "./bank.css";

type Row = Schemas["MovementRow"];
type Done = Schemas["DoneRow"];
/** How the tab of a movement looks. */
const STANDING: Record<string, string> = { sure: "met", look: "in doubt", none: "to read", went: "wanting" };

export function Till() {
  const queries = useQueryClient();
  const till = useQuery({ queryKey: ["till"], queryFn: () => ask(api.GET("/api/till")), refetchInterval: 30_000 });
  const [marked, setMarked] = useState("");
  const [trouble, setTrouble] = useState<unknown>(null);
  const [said, setSaid] = useState("");
  const [counter, { open: openCounter, close: closeCounter }] = useDisclosure(false);
  const [parts, setParts] = useState<Record<string, Parts>>({});
  const list = useRef<HTMLElement>(null);
  useHeading(till.isSuccess);
  useDocumentTitle(say("Till"));
  const look = till.data?.look ?? [];
  const sure = till.data?.sure ?? [];
  const order = [...look, ...sure];
  const at = Math.max(
    0,
    order.findIndex((row) => row.id === marked),
  );
  const now = order[at];
  const nowId = now?.id ?? "";
  useEffect(() => {
    list.current?.querySelector(`[data-movement="${nowId}"]`)?.scrollIntoView({ block: "nearest" });
  }, [nowId]);
  // the next one is there when its turn comes
  const after = order[at + 1]?.id ?? "";
  useEffect(() => {
    if (after) queries.prefetchQuery(movementQuery(after));
  }, [after, queries]);
  const again = async () => {
    queries.invalidateQueries({ queryKey: ["movement"] });
    await queries.invalidateQueries({ queryKey: ["till"] });
  };
  /** Do something at the till; what is refused is told, and what `told` says else. True if it was done. */
  const does = async <T,>(work: () => Promise<T>, told: string | ((of: T) => string) = "") => {
    try {
      const done = await work();
      setTrouble(null);
      setSaid(typeof told === "string" ? told : told(done));
      await again();
      return true;
    } catch (problem) {
      setTrouble(problem);
      setSaid("");
      await again();
      return false;
    }
  };
  const go = (by: number) => {
    const to = order[Math.max(0, Math.min(order.length - 1, at + by))];
    if (to) setMarked(to.id);
  };
  /** The movement that is looked at was decided: on to the next. */
  const decide = async (work: () => Promise<unknown>) => {
    const next = order[at + 1] ?? order[at - 1];
    if (await does(work)) setMarked(next?.id ?? "");
  };
  const confirm = () =>
    does(
      () => ask(api.POST("/api/till/confirmed", { body: { movements: sure.map((row) => row.id) } })),
      (told) =>
        [say("Confirmed: {{movements}}.", { movements: things(told.done, "movement") }), ...told.not_done].join(" "),
    );
  const last = till.data?.done.find((row) => row.undo);
  const undo = () =>
    last &&
    does(
      () => ask(api.DELETE("/api/till/movements/{movement}/decision", { params: { path: { movement: last.id } } })),
      say("It is to be looked at again."),
    ).then(() => setMarked(last.id));
  const read = (files: File[]) => {
    const file = files[0];
    if (!file) return;
    const body = new FormData();
    body.append("file", file);
    does(
      () => ask(api.POST("/api/till/statements", { body: body as never, bodySerializer: () => body as never })),
      (told) => told.map(readWords).join(" "),
    );
  };
  useHotkey("n", () => go(1));
  useHotkey("b", () => go(-1));
  useHotkey("ArrowDown", () => go(1));
  useHotkey("ArrowUp", () => go(-1));
  useHotkey("g", () => confirm(), sure.length > 0);
  useHotkey("c", openCounter);
  useHotkey("u", () => undo(), !!last);

  if (till.isError)
    return (
      <main className="jc-page">
        <ProblemNote error={till.error} />
      </main>
    );
  if (!till.data) return <Skeleton lines={9} />;
  const told = till.data;
  const row = (r: Row) => (
    <li key={r.id}>
      <button
        type="button"
        className={`pile-piece bank-row${r.id === nowId ? " marked" : ""}`}
        data-movement={r.id}
        aria-current={r.id === nowId}
        {...atMark(r.id === nowId)}
        onClick={() => setMarked(r.id)}
      >
        <Tab standing={STANDING[r.how] ?? "to read"} given={false} />
        <span className="mono bank-day">{shortDay(r.booked)}</span>
        <b>{r.called || say("no text")}</b>
        <Money of={r.amount} />
        <span className="second" title={r.short}>
          {[r.payer, r.short].filter(Boolean).join(" · ")}
        </span>
      </button>
    </li>
  );
  const group = (title: string, rows: Row[]) =>
    rows.length > 0 && (
      <section aria-label={title}>
        <h2>
          {title} <span>{rows.length}</span>
        </h2>
        <ul>{rows.map(row)}</ul>
      </section>
    );
  return (
    <div className="pile bank">
      <header className="pile-head">
        <h1 tabIndex={-1}>{told.days[0] ? say("Till, {{day}}", { day: day(told.days[0].day) }) : say("Till")}</h1>
        <p className="second">
          {told.statement
            ? say("statement {{number}}, {{movements}}, read {{when}}", {
                number: told.statement.number,
                movements: things(told.statement.movements, "movement"),
                when: since(told.statement.read_at),
              })
            : say("No statement of the bank was read yet.")}
        </p>
        <p className="bank-left" role="status">
          {said ||
            (order.length > 0
              ? say("{{done}} decided · {{look}} to look at", { done: told.done.length, look: order.length })
              : told.statement
                ? say("Everything is decided.")
                : "")}
        </p>
      </header>
      {trouble !== null && <ProblemNote error={trouble} />}
      <div className="pile-body">
        <nav className="pile-list" aria-label={say("Movements")} ref={list}>
          {group(say("To look at"), look)}
          {group(say("Placed, confirm at one go"), sure)}
          <Decided title={say("Counter since the last closing")} rows={told.counter} />
          <Decided title={say("Decided since the last closing")} rows={told.done} />
          {order.length + told.counter.length + told.done.length === 0 && (
            <p className="bank-empty second">
              {say(
                "Nothing came yet. Read a statement of the bank (camt.053, CSV or XLSX), or take cash and cheques at the counter.",
              )}
            </p>
          )}
        </nav>
        <main className="pile-paper">
          {now ? (
            <Movement
              key={now.id}
              row={now}
              parts={parts[now.id]}
              onParts={(chosen) => setParts({ ...parts, [now.id]: chosen })}
              onDecide={decide}
            />
          ) : (
            <p className="second bank-none">{say("There is no movement to look at.")}</p>
          )}
        </main>
        <ThisDay till={told} left={order.length} does={does} />
      </div>
      <footer className="pile-foot">
        <span className="second">
          <Key>N</Key> <Key>B</Key> {say("next, back")}{" "}
          {last && (
            <>
              <Key>U</Key> {say("undo {{what}}", { what: last.called })}
            </>
          )}
        </span>
        <span className="bank-do">
          <Link to="/till/closings">{say("Closings and files")}</Link>
          <ChooseFiles name={say("A statement of the bank")} onFiles={read}>
            {say("Read a statement…")}
          </ChooseFiles>
          <button type="button" className="jc-button plain" onClick={openCounter}>
            {say("Cash or cheque")} <Key>C</Key>
          </button>
          <button type="button" className="jc-button" disabled={sure.length === 0} onClick={() => confirm()}>
            {say("Confirm {{movements}}", { movements: things(sure.length, "movement") })} <Key>G</Key>
          </button>
        </span>
      </footer>
      <AtCounter opened={counter} onClose={closeCounter} onTaken={again} open={told.days.length > 0} />
    </div>
  );
}

function readWords(told: Schemas["StatementRead"]): string {
  const words = [
    say("New from statement {{number}}: {{movements}}.", {
      movements: things(told.new, "movement"),
      number: told.number,
    }),
  ];
  if (told.known) words.push(say("Read before: {{movements}}.", { movements: things(told.known, "movement") }));
  if (told.by_hand)
    words.push(say("Booked by hand before: {{movements}}.", { movements: things(told.by_hand, "movement") }));
  return words.join(" ");
}

/** An amount with its sign; money that went out is red. */
export function Money({ of }: { of: string }) {
  const out = Number(of) < 0;
  return (
    <span className={`mono bank-sum${out ? " out" : ""}`}>
      {!out && "+"} {amount(of)}
    </span>
  );
}

function Decided({ title, rows }: { title: string; rows: Done[] }) {
  if (rows.length === 0) return null;
  return (
    <section aria-label={title}>
      <h2>
        {title} <span>{rows.length}</span>
      </h2>
      <ul>
        {rows.map((r) => (
          <li key={r.id} className="pile-piece bank-row bank-done">
            <Tab standing="met" given={true} />
            <span className="mono bank-day" title={exactly(r.at)}>
              {timeOf(r.at)}
            </span>
            <b>{r.called || r.payer}</b>
            <Money of={r.amount} />
            <span className="second">
              {[r.became, r.payer, r.receipt && say("receipt {{number}}", { number: r.receipt })]
                .filter(Boolean)
                .join(" · ")}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
