// One row of a table of repeats, and the field over the cell that is being typed in.
import { memo, useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import { say } from "../shared/text";
import type { Item } from "./draft";
import type { At, Question } from "./groupRows";
import { EMPTY, type RowState, shown } from "./groupStates";

const FIGURES = ["date", "date and time", "hour", "number", "count", "money"];

export const Row = memo(function Row({
  no,
  row,
  part,
  columns,
  lists,
  state,
  at,
  typing,
  papers,
  source,
  naming,
  onType,
  onDone,
}: {
  no: number;
  row: Item;
  part: string;
  columns: Question[];
  lists: Map<string, Map<string, string>>;
  state: RowState | undefined;
  at: string;
  typing: string | null;
  papers: boolean;
  source: string;
  naming: string;
  onType: (at: At, value: unknown) => void;
  onDone?: (down: number, right: number, dropped: boolean) => void;
}) {
  return (
    <tr id={`${part}.${row.id}`} className={at ? "now" : ""}>
      <th scope="row">{no}</th>
      {columns.map((c) => {
        const cell = state?.cells[c.id] ?? EMPTY;
        const list = lists.get(c.id) ?? new Map<string, string>();
        const here = at === c.id;
        const value = row[c.id];
        return (
          <td
            key={c.id}
            id={`${part}.${row.id}.${c.id}`}
            // biome-ignore lint/a11y/noNoninteractiveElementToInteractiveRole: a cell of a grid
            role="gridcell"
            data-cell={`${row.id}.${c.id}`}
            tabIndex={here ? 0 : -1}
            aria-selected={here}
            aria-disabled={cell.off || undefined}
            aria-invalid={cell.wrong ? true : undefined}
            aria-describedby={here ? `group-said-${part}` : undefined}
            className={`${c.id === naming ? "naming " : FIGURES.includes(c.type) ? "figure " : ""}${cell.off ? "off" : cell.wrong ? "wrong" : cell.look ? "look" : ""}`}
          >
            {here && typing !== null ? (
              <Editor
                question={c}
                list={list}
                begun={typing}
                was={value}
                onType={(v) => onType({ item: row.id, question: c.id }, v)}
                onDone={onDone}
              />
            ) : (
              shown(c, value, cell, list) ||
              (cell.off ? "–" : cell.open && <small className="madder">{say("needed")}</small>)
            )}
            {c.id === naming && source && <small>{source}</small>}
          </td>
        );
      })}
      {papers && (
        <td className="group-papers">
          {state?.papers &&
            (state.papers.missing.length > 0 ? (
              <Link to={state.papers.to} title={state.papers.missing.join(", ")}>
                {say("{{missing}} of {{own}} missing", {
                  missing: state.papers.missing.length,
                  own: state.papers.asked,
                })}
              </Link>
            ) : (
              <span className="moss">{state.papers.asked > 0 ? say("all there") : ""}</span>
            ))}
        </td>
      )}
    </tr>
  );
});

/** The field over a cell. Each letter is kept as it is typed; Escape brings back what stood there. */
function Editor({
  question: q,
  list,
  begun,
  was,
  onType,
  onDone,
}: {
  question: Question;
  list: Map<string, string>;
  begun: string;
  was: unknown;
  onType: (value: unknown) => void;
  onDone?: (down: number, right: number, dropped: boolean) => void;
}) {
  const [text, setText] = useState(begun);
  const field = useRef<HTMLInputElement & HTMLSelectElement>(null);
  useEffect(() => field.current?.focus(), []);
  const give = (value: string) => {
    setText(value);
    onType(q.type === "yes or no" && value ? value === "yes" : value);
  };
  const keys = (e: React.KeyboardEvent) => {
    const ends = { Enter: [1, 0], Tab: [0, e.shiftKey ? -1 : 1], Escape: [0, 0] }[e.key];
    if (!ends) return;
    e.preventDefault();
    e.stopPropagation();
    onDone?.(ends[0] ?? 0, ends[1] ?? 0, e.key === "Escape");
  };
  const common = { ref: field, "aria-label": q.ask, onKeyDown: keys, className: "group-editor" };
  if (q.type === "one of" || q.type === "yes or no") {
    const choices: [string, string][] =
      q.type === "one of"
        ? [...list]
        : [
            ["yes", say("Yes")],
            ["no", say("No")],
          ];
    const value = q.type === "yes or no" && typeof was === "boolean" ? (was ? "yes" : "no") : String(was ?? "");
    return (
      <select {...common} value={value} onChange={(e) => give(e.target.value)}>
        <option value="">{say("Choose…")}</option>
        {choices.map(([id, title]) => (
          <option key={id} value={id}>
            {title}
          </option>
        ))}
      </select>
    );
  }
  return <input {...common} value={text} onChange={(e) => give(e.target.value)} />;
}
