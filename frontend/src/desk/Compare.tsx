// The evidence of one point in the version before and after, side by side.
import type { Schemas } from "../api/client";
import { placeOf, slotOf } from "../api/place";
import { FileLook } from "../shared/PdfView";
import { dayOf, size } from "../shared/say";
import { say } from "../shared/text";
import type { Item } from "./items";
import { type Side, TwoFiles } from "./TwoFiles";
import { type CaseView, fileUrl } from "./useCase";
import "./answers.css";
import "./checklist.css";
import "./rule.css";
import "../shared/pdf.css";

/** The evidence of one point in the version before and after. */
export function Compare({ view, item, version }: { view: CaseView; item: Item; version?: Schemas["RoundView"] }) {
  const after = view.versions.find((v) => v.no === version?.answer_version) ?? view.versions.at(-1);
  const before = view.versions.find((v) => v.no === version?.version) ?? after;
  const slot = item.places.map(slotOf).find(Boolean);
  const was = before?.files.filter((f) => f.attachment.slot === slot).at(-1);
  const is = after?.files.filter((f) => f.attachment.slot === slot).at(-1);
  if (!slot)
    return (
      <div className="desk-compared">
        <table className="desk-table compare">
          <thead>
            <tr>
              <th scope="col">{say("Question")}</th>
              <th scope="col">{say("Version {{no}}", { no: before?.no })}</th>
              <th scope="col">{say("Version {{no}}", { no: after?.no })}</th>
            </tr>
          </thead>
          <tbody>
            {item.places.map((place) => {
              const all = [
                ...(version?.points.flatMap((p) => p.changes) ?? []),
                ...(version?.unasked.map((u) => u.change) ?? []),
              ];
              const change = all.find((c) => c.place === place);
              const { head: part, question } = placeOf(place);
              const asked = view.form.parts.find((p) => p.id === part)?.questions.find((q) => q.id === question);
              const same = String(
                (after?.dossier.answers[part] as Record<string, unknown> | undefined)?.[question] ??
                  say("not answered"),
              );
              return (
                <tr key={place}>
                  <th scope="row">{asked?.ask ?? place}</th>
                  <td>{change ? change.was || "nothing" : same}</td>
                  <td className={change ? "changed" : ""}>{change ? change.now || "nothing" : "unchanged"}</td>
                </tr>
              );
            })}
            {view.assessment.computed
              .filter((c) => c.beside.some((b) => item.places.includes(b)))
              .map((c) => (
                <tr key={c.id}>
                  <th scope="row">{say("{{title}}, now", { title: c.title })}</th>
                  <td colSpan={2}>{c.working}</td>
                </tr>
              ))}
          </tbody>
        </table>
      </div>
    );
  return (
    <>
      {before && after && was && is ? (
        <TwoFiles first={sideOf(view, before, was)} second={sideOf(view, after, is)} keys />
      ) : (
        <div className="desk-sides">
          {[was, is].map((file, n) => (
            <section
              key={n === 0 ? "was" : "is"}
              aria-label={n === 0 ? say("The version before") : say("The version now")}
            >
              <p>
                <b>{file?.attachment.name ?? say("nothing")}</b>
              </p>
              {file ? (
                <FileLook url={fileUrl(view.reference, file)} file={file} keys />
              ) : (
                <p className="jc-pdf-trouble">{say("Nothing was attached here.")}</p>
              )}
            </section>
          ))}
        </div>
      )}
      <ReadInBoth view={view} before={was} now={is} changes={item.point?.changes ?? []} />
    </>
  );
}

/** A file of a version, to be compared. */
function sideOf(view: CaseView, version: Schemas["VersionView"], file: Schemas["FileView"]): Side {
  const label = say("{{name}}, version {{no}}, {{day}}", {
    name: file.attachment.name,
    no: version.no,
    day: dayOf(version.at),
  });
  return { url: fileUrl(view.reference, file), label, file };
}

/** What the agreement tables found in a file, or looked for in vain; and in the one before, where that still counts. */
function foundIn(view: CaseView, now?: Schemas["FileView"], before?: Schemas["FileView"]): [string, string, string][] {
  return view.assessment.requirements.flatMap(({ table }) => {
    const of = (file?: Schemas["FileView"]) =>
      table?.statements.find((s) => file && s.file === file.attachment.id)?.said;
    const found = of(now);
    return table && found ? [[table.title, of(before) ?? "", found] as [string, string, string]] : [];
  });
}

/** What was read in the file before and in the file now, line by line, what differs marked. */
function ReadInBoth({
  view,
  before,
  now,
  changes,
}: {
  view: CaseView;
  before?: Schemas["FileView"];
  now?: Schemas["FileView"];
  changes: Schemas["Difference"][];
}) {
  const lines: [string, string, string][] = [
    [say("Name"), before?.attachment.name ?? "nothing", now?.attachment.name ?? "nothing"],
    [say("Read as"), before?.said ?? "", now?.said ?? ""],
    [say("Size"), before ? size(before.attachment.size) : "", now ? size(now.attachment.size) : ""],
    ...foundIn(view, now, before),
    ...changes
      .filter((c) => c.kind === "answer")
      .map((c): [string, string, string] => [c.label, c.was || "nothing", c.now || "nothing"]),
  ];
  return (
    <table className="desk-table compare beneath">
      <thead>
        <tr>
          <th scope="col">{say("What was read")}</th>
          <th scope="col">{say("before")}</th>
          <th scope="col">{say("now")}</th>
        </tr>
      </thead>
      <tbody>
        {lines.map(([label, a, b]) => (
          <tr key={label}>
            <th scope="row">{label}</th>
            <td>{a}</td>
            <td className={a === b ? "" : "changed"}>{b}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
