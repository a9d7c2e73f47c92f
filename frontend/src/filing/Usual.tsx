// Answers that are usual here, since they follow from others: filled in for all who have none, by one press.
import { api, ask } from "../api/client";
import { say, things } from "../shared/text";
import type { Work } from "./draft";
import "./questions.css";

export function Usual({ work, id, part }: { work: Work; id: string; part: string }) {
  const usual = work.view?.assessment.parts.find((p) => p.id === part)?.usual ?? [];
  if (usual.length === 0 || work.view?.read_only.includes(part)) return null;
  const take = (places: string[]) =>
    work.change((seen) =>
      ask(api.POST("/api/drafts/{draft}/taken", { params: { path: { draft: id } }, headers: seen, body: { places } })),
    );
  return (
    <ul className="filing-usual">
      {usual.map((one) => (
        <li key={one.question + one.raw}>
          {say("{{question}}: {{said}} is usual here, by what you answered before.", {
            question: one.ask,
            said: one.said,
          })}{" "}
          <button type="button" className="jc-button small plain" onClick={() => take(one.places)}>
            {one.places.length > 1
              ? say("Fill it in for {{all}} that have none", { all: things(one.places.length, "row") })
              : say("Fill it in")}
            <span className="jc-hidden">: {one.ask}</span>
          </button>
        </li>
      ))}
    </ul>
  );
}
