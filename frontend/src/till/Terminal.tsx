// Paying at the stand-in terminal: every outcome a card can have, said in words.
import { Checkbox } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { api, ask, insteadOf, type Schemas } from "../api/client";
import { NextSteps } from "../cases/NextSteps";
import { viewIn } from "../filing/language";
import { useCaseView } from "../shared/caseView";
import { Debts, inParts } from "../shared/Debts";
import { useHeading } from "../shared/heading";
import { Stamp } from "../shared/Marks";
import { MoneyExplained } from "../shared/MoneyExplained";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { Slip } from "../shared/Slip";
import { amount, day, sign } from "../shared/say";
import { useSession } from "../shared/session";
import { LANGUAGE, say } from "../shared/text";
import { Cards, Screen } from "./Cards";
import "./till.css";

const NOBODY = { key: "", reference: "", amount: "", currency: "", state: "", said: "", address: "" };

export function Terminal() {
  const { reference = "" } = useParams();
  const queries = useQueryClient();
  const [prepay, setPrepay] = useState(false);

  const [owed, setOwed] = useState("");
  const [asked, setAsked] = useState<Schemas["TerminalOut"] | null>(null);
  const session = useSession().data;
  const cards = session?.cards ?? true;
  const looked = useCaseView(reference);
  useHeading(looked.data !== undefined);
  const begin = useMutation({
    mutationFn: (debt: string) =>
      ask(
        api.POST("/api/cases/{reference}/payments", {
          params: { path: { reference } },
          body: { prepay: prepay && !debt, debt },
        }),
      ),
    onMutate: (debt) => setOwed(debt),
    onSuccess: (order) => {
      if (order.address) window.location.assign(order.address);
      else setAsked(order);
    },
  });
  const card = useMutation({
    mutationFn: (outcome: Schemas["TerminalIn"]["outcome"]) =>
      ask(api.POST("/api/terminal/{key}", { params: { path: { key: asked?.key ?? "" } }, body: { outcome } })),
    onSuccess: (told) => {
      setAsked(told);
      queries.invalidateQueries({ queryKey: ["case", reference] });
      queries.invalidateQueries({ queryKey: ["my-cases"] });
    },
  });
  const instead = insteadOf(looked);
  if (instead)
    return (
      <main className="jc-page">
        <ProblemNote error={instead} />
      </main>
    );
  const view = looked.data && viewIn(looked.data, LANGUAGE);
  if (!view) return <Skeleton lines={6} />;
  const a = view.assessment;
  const open = Number(a.account.open) > 0;
  const later = Number(a.account.may_prepay) > 0;
  const granted = a.clock?.step === "issue payment" || !!view.permit_code;
  const sum = prepay && later ? a.account.open_and_prepay : a.account.open;
  const accepted = view.story.some((m) => m.paper === "acceptance letter");
  const filed = view.story.find((m) => m.paper === "filing receipt");
  const paid = view.story.filter((m) => m.paper === "payment receipt").at(-1);
  const parts = inParts(a.account.debts);
  const toCome = parts && Number(a.account.later) > 0;
  const done = asked?.state === "approved" || (!open && !asked && !toCome);
  return (
    <div className="till">
      <main>
        <h1>
          {done
            ? view.permit_code
              ? asked
                ? say("Paid. Your {{grants}} is issued.", { grants: view.form.grants })
                : say("Nothing is to be paid: it is granted.")
              : asked
                ? say("Paid. The office has it now.")
                : say("Nothing is to be paid now. The office has it.")
            : granted
              ? say("Your application is granted")
              : accepted
                ? say("Your application is complete")
                : say("Your application is filed")}
        </h1>
        <div className="till-docket">
          <p>
            <small>{say("Your reference, for whenever you write or call")}</small>
            <b className="mono">{view.reference}</b>
          </p>
          <Stamp state={a.state} />
        </div>
        <p>
          {say("{{title}}. Filed on {{filing_day}} under the edition of {{in_force}}.", {
            title: view.form.title === a.title ? a.title : `${view.form.title}, ${a.title}`,
            filing_day: day(a.filing_day),
            in_force: day(view.form.in_force),
          })}{" "}
          {filed && (
            <a href={`/api/cases/${reference}/papers/${filed.no}`} target="_blank" rel="noreferrer">
              {say("Receipt of the filing, with every file and its checksum (PDF)")}
            </a>
          )}
        </p>
        <NextSteps steps={view.next_steps} />
        <Slip fees={a.fees} linkTo={() => null} filed account={a.account} debts={[]} />
        <MoneyExplained said={view.money_explained} />
        {parts && (
          <section className="till-parts">
            <h2>{say("What is owed")}</h2>
            <Debts
              debts={a.account.debts.filter((d) => d.article || Number(d.open) > 0)}
              action={
                cards && asked?.state !== "asked"
                  ? (d) => (
                      <button
                        type="button"
                        className="jc-button small plain"
                        disabled={begin.isPending}
                        onClick={() => begin.mutate(d.key)}
                      >
                        {say("Pay this")}
                        <span className="jc-hidden"> {d.title}</span>
                      </button>
                    )
                  : undefined
              }
            />
          </section>
        )}
      </main>
      <section className="till-side" aria-label={cards ? say("Payment terminal") : say("How to pay")}>
        {!cards && !done && (
          <div className="till-words">
            <h2>
              {say("To pay: {{currency}} {{amount}}", {
                currency: sign(a.fees.currency),
                amount: amount(sum as string),
              })}
            </h2>
            <p>
              {say("This office takes no cards. Pay by transfer, by cheque or in cash at the counter, and name")}{" "}
              <b className="mono">{view.reference}</b>.{" "}
              {session?.account && (
                <>
                  {say("A transfer goes to")} <b className="mono">{session.account}</b>.{" "}
                </>
              )}
              {a.clock?.limit_day
                ? say("It is booked when it has come; the last day is {{day}}.", { day: day(a.clock.limit_day) })
                : say("It is booked when it has come.")}
            </p>
          </div>
        )}
        {cards && !done && a.clock?.step === "payment" && a.clock.limit_day && (
          <p className="till-until">
            {accepted
              ? say("Pay by the end of {{day}}; after that it lapses.", { day: day(a.clock.limit_day) })
              : say("Pay by the end of {{day}}; after that it lapses. The office begins when it is paid.", {
                  day: day(a.clock.limit_day),
                })}
          </p>
        )}
        <div className="till-machine" hidden={!cards || (done && !asked)}>
          <div className="till-screen" role="status">
            <Screen
              asked={done ? { ...(asked ?? NOBODY), state: "approved" } : asked}
              sum={`${sign(a.fees.currency)} ${amount(asked?.amount || ((done ? a.account.paid : sum) as string))}`}
            />
          </div>
          <ProblemNote error={begin.error ?? card.error} />
          {!done && later && asked?.state !== "asked" && (
            <Checkbox
              checked={prepay}
              onChange={(e) => {
                setPrepay(e.target.checked);
              }}
              label={say("Pay what falls due later, {{currency}} {{value}}, now as well", {
                currency: sign(a.fees.currency),
                value: amount(a.account.may_prepay as string),
              })}
              description={say("It falls due at issue only. Until then it comes back whole if you withdraw.")}
            />
          )}
          {!done && asked?.state !== "asked" && (
            <button
              type="button"
              className="jc-button wide"
              onClick={() => begin.mutate(asked ? owed : "")}
              disabled={begin.isPending || !open}
            >
              {asked ? say("Try again") : say("Pay by card")}
            </button>
          )}
          {asked?.state === "asked" && <Cards busy={card.isPending} onHold={card.mutate} />}
          <p className="till-note">{say("This terminal is a stand-in that ships with the program. No money moves.")}</p>
        </div>
        {done && paid && (
          <p>
            <a href={`/api/cases/${reference}/papers/${paid.no}`} target="_blank" rel="noreferrer">
              {say("Receipt of the payment (PDF)")}
            </a>
          </p>
        )}
        {!done && open && (
          <p className="till-otherwise">
            <a href={`/api/cases/${reference}/payment-slip`} target="_blank" rel="noreferrer">
              {say("Payment slip for a transfer, a cheque or cash (PDF)")}
            </a>
          </p>
        )}
        <p>
          <Link to={`/cases/${reference}`} className={done ? "jc-button" : ""}>
            {done ? say("To my case") : say("Pay later, go to my case")}
          </Link>
        </p>
      </section>
    </div>
  );
}
