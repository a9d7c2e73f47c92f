// The points of a letter as the applicant will see them in the case: nothing here can be filled in.
import type { Schemas } from "../api/client";
import { slotOf } from "../api/place";
import { AskedPoint } from "../cases/AskedPoint";
import { say, things } from "../shared/text";
import type { CaseView } from "./useCase";
import "../cases/my-case.css";

export function AsApplicant({ view, points }: { view: CaseView; points: Schemas["PointToAsk"][] }) {
  const said = new Map(view.assessment.parts.flatMap((p) => p.questions.map((q) => [q.place, q.said])));
  return (
    <div
      className="letter-screen"
      tabIndex={0}
      role="group"
      aria-label={say("As the applicant will see it in the case")}
    >
      <h2>{say("{{points}} to put right", { points: things(points.length, "thing") })}</h2>
      {points.map((point) => (
        <AskedPoint key={point.no} point={point} needs={point.needs}>
          <p className="answering-label">{say("Your answer in words")}</p>
          <div className="letter-box" />
          {point.places.map((place) => (
            <div key={place.ref} className="answering-place">
              <p className="answering-label">{place.label}</p>
              <div className="letter-box">
                {slotOf(place.ref) ? say("Drop a file here, or choose one") : (said.get(place.ref) ?? "")}
              </div>
            </div>
          ))}
        </AskedPoint>
      ))}
    </div>
  );
}
