// The marks of the desk: stamps, tabs, squares, keys. Each says with a word what it says with a shape.
import type { ReactNode } from "react";
import type { Schemas } from "../api/client";
import { useSession } from "./session";
import { say } from "./text";

/** A case's state as a rubber stamp, tilted only when it closes the intake. */
export function Stamp({ state, small }: { state: string; small?: boolean }) {
  const info = useSession().data?.states.find((s) => s.state === state);
  const tilt = info?.closes_intake && !small ? " tilted" : "";
  return (
    <span className={`jc-stamp ${info?.tone ?? "petrol"}${small ? " small" : ""}${tilt}`}>{info?.said ?? state}</span>
  );
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
  const words = say("{{judged}} of {{squares}} judged", { judged, squares: squares.length });
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
  return count ? (
    <b className="jc-left">{say("{{countOf}} left", { countOf: count })}</b>
  ) : (
    <span className="jc-done">{say("done")}</span>
  );
}

const LOUD: Record<Schemas["TimeLeft"]["urgency"], string> = {
  over: "madder",
  near: "madder",
  soon: "ochre",
  later: "",
};

/** The time to the limit in words, as loudly as it is urgent; what waits for the other side is said quietly. */
export function TimeLeft({ time, quiet }: { time: Schemas["TimeLeft"]; quiet?: boolean }) {
  if (!time.words) return null;
  if (quiet && time.urgency === "later") return <span className="second">{time.words}</span>;
  return <b className={LOUD[time.urgency]}>{time.words}</b>;
}
