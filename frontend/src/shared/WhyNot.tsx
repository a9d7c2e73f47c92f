// What cannot be done now, and why not.
import type { Schemas } from "../api/client";
import { say } from "./text";
import "./notes.css";

export function WhyNot({ moves }: { moves: Schemas["Move"][] }) {
  const stopped = moves.filter((m) => !m.allowed);
  if (stopped.length === 0) return null;
  return (
    <details className="why-not">
      <summary>{say("What cannot be done now, and why")}</summary>
      <dl>
        {stopped.map((m) => (
          <div key={m.move}>
            <dt>{m.move}</dt>
            <dd>{m.why_not[0]?.text}</dd>
          </div>
        ))}
      </dl>
    </details>
  );
}
