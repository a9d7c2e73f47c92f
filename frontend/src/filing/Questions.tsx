// The questions of a part, made from the rulebook: each with its help in the margin and its complaint at its place.
import { Checkbox, NativeSelect, Radio, Textarea, TextInput } from "@mantine/core";
import type { Schemas } from "../api/client";
import { sign } from "../shared/say";
import { say } from "../shared/text";
import { type Answers, type FormView, givenIn, isLocked, itemsIn, saidAt } from "./draft";
import { PeriodField, RowsField } from "./RowsField";
import { Said } from "./Said";
import "./filing.css";
import "./questions.css";

type Question = Schemas["Question"];

const HINTS: Record<string, string> = {
  date: say("day month year, as in 5 Nov 2026"),
  "date and time": say("as in 5 Nov 2026 14:30"),
  hour: say("as in 14:30"),
};

const ORDER: ("label" | "input" | "description" | "error")[] = ["label", "input", "description", "error"];

/** The questions of a part; of one that repeats, a set of them for each item. `onPart` gets the whole part anew. */
export function Questions({
  view,
  part,
  answers,
  onPart,
  only,
}: {
  view: FormView;
  part: Schemas["Part"];
  answers: Answers;
  onPart: (value: unknown) => void;
  only?: string;
}) {
  if (part.each) return <Items view={view} part={part} answers={answers} onPart={onPart} />;
  const values = givenIn(answers, part.id);
  return (
    <Rows
      view={view}
      part={part}
      prefix={part.id}
      values={values}
      only={only}
      onAnswer={(question, value) => onPart({ ...values, [question]: value })}
    />
  );
}

function Items({
  view,
  part,
  answers,
  onPart,
}: {
  view: FormView;
  part: Schemas["Part"];
  answers: Answers;
  onPart: (value: unknown) => void;
}) {
  const items = itemsIn(answers, part.id);
  // a number that no item of this case ever had; those just added are not known to the office yet
  const next = Math.max(view.next_items?.[part.id] ?? 1, ...items.map((item) => item.id + 1));
  return (
    <>
      {items.map((item) => (
        <fieldset key={item.id} id={`${part.id}.${item.id}`} className="filing-item">
          <legend>
            {part.one ?? part.title} {item.id}
          </legend>
          <Said view={view} place={`${part.id}.${item.id}`} />
          <Rows
            view={view}
            part={part}
            prefix={`${part.id}.${item.id}`}
            values={item}
            onAnswer={(question, value) =>
              onPart(items.map((other) => (other.id === item.id ? { ...other, [question]: value } : other)))
            }
          />
          {!part.questions.some((q) => isLocked(view, `${part.id}.${item.id}.${q.id}`)) && (
            <button type="button" className="jc-link" onClick={() => onPart(items.filter((x) => x.id !== item.id))}>
              {say("remove")}{" "}
              <span className="jc-hidden">
                {part.one ?? part.title} {item.id}
              </span>
            </button>
          )}
        </fieldset>
      ))}
      {items.length === 0 && <p className="second">{say("Nothing is named yet.")}</p>}
      <Said view={view} place={part.id} />
      <p id={part.id}>
        <button
          type="button"
          className="jc-button plain small"
          disabled={items.length >= part.at_most || isLocked(view, part.id)}
          onClick={() => onPart([...items, { id: next }])}
        >
          {items.length ? say("Add another") : say("Add the first")}
          {part.one && <span className="jc-hidden"> {part.one}</span>}
        </button>
      </p>
    </>
  );
}

function Rows({
  view,
  part,
  prefix,
  values,
  only,
  onAnswer,
}: {
  view: FormView;
  part: Schemas["Part"];
  prefix: string;
  values: Record<string, unknown>;
  only?: string;
  onAnswer: (question: string, value: unknown) => void;
}) {
  const states = new Map(view.assessment.parts.find((p) => p.id === part.id)?.questions.map((q) => [q.place, q]) ?? []);
  const shown = part.questions.filter((q) => {
    const state = states.get(`${prefix}.${q.id}`);
    // an item that was just added is not assessed yet
    return (part.each && !state) || (state && state.asked !== "no" && (!only || `${prefix}.${q.id}` === only));
  });
  const rows: Question[][] = [];
  for (const q of shown) {
    const last = rows.at(-1);
    if (q.beside && last && last.length < 2) last.push(q);
    else rows.push([q]);
  }
  const begun = part.questions.some((q) => values[q.id] !== undefined && values[q.id] !== "");
  return (
    <>
      {rows.map((row) => {
        const first = row[0];
        if (!first) return null;
        const places = row.map((q) => `${prefix}.${q.id}`);
        const computed = view.assessment.computed.filter((c) => places.some((p) => c.beside[0] === p) && c.working);
        return (
          <div key={first.id} className="filing-row">
            <div className={`filing-fields n${row.length}`}>
              {row.map((q) => {
                const place = `${prefix}.${q.id}`;
                const state = states.get(place);
                return (
                  <Field
                    key={q.id}
                    view={view}
                    question={q}
                    place={place}
                    value={values[q.id]}
                    fault={state?.fault ?? ""}
                    needed={begun && !!state?.left && !state.fault}
                    offered={state?.offered ?? null}
                    read={state && !state.fault ? { said: state.said, ask: state.ask, raw: state.raw } : null}
                    waits={state?.asked === "not known yet" ? (state.because ?? "") : ""}
                    onChange={(value) => onAnswer(q.id, value)}
                  />
                );
              })}
            </div>
            <div className="filing-margin">
              {row
                .filter((q) => q.help && q.type !== "rows")
                .map((q) => (
                  <p key={q.id} id={`help-${prefix}.${q.id}`}>
                    {q.help}
                  </p>
                ))}
              {computed.map((c) => (
                <p key={c.id} className="computed">
                  {c.help || c.title} {c.working}.
                </p>
              ))}
              {places.map((place) => (
                <Source key={place} view={view} place={place} />
              ))}
            </div>
          </div>
        );
      })}
    </>
  );
}

/** Where an answer came from, and whether it was altered since. */
function Source({ view, place }: { view: FormView; place: string }) {
  const altered = view.assessment.altered.find((a) => a.place === place);
  if (altered?.source === "profile")
    return <p className="filing-from">{say("Your profile says “{{was}}”.", { was: altered.was })}</p>;
  if (altered)
    return (
      <p className="filing-altered">
        {say("The {{source}} says “{{was}}”. You may write something else; the officer will look.", {
          source: altered.source.toLowerCase(),
          was: altered.was,
        })}
      </p>
    );
  const given = view.dossier?.prefilled?.find((p) => p.place === place);
  if (given?.source === "profile") return <p className="filing-from">{say("from your profile")}</p>;
  return given ? (
    <p className="filing-from">
      {say("from the {{registers}}", { registers: view.form.registers[given.source]?.toLowerCase() })}
    </p>
  ) : null;
}

function Field({
  view,
  question: q,
  place,
  value,
  fault,
  needed,
  offered,
  read,
  waits,
  onChange,
}: {
  view: FormView;
  question: Question;
  place: string;
  value: unknown;
  fault: string;
  needed: boolean;
  offered: string[] | null;
  read: { said: string; ask: string; raw: unknown } | null;
  waits: string;
  onChange: (value: unknown) => void;
}) {
  const label = (
    <>
      {q.ask} {needed && <span className="filing-needed">{say("needed")}</span>}
      {q.optional && <span className="second"> {say("if you like")}</span>}
    </>
  );
  const said = saidAt(view, place);
  const wrong = said.filter((s) => !s.look).map((s) => s.text);
  const looks = [...(read?.ask ? [read.ask] : []), ...said.filter((s) => s.look).map((s) => s.text)];
  const echo = echoOf(q, read, value);
  const described = q.help ? `help-${place}` : undefined;
  const locked = isLocked(view, place);
  const off = waits !== "" || locked;
  const common = {
    id: place,
    label,
    error: [fault, ...wrong].filter(Boolean).join(" ") || undefined,
    description: looks.join(" ") || undefined,
    descriptionProps: { className: "filing-look" },
    inputWrapperOrder: ORDER,
    "aria-describedby": described,
    disabled: off,
  };
  const text = value === undefined || value === null ? (q.default ?? "") : String(value);
  const listed = view.form.lists[q.options ?? ""] ?? [];
  // a choice that is no longer offered stays to be seen while it is the answer
  const options = offered ? listed.filter((o) => offered.includes(o.id) || o.id === text) : listed;
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
          <Radio value="yes" label={say("Yes")} disabled={off} />
          <Radio value="no" label={say("No")} disabled={off} />
        </div>
      </Radio.Group>
    );
  else if (q.type === "rows")
    field = (
      <fieldset className="filing-lock" disabled={off}>
        <RowsField view={view} question={q} place={place} value={value} fault={fault} onChange={onChange} />
      </fieldset>
    );
  else if (q.type === "period") field = <PeriodField {...common} value={value} onChange={onChange} />;
  else if (q.type === "one of")
    field = (
      <NativeSelect
        {...common}
        value={text}
        onChange={(e) => onChange(e.target.value)}
        data={[{ value: "", label: say("Choose…") }, ...options.map((o) => ({ value: o.id, label: o.title }))]}
      />
    );
  else if (q.type === "several of")
    field = (
      <Checkbox.Group {...common} value={Array.isArray(value) ? (value as string[]) : []} onChange={onChange}>
        {options.map((o) => (
          <Checkbox key={o.id} value={o.id} label={o.title} mt={6} disabled={off} />
        ))}
      </Checkbox.Group>
    );
  else {
    const number = ["number", "count", "money"].includes(q.type);
    const unit = q.type === "money" ? sign(view.form.currency) : q.unit;
    field = (
      <TextInput
        {...common}
        value={text}
        onChange={(e) => onChange(e.target.value)}
        inputMode={number ? "decimal" : undefined}
        placeholder={HINTS[q.type]}
        rightSection={unit ? <span className="filing-unit">{unit}</span> : undefined}
        rightSectionWidth={unit ? 44 : undefined}
      />
    );
  }
  return (
    <div className={`filing-field${needed || wrong.length > 0 ? " needed" : ""}`}>
      {field}
      {echo && <p className="filing-echo">{echo}</p>}
      {q.type === "rows" && <Said view={view} place={place} />}
      {q.type === "period" && <Said view={view} place={place} looksOnly />}
      {waits && <p className="filing-waits">{waits}</p>}
      {locked && <p className="filing-waits">{say("Not asked about: it stays as it was filed.")}</p>}
    </div>
  );
}

const ECHOED = ["number", "count", "money", "date", "date and time"];

/** How an answer was read, where it was not written as the house writes it. */
function echoOf(q: Question, read: { said: string; raw: unknown } | null, value: unknown): string {
  if (!read?.said || read.raw !== value || !ECHOED.includes(q.type)) return "";
  const plain = (text: string) => text.replaceAll("\u00a0", " ").trim();
  const typed = plain(String(value ?? ""));
  const said = plain(read.said);
  return typed === said ||
    said.startsWith(`${typed} `) ||
    said.endsWith(` ${typed}`) ||
    /^\d{1,3}(\.\d\d?)?$/.test(typed)
    ? ""
    : said;
}
