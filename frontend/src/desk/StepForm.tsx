// One of the other steps: its few words, and what they are sent to.
import { useState } from "react";
import { api, ask } from "../api/client";
import type { Seen } from "../api/views";
import { inParts } from "../shared/Debts";
import { amount, day } from "../shared/say";
import { say } from "../shared/text";
import type { Step } from "./steps";
import { type CaseView, type OnDesk, path } from "./useCase";

export function StepForm({
  desk,
  view,
  step,
  onDone,
  onLeave,
}: {
  desk: OnDesk;
  view: CaseView;
  step: Step;
  onDone: () => void;
  onLeave: () => void;
}) {
  const [title, setTitle] = useState("");
  const [text, setText] = useState("");
  const [sum, setSum] = useState(Number(view.assessment.account.open) > 0 ? String(view.assessment.account.open) : "");
  const [means, setMeans] = useState<"transfer" | "cheque" | "cash">("transfer");
  const [mark, setMark] = useState("");
  const [body, setBody] = useState(view.bodies[0]?.no ?? 1);
  const [valueDay, setValueDay] = useState(view.today);
  const [payer, setPayer] = useState("");
  const [account, setAccount] = useState("");
  const owed = view.assessment.account.debts.filter((d) => Number(d.open) > 0);
  const [debt, setDebt] = useState("");
  const { payments } = view.assessment.account;
  const [payment, setPayment] = useState(payments.at(-1)?.key ?? "");
  const offers = view.offers[step.offers ?? ""] ?? [];
  const refund = view.assessment.refunds.find(
    (r) =>
      !(step.move === "do not accept" && desk.lane) &&
      r.ending === { "do not accept": "not accepted", "put out of scope": "out of scope" }[step.move],
  );
  const params = path(view.reference);
  const { lane } = desk;
  const done = (seen: Seen) => {
    const grounds = { params, headers: seen, body: { grounds: text } };
    switch (step.move) {
      case "grant":
        return ask(api.POST("/api/cases/{reference}/grant", grounds));
      case "refuse":
        return ask(api.POST("/api/cases/{reference}/refusal", grounds));
      case "do not accept":
        return ask(
          api.POST("/api/cases/{reference}/not-accepted", { params, headers: seen, body: { ...grounds.body, lane } }),
        );
      case "put out of scope":
        return ask(api.POST("/api/cases/{reference}/out-of-scope", grounds));
      case "add a requirement":
        return ask(
          api.POST("/api/cases/{reference}/requirements", { params, headers: seen, body: { title, text, lane } }),
        );
      case "more time":
        return ask(api.POST("/api/cases/{reference}/more-time", { params, headers: seen, body: { lane } }));
      case "letter came back":
        return ask(api.POST("/api/cases/{reference}/letter/came-back", { params, headers: seen, body: { lane } }));
      case "send again":
        return ask(api.POST("/api/cases/{reference}/letter/again", { params, headers: seen, body: { lane } }));
      case "letter posted":
        return ask(api.POST("/api/cases/{reference}/letter/posted", { params, headers: seen, body: { lane } }));
      case "ask another body":
        return ask(
          api.POST("/api/cases/{reference}/inquiries", { params, headers: seen, body: { body: title, text } }),
        );
      case "another body answered":
        return ask(
          api.POST("/api/cases/{reference}/inquiries/answered", { params, headers: seen, body: { no: body, text } }),
        );
      case "take money":
        return ask(
          api.POST("/api/cases/{reference}/money", {
            params,
            headers: seen,
            body: { amount: sum, means, mark, value_day: means === "cash" ? null : valueDay, payer, account, debt },
          }),
        );
      case "charge back":
        return ask(
          api.POST("/api/cases/{reference}/charge-backs", {
            params,
            headers: seen,
            body: { payment, because: text },
          }),
        );
      default:
        return ask(api.POST("/api/cases/{reference}/undo", { params, headers: seen, body: {} }));
    }
  };
  const ready =
    (!step.fields.includes("text") || text.trim().length >= (step.least ?? 3)) &&
    (!step.fields.includes("title") || title.trim().length >= 3) &&
    (!step.fields.includes("amount") || (Number(sum) > 0 && mark.trim().length >= 3));
  return (
    <form
      className="desk-waive"
      aria-label={step.label}
      onSubmit={async (e) => {
        e.preventDefault();
        if (await desk.move(done)) onDone();
      }}
    >
      <h2>{step.label}</h2>
      <p className="second">{step.says}</p>
      {refund && (
        <p>
          {say("{{total}} comes back, {{kept}} is kept.", { total: amount(refund.total), kept: amount(refund.kept) })}
        </p>
      )}
      {step.fields.includes("title") && (
        <>
          <label htmlFor="step-title">{step.title ?? say("What is it called?")}</label>
          <input id="step-title" value={title} onChange={(e) => setTitle(e.target.value)} maxLength={120} />
        </>
      )}
      {step.fields.includes("amount") && (
        <>
          {inParts(owed) && (
            <>
              <label htmlFor="step-debt">{say("What it is for")}</label>
              <select
                id="step-debt"
                value={debt}
                onChange={(e) => {
                  const one = owed.find((d) => d.key === e.target.value);
                  setDebt(e.target.value);
                  if (one) setSum(String(one.open));
                }}
              >
                <option value="">{say("what is to be paid now, then the next")}</option>
                {owed.map((d) => (
                  <option key={d.key} value={d.key}>
                    {say("{{title}}, {{open}}", { title: d.title, open: amount(d.open as string) })}
                  </option>
                ))}
              </select>
            </>
          )}
          <label htmlFor="step-amount">{say("Amount")}</label>
          <input id="step-amount" inputMode="decimal" value={sum} onChange={(e) => setSum(e.target.value)} />
          <label htmlFor="step-means">{say("How it came")}</label>
          <select id="step-means" value={means} onChange={(e) => setMeans(e.target.value as typeof means)}>
            <option value="transfer">{say("transfer")}</option>
            <option value="cheque">{say("cheque")}</option>
            <option value="cash">{say("cash")}</option>
          </select>
          <label htmlFor="step-mark">{say("The number that stands on it")}</label>
          <input id="step-mark" value={mark} onChange={(e) => setMark(e.target.value)} maxLength={60} />
          {means !== "cash" && (
            <>
              <label htmlFor="step-day">
                {means === "transfer" ? say("Value day on the statement") : say("Day on which it came in")}
              </label>
              <input
                id="step-day"
                type="date"
                value={valueDay}
                max={view.today}
                onChange={(e) => setValueDay(e.target.value)}
              />
            </>
          )}
          {means === "transfer" && (
            <>
              <label htmlFor="step-account">{say("Account it came from, if it is known")}</label>
              <input id="step-account" value={account} onChange={(e) => setAccount(e.target.value)} maxLength={60} />
            </>
          )}
          <label htmlFor="step-payer">{say("Payer, if not the applicant")}</label>
          <input id="step-payer" value={payer} onChange={(e) => setPayer(e.target.value)} maxLength={200} />
        </>
      )}
      {step.fields.includes("payment") && (
        <>
          <label htmlFor="step-payment">{say("Which payment?")}</label>
          <select id="step-payment" value={payment} onChange={(e) => setPayment(e.target.value)}>
            {payments.map((p) => (
              <option key={p.key} value={p.key}>
                {say("{{amount}} by {{means}}, receipt {{receipt}}", {
                  amount: amount(p.amount),
                  means: p.means,
                  receipt: p.receipt,
                })}
              </option>
            ))}
          </select>
        </>
      )}
      {step.fields.includes("body") && (
        <>
          <label htmlFor="step-body">{say("Which one?")}</label>
          <select id="step-body" value={body} onChange={(e) => setBody(Number(e.target.value))}>
            {view.bodies.map((b) => (
              <option key={b.no} value={b.no}>
                {say("{{body}}, due {{due}}", { body: b.body, due: day(b.due) })}
              </option>
            ))}
          </select>
        </>
      )}
      {step.fields.includes("text") && (
        <>
          <label htmlFor="step-text">{step.ask}</label>
          <textarea id="step-text" rows={4} value={text} onChange={(e) => setText(e.target.value)} />
          {offers.length > 0 && (
            <p className="desk-offers">
              {offers.map((o) => (
                <button key={o.id} type="button" onClick={() => setText(o.text)}>
                  {o.title}
                </button>
              ))}
            </p>
          )}
        </>
      )}
      <button type="submit" className="jc-button small" disabled={!ready || desk.busy}>
        {step.label}
      </button>{" "}
      <button type="button" className="jc-link" onClick={onLeave}>
        {say("cancel")}
      </button>
    </form>
  );
}
