// The day at the till as a slip: what came, what went, what has to lie in the drawer; opened and closed with what was counted.
import { useState } from "react";
import { Link } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { amount, day, timeOf } from "../shared/say";
import { useSession } from "../shared/session";
import { say, things } from "../shared/text";

type TillView = Schemas["TillView"];
type Day = Schemas["DayView"];
type Does = (work: () => Promise<unknown>, told?: string) => Promise<boolean>;

export function ThisDay({ till, left, does }: { till: TillView; left: number; does: Does }) {
  const [drawer] = till.days;
  const lead = useSession().data?.may?.pages.includes("money");
  return (
    <aside className="pile-where bank-day-of" aria-label={say("This day")}>
      <div className="jc-slip">
        <h2>{drawer ? say("This day") : say("Since the last closing")}</h2>
        {drawer && <Line of={say("Opened with")} sum={drawer.totals.opened_with} />}
        <Totals totals={drawer?.totals ?? till.totals} drawer={drawer !== undefined} />
      </div>
      {till.days.map((one) => (
        <Drawer key={one.id} day={one} left={left} several={till.days.length > 1} does={does} />
      ))}
      {!till.days.some((one) => one.mine) && <Open does={does} several={till.days.length > 0} />}
      {till.waiting_refunds > 0 && (
        <p>
          <b>{say("Waits for a lead")}</b>
          <br />
          {lead ? (
            <Link to="/money">
              {say("{{refunds}} to approve", { refunds: things(till.waiting_refunds, "refund") })}
            </Link>
          ) : (
            say("{{refunds}} to approve", { refunds: things(till.waiting_refunds, "refund") })
          )}
        </p>
      )}
      {till.to_send > 0 && (
        <p>
          <b>{say("To be sent to the bank")}</b>
          <br />
          <Link to="/till/closings">
            {say("{{refunds}} in no file yet", { refunds: things(till.to_send, "refund") })}
          </Link>
        </p>
      )}
    </aside>
  );
}

function Line({ of, sum, strong }: { of: string; sum: string; strong?: boolean }) {
  return (
    <p className={strong ? "jc-slip-total" : "jc-slip-line bank-line"}>
      <span>{of}</span>
      <span className="mono">{amount(sum)}</span>
    </p>
  );
}

/** What a day comes to, line by line. */
export function Totals({ totals: t, drawer }: { totals: Schemas["DayTotals"]; drawer: boolean }) {
  return (
    <>
      <Line of={say("Cash taken")} sum={t.cash} />
      <Line of={say("Cards")} sum={t.cards} />
      <Line of={say("Transfers placed")} sum={t.transfers} />
      <Line of={say("Cheques")} sum={t.cheques} />
      <Line of={say("Paid back")} sum={negative(t.paid_back)} />
      <Line of={say("Charged back")} sum={negative(t.charged_back)} />
      <Line
        strong
        of={
          t.first_receipt && t.first_receipt === t.last_receipt
            ? say("Receipt {{number}}", { number: t.first_receipt })
            : t.first_receipt
              ? say("Receipts {{first}} to {{last}}", { first: t.first_receipt, last: t.last_receipt })
              : say("Receipts")
        }
        sum={t.receipts}
      />
      <Line of={say("on cases, or not placed")} sum={t.booked} />
      <p className={t.agrees ? "bank-agrees" : "bank-differs"}>
        <b>{t.agrees ? say("agree") : say("do not agree: ask whoever minds the program to verify")}</b>
      </p>
      <hr />
      <Line of={say("Not placed yet")} sum={t.not_placed} />
      {drawer && <Line of={say("In the drawer should be")} sum={t.drawer} />}
    </>
  );
}

const negative = (sum: string) => (Number(sum) === 0 ? sum : `-${sum}`);

function Open({ does, several }: { does: Does; several: boolean }) {
  const [sum, setSum] = useState("");
  const [name, setName] = useState("");
  return (
    <form
      className="bank-form"
      onSubmit={(e) => {
        e.preventDefault();
        does(
          () => ask(api.POST("/api/till/days", { body: { opened_with: sum.trim(), till: name } })),
          say("The till is open."),
        );
      }}
    >
      <label>
        {say("Counted in the drawer")}
        <input className="mono" inputMode="decimal" value={sum} onChange={(e) => setSum(e.target.value)} />
      </label>
      {several && (
        <label>
          {say("Name of this till")}
          <input value={name} maxLength={40} onChange={(e) => setName(e.target.value)} />
        </label>
      )}
      <button type="submit" className="jc-button" disabled={!sum.trim() || (several && !name.trim())}>
        {several ? say("Open another till") : say("Open the till")}
      </button>
      <p className="second">{say("Cash is taken and given at an open till only.")}</p>
    </form>
  );
}

function Drawer({ day: one, left, several, does }: { day: Day; left: number; several: boolean; does: Does }) {
  const [sum, setSum] = useState("");
  const [because, setBecause] = useState("");
  const [asked, setAsked] = useState(false);
  const path = { day: one.id };
  const opened = say("{{till}}, opened {{day}} {{time}} by {{name}}", {
    till: one.till,
    day: day(one.day),
    time: timeOf(one.opened_at),
    name: one.opened_by,
  });
  if (one.waits_for_second)
    return (
      <section className="bank-form" aria-label={one.till}>
        <p className="second">{opened}</p>
        <p>
          {say("{{counted}} was counted, a difference of {{difference}}: {{because}}.", {
            counted: amount(one.counted),
            difference: amount(one.difference),
            because: one.because,
          })}
        </p>
        {one.second ? (
          <button
            type="button"
            className="jc-button"
            onClick={() =>
              does(() => ask(api.POST("/api/till/days/{day}/second", { params: { path } })), say("The day is closed."))
            }
          >
            {say("I looked at it: close the day")}
          </button>
        ) : (
          <>
            <p role="status">{say("A second person looks at this difference before the day is closed.")}</p>
            <button
              type="button"
              className="jc-button plain"
              onClick={() => does(() => ask(api.DELETE("/api/till/days/{day}/closing", { params: { path } })))}
            >
              {say("Count again")}
            </button>
          </>
        )}
      </section>
    );
  return (
    <form
      className="bank-form"
      aria-label={one.till}
      onSubmit={(e) => {
        e.preventDefault();
        does(
          () =>
            ask(api.POST("/api/till/days/{day}/closing", { params: { path }, body: { counted: sum.trim(), because } })),
          say("The drawer is counted."),
        ).then((done) => setAsked(!done));
      }}
    >
      {(several || !one.mine) && <p className="second">{opened}</p>}
      <label>
        {say("Counted in the drawer")}
        <input className="mono" inputMode="decimal" value={sum} onChange={(e) => setSum(e.target.value)} />
      </label>
      {(asked || because) && (
        <label>
          {say("Why it differs, if it does")}
          <input value={because} maxLength={300} onChange={(e) => setBecause(e.target.value)} />
        </label>
      )}
      <button type="submit" className="jc-button plain" disabled={!sum.trim() || left > 0}>
        {say("Close the day")}
      </button>
      {left > 0 && (
        <p className="second">{say("Not yet: {{movements}} to look at.", { movements: things(left, "movement") })}</p>
      )}
    </form>
  );
}
