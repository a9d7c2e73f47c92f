// What comes next in a case, each with its day or after what.
import type { CaseView } from "../api/views";
import { shortDay } from "../shared/say";
import { say } from "../shared/text";
import "./story.css";

export function NextSteps({ steps }: { steps: CaseView["next_steps"] }) {
  if (steps.length === 0) return null;
  return (
    <>
      <h2>{say("What comes next")}</h2>
      <ol className="story to-come">
        {steps.map((s) => (
          <li key={`${s.day}${s.text}`}>
            <time>{s.day ? shortDay(s.day) : s.after}</time>
            <span>{s.text}</span>
          </li>
        ))}
      </ol>
    </>
  );
}
