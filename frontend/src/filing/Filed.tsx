// What was answered and attached, for reading: the same on the read-over, in my case and on the desk.
import type { Schemas } from "../api/client";
import { amount, day, size } from "../shared/say";

export function said(question: Schemas["Question"], raw: unknown, lists: Schemas["Form"]["lists"]): string {
  if (raw === undefined || raw === null || raw === "") return "";
  if (raw === true) return "yes";
  if (raw === false) return "no";
  const titles = new Map((lists[question.options ?? ""] ?? []).map((o) => [o.id, o.title]));
  if (titles.size) return (Array.isArray(raw) ? raw : [raw]).map((r) => titles.get(String(r)) ?? String(r)).join(", ");
  const text = String(raw);
  if (question.type === "date" && /^\d{4}-\d{2}-\d{2}$/.test(text)) return day(text);
  if (question.type === "money" && /^\d+(\.\d+)?$/.test(text)) return `€ ${amount(text)}`;
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
        const given = answers[part.id] as Record<string, unknown> | undefined;
        return (
          <section key={part.id} className="filed-part">
            <h2>{part.title}</h2>
            <dl>
              {part.questions.map((q) => {
                const place = `${part.id}.${q.id}`;
                const state = states.find((s) => s.place === place);
                if (!state || state.asked === "no") return null;
                const text = said(q, given?.[q.id], form.lists);
                return (
                  <div key={q.id} id={`filed-${place}`} className={mark?.(place) ? "marked" : ""}>
                    <dt>{q.ask}</dt>
                    <dd className={text && !state.fault ? "" : "madder"}>
                      {text || (state.asked === "yes" ? "not answered" : "not known yet")}
                      {state.fault && <small>{state.fault}</small>}
                    </dd>
                  </div>
                );
              })}
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
