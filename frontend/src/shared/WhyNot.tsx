// What cannot be done now, and why not.
import type { Schemas } from "../api/client";
import { say } from "./text";
import "./notes.css";

/** What a step is called, those of an applicant in the language of the screen. */
const CALLED: Record<string, string> = {
  file: say("file"),
  pay: say("pay"),
  "send the answers": say("send the answers"),
  "take back": say("take back"),
  withdraw: say("withdraw"),
  "more time": say("more time"),
  write: say("write"),
};

export function WhyNot({ moves }: { moves: Schemas["Move"][] }) {
  const stopped = moves.filter((m) => !m.allowed);
  if (stopped.length === 0) return null;
  return (
    <details className="why-not">
      <summary>{say("What cannot be done now, and why")}</summary>
      <dl>
        {stopped.map((m) => (
          <div key={m.move}>
            <dt>{CALLED[m.move] ?? m.move}</dt>
            <dd>{m.why_not[0]?.text}</dd>
          </div>
        ))}
      </dl>
    </details>
  );
}
