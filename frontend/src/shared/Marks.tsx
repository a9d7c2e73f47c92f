// The marks of the desk: stamps, tabs, squares, keys. Each says with a word what it says with a shape.
import type { ReactNode } from "react";
import { things } from "./say";

const CLOSING = ["Complete", "Granted", "Refused", "Not accepted", "Out of scope", "Lapsed", "Withdrawn"];
const TONE: Record<string, string> = {
  "Waiting for payment": "brass",
  "Answers wanted": "brass",
  Complete: "moss",
  Granted: "moss",
  Refused: "madder",
  "Not accepted": "madder",
  "Out of scope": "slate",
  Lapsed: "slate",
  Withdrawn: "slate",
  Draft: "slate",
};

/** A case's state as a rubber stamp, tilted only when it closes the intake. */
export function Stamp({ state, small }: { state: string; small?: boolean }) {
  const tilt = CLOSING.includes(state) && !small ? " tilted" : "";
  return <span className={`jc-stamp ${TONE[state] ?? "petrol"}${small ? " small" : ""}${tilt}`}>{state}</span>;
}

export function standingClass(standing: string): string {
  return standing.replaceAll(" ", "-");
}

/** The tab on the left edge: its shape tells the standing, solid once given, pale while only proposed. */
export function Tab({ standing, given }: { standing: string; given: boolean }) {
  return <span className={`jc-tab ${standingClass(standing)}${given ? " given" : ""}`} aria-hidden="true" />;
}

const FOLD = 20;

/** The row of squares: one for each asked requirement. */
export function Squares({ squares }: { squares: (string | boolean)[][] }) {
  const judged = squares.filter(([, given]) => given).length;
  const words = `${judged} of ${squares.length} judged`;
  return (
    <span className="jc-squares-box">
      <span className="jc-squares-words">{words}</span>
      <span className="jc-squares" aria-hidden="true">
        {squares.slice(0, squares.length > FOLD ? FOLD - 5 : FOLD).map(([standing, given], n) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: the squares have no names, only their order
          <i key={n} className={`${standingClass(String(standing))}${given ? " given" : ""}`} />
        ))}
        {squares.length > FOLD && <small>+{squares.length - FOLD + 5}</small>}
      </span>
    </span>
  );
}

export function Key({ children }: { children: ReactNode }) {
  return <kbd className="jc-key">{children}</kbd>;
}

export function Left({ count }: { count: number }) {
  return count ? <b className="jc-left">{count} left</b> : <span className="jc-done">done</span>;
}

/** Days to the limit in words: working days and days are never confused. */
export function TimeLeft({
  row,
  mine,
}: {
  row: { left?: number | null; unit: string; holder: string; step: string };
  mine?: boolean;
}) {
  const { left, unit, holder, step } = row;
  if (left === null || left === undefined) return null;
  const one = unit === "days" ? "day" : "working day";
  const many = unit === "days" ? "days" : "working days";
  if (holder === "theirs") {
    if (left < 0) return <b className="madder">{things(-left, one, many)} over</b>;
    if (left <= 7)
      return <b className="madder">{left === 0 ? "lapses tonight" : `lapses in ${things(left, one, many)}`}</b>;
    return (
      <span className="second">
        {step === "payment" ? "to pay" : mine ? "to answer" : "theirs"}, {things(left, one, many)} left
      </span>
    );
  }
  if (left < 0) return <b className="madder">{things(-left, one, many)} over</b>;
  if (left === 0) return <b className="madder">ends today</b>;
  return <b className={left <= 1 ? "madder" : left <= 4 ? "ochre" : ""}>{things(left, one, many)} left</b>;
}
