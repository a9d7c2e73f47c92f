// One question: its field by its type, what is said of the answer, what is offered, where it came from.
import { Checkbox, NativeSelect, Radio, Textarea, TextInput } from "@mantine/core";
import type { Schemas } from "../api/client";
import { sign } from "../shared/say";
import { say } from "../shared/text";
import { ChooseDay } from "./ChooseDay";
import { type FormView, isLocked, offersAt, saidAt, staysAsFiled, whyItStays } from "./draft";
import { PeriodField, RowsField } from "./RowsField";
import { Said } from "./Said";
import "./filing.css";
import "./questions.css";

type Question = Schemas["Question"];

const HINTS: Record<string, string> = {
  date: say("day month year, as in 5 Nov 2026"),
  "date and time": say("as in 5 Nov 2026 14:30"),
  hour: say("as in 14:30"),
  "mail address": "name@place.example",
};

/** The same where a field has half the width. */
const SHORT_HINTS: Record<string, string> = { date: say("5 Nov 2026"), "date and time": say("5 Nov 2026 14:30") };

const ORDER: ("label" | "input" | "description" | "error")[] = ["label", "input", "description", "error"];

/** Where an answer came from, and whether it was altered since. */
export function Source({ view, place }: { view: FormView; place: string }) {
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
  if (given?.source === "paper")
    return <p className="filing-from">{say("from your paper: {{paper}}", { paper: given.key })}</p>;
  if (given?.source === "pattern") return <p className="filing-from">{say("as in {{other}}", { other: given.key })}</p>;
  if (given?.source === "profile") return <p className="filing-from">{say("from your profile")}</p>;
  return given ? (
    <p className="filing-from">
      {say("from the {{registers}}", { registers: view.form.registers[given.source]?.toLowerCase() })}
    </p>
  ) : null;
}

export function Field({
  view,
  question: q,
  place,
  value,
  fault,
  needed,
  narrow,
  help,
  offered,
  read,
  waits,
  unfinished,
  onChange,
}: {
  view: FormView;
  question: Question;
  place: string;
  value: unknown;
  fault: string;
  needed: boolean;
  narrow: boolean;
  help: string;
  offered: string[] | null;
  read: { said: string; ask: string; raw: unknown; iso: string | null } | null;
  waits: string;
  unfinished: string;
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
        inputMode={number ? "decimal" : q.type === "mail address" ? "email" : undefined}
        placeholder={narrow ? SHORT_HINTS[q.type] : HINTS[q.type]}
        rightSection={
          unit ? (
            <span className="filing-unit">{unit}</span>
          ) : q.type === "date" && !off ? (
            <ChooseDay
              label={say("Choose a day")}
              of={`${place}-label`}
              until={q.not_after_filing}
              iso={read?.iso}
              onChoose={onChange}
            />
          ) : undefined
        }
        rightSectionWidth={unit ? 44 : undefined}
      />
    );
  }
  return (
    <div className={`filing-field${needed || wrong.length > 0 ? " needed" : ""}`}>
      {field}
      {echo && <p className="filing-echo">{echo}</p>}
      {help && (
        <p id={`help-${place}`} className="filing-help">
          {help}
        </p>
      )}
      {unfinished && <p className="second">{unfinished}</p>}
      {!off &&
        offersAt(view, place).map((o) => (
          <p key={o.raw} className="filing-offer">
            {say("{{source}}: {{said}}.", o)}{" "}
            <button type="button" className="jc-button plain small" onClick={() => onChange(o.raw)}>
              {say("Use {{said}}", o)}
            </button>
          </p>
        ))}
      {q.type === "rows" && <Said view={view} place={place} />}
      {q.type === "period" && <Said view={view} place={place} looksOnly />}
      {waits && <p className="filing-waits">{waits}</p>}
      {staysAsFiled(view, place) && <p className="filing-waits">{whyItStays(view, place)}</p>}
    </div>
  );
}

const ECHOED = ["number", "count", "money", "date", "date and time", "hour"];

/** How an answer was read, where it was not written as the house writes it. */
function echoOf(q: Question, read: { said: string; raw: unknown } | null, value: unknown): string {
  if (!read?.said || read.raw !== value || !ECHOED.includes(q.type)) return "";
  const plain = (text: string) => text.replaceAll("\u00a0", " ").trim();
  const typed = plain(String(value ?? ""));
  const said = plain(read.said);
  return typed === said ||
    said.startsWith(`${typed} `) ||
    said.endsWith(` ${typed}`) ||
    (q.type !== "hour" && /^\d{1,3}(\.\d\d?)?$/.test(typed))
    ? ""
    : said;
}
