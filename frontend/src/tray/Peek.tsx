// A look at the case that is marked in the in-tray: its clock, what came back, its account, what happened lately, who has it.
import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { Key, Stamp } from "../shared/Marks";
import { Skeleton } from "../shared/Notes";
import { clockWords, Ribbon } from "../shared/Ribbon";
import { amount, exactly, since } from "../shared/say";
import { say } from "../shared/text";
import { Owner } from "./Picked";
import "./peek.css";

/** So much of what happened since one looked is told in the margin; the history has the rest. */
const MOST_SINCE = 5;

export function Peek({
  row,
  judges,
  me,
  picked,
  onPick,
}: {
  row: Omit<Schemas["Row"], "squares">;
  judges: boolean;
  me: string;
  picked: ReadonlySet<string>;
  onPick: (reference: string) => void;
}) {
  const navigate = useNavigate();
  const glance = useQuery({
    queryKey: ["summary", row.reference, row.changed_at],
    queryFn: () => ask(api.GET("/api/cases/{reference}/summary", { params: { path: { reference: row.reference } } })),
  });
  const view = glance.data;
  return (
    <>
      <p className="tray-beside">
        <span className="mono">{row.reference}</span>
        {judges && (
          <button type="button" className="jc-link" onClick={() => onPick(row.reference)}>
            {picked.has(row.reference) ? say("pick it no more") : say("pick it")}
          </button>
        )}
      </p>
      <h2>{row.title}</h2>
      <div className="tray-beside">
        <Stamp state={row.state} />
        {judges && <Owner row={row} me={me} />}
      </div>
      {!view && <Skeleton lines={5} />}
      {view?.clock && (
        <>
          <Ribbon clock={view.clock} />
          <p className="tray-clock">
            <b>{clockWords(view.clock)[0]}</b> · {clockWords(view.clock)[1]}
          </p>
        </>
      )}
      {view?.looked_at && view.since.length > 0 && (
        <section>
          <h3 title={exactly(view.looked_at)}>
            {say("Since you last looked, {{when}}", { when: since(view.looked_at) })}
          </h3>
          <ul>
            {view.since.slice(-MOST_SINCE).map((m) => (
              <li key={m.no} title={exactly(m.at)}>
                {m.text}
              </li>
            ))}
          </ul>
        </section>
      )}
      {view && view.came_back.length + view.unasked.length > 0 && (
        <section>
          <h3>{say("What came back")}</h3>
          <ul>
            {view.came_back.map((line) => (
              <li key={line}>{line}</li>
            ))}
            {view.unasked.map((line) => (
              <li key={line}>
                <b className="madder">{say("Changed without being asked:")}</b> {line}
              </li>
            ))}
          </ul>
        </section>
      )}
      {view && (
        <section>
          <h3>{say("Fees")}</h3>
          <ul className="tray-fees">
            {view.fees.map((l) => (
              <li key={l.id}>
                <span>{l.title}</span>
                <span className="mono">{l.amount !== null ? amount(l.amount) : "open"}</span>
              </li>
            ))}
            <li>
              <span>{say("Paid")}</span>
              <span className="mono">{amount(view.paid)}</span>
            </li>
            {Number(view.over) > 0 && (
              <li className="madder">
                <b>{say("Fees would fall by")}</b>
                <b className="mono">{amount(view.over)}</b>
              </li>
            )}
          </ul>
        </section>
      )}
      {view && (
        <section>
          <h3>{say("Lately")}</h3>
          <ul>
            {[...view.lately].reverse().map((m) => (
              <li key={m.no} title={exactly(m.at)}>
                {m.text}
              </li>
            ))}
          </ul>
          {view.looked_at === null && <p className="second">{say("You have not opened it yet.")}</p>}
        </section>
      )}
      <button type="button" className="jc-button" onClick={() => navigate(`/desk/${row.reference}`)}>
        {say("Open")} <Key>{say("Enter")}</Key>
      </button>
    </>
  );
}
