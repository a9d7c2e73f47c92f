// A question that is answered by rows, like a small table, and one that is answered by two days.
import { NativeSelect, TextInput } from "@mantine/core";
import { type ReactNode, useContext } from "react";
import type { Schemas } from "../api/client";
import { placeOf } from "../api/place";
import { sign } from "../shared/say";
import { say } from "../shared/text";
import { ChooseDay } from "./ChooseDay";
import { type FormView, itemsIn } from "./draft";
import { putBack, Undoing } from "./undo";
import "./questions.css";

type Row = { id: number } & Record<string, unknown>;

function rowsOf(value: unknown): Row[] {
  return Array.isArray(value) ? value.map((row, n) => ({ ...row, id: Number(row.id ?? n + 1) })) : [];
}

export function RowsField({
  view,
  question: q,
  place,
  value,
  fault,
  onChange,
}: {
  view: FormView;
  question: Schemas["Question"];
  place: string;
  value: unknown;
  fault: string;
  onChange: (value: unknown) => void;
}) {
  const rows = rowsOf(value);
  const next = 1 + Math.max(0, ...rows.map((row) => row.id));
  const set = (id: number, column: string, cell: string) =>
    onChange(rows.map((row) => (row.id === id ? { ...row, [column]: cell } : row)));
  const offerUndo = useContext(Undoing);
  function remove(row: Row, position: number) {
    onChange(rows.filter((other) => other.id !== row.id));
    const { head: part, rest } = placeOf(place);
    const item = rest.split(".").length > 1 ? Number(placeOf(rest).head) : null;
    const put = (given: object) => ({
      ...given,
      [q.id]: putBack(rowsOf((given as Record<string, unknown>)[q.id]), row, position),
    });
    offerUndo?.(say("row {{n}}", { n: position + 1 }), part, (now) =>
      item === null
        ? put((now ?? {}) as object)
        : itemsIn({ [part]: now }, part).map((one) => (one.id === item ? put(one) : one)),
    );
  }
  return (
    <fieldset id={place} className="filing-rows" aria-describedby={q.help ? `help-${place}` : undefined}>
      <legend>
        {q.ask} {q.optional && <span className="second"> {say("if you like")}</span>}
      </legend>
      {q.help && (
        <p id={`help-${place}`} className="filing-rows-help">
          {q.help}
        </p>
      )}
      {rows.length > 0 && (
        <table>
          <thead>
            <tr>
              {q.columns?.map((c) => (
                <th key={c.id} scope="col">
                  {c.ask}
                  {c.unit ? `, ${c.unit}` : c.type === "money" ? `, ${sign(view.form.currency)}` : ""}
                </th>
              ))}
              <th>
                <span className="jc-hidden">{say("Remove")}</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {rows.map((row, n) => (
              <tr key={row.id}>
                {q.columns?.map((c) => {
                  const text = row[c.id] === undefined || row[c.id] === null ? "" : String(row[c.id]);
                  const label = say("{{ask}}, row {{n}}", { ask: c.ask, n: n + 1 });
                  const options = view.form.lists[c.options ?? ""] ?? [];
                  return (
                    <td key={c.id}>
                      {c.type === "one of" ? (
                        <NativeSelect
                          size="xs"
                          aria-label={label}
                          value={text}
                          onChange={(e) => set(row.id, c.id, e.target.value)}
                          data={[
                            { value: "", label: say("Choose…") },
                            ...options.map((o) => ({ value: o.id, label: o.title })),
                          ]}
                        />
                      ) : (
                        <TextInput
                          size="xs"
                          aria-label={label}
                          value={text}
                          placeholder={c.type === "date" ? say("5 Nov 2026") : undefined}
                          inputMode={["number", "count", "money"].includes(c.type) ? "decimal" : undefined}
                          onChange={(e) => set(row.id, c.id, e.target.value)}
                          rightSection={
                            c.type === "date" ? (
                              <ChooseDay
                                label={say("Choose a day, row {{n}}", { n: n + 1 })}
                                until={!!c.not_after_filing}
                                onChoose={(day) => set(row.id, c.id, day)}
                              />
                            ) : undefined
                          }
                        />
                      )}
                    </td>
                  );
                })}
                <td>
                  <button type="button" className="jc-link" onClick={() => remove(row, n)}>
                    {say("remove")}
                    <span className="jc-hidden"> {say("row {{n}}", { n: n + 1 })}</span>
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {fault && (
        <p className="madder" role="alert">
          {fault}
        </p>
      )}
      <button
        type="button"
        className="jc-button plain small"
        disabled={rows.length >= Number(q.at_most ?? 60)}
        onClick={() => onChange([...rows, { id: next }])}
      >
        {rows.length ? say("Add a row") : say("Add the first row")}
        <span className="jc-hidden"> {say("to {{ask}}", { ask: q.ask })}</span>
      </button>
    </fieldset>
  );
}

export function PeriodField({
  id,
  label,
  error,
  disabled,
  value,
  onChange,
}: {
  id: string;
  label: ReactNode;
  error?: string;
  disabled?: boolean;
  value: unknown;
  onChange: (value: unknown) => void;
}) {
  const [first = "", last = ""] = Array.isArray(value) ? value.map(String) : String(value ?? "").split("/");
  return (
    <fieldset id={id} className="filing-period">
      <legend>{label}</legend>
      <TextInput
        aria-label={say("First day")}
        placeholder={say("5 Nov 2026")}
        disabled={disabled}
        value={first}
        onChange={(e) => onChange([e.target.value, last])}
      />
      <span>{say("to")}</span>
      <TextInput
        aria-label={say("Last day")}
        placeholder={say("9 Nov 2026")}
        disabled={disabled}
        value={last}
        error={error}
        onChange={(e) => onChange([first, e.target.value])}
      />
    </fieldset>
  );
}
