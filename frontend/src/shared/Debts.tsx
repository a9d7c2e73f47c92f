// What is owed, by whom, in which parts and until when, where it is not owed at once by the applicant alone.
import type { ReactNode } from "react";
import type { Schemas } from "../api/client";
import { amount, day } from "./say";
import { say } from "./text";
import "./debts.css";

type Debt = Schemas["Debt"];

/** True where there is more to say of what is owed than the totals of the fee sheet. */
export function inParts(debts: Debt[]): boolean {
  return debts.some((d) => d.article !== "");
}

/** The debts in their order; `action` is what can be done with one of which something is open. */
export function Debts({ debts, action }: { debts: Debt[]; action?: (debt: Debt) => ReactNode }) {
  return (
    <ul className={action ? "jc-debts with-action" : "jc-debts"}>
      {debts.map((d) => (
        <li key={d.key} className={d.late ? "late" : ""}>
          <span className="jc-debts-what">
            {d.title}
            <small title={d.working}>{standing(d)}</small>
          </span>
          <span className="mono jc-debts-amount">{amount(d.amount as string)}</span>
          {action && <span className="jc-debts-action">{Number(d.open) > 0 ? action(d) : null}</span>}
        </li>
      ))}
    </ul>
  );
}

function standing(d: Debt): string {
  const until = d.due ? say("until {{day}}", { day: day(d.due) }) : d.due_said;
  if (Number(d.open) === 0) return say("paid");
  if (d.late) return say("late, it was due {{until}}", { until });
  if (Number(d.paid) > 0) return say("{{open}} of it open, {{until}}", { open: amount(d.open as string), until });
  return until;
}
