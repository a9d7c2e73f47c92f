// For the leads: money that fits no case, refunds that are to leave, and what left lately.
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, ask } from "../api/client";
import type { components } from "../api/schema";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { amount, dayOf, exactly, sign } from "../shared/say";
import { say, things } from "../shared/text";
import "../people/people.css";
import "./money.css";

type Ledger = components["schemas"]["Ledger"];
type Loose = Ledger["not_placed"][number];

export function Money() {
  const told = useQuery({ queryKey: ["money"], queryFn: () => ask(api.GET("/api/money")) });
  const queries = useQueryClient();
  const again = () => queries.invalidateQueries({ queryKey: ["money"] });
  return (
    <main className="jc-page people">
      <h1>{say("Money")}</h1>
      <ProblemNote error={told.error} />
      {told.isPending && <Skeleton lines={6} />}
      {told.data && (
        <>
          <Refunds ledger={told.data} again={again} />
          <NotPlaced rows={told.data.not_placed} again={again} />
          <Left rows={told.data.left} />
        </>
      )}
    </main>
  );
}

function Sum({ currency, of }: { currency: string; of: string }) {
  return (
    <td className="mono num">
      {sign(currency)} {amount(of)}
    </td>
  );
}

function Case({ reference }: { reference: string }) {
  return <td className="mono">{reference ? <Link to={`/desk/${reference}`}>{reference}</Link> : say("no case")}</td>;
}

function Refunds({ ledger, again }: { ledger: Ledger; again: () => void }) {
  const [left, setLeft] = useState<ReadonlySet<number>>(new Set());
  const [accounts, setAccounts] = useState<Record<number, string>>({});
  const [error, setError] = useState<unknown>(null);
  const [busy, setBusy] = useState(false);
  const chosen = ledger.refunds.filter((r) => !left.has(r.id));
  const lacking = chosen.filter((r) => r.needs_account && (accounts[r.id] ?? r.account).trim().length < 4);
  const approve = async () => {
    setBusy(true);
    setError(null);
    try {
      await ask(api.POST("/api/money/refunds", { body: { refunds: chosen.map((r) => r.id), accounts } }));
      again();
    } catch (problem) {
      setError(problem);
    }
    setBusy(false);
  };
  return (
    <section aria-labelledby="refunds">
      <h2 id="refunds">{say("Refunds to approve")}</h2>
      {ledger.refunds.length === 0 && <p>{say("No refund waits.")}</p>}
      {ledger.refunds.length > 0 && (
        <>
          <p className="second">
            {say(
              "Each goes back the way its money came. Until you approve it, it stands in its case as a refund that is due.",
            )}
          </p>
          <table>
            <thead>
              <tr>
                <th scope="col">{say("Leaves")}</th>
                <th scope="col">{say("Due since")}</th>
                <th scope="col">{say("Case")}</th>
                <th scope="col">{say("To")}</th>
                <th scope="col" className="num">
                  {say("Amount")}
                </th>
                <th scope="col">{say("Why")}</th>
                <th scope="col">{say("How")}</th>
              </tr>
            </thead>
            <tbody>
              {ledger.refunds.map((r) => (
                <tr key={r.id}>
                  <td>
                    <input
                      type="checkbox"
                      aria-label={say("{{amount}} to {{name}} leaves", { amount: amount(r.amount), name: r.payer })}
                      checked={!left.has(r.id)}
                      onChange={() => {
                        const next = new Set(left);
                        if (!next.delete(r.id)) next.add(r.id);
                        setLeft(next);
                      }}
                    />
                  </td>
                  <td>{dayOf(r.due_at)}</td>
                  <Case reference={r.reference} />
                  <td>{r.payer || say("not known")}</td>
                  <Sum currency={r.currency} of={r.amount} />
                  <td>{r.because}</td>
                  <td>
                    {r.needs_account ? (
                      <input
                        aria-label={say("Account of {{name}}", { name: r.payer || say("the payer") })}
                        placeholder={say("account, as the payer named it")}
                        value={accounts[r.id] ?? r.account}
                        maxLength={60}
                        onChange={(e) => setAccounts({ ...accounts, [r.id]: e.target.value })}
                      />
                    ) : (
                      r.way
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <ProblemNote error={error} />
          {lacking.length > 0 && (
            <p className="second">
              {say("Without an account: {{refunds}}.", { refunds: things(lacking.length, "refund") })}
            </p>
          )}
          <button
            type="button"
            className="jc-button"
            disabled={busy || chosen.length === 0 || lacking.length > 0}
            onClick={approve}
          >
            {say("Approve {{refunds}}", { refunds: things(chosen.length, "refund") })}
          </button>
        </>
      )}
    </section>
  );
}

function NotPlaced({ rows, again }: { rows: Loose[]; again: () => void }) {
  const [open, setOpen] = useState("");
  return (
    <section aria-labelledby="not-placed">
      <h2 id="not-placed">{say("Not placed")}</h2>
      {rows.length === 0 && <p>{say("Everything that came is placed.")}</p>}
      {rows.length > 0 && (
        <>
          <p className="second">
            {say(
              "This money came, but it fits no order or no case. Nothing of it is booked. Find out whose it is, then place it on the case or let it go back.",
            )}
          </p>
          <table>
            <thead>
              <tr>
                <th scope="col">{say("Came")}</th>
                <th scope="col">{say("How")}</th>
                <th scope="col">{say("From")}</th>
                <th scope="col" className="num">
                  {say("Left")}
                </th>
                <th scope="col">{say("Why it does not fit")}</th>
                <th scope="col">{say("Case")}</th>
                <th scope="col">{say("Step")}</th>
              </tr>
            </thead>
            <tbody>
              {rows.map((n) => (
                <tr key={n.id}>
                  <td>{exactly(n.at)}</td>
                  <td>
                    {n.means} <span className="mono">{n.mark.slice(0, 16)}</span>
                  </td>
                  <td>{n.payer || say("not known")}</td>
                  <Sum currency={n.currency} of={n.left} />
                  <td>{n.why}</td>
                  <Case reference={n.reference} />
                  <td>
                    {open === n.id ? (
                      <Place row={n} again={again} onLeave={() => setOpen("")} />
                    ) : (
                      <button type="button" className="jc-link" onClick={() => setOpen(n.id)}>
                        {say("place it or send it back")}
                      </button>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
    </section>
  );
}

function Place({ row, again, onLeave }: { row: Loose; again: () => void; onLeave: () => void }) {
  const [reference, setReference] = useState(row.reference);
  const [sum, setSum] = useState(String(row.left));
  const [error, setError] = useState<unknown>(null);
  const params = { path: { money: row.id } };
  const run = async (work: () => Promise<unknown>) => {
    setError(null);
    try {
      await work();
      onLeave();
      again();
    } catch (problem) {
      setError(problem);
    }
  };
  return (
    <form
      className="money-place"
      onSubmit={(e) => {
        e.preventDefault();
        run(() =>
          ask(api.POST("/api/money/{money}/placing", { params, body: { reference: reference.trim(), amount: sum } })),
        );
      }}
    >
      <label>
        {say("Case")}
        <input value={reference} onChange={(e) => setReference(e.target.value)} maxLength={40} />
      </label>
      <label>
        {say("Amount")}
        <input inputMode="decimal" value={sum} onChange={(e) => setSum(e.target.value)} maxLength={14} />
      </label>
      <ProblemNote error={error} />
      <button type="submit" className="jc-button small" disabled={reference.trim().length < 3 || !(Number(sum) > 0)}>
        {say("Place it")}
      </button>{" "}
      <button
        type="button"
        className="jc-link"
        onClick={() => run(() => ask(api.POST("/api/money/{money}/return", { params })))}
      >
        {say("let it go back")}
      </button>{" "}
      <button type="button" className="jc-link" onClick={onLeave}>
        {say("cancel")}
      </button>
    </form>
  );
}

function Left({ rows }: { rows: Ledger["left"] }) {
  if (rows.length === 0) return null;
  return (
    <section aria-labelledby="left">
      <h2 id="left">{say("Left lately")}</h2>
      <table>
        <thead>
          <tr>
            <th scope="col">{say("Left")}</th>
            <th scope="col">{say("Case")}</th>
            <th scope="col" className="num">
              {say("Amount")}
            </th>
            <th scope="col">{say("How")}</th>
            <th scope="col">{say("Approved by")}</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => (
            <tr key={r.id}>
              <td>{exactly(r.at)}</td>
              <Case reference={r.reference} />
              <Sum currency={r.currency} of={r.amount} />
              <td>{r.way}</td>
              <td>{r.approved_by}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
