// Several cases paid at the terminal at once: which ones, the sum, one receipt.
import { Checkbox } from "@mantine/core";
import { useDocumentTitle } from "@mantine/hooks";
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { useHeading } from "../shared/heading";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { amount, day, sign } from "../shared/say";
import { useSession } from "../shared/session";
import { say } from "../shared/text";
import { Cards, Screen } from "./Cards";
import "./till.css";

export function Basket() {
  const queries = useQueryClient();
  const cards = useSession().data?.cards ?? true;
  const [out, setOut] = useState<string[]>([]);
  const [asked, setAsked] = useState<Schemas["TerminalOut"] | null>(null);
  const owed = useQuery({
    queryKey: ["basket"],
    queryFn: () => ask(api.GET("/api/basket")),
    refetchOnWindowFocus: false,
  });
  useHeading(owed.isSuccess);
  useDocumentTitle(say("Pay several at once"));
  const all = owed.data ?? [];
  const chosen = all.filter((one) => !out.includes(one.reference));
  const begin = useMutation({
    mutationFn: () => ask(api.POST("/api/basket", { body: { references: chosen.map((one) => one.reference) } })),
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
      for (const key of ["my-cases", "case"]) queries.invalidateQueries({ queryKey: [key] });
    },
  });
  const done = asked?.state === "approved";
  const open = asked?.state === "asked";
  const currencies = new Set(chosen.map((one) => one.currency));
  const [currency = "EUR"] = currencies;
  const references = chosen.map((one) => one.reference);
  const together = useQuery({
    queryKey: ["basket", ...references],
    queryFn: () => ask(api.POST("/api/basket/sum", { body: { references } })),
    enabled: references.length > 1 && currencies.size === 1 && !asked,
    placeholderData: keepPreviousData,
  });
  if (owed.isPending) return <Skeleton lines={5} />;
  const told = asked?.amount ?? (references.length > 1 ? together.data?.amount : undefined);
  const sum = told ? `${sign(currency)} ${amount(told)}` : "";
  return (
    <div className="till">
      <main>
        <h1 tabIndex={-1}>{done ? say("Paid. One receipt stands in each case.") : say("Pay several at once")}</h1>
        <ProblemNote error={owed.error} />
        {all.length === 0 && <p>{say("Nothing is to be paid now.")}</p>}
        <ul className="till-basket">
          {(done || open ? chosen : all).map((one) => (
            <li key={one.reference}>
              {done || open ? (
                <span>
                  {done ? <Link to={`/cases/${one.reference}`}>{one.title}</Link> : one.title}{" "}
                  <span className="second mono">{one.reference}</span>
                </span>
              ) : (
                <Checkbox
                  label={one.title}
                  description={
                    <>
                      <span className="mono">{one.reference}</span>
                      {one.until && ` · ${say("until the end of {{day}}", { day: day(one.until) })}`}
                    </>
                  }
                  checked={!out.includes(one.reference)}
                  onChange={(e) =>
                    setOut(e.target.checked ? out.filter((r) => r !== one.reference) : [...out, one.reference])
                  }
                />
              )}
              <span className="mono">
                {sign(one.currency)} {amount(one.amount)}
              </span>
            </li>
          ))}
        </ul>
      </main>
      <section className="till-side" aria-label={say("Payment terminal")}>
        {cards ? (
          <div className="till-machine">
            <div className="till-screen" role="status">
              <Screen asked={asked} sum={sum} />
            </div>
            <ProblemNote error={begin.error ?? card.error} />
            {currencies.size > 1 && <p>{say("These are owed in several currencies; pay them apart.")}</p>}
            {!done && !open && (
              <button
                type="button"
                className="jc-button wide"
                onClick={() => begin.mutate()}
                disabled={begin.isPending || chosen.length < 2 || currencies.size > 1}
              >
                {asked ? say("Try again") : say("Pay by card")}
              </button>
            )}
            {chosen.length < 2 && !done && <p className="second">{say("Choose at least two cases.")}</p>}
            {open && <Cards busy={card.isPending} onHold={card.mutate} />}
            <p className="till-note">
              {say("This terminal is a stand-in that ships with the program. No money moves.")}
            </p>
          </div>
        ) : (
          <p>
            {say("This office takes no cards. Pay each by transfer, by cheque or in cash, and name its reference.")}
          </p>
        )}
        <p>
          <Link to="/cases" className={done ? "jc-button" : ""}>
            {say("To my cases")}
          </Link>
        </p>
      </section>
    </div>
  );
}
