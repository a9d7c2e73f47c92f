// What an edition would have done to past cases: tried one after the other, with how far it has come, by what differs.
import { useState } from "react";
import { Link } from "react-router";
import { askLines } from "../api/lines";
import { ProblemNote } from "../shared/Notes";
import { useSession } from "../shared/session";
import { say, things } from "../shared/text";

type Differs = { what: string; was: string; now: string };
type Progress = { done: number; of: number; latest: { reference: string; differs: Differs[] }[] };
const SHOWN = 40;

export function PastCases({ id, faulty }: { id: string; faulty: boolean }) {
  const opens = !!useSession().data?.may?.sees_all;
  const [progress, setProgress] = useState<Progress | null>(null);
  const [cases, setCases] = useState<Progress["latest"]>([]);
  const [what, setWhat] = useState("");
  const [running, setRunning] = useState(false);
  const [error, setError] = useState<unknown>(null);
  const tryIt = async () => {
    setRunning(true);
    setError(null);
    setCases([]);
    setProgress(null);
    try {
      await askLines<Progress>(`/api/rules/editions/${id}/replay`, (told) => {
        setProgress(told);
        setCases((had) => [...had, ...told.latest.filter((one) => one.differs.length > 0)]);
      });
    } catch (caught) {
      setError(caught);
    } finally {
      setRunning(false);
    }
  };
  const counts = new Map<string, number>();
  for (const one of cases) for (const d of one.differs) counts.set(d.what, (counts.get(d.what) ?? 0) + 1);
  const shown = what ? cases.filter((one) => one.differs.some((d) => d.what === what)) : cases;
  return (
    <div>
      <p>
        <button type="button" className="jc-button plain" disabled={faulty || running} onClick={tryIt}>
          {progress ? say("Try it again") : say("Try it on past cases")}
        </button>
      </p>
      <ProblemNote error={error} />
      {progress && (
        <>
          <progress value={progress.done} max={Math.max(progress.of, 1)} aria-label={say("How far it has come")} />
          <p role="status">
            {say("{{done}} of {{cases}} tried", { done: progress.done, cases: things(progress.of, "case") })}{" "}
            <b>{say("{{count}} would differ", { count: cases.length })}</b>
          </p>
        </>
      )}
      {counts.size > 0 && (
        <p className="desk-switch" role="group" aria-label={say("By what differs")}>
          <button type="button" aria-pressed={what === ""} onClick={() => setWhat("")}>
            {say("all")}
          </button>
          {[...counts].map(([name, count]) => (
            <button key={name} type="button" aria-pressed={what === name} onClick={() => setWhat(name)}>
              {name} <small>{count}</small>
            </button>
          ))}
        </p>
      )}
      {shown.length > 0 && (
        <table className="rules-past">
          <thead>
            <tr>
              <th scope="col">{say("Case")}</th>
              <th scope="col">{say("What differs")}</th>
              <th scope="col">{say("then")}</th>
              <th scope="col">{say("would be")}</th>
            </tr>
          </thead>
          <tbody>
            {shown.slice(0, SHOWN).flatMap((one) =>
              one.differs
                .filter((d) => !what || d.what === what)
                .map((d) => (
                  <tr key={`${one.reference} ${d.what}`}>
                    <td className="mono">
                      {opens ? <Link to={`/desk/${one.reference}`}>{one.reference}</Link> : one.reference}
                    </td>
                    <td>{d.what}</td>
                    <td>{d.was}</td>
                    <td>
                      <b>{d.now}</b>
                    </td>
                  </tr>
                )),
            )}
          </tbody>
        </table>
      )}
      {shown.length > SHOWN && <p className="second">{say("and {{more}} more", { more: shown.length - SHOWN })}</p>}
    </div>
  );
}
