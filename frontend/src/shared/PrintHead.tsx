// What stands at the head of a printed page: the office, what it is, of whom, on which day. The screen does not show it.
import { day } from "./say";
import { useSession } from "./session";
import { say } from "./text";
import "./print.css";

export function PrintHead({ title, reference }: { title: string; reference?: string }) {
  const session = useSession().data;
  return (
    <div className="jc-print-head">
      <b>{session?.office}</b>
      <p>
        {title}
        {reference && ` · ${reference}`}
      </p>
      <p>
        {session?.person?.name && `${session.person.name} · `}
        {say("printed on {{day}}", { day: day(session?.today ?? "") })}
      </p>
    </div>
  );
}

/** A button that prints the page. */
export function PrintButton({ children }: { children: string }) {
  return (
    <button type="button" className="jc-button plain small jc-no-print" onClick={() => window.print()}>
      {children}
    </button>
  );
}
