// What to bring: each document with how it stands, those of one repeat together.
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { Tab } from "../shared/Marks";
import { say, things } from "../shared/text";
import { contradicted, type DraftView, itemName, notAskedFor, saidAt } from "./draft";
import "./bring.css";

/** What to bring: each document; those of one person or one stall together, folded to what is missing. */
export function Bring({ view, base }: { view: DraftView; base: string }) {
  const documents = view.assessment.requirements.filter((r) => r.kind === "document");
  const items = [...new Set(documents.map((r) => r.item).filter(Boolean))];
  return (
    <>
      <BringList view={view} requirements={documents.filter((r) => !r.item)} base={base} />
      {items.map((item) => {
        const own = documents.filter((r) => r.item === item && r.proposed !== "not asked");
        const needed = own.filter((r) => r.asked);
        const missing = own.filter((r) => r.proposed === "wanting" && r.stops_filing).length;
        return (
          <details key={item} className="filing-bring-item">
            <summary>
              {itemName(view, item)}{" "}
              <small className={missing ? "madder" : needed.length ? "moss" : "second"}>
                {missing
                  ? say("{{missing}} of {{own}} missing", { missing, own: needed.length })
                  : needed.length
                    ? say("all there")
                    : own.length
                      ? say("not known yet")
                      : say("nothing needed")}
              </small>
            </summary>
            <BringList view={view} requirements={own} base={base} />
          </details>
        );
      })}
    </>
  );
}

/** What is asked stands open; what may still be asked, and what is not, is folded, each with its reason. */
function BringList({
  view,
  requirements,
  base,
}: {
  view: DraftView;
  requirements: Schemas["RequirementView"][];
  base: string;
}) {
  const left = notAskedFor(view);
  const not = requirements.filter((r) => left.has(r.id));
  const maybe = requirements.filter((r) => !r.asked && r.proposed === "not known yet");
  const asked = requirements.filter((r) => !not.includes(r) && !maybe.includes(r));
  return (
    <>
      <BringRows view={view} requirements={asked} base={base} free />
      {maybe.length > 0 && (
        <details className="filing-bring-more">
          <summary>
            {say("{{documents}} may still be asked for", { documents: things(maybe.length, "document") })}
          </summary>
          <BringRows view={view} requirements={maybe} base={base} />
        </details>
      )}
      {not.length > 0 && (
        <details className="filing-bring-more">
          <summary>{say("{{documents}} not asked for", { documents: things(not.length, "document") })}</summary>
          <BringRows view={view} requirements={not} base={base} />
        </details>
      )}
    </>
  );
}

/** `free`: what is not asked for may be added if one likes. */
function BringRows({
  view,
  requirements,
  base,
  free,
}: {
  view: DraftView;
  requirements: Schemas["RequirementView"][];
  base: string;
  free?: boolean;
}) {
  return (
    <ul className="filing-bring">
      {requirements.map((r) => {
        const said = r.files.length > 0 ? saidAt(view, r.id) : []; // a file that something else contradicts
        const shown = contradicted(said) ?? (r.proposed === "to read" ? "met" : r.proposed);
        const names = r.files.map((f) => f.name).join(", ");
        const faults = r.findings.filter((f) => f.weight === "fault");
        // what somebody else delivers is no task of this page
        const others = shown === "wanting" && !r.stops_filing;
        return (
          <li key={r.id} className={shown === "not asked" ? "quiet" : ""}>
            <Tab standing={others ? "to read" : shown} given />
            <Link to={`${base}/documents#${r.places[0]?.ref ?? r.id}`}>{r.plain_title}</Link>
            <small className={shown === "wanting" && !others ? "madder" : ""}>
              {r.files.length === 0
                ? shown === "wanting" && r.stops_filing
                  ? say("nothing yet")
                  : free && shown === "not asked"
                    ? say("if you like")
                    : r.because
                : r.proposed === "to read"
                  ? (said[0]?.text ?? say("{{names}}, read", { names }))
                  : faults.length > 1
                    ? say("{{first}} And {{more}} more.", { first: faults[0]?.text, more: faults.length - 1 })
                    : r.because}
            </small>
          </li>
        );
      })}
    </ul>
  );
}
