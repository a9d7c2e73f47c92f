// What was answered and attached, for reading: the same on the read-over, in my case and on the desk.
import type { Schemas } from "../api/client";
import type { Form } from "../api/views";
import { size } from "../shared/say";
import { say } from "../shared/text";
import { itemsIn } from "./draft";
import "./read-over.css";

export function AnswerList({
  form,
  assessment,
  answers,
  mark,
}: {
  form: Form;
  assessment: Schemas["AssessmentView"];
  answers: Record<string, unknown>;
  mark?: (place: string) => boolean;
}) {
  return (
    <>
      {form.parts.map((part) => {
        const own = assessment.parts.find((p) => p.id === part.id);
        if (!own?.asked) return null;
        const items = part.each ? itemsIn(answers, part.id).map((item) => String(item.id)) : [""];
        return (
          <section key={part.id} className="filed-part">
            <h2>{part.title}</h2>
            <dl>
              {items.map((no) =>
                part.questions.map((q) => {
                  const place = [part.id, no, q.id].filter(Boolean).join(".");
                  const state = own.questions.find((s) => s.place === place);
                  if (!state || state.asked === "no") return null;
                  const text = state.said;
                  if (!text && q.optional) return null;
                  return (
                    <div key={place} id={`filed-${place}`} className={mark?.(place) ? "marked" : ""}>
                      <dt>
                        {part.each && `${part.one ?? ""} ${no}: `}
                        {q.ask}
                      </dt>
                      <dd className={text && !state.fault ? "" : "madder"}>
                        {text || (state.asked === "yes" ? say("not answered") : say("not known yet"))}
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
                      {c.title} <small>{say("art. {{article}}", { article: c.article })}</small>
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

export function FileList({ files, url }: { files: Schemas["FileView"][]; url: (file: Schemas["FileView"]) => string }) {
  if (files.length === 0) return <p className="second">{say("No files are attached.")}</p>;
  return (
    <ul className="filed-files">
      {files.map((f) => (
        <li key={f.attachment.id}>
          <a href={url(f)} target="_blank" rel="noreferrer">
            {f.attachment.name}
          </a>{" "}
          <span className="second">
            {f.slot_title} · {f.said} · {size(f.attachment.size)}
          </span>
        </li>
      ))}
    </ul>
  );
}
