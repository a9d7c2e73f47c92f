// What an applicant can still do with a case, and why not: more time, take back, withdraw with the refund shown first.
import { Textarea } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, ask } from "../api/client";
import { type CaseView, seenAt } from "../api/views";
import { AskFirst } from "../shared/Dialog";
import { ProblemNote } from "../shared/Notes";
import { amount, sign } from "../shared/say";
import { say } from "../shared/text";
import { WhyNot } from "../shared/WhyNot";
import "./my-case.css";
import "../shared/slip.css";

export function CaseMoves({ view, lane = "" }: { view: CaseView; lane?: string }) {
  const { reference } = view;
  const [doing, setDoing] = useState<"" | "take back" | "withdraw">("");
  const [reason, setReason] = useState("");
  const navigate = useNavigate();
  const queries = useQueryClient();
  const may = (name: string) => view.assessment.moves.find((m) => m.move === name)?.allowed ?? false;
  const params = { path: { reference } };
  const again = () => queries.invalidateQueries();
  const time = useMutation({
    mutationFn: () =>
      ask(api.POST("/api/cases/{reference}/more-time", { params, headers: seenAt(view.revision), body: { lane } })),
    onSuccess: again,
  });
  const back = useMutation({
    mutationFn: () =>
      ask(api.POST("/api/cases/{reference}/taking-back", { params, headers: seenAt(view.revision), body: { reason } })),
    onSuccess: ({ id }) => {
      queries.invalidateQueries();
      navigate(`/filing/${id}`);
    },
  });
  const withdraw = useMutation({
    mutationFn: () =>
      ask(api.POST("/api/cases/{reference}/withdrawal", { params, headers: seenAt(view.revision), body: { reason } })),
    onSuccess: () => {
      setDoing("");
      queries.invalidateQueries();
      window.scrollTo(0, 0); // how it ended stands at the top; the button stood far below
    },
  });
  const refund = view.assessment.refunds.find((r) => r.ending === "withdrawn");
  const more = view.next_steps.find((s) => s.ask);
  const told = view.more_time[lane];
  return (
    <section className="case-moves" aria-label={say("What you can do")}>
      <h2>{say("What you can do")}</h2>
      <ProblemNote error={time.error ?? back.error ?? withdraw.error} />
      {may("more time") && (
        <p>
          <AskFirst
            question={
              told
                ? Number(told.fee) > 0
                  ? say(
                      "Your answers are then due on {{said}}, and {{currency}} {{fee}} more is to be paid. It is given once.",
                      {
                        said: told.said,
                        currency: sign(view.form.currency),
                        fee: amount(told.fee),
                      },
                    )
                  : say("Your answers are then due on {{said}}. It costs nothing and is given once.", {
                      said: told.said,
                    })
                : say("It is given once.")
            }
            yes={say("Take more time")}
            onYes={() => time.mutate()}
            className="jc-button plain small"
          >
            {say("Ask for more time")}
          </AskFirst>{" "}
          <small>{more ? more.ask : say("It is given once.")}</small>
        </p>
      )}
      {may("take back") && doing === "" && (
        <p>
          <button type="button" className="jc-button plain small" onClick={() => setDoing("take back")}>
            {say("Take it back")}
          </button>{" "}
          <small>{say("It is a draft again; what you paid waits on the account.")}</small>
        </p>
      )}
      {may("withdraw") && doing === "" && (
        <p>
          <button type="button" className="jc-button plain small" onClick={() => setDoing("withdraw")}>
            {say("Withdraw it")}
          </button>{" "}
          <small>{say("You see first what comes back.")}</small>
        </p>
      )}
      {doing !== "" && (
        <form
          className="case-moves-form"
          onSubmit={(e) => {
            e.preventDefault();
            (doing === "withdraw" ? withdraw : back).mutate();
          }}
        >
          {doing === "withdraw" && refund && (
            <div className="jc-slip">
              <ul>
                {refund.lines.map((line) => (
                  <li key={line.title}>
                    <span className="jc-slip-line">
                      <span>{line.title}</span> <span className="mono">{amount(line.amount)}</span>
                    </span>
                    <small>{line.working}</small>
                  </li>
                ))}
              </ul>
              <p className="jc-slip-total">
                <b>{say("Comes back")}</b>{" "}
                <b className="mono">
                  {sign(view.form.currency)} {amount(refund.total)}
                </b>
              </p>
              <p className="second">
                {say("{{kept}} is kept (art. {{article}}). The case is closed for good.", {
                  kept: amount(refund.kept),
                  article: refund.article,
                })}
              </p>
            </div>
          )}
          <Textarea
            label={doing === "withdraw" ? say("Why, if you like") : say("Why do you take it back?")}
            description={doing === "take back" && say("A few words; the office reads them.")}
            autosize
            minRows={2}
            value={reason}
            onChange={(e) => setReason(e.target.value)}
          />
          <button
            type="submit"
            className="jc-button small"
            disabled={back.isPending || withdraw.isPending || (doing === "take back" && reason.trim().length < 3)}
          >
            {doing === "withdraw" ? say("Withdraw the application") : say("Take the filing back")}
          </button>{" "}
          <button type="button" className="jc-link" onClick={() => setDoing("")}>
            {say("cancel")}
          </button>
        </form>
      )}
      <WhyNot moves={view.assessment.moves} />
    </section>
  );
}
