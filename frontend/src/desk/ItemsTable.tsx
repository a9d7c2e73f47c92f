// A part that repeats as a table: a row each, a column a requirement, the value in the cell; the evidence stands beneath it.
import { memo, useEffect, useMemo, useRef } from "react";
import { marked } from "../shared/keys";
import { standingClass, Tab } from "../shared/Marks";
import { say } from "../shared/text";
import type { Requirement } from "./checks";
import "./items.css";

/** One row: an item of the part, and its requirements under the titles of the columns; a hole where it has none. */
export type ItemRow = { item: string; label: string; cells: (Requirement | undefined)[] };
export type ItemTable = { part: string; title: string; columns: string[]; rows: ItemRow[] };

/** The tables of the parts that repeat, of those with more than one item. */
export function tablesOfItems(parts: { id: string; title: string }[], requirements: Requirement[]): ItemTable[] {
  return parts.flatMap((part) => {
    const own = requirements.filter((r) => r.item.startsWith(`${part.id}.`));
    const items = [...new Set(own.map((r) => r.item))];
    const asked = own.filter((r) => r.asked || r.judged);
    const columns = [...new Set(asked.map((r) => r.plain_title))];
    if (items.length < 2 || columns.length === 0) return [];
    const cells = new Map([...own].reverse().map((r) => [`${r.item} ${r.plain_title}`, r]));
    const labels = new Map(own.map((r) => [r.item, r.item_label]));
    const rows = items.map((item) => ({
      item,
      label: labels.get(item) ?? "",
      cells: columns.map((title) => cells.get(`${item} ${title}`)),
    }));
    return [{ part: part.id, title: part.title, columns, rows }];
  });
}

/** The requirements of a table, row by row, in the order in which the mark goes on. */
export const inRows = (table: ItemTable) =>
  table.rows.flatMap((row) => row.cells.filter((r): r is Requirement => !!r && (r.asked || r.judged)));

export function ItemsTable({
  table,
  chosen,
  onChoose,
}: {
  table: ItemTable;
  chosen: string;
  onChoose: (r: Requirement) => void;
}) {
  const room = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const cell = room.current?.querySelector(`[data-cell="${chosen}"]`);
    cell?.scrollIntoView({ block: "nearest", inline: "nearest" });
  }, [chosen]);
  const choose = useRef(onChoose);
  choose.current = onChoose;
  const stable = useMemo(() => (r: Requirement) => choose.current(r), []);
  return (
    <div ref={room} className="items-room" tabIndex={0} role="group" aria-label={table.title}>
      <table className="items">
        <thead>
          <tr>
            <th scope="col">{table.title}</th>
            {table.columns.map((title) => (
              <th key={title} scope="col">
                {title}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {table.rows.map((row) => (
            <Row
              key={row.item}
              row={row}
              chosen={row.cells.find((r) => r?.id === chosen)?.id ?? ""}
              onChoose={stable}
            />
          ))}
        </tbody>
      </table>
    </div>
  );
}

const Row = memo(
  function Row({ row, chosen, onChoose }: { row: ItemRow; chosen: string; onChoose: (r: Requirement) => void }) {
    return (
      <tr className={chosen ? "chosen" : ""}>
        <th scope="row">{row.label}</th>
        {row.cells.map((r, n) =>
          r && (r.asked || r.judged) ? (
            <td key={r.id} data-cell={r.id}>
              <button
                type="button"
                className={`items-cell ${standingClass(r.standing)}`}
                aria-current={r.id === chosen || undefined}
                aria-label={say("{{title}}: {{value}}, {{standing}}", {
                  title: r.title,
                  value: r.cell,
                  standing: r.standing,
                })}
                title={r.cell}
                tabIndex={r.id === chosen ? 0 : -1}
                {...marked(r.id === chosen)}
                onClick={() => onChoose(r)}
              >
                <Tab standing={r.overruled ? "overruled" : r.standing} given={r.judged} />
                {r.cell || say("to read")}
              </button>
            </td>
          ) : (
            // biome-ignore lint/suspicious/noArrayIndexKey: a hole has no name, only its column
            <td key={n} className="none">
              <span className="jc-hidden">{say("not asked")}</span>
            </td>
          ),
        )}
      </tr>
    );
  },
  (a, b) => a.chosen === b.chosen && a.row.label === b.row.label && a.row.cells.every((r, n) => r === b.row.cells[n]),
);

/** Where an arrow leads from a cell; the same cell at an edge. */
export function moveIn(table: ItemTable, chosen: string, down: number, right: number): Requirement | undefined {
  const at = table.rows.findIndex((row) => row.cells.some((r) => r?.id === chosen));
  const column = table.rows[at]?.cells.findIndex((r) => r?.id === chosen) ?? -1;
  let [row, col] = [at + down, column + right];
  for (;;) {
    const cells = table.rows[row]?.cells;
    if (!cells || col < 0 || col >= cells.length) return undefined;
    const there = cells[col];
    if (there && (there.asked || there.judged)) return there;
    row += down;
    col += right;
  }
}
