// The fee of a case on the desk: every line with its working; waived or set by hand, with a second person above the limit.
import { useState } from "react";
import { api, ask } from "../api/client";
import { Debts, inParts } from "../shared/Debts";
import { amount } from "../shared/say";
import { useSession } from "../shared/session";
import { say } from "../shared/text";
import { type CaseView, type OnDesk, path } from "./useCase";
import "./more.css";
import "./rule.css";

export function FeeLines({ desk, view }: { desk: OnDesk; view: CaseView }) {
  const session = useSession();
  const role = session.data?.person?.role ?? "";
  const [line, setLine] = useState("");
  const [value, setValue] = useState("");
  const [reason, setReason] = useState("");
  const may = view.assessment.moves.some((m) => m.role === role && m.move === "set a fee" && m.allowed);
  async function set(waive: boolean) {
    const done = await desk.move((seen) =>
      ask(
        api.POST("/api/cases/{reference}/fees", {
          params: path(view.reference),
          headers: seen,
          body: { line, amount: waive ? null : value.trim(), reason },
        }),
      ),
    );
    if (done) {
      setLine("");
      setReason("");
    }
  }
  const settle = (id: string, confirmed: boolean) =>
    desk.move((seen) =>
      ask(
        api.POST("/api/cases/{reference}/fees/settlement", {
          params: path(view.reference),
          headers: seen,
          body: { line: id, confirmed, reason: "" },
        }),
      ),
    );
  return (
    <>
      <table className="desk-table">
        <thead>
          <tr>
            <th scope="col">{say("Line")}</th>
            <th scope="col" className="num">
              {view.form.currency}
            </th>
          </tr>
        </thead>
        <tbody>
          {view.assessment.fees.lines
            .filter((l) => l.state !== "not asked")
            .map((l) => (
              <tr key={l.id}>
                <td>
                  {l.title}
                  <small>{l.working}</small>
                  {may && l.amount !== null && !l.follows && (
                    <button
                      type="button"
                      className="jc-link"
                      onClick={() => {
                        setLine(l.id);
                        setValue(String(l.amount));
                      }}
                    >
                      {say("waive or set")}
                      <span className="jc-hidden"> {l.title}</span>
                    </button>
                  )}
                </td>
                <td className="num mono">
                  {l.amount !== null ? amount(l.amount) : say("from {{low}}", { low: amount(l.low) })}
                </td>
              </tr>
            ))}
        </tbody>
      </table>
      {inParts(view.assessment.account.debts) && <Debts debts={view.assessment.account.debts} />}
      {line && (
        <form
          className="desk-waive"
          onSubmit={(e) => {
            e.preventDefault();
            set(false);
          }}
        >
          <label htmlFor="fee-amount">{say("New amount of this line")}</label>
          <input id="fee-amount" inputMode="decimal" value={value} onChange={(e) => setValue(e.target.value)} />
          <label htmlFor="fee-reason">{say("Why?")}</label>
          <textarea id="fee-reason" rows={2} value={reason} onChange={(e) => setReason(e.target.value)} />
          <p className="second">
            {say("A change of more than {{fee_limit}} waits for a lead as a second person.", {
              fee_limit: amount(view.fee_limit),
            })}
          </p>
          <button type="submit" className="jc-button small" disabled={reason.trim().length < 3}>
            {say("Set it")}
          </button>{" "}
          <button
            type="button"
            className="jc-button plain small"
            disabled={reason.trim().length < 3}
            onClick={() => set(true)}
          >
            {say("Waive it")}
          </button>{" "}
          <button type="button" className="jc-link" onClick={() => setLine("")}>
            {say("cancel")}
          </button>
        </form>
      )}
      {view.fees_waiting.map((f) => (
        <div key={f.line} className="desk-second">
          <p>
            <b>{f.title}</b>
            {say(": {{who}} set {{was}} to {{amount}}. {{reason}}", {
              who: f.who,
              was: amount(f.was),
              amount: amount(f.amount),
              reason: f.reason,
            })}
          </p>
          {f.may_settle ? (
            <p>
              <button type="button" className="jc-button small" onClick={() => settle(f.line, true)}>
                {say("Confirm")}
              </button>{" "}
              <button type="button" className="jc-button plain small" onClick={() => settle(f.line, false)}>
                {say("Do not confirm")}
              </button>
            </p>
          ) : (
            <p className="ochre">{say("It waits for a lead as a second person.")}</p>
          )}
        </div>
      ))}
    </>
  );
}
