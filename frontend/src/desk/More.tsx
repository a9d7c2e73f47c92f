// Everything else that can be done with a case, each with its few words; and what cannot, with why not.
import { useRef, useState } from "react";
import { api, ask } from "../api/client";
import type { Seen } from "../api/views";
import { inParts } from "../shared/Debts";
import { useHotkey } from "../shared/keys";
import { Key } from "../shared/Marks";
import { amount, day } from "../shared/say";
import { say } from "../shared/text";
import { WhyNot } from "../shared/WhyNot";
import { type CaseView, type OnDesk, path } from "./useCase";
import "./more.css";
import "./rule.css";

type Step = {
  move: string;
  label: string;
  says: string;
  fields: ("title" | "text" | "amount" | "means" | "mark" | "payment" | "body")[];
  title?: string;
  ask?: string;
  least?: number;
  offers?: string;
  plain?: boolean;
};

const STEPS: Step[] = [
  {
    move: "grant",
    label: say("Grant"),
    says: say("What is due at issue falls due; then the document goes out."),
    fields: ["text"],
    ask: say("Conditions, if there are any"),
    least: 0,
    plain: true,
  },
  {
    move: "refuse",
    label: say("Refuse"),
    says: say("The letter says what can be done against it."),
    fields: ["text"],
    ask: say("On which grounds?"),
    offers: "refused",
    plain: true,
  },
  {
    move: "add a requirement",
    label: say("Ask for something else"),
    says: say("Something that the rules did not foresee; judge it wanting and it becomes a point."),
    fields: ["title", "text"],
    ask: say("What would put it right?"),
  },
  {
    move: "more time",
    label: say("Give more time"),
    says: say("Once, as the rules say, from the same first day."),
    fields: [],
  },
  {
    move: "letter came back",
    label: say("The letter came back"),
    says: say("It never paused the clock; send it again."),
    fields: [],
  },
  {
    move: "send again",
    label: say("Send the letter again"),
    says: say("The pause and the period begin today."),
    fields: [],
  },
  {
    move: "letter posted",
    label: say("The letter was posted"),
    says: say("On the day from which its time is counted. If it left later, say that it came back and send it again."),
    fields: [],
  },
  {
    move: "ask another body",
    label: say("Ask another body"),
    says: say(
      "A letter goes with the case; the clock stands still as the rules say, until it answers or its time is over.",
    ),
    fields: ["title", "text"],
    title: say("Which body?"),
    ask: say("What is it asked?"),
  },
  {
    move: "another body answered",
    label: say("Another body has answered"),
    says: say("The office goes on."),
    fields: ["body", "text"],
    ask: say("What did it answer?"),
  },
  {
    move: "take money",
    label: say("Money came in"),
    says: say("A transfer, a cheque or cash."),
    fields: ["amount", "means", "mark"],
  },
  {
    move: "charge back",
    label: say("A payment was charged back"),
    says: say("By the payer's bank, or a cheque bounced: it counts as not made, and the amount is due again."),
    fields: ["payment", "text"],
    ask: say("What did the bank tell?"),
  },
  {
    move: "do not accept",
    label: say("Do not accept"),
    says: say("It ends the case; what was prepaid comes back."),
    fields: ["text"],
    ask: say("On which grounds?"),
    offers: "not accepted",
  },
  {
    move: "put out of scope",
    label: say("It is out of scope"),
    says: say("It ends the case; most of the fee comes back."),
    fields: ["text"],
    ask: say("Where does it belong?"),
    offers: "out of scope",
  },
  { move: "undo", label: say("Take my last step back"), says: say("Until the next letter or decision."), fields: [] },
];

export function More({ desk, view, role }: { desk: OnDesk; view: CaseView; role: string }) {
  const [open, setOpen] = useState(false);
  const [step, setStep] = useState<Step | null>(null);
  const own = view.assessment.moves.filter((m) => m.role === role);
  const may = (move: string) =>
    move === "undo" ? view.may_undo : (own.find((m) => m.move === move)?.allowed ?? false);
  const there = STEPS.filter((s) => may(s.move));
  const button = useRef<HTMLButtonElement>(null);
  useHotkey("o", () => setOpen((now) => !now), own.length > 0);
  useHotkey("Escape", () => setOpen(false), open);
  if (own.length === 0) return null;
  const close = () => {
    setStep(null);
    setOpen(false);
    button.current?.focus();
  };
  return (
    <>
      {there
        .filter((s) => s.plain)
        .map((s) => (
          <button
            key={s.move}
            type="button"
            className={`jc-button${s.move === "refuse" ? " plain" : ""}`}
            onClick={() => {
              setOpen(true);
              setStep(s);
            }}
          >
            {s.label}
          </button>
        ))}
      <button
        ref={button}
        type="button"
        className="jc-button plain"
        aria-expanded={open}
        onClick={() => {
          setOpen(!open);
          setStep(null);
        }}
      >
        {say("Other steps")} <Key>O</Key>
      </button>
      {open && (
        <section className="desk-more" aria-label={say("Other steps")}>
          {step ? (
            <StepForm desk={desk} view={view} step={step} onDone={close} onLeave={() => setStep(null)} />
          ) : (
            <>
              <ul>
                {there.map((s) => (
                  <li key={s.move}>
                    <button type="button" onClick={() => setStep(s)}>
                      <b>{s.label}</b> <small>{s.says}</small>
                    </button>
                  </li>
                ))}
              </ul>
              {there.length === 0 && <p className="second">{say("There is nothing else to do here now.")}</p>}
              <WhyNot moves={own} />
              <button type="button" className="jc-link" onClick={close}>
                {say("close")}
              </button>
            </>
          )}
        </section>
      )}
    </>
  );
}

function StepForm({
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
