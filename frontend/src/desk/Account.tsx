// The account of a case as evidence: what is due, by stage, with its working; what was paid and went back.
import { useRef } from "react";
import { MoneyExplained } from "../shared/MoneyExplained";
import { usePaging } from "../shared/PdfView";
import { amount, dayOf } from "../shared/say";
import { say } from "../shared/text";
import type { CaseView } from "./useCase";
import "./checklist.css";
import "./more.css";
import "../filing/read-over.css";

const STAGES = [
  ["at filing", say("At filing")],
  ["after the check", say("After the check")],
  ["at issue", say("At issue")],
] as const;

export function Account({ view }: { view: CaseView }) {
  const room = useRef<HTMLDivElement>(null);
  usePaging(room, true);
  const { fees, account } = view.assessment;
  const lines = fees.lines.filter((l) => l.state !== "not asked");
  return (
    <div ref={room} className="desk-sheet" tabIndex={0} role="group" aria-label={say("The account")}>
      <MoneyExplained said={view.money_explained} />
      {STAGES.map(([stage, title]) => {
        const own = lines.filter((l) => l.stage === stage);
        const total = fees.totals.find((t) => t.stage === stage);
        if (own.length === 0) return null;
        return (
          <section key={stage} className="filed-part">
            <h2>{title}</h2>
            <table className="desk-table">
              <tbody>
                {own.map((l) => (
                  <tr key={l.id}>
                    <td>
                      {l.title}
                      <small>{l.working}</small>
                    </td>
                    <td className="num mono">
                      {l.amount !== null ? amount(l.amount) : say("from {{low}}", { low: amount(l.low) })}
                    </td>
                  </tr>
                ))}
                {total && (
                  <tr className="sum">
                    <th scope="row">{say("Together")}</th>
                    <td className="num mono">
                      {total.amount !== null ? amount(total.amount) : say("from {{low}}", { low: amount(total.low) })}
                    </td>
                  </tr>
                )}
              </tbody>
            </table>
          </section>
        );
      })}
      <section className="filed-part">
        <h2>{say("What came in and went back")}</h2>
        <table className="desk-table">
          <tbody>
            {account.payments.map((p) => (
              <tr key={p.key}>
                <td>
                  {say("Paid by {{means}}, {{day}}", { means: p.means, day: dayOf(p.at) })}
                  <small>{say("receipt {{receipt}}", { receipt: p.receipt })}</small>
                </td>
                <td className="num mono">{amount(p.amount)}</td>
              </tr>
            ))}
            {account.back.map((b) => (
              <tr key={b.key}>
                <td>
                  {say("Goes back: {{because}}", { because: b.because })}
                  <small>{b.way}</small>
                </td>
                <td className="num mono">−{amount(b.amount)}</td>
              </tr>
            ))}
            <tr className="sum">
              <th scope="row">{say("Paid in all")}</th>
              <td className="num mono">{amount(account.paid as string)}</td>
            </tr>
            {Number(account.open) > 0 && (
              <tr className="madder">
                <th scope="row">{say("Still to be paid")}</th>
                <td className="num mono">{amount(account.open as string)}</td>
              </tr>
            )}
            {Number(account.over) > 0 && (
              <tr>
                <th scope="row">{say("Paid too much")}</th>
                <td className="num mono">{amount(account.over as string)}</td>
              </tr>
            )}
          </tbody>
        </table>
      </section>
    </div>
  );
}
