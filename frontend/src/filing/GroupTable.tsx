// A part that repeats as a table: a row each, a column a question; typed, pasted, read from a spreadsheet, moved by keys.
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { placeOf } from "../api/place";
import { Key } from "../shared/Marks";
import { say } from "../shared/text";
import { type Answers, type FormView, type Item, isLocked, itemsIn, offersAt } from "./draft";
import { GroupIn, type Taken } from "./GroupIn";
import { Row } from "./GroupRow";
import { useGroup } from "./group";
import {
  type Action,
  type At,
  above,
  cellFrom,
  columnsOf,
  copied,
  filled,
  meant,
  moved,
  namingOf,
  pastedCells,
  remembered,
  withCell,
} from "./groupRows";
import { EMPTY, shown, statesOf } from "./groupStates";
import "./group.css";

const FAR = 1000;
const STEPS: Partial<Record<Action, [number, number]>> = {
  up: [-1, 0],
  down: [1, 0],
  left: [0, -1],
  right: [0, 1],
  first: [0, -FAR],
  last: [0, FAR],
  begin: [-FAR, -FAR],
  end: [FAR, FAR],
};

export function GroupTable({
  view,
  part,
  answers,
  onPart,
  next,
  base,
}: {
  view: FormView;
  part: Schemas["Part"];
  answers: Answers;
  onPart: (value: unknown) => void;
  /** The number that the next row gets. */
  next: number;
  base: string;
}) {
  const group = useGroup();
  const rows = itemsIn(answers, part.id);
  const full = rows.length >= part.at_most || isLocked(view, part.id);
  const states = useMemo(() => statesOf(view, part, base), [view, part, base]);
  const columns = useMemo(() => {
    const own = [...states.values()];
    return columnsOf(part, (q) => own.length === 0 || own.some((s) => s.cells[q]?.off === false));
  }, [states, part]);
  const lists = useMemo(
    () =>
      new Map(
        columns.map((c) => [c.id, new Map((view.form.lists[c.options ?? ""] ?? []).map((o) => [o.id, o.title]))]),
      ),
    [columns, view],
  );
  const naming = namingOf(part);
  const [at, setAt] = useState<At>({ item: rows[0]?.id ?? next, question: columns[0]?.id ?? "" });
  const [typing, setTyping] = useState<string | null>(null);
  const [taken, setTaken] = useState<Taken | null>(null);
  const before = useRef<Item[][]>([]);
  const table = useRef<HTMLTableElement>(null);
  const latest = useRef({ rows, onPart });
  latest.current = { rows, onPart };

  const put = useCallback((now: Item[], undoable = true) => {
    if (now === latest.current.rows) return;
    if (undoable) before.current = remembered(before.current, latest.current.rows);
    latest.current.onPart(now);
  }, []);
  const undo = () => {
    const was = before.current.at(-1);
    before.current = before.current.slice(0, -1);
    if (was) latest.current.onPart(was);
  };
  const go = (to: At) => {
    setTyping(null);
    setAt(to);
  };
  // the cell that is meant has the focus, once it was in the table
  const inside = useRef(false);
  useEffect(() => {
    if (!inside.current || typing !== null) return;
    table.current?.querySelector<HTMLElement>(`[data-cell="${at.item}.${at.question}"]`)?.focus();
  }, [at, typing]);

  const off = (where: At) =>
    (states.get(where.item)?.cells[where.question]?.off ?? false) ||
    isLocked(view, `${part.id}.${where.item}.${where.question}`);
  const there = rows.some((row) => row.id === at.item);
  const stood = useRef<unknown>(undefined);
  const begin = (text: string | null) => {
    if (off(at) || (full && !rows.some((row) => row.id === at.item))) return;
    before.current = remembered(before.current, rows);
    const value = rows.find((row) => row.id === at.item)?.[at.question];
    stood.current = value;
    if (text !== null) put(withCell(rows, at, text), false);
    setTyping(text ?? String(value ?? ""));
  };
  const type = useCallback(
    (where: At, value: unknown) => put(withCell(latest.current.rows, where, value), false),
    [put],
  );
  const step = (down: number, right: number) =>
    go(cellFrom(latest.current.rows, columns, full ? null : next, at, down, right));
  const same = () => {
    const value = above(rows, at);
    if (value !== undefined && !off(at)) put(withCell(rows, at, value));
  };
  const remove = () => {
    const n = rows.findIndex((row) => row.id === at.item);
    if (n < 0 || rows.length === 0 || part.questions.some((q) => isLocked(view, `${part.id}.${at.item}.${q.id}`)))
      return;
    const left = rows.filter((row) => row.id !== at.item);
    put(left);
    setAt({ ...at, item: (left[n] ?? left[n - 1])?.id ?? next });
  };
  const copy = () => {
    if (full) return;
    put(copied(rows, at.item, next, naming));
    setAt({ item: next, question: naming || at.question });
  };
  const take = async (cells: string[][], of: string, columnIds: string[] = [], first?: number) => {
    if (!group) return;
    before.current = remembered(before.current, rows);
    setTaken(await group.take(part.id, cells, of, columnIds, first));
  };

  const empty = () => !off(at) && there && put(withCell(rows, at, ""));
  const does = (action: Action) => {
    const [down, right] = STEPS[action] ?? [0, 0];
    if (action in STEPS) go(cellFrom(rows, columns, full ? null : next, at, down, right));
    else if (action === "edit") begin(null);
    else if (action === "empty") empty();
    else if (action === "same") same();
    else if (action === "fill") put(filled(rows, at, (item) => !off({ ...at, item })));
    else if (action === "undo") undo();
    else put(moved(rows, at.item, action === "row up" ? -1 : 1));
  };
  const keys = (e: React.KeyboardEvent) => {
    const action = typing === null && (e.target as HTMLElement).matches("[data-cell]") ? meant(e) : null;
    if (!action) return;
    e.preventDefault();
    if (typeof action === "string") does(action);
    else begin(action.typed);
  };
  const pointed = (e: React.SyntheticEvent) => {
    const cell = (e.target as HTMLElement).closest<HTMLElement>("[data-cell]")?.dataset.cell;
    if (!cell || (e.target as HTMLElement).closest("input, select, a")) return null;
    const { head, question } = placeOf(cell);
    return { item: Number(head), question };
  };
  const paste = (e: React.ClipboardEvent) => {
    if (typing !== null) return;
    e.preventDefault();
    const from = columns.findIndex((c) => c.id === at.question);
    const cells = pastedCells(e.clipboardData.getData("text/plain"));
    take(
      cells,
      say("What you pasted"),
      columns.slice(from).map((c) => c.id),
      at.item,
    );
  };
  const done = (down: number, right: number, dropped: boolean) => {
    if (dropped) put(withCell(rows, at, stood.current ?? ""), false);
    step(down, right);
  };

  const now = states.get(at.item)?.cells[at.question] ?? EMPTY;
  const column = columns.find((c) => c.id === at.question);
  const who = (id: number) => String(rows.find((row) => row.id === id)?.[naming] || `${part.one ?? part.title} ${id}`);
  const place = `${part.id}.${at.item}.${at.question}`;
  const withPapers = [...states.values()].some((s) => s.papers);
  const heads = columns.map((c) => (c.unit ? `${c.ask}, ${c.unit}` : c.ask));
  return (
    <section className="group" aria-label={part.title}>
      {group && (
        <GroupIn
          part={part}
          group={group}
          papers={withPapers}
          onRows={take}
          taken={taken}
          onCell={go}
          onShut={() => setTaken(null)}
        />
      )}
      <div className="group-wide">
        <table
          ref={table}
          // biome-ignore lint/a11y/noNoninteractiveElementToInteractiveRole: a table whose cells are walked by keys is a grid
          role="grid"
          aria-label={part.title}
          onKeyDown={keys}
          onFocus={(e) => {
            inside.current = true;
            const to = pointed(e); // also when a link of what is left leads here
            if (to && (to.item !== at.item || to.question !== at.question)) setAt(to);
          }}
          onMouseDown={(e) => {
            const to = pointed(e);
            if (!to) return;
            inside.current = true;
            go(to);
          }}
          onDoubleClick={(e) => pointed(e) && begin(null)}
          onPaste={paste}
          onCopy={(e) => {
            if (typing !== null || !column) return;
            e.preventDefault();
            const value = rows.find((row) => row.id === at.item)?.[at.question];
            e.clipboardData.setData("text/plain", shown(column, value, now, lists.get(column.id) ?? new Map()));
          }}
        >
          <thead>
            <tr>
              <th scope="col">
                <span className="jc-hidden">{say("Number")}</span>
              </th>
              {columns.map((c, n) => (
                <th key={c.id} scope="col">
                  {heads[n]}
                </th>
              ))}
              {withPapers && <th scope="col">{say("Papers")}</th>}
            </tr>
          </thead>
          <tbody>
            {rows.map((row, n) => (
              <Row
                key={row.id}
                no={n + 1}
                row={row}
                part={part.id}
                columns={columns}
                lists={lists}
                state={states.get(row.id)}
                at={at.item === row.id ? at.question : ""}
                typing={at.item === row.id ? typing : null}
                papers={withPapers}
                source={sourceOf(view, `${part.id}.${row.id}.${naming}`)}
                naming={naming}
                onType={type}
                onDone={at.item === row.id ? done : undefined}
              />
            ))}
            {!full && (
              <Row
                key={next}
                no={rows.length + 1}
                row={{ id: next }}
                part={part.id}
                columns={columns}
                lists={lists}
                state={undefined}
                at={at.item === next ? at.question : ""}
                typing={at.item === next ? typing : null}
                papers={withPapers}
                source={say("type or paste the next one")}
                naming={naming}
                onType={type}
                onDone={at.item === next ? done : undefined}
              />
            )}
          </tbody>
        </table>
      </div>
      <div className="group-said" aria-live="polite" id={`group-said-${part.id}`}>
        {column && (
          <p className={now.wrong ? "wrong" : now.look ? "look" : ""}>
            <b>
              {there ? who(at.item) : say("Next row")}, {column.ask}
            </b>{" "}
            {[now.wrong, now.look].filter(Boolean).join(" ") || now.why || column.help}{" "}
            {there &&
              offersAt(view, place).map((o) => (
                <button key={o.raw} type="button" className="jc-link" onClick={() => put(withCell(rows, at, o.raw))}>
                  {say("Use {{said}}", o)} <small>({o.source})</small>
                </button>
              ))}
          </p>
        )}
      </div>
      <div className="group-keys">
        <Does keys="Ctrl D" on={there || rows.length > 0} onClick={same}>
          {say("same as above")}
        </Does>
        <Does keys="Ctrl Shift D" on={there} onClick={() => does("fill")}>
          {say("the same in all empty ones below")}
        </Does>
        <Does keys="Alt ↑" on={there} onClick={() => does("row up")}>
          {say("row up")}
        </Does>
        <Does keys="Alt ↓" on={there} onClick={() => does("row down")}>
          {say("row down")}
        </Does>
        <Does keys="Ctrl Z" on onClick={undo}>
          {say("undo")}
        </Does>
        <Does on={there && !full} onClick={copy}>
          {say("copy the row")}
        </Does>
        <Does on={there} onClick={remove}>
          {say("remove the row")}
        </Does>
        <Link className="jc-link" to={`?as=cards#${part.id}.${at.item}`}>
          {say("answer this one by itself")}
        </Link>
      </div>
    </section>
  );
}

/** Where the name of a row came from, where it was not typed. */
function sourceOf(view: FormView, place: string): string {
  const given = view.dossier?.prefilled?.find((p) => p.place === place);
  return given?.source === "paper" ? say("read in {{paper}}", { paper: given.key }) : "";
}

function Does({ keys, on, onClick, children }: { keys?: string; on: boolean; onClick: () => void; children: string }) {
  return (
    <button type="button" className="jc-link" disabled={!on} onMouseDown={(e) => e.preventDefault()} onClick={onClick}>
      {keys && <Key>{keys}</Key>} {children}
    </button>
  );
}
