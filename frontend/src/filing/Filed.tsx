// What was answered and attached, for reading: the same on the read-over, in my case and on the desk.
import { memo, type ReactNode, useMemo } from "react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { placeOf } from "../api/place";
import type { Form } from "../api/views";
import { size } from "../shared/say";
import { say } from "../shared/text";
import { isSealed, itemsIn } from "./draft";
import "./read-over.css";

export function AnswerList({
  form,
  assessment,
  answers,
  mark,
  said,
  folded,
  base,
  only,
}: {
  form: Form;
  assessment: Schemas["AssessmentView"];
  answers: Record<string, unknown>;
  mark?: (place: string) => boolean;
  /** The answers in words, by place, of an earlier version. */
  said?: Record<string, string>;
  /** Each part folded, to be opened by its title. */
  folded?: boolean;
  /** The address of the draft, if it can still be changed. */
  base?: string;
  /** One part, or one item of a part that repeats; without it all. */
  only?: string;
}) {
  const { head: onlyPart, rest: onlyItem } = placeOf(only ?? "");
  const questions = useMemo(
    () => new Map(assessment.parts.flatMap((part) => part.questions.map((q) => [q.place, q]))),
    [assessment],
  );
  return (
    <>
      {form.parts.map((part) => {
        const own = assessment.parts.find((p) => p.id === part.id);
        if (!own?.asked || (onlyPart && part.id !== onlyPart)) return null;
        const all = part.each ? itemsIn(answers, part.id).map((item) => String(item.id)) : [""];
        const items = onlyItem ? all.filter((no) => no === onlyItem) : all;
        return (
          <FiledPart key={part.id} id={part.id} title={part.title} folded={folded} to={base && `${base}/${part.id}`}>
            {items.map((no) => (
              <dl key={no} data-part={no ? `${part.id}.${no}` : undefined}>
                {part.questions.map((q) => {
                  const place = [part.id, no, q.id].filter(Boolean).join(".");
                  const state = questions.get(place);
                  if (!state || state.asked === "no") return null;
                  const text = said ? (said[place] ?? "") : state.said;
                  if (!text && q.optional) return null;
                  return (
                    <Answer
                      key={place}
                      id={only ? undefined : `filed-${place}`}
                      ask={part.each ? `${part.one ?? ""} ${no}: ${q.ask}` : q.ask}
                      text={text}
                      fault={said ? "" : state.fault}
                      open={state.asked === "yes"}
                      marked={!!mark?.(place)}
                    />
                  );
                })}
              </dl>
            ))}
            <dl>
              {(said ? [] : assessment.computed)
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
          </FiledPart>
        );
      })}
    </>
  );
}

/** One answer, which may have a fault. A long list of them is shown anew at each key of the desk, so each is made only when it changed. */
const Answer = memo(function Answer(a: {
  id?: string;
  ask: string;
  text: string;
  fault: string;
  /** It is asked, and not only perhaps. */
  open: boolean;
  marked: boolean;
}) {
  return (
    <div id={a.id} className={a.marked ? "marked" : ""}>
      <dt>{a.ask}</dt>
      <dd className={a.text && !a.fault ? "" : a.open ? "madder" : "second"}>
        {a.text || (a.open ? say("not answered") : say("not known yet"))}
        {a.fault && <small>{a.fault}</small>}
      </dd>
    </div>
  );
});

/** To where something that is read over is changed. */
export function ChangeLink({ to, what }: { to: string; what: string }) {
  return (
    <Link to={to} className="filed-change jc-no-print">
      {say("Change")}
      <span className="jc-hidden"> {what}</span>
    </Link>
  );
}

function FiledPart({
  id,
  title,
  folded,
  to,
  children,
}: {
  id: string;
  title: string;
  folded?: boolean;
  to?: string;
  children: ReactNode;
}) {
  if (!folded)
    return (
      <section className="filed-part" data-part={id}>
        <h2>
          {title} {to && <ChangeLink to={to} what={title} />}
        </h2>
        {children}
      </section>
    );
  return (
    <details className="filed-part folded">
      <summary>{title}</summary>
      {children}
    </details>
  );
}

/** Files by name; whoever applied does not look into what others sent straight to the office. */
export function FileList({ files, url }: { files: Schemas["FileView"][]; url: (file: Schemas["FileView"]) => string }) {
  if (files.length === 0) return <p className="second">{say("No files are attached.")}</p>;
  return (
    <ul className="filed-files">
      {files.map((f) => (
        <li key={f.attachment.id}>
          {isSealed(f) ? (
            f.attachment.name
          ) : (
            <a href={url(f)} target="_blank" rel="noreferrer">
              {f.attachment.name}
            </a>
          )}{" "}
          <span className="second">
            {f.slot_title} · {f.said} · {size(f.attachment.size)}
          </span>
        </li>
      ))}
    </ul>
  );
}
