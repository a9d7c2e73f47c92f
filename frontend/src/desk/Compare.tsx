// The evidence of one point in the version before and after, side by side.
import type { Schemas } from "../api/client";
import { placeOf, slotOf } from "../api/place";
import { FileLook } from "../shared/PdfView";
import { dayOf, size } from "../shared/say";
import { say } from "../shared/text";
import type { Item } from "./items";
import type { CaseView } from "./useCase";
import "./answers.css";
import "./checklist.css";
import "./rule.css";
import "../shared/pdf.css";

/** The evidence of one point in the version before and after. */
export function Compare({ view, item, version }: { view: CaseView; item: Item; version?: Schemas["RoundView"] }) {
  const after = view.versions.find((v) => v.no === version?.answer_version) ?? view.versions.at(-1);
  const before = view.versions.find((v) => v.no === version?.version) ?? after;
  const slot = item.places.map(slotOf).find(Boolean);
  const old = before?.files.filter((f) => f.attachment.slot === slot) ?? [];
  const now = after?.files.filter((f) => f.attachment.slot === slot) ?? [];
  const sides: [string, Schemas["FileView"] | undefined, Schemas["VersionView"] | undefined][] = [
    ["before", old.at(-1), before],
    ["now", now.at(-1), after],
  ];
  const title = item.point?.title ?? item.unasked?.change.label ?? "";
  if (!slot)
    return (
      <>
        <div className="desk-bar">
          <p>
            <b>{title}</b>
          </p>
        </div>
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
      </>
    );
  return (
    <>
      <div className="desk-bar">
        <p>
          <b>{title}</b> <span className="second">{say("side by side")}</span>
        </p>
      </div>
      <div className="desk-sides">
        {sides.map(([side, file, v]) => (
          <section key={side} aria-label={side === "now" ? say("The version now") : say("The version before")}>
            <p>
              <b>{file?.attachment.name ?? "nothing"}</b>
              {say(", version {{no}},", { no: v?.no })} {v && dayOf(v.at)}{" "}
            </p>
            {file ? (
              <FileLook
                url={`/api/cases/${view.reference}/files/${file.attachment.sha256}`}
                file={file}
                keys={side === "now"}
              />
            ) : (
              <p className="jc-pdf-trouble">{say("Nothing was attached here.")}</p>
            )}
          </section>
        ))}
      </div>
      <ReadInBoth before={old.at(-1)} now={now.at(-1)} changes={item.point?.changes ?? []} />
    </>
  );
}

/** What was read in the file before and in the file now, line by line, what differs marked. */
function ReadInBoth({
  before,
  now,
  changes,
}: {
  before?: Schemas["FileView"];
  now?: Schemas["FileView"];
  changes: Schemas["Difference"][];
}) {
  const lines: [string, string, string][] = [
    [say("Name"), before?.attachment.name ?? "nothing", now?.attachment.name ?? "nothing"],
    [say("Read as"), before?.said ?? "", now?.said ?? ""],
    [say("Size"), before ? size(before.attachment.size) : "", now ? size(now.attachment.size) : ""],
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
