// One movement of the account: what the payer wrote, for which case it may be and why, and what becomes of it.
import { useDisclosure } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { Dialog } from "../shared/Dialog";
import { useHotkey } from "../shared/keys";
import { Key } from "../shared/Marks";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { amount, day, sign } from "../shared/say";
import { say } from "../shared/text";
import { awaits, type CaseAtTill, FindCase } from "./FindCase";

type View = Schemas["MovementView"];
/** What was chosen for a movement: one of its proposals by its number, or other cases with their amounts. */
export type Parts = { chosen: number } | { cases: { case: CaseAtTill; amount: string }[] };
type Aside = "keeping" | "return" | "no-case";
const MOST_KEYS = 5;

export const movementQuery = (id: string) => ({
  queryKey: ["movement", id],
  queryFn: () => ask(api.GET("/api/till/movements/{movement}", { params: { path: { movement: id } } })),
  staleTime: 5_000,
});

export function Movement({
  row,
  parts,
  onParts,
  onDecide,
}: {
  row: Schemas["MovementRow"];
  parts?: Parts;
  onParts: (parts: Parts) => void;
  onDecide: (work: () => Promise<unknown>) => void;
}) {
  const id = row.id;
  const told = useQuery(movementQuery(id));
  const [aside, setAside] = useState<Aside>("return");
  const [asking, { open, close }] = useDisclosure(false);
  const other = useRef<HTMLDivElement>(null);
  const view = told.data;
  const out = Number(row.amount) < 0;
  const own = parts && "cases" in parts ? parts.cases : [];
  const chosen = own.length > 0 ? -1 : parts && "chosen" in parts ? parts.chosen : 0;
  const path = { movement: id };
  const choose = (n: number) => onParts({ chosen: n });
  const put = (because: string, how: Aside) =>
    onDecide(() => ask(api.POST(`/api/till/movements/{movement}/${how}`, { params: { path }, body: { because } })));
  const book = async () => {
    // a quick key does not wait for the page, and never means what was there before
    const view = told.data && !told.isFetching ? told.data : (await told.refetch({ cancelRefetch: false })).data;
    if (!view) return;
    const proposal = view.proposals[chosen];
    const back = view.back[chosen];
    if (view.refund) onDecide(() => ask(api.POST("/api/till/confirmed", { body: { movements: [id] } })));
    else if (out && back)
      onDecide(() =>
        ask(
          api.POST("/api/till/movements/{movement}/taking-back", {
            params: { path },
            body: { reference: back.reference, payment: back.key, because: "" },
          }),
        ),
      );
    else {
      const placed =
        own.length > 0
          ? own.map((part) => ({ reference: part.case.reference, amount: part.amount.trim() }))
          : (proposal?.cases.map((one) => ({ reference: one.reference, amount: one.part })) ?? []);
      if (placed.length > 0)
        onDecide(() =>
          ask(api.POST("/api/till/movements/{movement}/placing", { params: { path }, body: { parts: placed } })),
        );
    }
  };
  const can =
    !view ||
    told.isFetching ||
    !!view.refund ||
    (out ? view.back.length > 0 : own.length > 0 || !!view.proposals[chosen]);
  const begin = (how: Aside) => {
    setAside(how);
    open();
  };
  const several = view ? (out ? view.back.length : view.proposals.length) : 0;
  useHotkey("Enter", () => void book(), can);
  useHotkey("k", () => put("", "keeping"), !out);
  useHotkey("x", () => begin("return"), !out && !!view);
  useHotkey("z", () => begin("no-case"), !!view);
  useHotkey("/", () => other.current?.querySelector("input")?.focus(), !!view && !out);
  useHotkey("1", () => choose(0), several > 0);
  useHotkey("2", () => choose(1), several > 1);
  useHotkey("3", () => choose(2), several > 2);
  useHotkey("4", () => choose(3), several > 3);
  useHotkey("5", () => choose(4), several > 4);

  if (told.isError) return <ProblemNote error={told.error} />;
  if (!view) return <Skeleton lines={6} />;
  return (
    <>
      <Written view={view} out={out} />
      {view.refund && (
        <p className="bank-offer marked">
          <b>{say("A refund that left the account as it was ordered")}</b>
          <span>{view.refund}</span>
        </p>
      )}
      {out && !view.refund && (
        <>
          <h2>{say("Which payment does it take back?")}</h2>
          {view.back.map((one, n) => (
            <button
              key={one.key}
              type="button"
              className={`bank-offer${n === chosen ? " marked" : ""}`}
              aria-pressed={n === chosen}
              onClick={() => choose(n)}
            >
              <b>
                {one.reference} {one.payer} {n < MOST_KEYS && <Key>{n + 1}</Key>}
              </b>
              <span>
                {say("{{amount}} of {{day}}, receipt {{receipt}}", {
                  amount: amount(one.amount),
                  day: day(one.day),
                  receipt: one.receipt,
                })}
              </span>
              <span className="bank-because">
                <i>{say("Because")}</i> {one.because}
              </span>
            </button>
          ))}
          {view.back.length === 0 && <p className="second">{say("No payment is known that this could take back.")}</p>}
        </>
      )}
      {!out && (
        <>
          <h2>{say("Which case is it for?")}</h2>
          {view.proposals.map((one, n) => (
            <button
              key={one.cases.map((c) => c.reference).join(" ")}
              type="button"
              className={`bank-offer${n === chosen ? " marked" : ""}`}
              aria-pressed={n === chosen}
              onClick={() => choose(n)}
            >
              {one.cases.map((c, k) => (
                <span key={c.reference} className="bank-case">
                  <b>
                    <span className="mono">{c.reference}</span> {c.title}
                  </b>
                  {k === 0 && n < MOST_KEYS && <Key>{n + 1}</Key>}
                  <span>
                    {awaits({ awaited: c.awaited, currency: view.currency })}
                    {c.until && `, ${say("until the end of {{day}}", { day: day(c.until) })}`}
                    {` · ${say("filed by {{name}}", { name: c.applicant })}`}
                  </span>
                  {one.cases.length > 1 && <span className="mono bank-part">{amount(c.part)}</span>}
                </span>
              ))}
              <span className="bank-because">
                <i>{say("Because")}</i> {one.because}
              </span>
            </button>
          ))}
          {view.proposals.length === 0 && (
            <p className="second">{say("Nothing is proposed: no reference, no amount and no payer agree.")}</p>
          )}
          {own.map((part) => (
            <div key={part.case.reference} className="bank-offer marked bank-own">
              <b>
                <span className="mono">{part.case.reference}</span> {part.case.title}
              </b>
              <span>
                {awaits(part.case)} · {say("filed by {{name}}", { name: part.case.applicant })} · {part.case.state}
              </span>
              <label>
                {say("Its part")}
                <input
                  className="mono"
                  inputMode="decimal"
                  value={part.amount}
                  onChange={(e) =>
                    onParts({ cases: own.map((one) => (one === part ? { ...one, amount: e.target.value } : one)) })
                  }
                />
              </label>
              <button
                type="button"
                className="jc-link"
                onClick={() => onParts({ cases: own.filter((one) => one !== part) })}
              >
                {say("not this one")}
              </button>
            </div>
          ))}
          <div className="bank-other" ref={other}>
            <FindCase
              label={own.length > 0 ? say("One more case…") : say("Another case, person or place…")}
              onCase={(found) =>
                onParts({
                  cases: [
                    ...own.filter((one) => one.case.reference !== found.reference),
                    // the first gets the whole until a second one comes
                    { case: found, amount: own.length > 0 ? found.awaited : view.amount },
                  ],
                })
              }
            />
            <Key>/</Key>
          </div>
        </>
      )}
      <p className="bank-acts">
        <button type="button" className="jc-button" disabled={!can} onClick={() => void book()}>
          {out && !view.refund ? say("Charge it back, on to the next") : say("Book it, on to the next")}{" "}
          <Key>{say("Enter")}</Key>
        </button>
        {!out && (
          <>
            <button type="button" className="jc-button plain" onClick={() => put("", "keeping")}>
              {say("Keep it unplaced")} <Key>K</Key>
            </button>
            <button type="button" className="jc-button plain" onClick={() => begin("return")}>
              {say("Send it back")} <Key>X</Key>
            </button>
          </>
        )}
        <button type="button" className="jc-button plain" onClick={() => begin("no-case")}>
          {say("Not for a case")} <Key>Z</Key>
        </button>
      </p>
      <Why
        title={
          aside === "return"
            ? say("Send {{amount}} back: why?", { amount: `${sign(view.currency)} ${amount(view.amount)}` })
            : say("Set it aside: what is it?")
        }
        opened={asking}
        onClose={close}
        onWhy={(because) => put(because, aside)}
      />
    </>
  );
}

/** What the bank tells of the movement, with the signs of a reference that are off. */
function Written({ view, out }: { view: View; out: boolean }) {
  const first = view.proposals[0];
  return (
    <section className="bank-told" aria-label={say("What the bank tells")}>
      <h2>
        {out
          ? say("{{amount}} went out", { amount: amount(view.amount) })
          : say("{{amount}} from {{payer}}", { amount: amount(view.amount), payer: view.payer || say("somebody") })}
        <span className="second">{day(view.value_day)}</span>
      </h2>
      <dl>
        <dt>{out ? say("the bank's words") : say("written by the payer")}</dt>
        <dd className="mono">
          <Signs text={view.text || say("nothing")} of={first?.written ?? ""} marks={first?.marks ?? []} />
        </dd>
        {view.reason && (
          <>
            <dt>{say("reason")}</dt>
            <dd>{view.reason}</dd>
          </>
        )}
        {view.account && (
          <>
            <dt>{say("account")}</dt>
            <dd className="mono">
              {view.account}
              {view.before && <span className="second">, {view.before}</span>}
            </dd>
          </>
        )}
        <dt>{say("number of the bank")}</dt>
        <dd className="mono">{view.mark}</dd>
      </dl>
    </section>
  );
}

/** A text in which the signs that are off are marked; `marks` count from where `of` begins in it. */
function Signs({ text, of, marks }: { text: string; of: string; marks: readonly number[] }) {
  const at = of ? text.toUpperCase().indexOf(of) : -1;
  if (at < 0 || marks.length === 0) return text;
  const off = new Set(marks.map((n) => at + n));
  return [...text].map((letter, n) =>
    // biome-ignore lint/suspicious/noArrayIndexKey: a letter has no other name than its place
    off.has(n) ? <mark key={n}>{letter}</mark> : <span key={n}>{letter}</span>,
  );
}

/** Asks why, in a few words. */
function Why(of: { title: string; opened: boolean; onClose: () => void; onWhy: (because: string) => void }) {
  const [because, setBecause] = useState("");
  return (
    <Dialog title={of.title} opened={of.opened} onClose={of.onClose}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          of.onClose();
          of.onWhy(because);
        }}
      >
        <label>
          {say("Why, in a few words")}
          <input data-autofocus value={because} maxLength={300} onChange={(e) => setBecause(e.target.value)} />
        </label>{" "}
        <button type="submit" className="jc-button" disabled={because.trim().length < 3}>
          {say("Do it")}
        </button>
      </form>
    </Dialog>
  );
}
