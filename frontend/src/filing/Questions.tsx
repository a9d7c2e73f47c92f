// The questions of a part, made from the rulebook: each with its help in the margin and its complaint at its place.
import { Checkbox, NativeSelect, Radio, Textarea, TextInput } from "@mantine/core";
import type { Schemas } from "../api/client";
import type { Answers, DraftView } from "./draft";

type Question = Schemas["Question"];

export function Questions({
  view,
  part,
  answers,
  onAnswer,
  only,
}: {
  view: DraftView;
  part: Schemas["Part"];
  answers: Answers;
  onAnswer: (question: string, value: unknown) => void;
  only?: string;
}) {
  const states = new Map(view.assessment.parts.find((p) => p.id === part.id)?.questions.map((q) => [q.place, q]) ?? []);
  const shown = part.questions.filter((q) => {
    const state = states.get(`${part.id}.${q.id}`);
    return state && state.asked !== "no" && (!only || `${part.id}.${q.id}` === only);
  });
  const rows: Question[][] = [];
  for (const q of shown) {
    const last = rows.at(-1);
    if (q.beside && last && last.length < 2) last.push(q);
    else rows.push([q]);
  }
  const begun = part.questions.some((q) => answers[part.id]?.[q.id] !== undefined && answers[part.id]?.[q.id] !== "");
  return (
    <>
      {rows.map((row) => {
        const first = row[0];
        if (!first) return null;
        const places = row.map((q) => `${part.id}.${q.id}`);
        const computed = view.assessment.computed.filter((c) => places.some((p) => c.beside[0] === p) && c.working);
        return (
          <div key={first.id} className="filing-row">
            <div className={`filing-fields n${row.length}`}>
              {row.map((q) => {
                const place = `${part.id}.${q.id}`;
                const state = states.get(place);
                return (
                  <Field
                    key={q.id}
                    view={view}
                    question={q}
                    place={place}
                    value={answers[part.id]?.[q.id]}
                    fault={state?.fault ?? ""}
                    needed={begun && !!state?.left && !state.fault}
                    waits={state?.asked === "not known yet" ? (state.because ?? "") : ""}
                    onChange={(value) => onAnswer(q.id, value)}
                  />
                );
              })}
            </div>
            <div className="filing-margin">
              {row
                .filter((q) => q.help)
                .map((q) => (
                  <p key={q.id} id={`help-${part.id}.${q.id}`}>
                    {q.help} {q.public && <em>Open to the public. </em>}
                  </p>
                ))}
              {computed.map((c) => (
                <p key={c.id} className="computed">
                  {c.help || c.title} {c.working}.
                </p>
              ))}
            </div>
          </div>
        );
      })}
    </>
  );
}

function Field({
  view,
  question: q,
  place,
  value,
  fault,
  needed,
  waits,
  onChange,
}: {
  view: DraftView;
  question: Question;
  place: string;
  value: unknown;
  fault: string;
  needed: boolean;
  waits: string;
  onChange: (value: unknown) => void;
}) {
  const label = (
    <>
      {q.ask} {needed && <span className="filing-needed">needed</span>}
      {q.optional && <span className="second"> if you like</span>}
    </>
  );
  const described = q.help ? `help-${place}` : undefined;
  const common = { id: place, label, error: fault || undefined, "aria-describedby": described, disabled: waits !== "" };
  const text = value === undefined || value === null ? "" : String(value);
  const options = view.form.lists[q.options ?? ""] ?? [];
  let field = null;
  if (q.type === "long text")
    field = <Textarea {...common} autosize minRows={3} value={text} onChange={(e) => onChange(e.target.value)} />;
  else if (q.type === "yes or no")
    field = (
      <Radio.Group
        {...common}
        value={value === true || text === "yes" ? "yes" : value === false || text === "no" ? "no" : ""}
        onChange={(v) => onChange(v === "yes")}
      >
        <div className="filing-yes-no">
          <Radio value="yes" label="Yes" disabled={waits !== ""} />
          <Radio value="no" label="No" disabled={waits !== ""} />
        </div>
      </Radio.Group>
    );
  else if (q.type === "one of")
    field = (
      <NativeSelect
        {...common}
        value={text}
        onChange={(e) => onChange(e.target.value)}
        data={[{ value: "", label: "Choose…" }, ...options.map((o) => ({ value: o.id, label: o.title }))]}
      />
    );
  else if (q.type === "several of")
    field = (
      <Checkbox.Group {...common} value={Array.isArray(value) ? (value as string[]) : []} onChange={onChange}>
        {options.map((o) => (
          <Checkbox key={o.id} value={o.id} label={o.title} mt={6} />
        ))}
      </Checkbox.Group>
    );
  else {
    const number = ["number", "count", "money"].includes(q.type);
    const unit = q.type === "money" ? "€" : q.unit;
    field = (
      <TextInput
        {...common}
        value={text}
        onChange={(e) => onChange(e.target.value)}
        inputMode={number ? "decimal" : undefined}
        placeholder={q.type === "date" ? "day month year, as in 5 Nov 2026" : undefined}
        rightSection={unit ? <span className="filing-unit">{unit}</span> : undefined}
        rightSectionWidth={unit ? 44 : undefined}
      />
    );
  }
  return (
    <div className={`filing-field${needed ? " needed" : ""}`}>
      {field}
      {waits && <p className="filing-waits">{waits}</p>}
    </div>
  );
}
