// The rows of a part that repeats as a table: what its columns are, and what each key and button does to rows. No interface code.
import type { Schemas } from "../api/client";
import type { Item } from "./draft";

export type Question = Schemas["Question"];
export type At = { item: number; question: string };

/** What is answered in a cell of the table; all else is answered one by one. */
const IN_A_CELL = [
  "text",
  "person",
  "place",
  "date",
  "date and time",
  "hour",
  "number",
  "count",
  "money",
  "one of",
  "yes or no",
];
/** So many steps are undone. */
const MOST_UNDONE = 100;

/** The questions that have a column; one that is asked of nobody has none. */
export function columnsOf(part: Schemas["Part"], asked: (question: string) => boolean): Question[] {
  return part.questions.filter((q) => IN_A_CELL.includes(q.type) && asked(q.id));
}

/** The question that a repeat is called by. */
export function namingOf(part: Schemas["Part"]): string {
  return (part.questions.find((q) => q.type === "person") ?? part.questions.find((q) => q.type === "text"))?.id ?? "";
}

/** Rows with one answer set; a row that is not there yet is made. */
export function withCell(rows: Item[], at: At, value: unknown): Item[] {
  return rows.some((row) => row.id === at.item)
    ? rows.map((row) => (row.id === at.item ? { ...row, [at.question]: value } : row))
    : [...rows, { id: at.item, [at.question]: value }];
}

/** Rows with one of them so many places further down. */
export function moved(rows: Item[], id: number, by: number): Item[] {
  const from = rows.findIndex((row) => row.id === id);
  const to = from + by;
  const row = rows[from];
  if (!row || to < 0 || to >= rows.length) return rows;
  const rest = rows.filter((other) => other.id !== id);
  return [...rest.slice(0, to), row, ...rest.slice(to)];
}

/** Rows with a copy of one of them behind it, which has no name yet. */
export function copied(rows: Item[], id: number, next: number, naming: string): Item[] {
  const at = rows.findIndex((row) => row.id === id);
  const row = rows[at];
  if (!row) return rows;
  const { [naming]: _, ...rest } = row;
  return [...rows.slice(0, at + 1), { ...rest, id: next }, ...rows.slice(at + 1)];
}

/** What stands above a cell; undefined in the first row. */
export function above(rows: Item[], at: At): unknown {
  const n = rows.findIndex((row) => row.id === at.item);
  return rows[(n < 0 ? rows.length : n) - 1]?.[at.question];
}

/** Rows with the answer of a cell in every one below that is still open there. */
export function filled(rows: Item[], at: At, takes: (item: number) => boolean): Item[] {
  const n = rows.findIndex((row) => row.id === at.item);
  const value = rows[n]?.[at.question];
  if (value === undefined || value === "") return rows;
  const open = (row: Item) => row[at.question] === undefined || row[at.question] === "" || row[at.question] === null;
  const now = rows.map((row, k) => (k > n && open(row) && takes(row.id) ? { ...row, [at.question]: value } : row));
  return now.some((row, k) => row !== rows[k]) ? now : rows;
}

/** The cell so many rows and columns away, as far as the table goes; `next` is the row that can be begun. */
export function cellFrom(
  rows: Item[],
  columns: Question[],
  next: number | null,
  at: At,
  down: number,
  right: number,
): At {
  const ids = [...rows.map((row) => row.id), ...(next === null ? [] : [next])];
  const within = (n: number, most: number) => Math.max(0, Math.min(most - 1, n));
  const y = within(Math.max(0, ids.indexOf(at.item)) + down, ids.length);
  const x = within(
    Math.max(
      0,
      columns.findIndex((c) => c.id === at.question),
    ) + right,
    columns.length,
  );
  return { item: ids[y] ?? at.item, question: columns[x]?.id ?? at.question };
}

/** The cells of a text that was copied from a spreadsheet; quoted cells may hold line ends and tabs. */
export function pastedCells(text: string): string[][] {
  const rows: string[][] = [[]];
  let cell = "";
  let quoted = false;
  const end = () => rows.at(-1)?.push(cell.trim());
  for (let n = 0; n < text.length; n++) {
    const letter = text[n] ?? "";
    if (quoted && letter === '"' && text[n + 1] === '"') {
      cell += '"';
      n++;
    } else if (letter === '"' && (quoted || cell === "")) quoted = !quoted;
    else if (!quoted && letter === "\t") {
      end();
      cell = "";
    } else if (!quoted && (letter === "\n" || letter === "\r")) {
      if (letter === "\r" && text[n + 1] === "\n") n++;
      end();
      cell = "";
      rows.push([]);
    } else cell += letter;
  }
  end();
  while (rows.length > 1 && rows.at(-1)?.every((one) => one === "")) rows.pop();
  return rows;
}

/** The states before each change, the newest last; nothing twice. */
export function remembered(before: Item[][], rows: Item[]): Item[][] {
  return before.at(-1) === rows ? before : [...before, rows].slice(-MOST_UNDONE);
}

/** What a key does in a cell that is not being typed in. */
export type Action =
  | "up"
  | "down"
  | "left"
  | "right"
  | "first"
  | "last"
  | "begin"
  | "end"
  | "edit"
  | "empty"
  | "same"
  | "fill"
  | "undo"
  | "row up"
  | "row down";

const KEYS: Record<string, Action> = {
  ArrowUp: "up",
  ArrowDown: "down",
  ArrowLeft: "left",
  ArrowRight: "right",
  Home: "first",
  End: "last",
  Enter: "edit",
  F2: "edit",
  Delete: "empty",
  Backspace: "empty",
  "Ctrl+Home": "begin",
  "Ctrl+End": "end",
  "Ctrl+d": "same",
  "Ctrl+D": "fill", // with Shift
  "Ctrl+z": "undo",
  "Alt+ArrowUp": "row up",
  "Alt+ArrowDown": "row down",
};

type Pressed = { key: string; ctrlKey: boolean; metaKey: boolean; altKey: boolean };

/** What a key press means; a letter by itself is typed over what stands there, anything else is the browser's. */
export function meant(e: Pressed): Action | { typed: string } | null {
  const name = `${e.altKey ? "Alt+" : ""}${e.ctrlKey || e.metaKey ? "Ctrl+" : ""}${e.key}`;
  const action = KEYS[name];
  if (action) return action;
  return name.length === 1 && name !== " " ? { typed: name } : null;
}
