// What was answered and attached, for reading: the same on the read-over, in my case and on the desk.
import type { Schemas } from "../api/client";
import { amount, day, sign, size } from "../shared/say";
import { givenIn, itemsIn } from "./draft";

export function said(
  question: Pick<Schemas["Question"], "type" | "unit" | "options" | "columns">,
  raw: unknown,
  form: Pick<Schemas["Form"], "lists" | "currency">,
): string {
  if (raw === undefined || raw === null || raw === "") return "";
  if (raw === true) return "yes";
  if (raw === false) return "no";
  if (question.type === "rows" && Array.isArray(raw))
    return raw
      .map((row) => (question.columns ?? []).map((c) => said({ ...c, columns: [] }, row[c.id], form)).join(", "))
      .join("; ");
  if (question.type === "period") {
    const days = Array.isArray(raw) ? raw.map(String) : String(raw).split("/");
    return days.map((d) => said({ ...question, type: "date" }, d, form)).join(" to ");
  }
  const titles = new Map((form.lists[question.options ?? ""] ?? []).map((o) => [o.id, o.title]));
  if (titles.size) return (Array.isArray(raw) ? raw : [raw]).map((r) => titles.get(String(r)) ?? String(r)).join(", ");
  const text = String(raw);
  if (question.type === "date" && /^\d{4}-\d{2}-\d{2}$/.test(text)) return day(text);
  if (question.type === "money" && /^\d+(\.\d+)?$/.test(text)) return `${sign(form.currency)} ${amount(text)}`;
  return question.unit ? `${text} ${question.unit}` : text;
}

export function AnswerList({
  form,
  assessment,
  answers,
  mark,
}: {
  form: Schemas["Form"];
  assessment: Schemas["Assessment"];
  answers: Record<string, unknown>;
  mark?: (place: string) => boolean;
}) {
  return (
    <>
      {form.parts.map((part) => {
        const states = assessment.parts.find((p) => p.id === part.id)?.questions ?? [];
        const items: [string, Record<string, unknown>][] = part.each
          ? itemsIn(answers, part.id).map((item) => [`${part.id}.${item.id}`, item])
          : [[part.id, givenIn(answers, part.id)]];
        if (!part.each && !states.some((q) => q.asked !== "no")) return null;
        return (
          <section key={part.id} className="filed-part">
            <h2>{part.title}</h2>
            <dl>
              {items.map(([prefix, given]) =>
                part.questions.map((q) => {
                  const place = `${prefix}.${q.id}`;
                  const state = states.find((s) => s.place === place);
                  if (!state || state.asked === "no") return null;
                  const text = said(q, given[q.id] ?? q.default, form);
                  if (!text && q.optional) return null;
                  return (
                    <div key={place} id={`filed-${place}`} className={mark?.(place) ? "marked" : ""}>
                      <dt>
                        {part.each && `${part.one ?? ""} ${prefix.split(".")[1]}: `}
                        {q.ask}
                      </dt>
                      <dd className={text && !state.fault ? "" : "madder"}>
                        {text || (state.asked === "yes" ? "not answered" : "not known yet")}
                        {state.fault && <small>{state.fault}</small>}
                      </dd>
                    </div>
                  );
                }),
              )}
              {assessment.computed
                .filter((c) => c.working && c.beside[0]?.startsWith(`${part.id}.`))
                .map((c) => (
                  <div key={c.id} className="computed">
                    <dt>
                      {c.title} <small>art. {c.article}</small>
                    </dt>
                    <dd>{c.working}</dd>
                  </div>
                ))}
            </dl>
          </section>
        );
      })}
    </>
  );
}

export function FileList({
  form,
  files,
  url,
}: {
  form: Schemas["Form"];
  files: Schemas["FileView"][];
  url: (file: Schemas["FileView"]) => string;
}) {
  if (files.length === 0) return <p className="second">No files are attached.</p>;
  return (
    <ul className="filed-files">
      {files.map((f) => (
        <li key={f.attachment.id}>
          <a href={url(f)} target="_blank" rel="noreferrer">
            {f.attachment.name}
          </a>{" "}
          <span className="second">
            {form.slots.find((s) => s.slot === f.attachment.slot)?.title} · {f.said} · {size(f.attachment.size)}
          </span>
        </li>
      ))}
    </ul>
  );
}
