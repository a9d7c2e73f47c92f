// One answer of the filing, chosen by its question.
import { say } from "../shared/text";
import type { CaseView } from "./useCase";

export function WhichAnswer({
  view,
  place,
  onChoose,
  said,
}: {
  view: CaseView;
  place: string;
  onChoose: (place: string) => void;
  /** What was answered stands beside the question, and only what was answered can be chosen. */
  said?: boolean;
}) {
  return (
    <>
      <label htmlFor="step-place">{say("Which answer?")}</label>
      <select id="step-place" value={place} onChange={(e) => onChoose(e.target.value)}>
        <option value="">{say("choose")}</option>
        {view.assessment.parts.flatMap((part) =>
          part.questions
            .filter((q) => q.asked === "yes" && (!said || q.said))
            .map((q) => (
              <option key={q.place} value={q.place}>
                {said ? `${questionAt(view, part.id, q.place)}: ${q.said}` : questionAt(view, part.id, q.place)}
              </option>
            )),
        )}
      </select>
    </>
  );
}

function questionAt(view: CaseView, part: string, place: string): string {
  const own = view.form.parts.find((p) => p.id === part);
  const asked = own?.questions.find((q) => place.endsWith(`.${q.id}`));
  return asked ? `${own?.title}, ${asked.ask}` : place;
}
