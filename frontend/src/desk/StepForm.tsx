// One of the other steps: its few words, and what they are sent to.
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, ask } from "../api/client";
import type { Seen } from "../api/views";
import { inParts } from "../shared/Debts";
import { useOpened } from "../shared/keys";
import { PdfView } from "../shared/PdfView";
import { amount, day } from "../shared/say";
import { say } from "../shared/text";
import { type PointAnew, PointsAnew, pointsOf } from "./PointsAnew";
import { stepLetter } from "./StepFirst";
import type { Step } from "./steps";
import { type CaseView, type OnDesk, path } from "./useCase";
import { OFF, WhichAgenda } from "./WhichAgenda";
import { WhichAnswer } from "./WhichAnswer";

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
  const opened = useOpened<HTMLFormElement>();
  const navigate = useNavigate();
  const [title, setTitle] = useState("");
  const [answer, setAnswer] = useState<"words" | "file" | "answer">("words");
  const [place, setPlace] = useState("");
  const [anew, setAnew] = useState<PointAnew[]>(pointsOf(view));
  const costs = step.move === "more time" ? view.more_time[desk.lane] : undefined;
  const [text, setText] = useState("");
  const [sum, setSum] = useState(Number(view.assessment.account.open) > 0 ? String(view.assessment.account.open) : "");
  const [means, setMeans] = useState<"transfer" | "cheque" | "cash">("transfer");
  const [mark, setMark] = useState("");
  const [body, setBody] = useState(view.bodies[0]?.no ?? 1);
  const [officer, setOfficer] = useState(view.officer_id);
  const [kind, setKind] = useState("");
  const [agenda, setAgenda] = useState("");
  const kinds = useQuery({
    queryKey: ["kinds"],
    queryFn: () => ask(api.GET("/api/kinds")),
    enabled: step.fields.includes("kind"),
  });
  const [valueDay, setValueDay] = useState(view.today);
  const [payer, setPayer] = useState("");
  const [account, setAccount] = useState("");
  const owed = view.assessment.account.debts.filter((d) => Number(d.open) > 0);
  const [debt, setDebt] = useState("");
  const { payments } = view.assessment.account;
  const [payment, setPayment] = useState(payments.at(-1)?.key ?? "");
  const offers = view.offers[step.offers ?? ""] ?? [];
  const brings = view.foreseen[desk.lane]?.[step.move] ?? [];
  const ends = step.move === "do not accept" || step.move === "put out of scope";
  const [read, setRead] = useState("");
  const params = path(view.reference);
  const { lane } = desk;
  const done = (seen: Seen) => {
    const grounds = { params, headers: seen, body: { grounds: text } };
    switch (step.move) {
      case "grant":
        return ask(api.POST("/api/cases/{reference}/grant", grounds));
      case "sign off":
        return ask(api.POST("/api/cases/{reference}/sign-off", { params, headers: seen, body: { words: text } }));
      case "put on an agenda":
        return agenda === OFF
          ? ask(api.POST("/api/cases/{reference}/agenda/off", { params, headers: seen, body: { because: "" } }))
          : ask(api.POST("/api/cases/{reference}/agenda", { params, headers: seen, body: { meeting: agenda } }));
      case "ask the applicant":
        return ask(
          api.POST("/api/cases/{reference}/review-questions", { params, headers: seen, body: { words: text } }),
        );
      case "hand back":
        return ask(api.POST("/api/cases/{reference}/handed-back", grounds));
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
          api.POST("/api/cases/{reference}/requirements", {
            params,
            headers: seen,
            body: { title, text, lane, answer, place },
          }),
        );
      case "put right":
        return ask(
          api.POST("/api/cases/{reference}/put-right", {
            params,
            headers: seen,
            body: { place, value: title, reason: text },
          }),
        );
      case "more time":
        return ask(api.POST("/api/cases/{reference}/more-time", { params, headers: seen, body: { lane } }));
      case "letter came back":
        return ask(api.POST("/api/cases/{reference}/letter/came-back", { params, headers: seen, body: { lane } }));
      case "send again":
        return ask(api.POST("/api/cases/{reference}/letter/again", { params, headers: seen, body: { lane } }));
      case "replace the letter":
        return ask(
          api.POST("/api/cases/{reference}/letter/replaced", { params, headers: seen, body: { lane, points: anew } }),
        );
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
      case "assign":
        return ask(
          api.POST("/api/cases/{reference}/owner", { params, headers: seen, body: { to: officer, because: text } }),
        );
      case "turn":
        return ask(
          api.POST("/api/cases/{reference}/turning", { params, headers: seen, body: { kind, grounds: text } }),
        );
      case "reopen":
        return ask(api.POST("/api/cases/{reference}/reopening", grounds));
      default:
        return ask(api.POST("/api/cases/{reference}/undo", { params, headers: seen, body: {} }));
    }
  };
  const ready =
    (answer !== "answer" || place !== "") &&
    (!step.fields.includes("points") || (anew.length > 0 && anew.every((p) => p.text.trim().length >= 3))) &&
    (!step.fields.includes("text") || text.trim().length >= (step.least ?? 3)) &&
    (!step.fields.includes("title") || title.trim().length >= (step.fields.includes("place") ? 1 : 3)) &&
    (!step.fields.includes("place") || place !== "") &&
    (!step.fields.includes("kind") || kind !== "") &&
    (!step.fields.includes("agenda") || agenda !== "") &&
    (!step.fields.includes("officer") || officer !== view.officer_id) &&
    (!step.fields.includes("amount") || (Number(sum) > 0 && mark.trim().length >= 3));
  return (
    <form
      {...opened}
      className="desk-waive"
      onKeyDown={(e) => e.key === "Escape" && onLeave()}
      aria-label={step.label}
      onSubmit={async (e) => {
        e.preventDefault();
        if (!(await desk.move(done))) return;
        onDone();
        if (step.move === "hand back") navigate("/tray"); // whoever handed it back does not see it any more
      }}
    >
      <h2>{step.label}</h2>
      <p className="second">{step.says}</p>
      {costs && (
        <p>
          {say("Answers would be due {{due}}.", { due: costs.said })}{" "}
          {Number(costs.fee) > 0 && (
            <b className="ochre">
              {say("It costs the applicant {{fee}}, which is to be paid then.", { fee: amount(costs.fee as string) })}
            </b>
          )}
        </p>
      )}
      {brings.map((sentence) => (
        <p key={sentence}>{sentence}</p>
      ))}
      {step.fields.includes("place") && <WhichAnswer view={view} place={place} onChoose={setPlace} said />}
      {step.fields.includes("title") && (
        <>
          <label htmlFor="step-title">{step.title ?? say("What is it called?")}</label>
          <input id="step-title" value={title} onChange={(e) => setTitle(e.target.value)} maxLength={120} />
        </>
      )}
      {step.fields.includes("answer") && (
        <>
          <label htmlFor="step-answer">{say("What may answer it?")}</label>
          <select id="step-answer" value={answer} onChange={(e) => setAnswer(e.target.value as typeof answer)}>
            <option value="words">{say("words")}</option>
            <option value="file">{say("a file")}</option>
            <option value="answer">{say("a changed answer")}</option>
          </select>
          {answer === "answer" && <WhichAnswer view={view} place={place} onChoose={setPlace} />}
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
      {step.fields.includes("officer") && (
        <>
          <label htmlFor="step-officer">{say("To whom?")}</label>
          <select id="step-officer" value={officer} onChange={(e) => setOfficer(e.target.value)}>
            <option value="">{say("nobody")}</option>
            {view.officers.map((o) => (
              <option key={o.id} value={o.id}>
                {o.name}
              </option>
            ))}
          </select>
        </>
      )}
      {step.fields.includes("kind") && (
        <>
          <label htmlFor="step-kind">{say("Into which kind?")}</label>
          <select id="step-kind" value={kind} onChange={(e) => setKind(e.target.value)}>
            <option value="">{say("Choose…")}</option>
            {kinds.data?.map((k) => (
              <option key={k.kind} value={k.kind}>
                {k.title}
              </option>
            ))}
          </select>
        </>
      )}
      {step.fields.includes("agenda") && (
        <WhichAgenda reference={view.reference} chosen={agenda} onChoose={setAgenda} />
      )}
      {step.fields.includes("points") && <PointsAnew points={anew} onChange={setAnew} />}
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
      {ends && (
        <p>
          <button type="button" className="jc-link" disabled={!ready} onClick={() => setRead(text)}>
            {say("read its letter first")}
          </button>
        </p>
      )}
      {read && (
        <div className="step-letter">
          <PdfView
            key={read}
            url={stepLetter(view.reference, step.move, step.move === "do not accept" ? lane : "", read)}
            label={say("Its letter")}
          />
        </div>
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

/** What the question at a place is called. */
