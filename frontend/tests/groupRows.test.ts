import { describe, expect, it } from "vitest";
import type { Item } from "../src/filing/draft";
import {
  above,
  cellFrom,
  columnsOf,
  copied,
  filled,
  meant,
  moved,
  namingOf,
  pastedCells,
  type Question,
  remembered,
  withCell,
} from "../src/filing/groupRows";

const asked = (id: string, type: string) => ({ id, type, ask: id }) as unknown as Question;
const COLUMNS = [asked("name", "person"), asked("born", "date"), asked("pages", "count")];
const PART = { questions: [...COLUMNS, asked("stays", "rows"), asked("lines", "long text")] } as never;
const ROWS: Item[] = [
  { id: 1, name: "Ines", born: "1" },
  { id: 4, name: "Tom" },
  { id: 2, name: "Nell" },
];
const key = (name: string, held: Partial<Record<"ctrlKey" | "altKey" | "metaKey", boolean>> = {}) => ({
  key: name,
  ctrlKey: false,
  altKey: false,
  metaKey: false,
  ...held,
});

describe("a table of repeats", () => {
  it("has a column for what fits in a cell and is asked of somebody", () => {
    expect(columnsOf(PART, (q) => q !== "born").map((q) => q.id)).toEqual(["name", "pages"]);
    expect(namingOf(PART)).toBe("name");
  });

  it("sets a cell and makes the row that is not there yet", () => {
    expect(withCell(ROWS, { item: 4, question: "born" }, "2")[1]).toEqual({ id: 4, name: "Tom", born: "2" });
    expect(withCell(ROWS, { item: 9, question: "name" }, "Lior").at(-1)).toEqual({ id: 9, name: "Lior" });
    expect(ROWS[1]).toEqual({ id: 4, name: "Tom" });
  });

  it("moves a row, and none beyond the ends", () => {
    expect(moved(ROWS, 2, -1).map((r) => r.id)).toEqual([1, 2, 4]);
    expect(moved(ROWS, 1, 1).map((r) => r.id)).toEqual([4, 1, 2]);
    expect(moved(ROWS, 1, -1)).toBe(ROWS);
    expect(moved(ROWS, 2, 1)).toBe(ROWS);
    expect(moved(ROWS, 77, 1)).toBe(ROWS);
  });

  it("copies a row without its name", () => {
    expect(copied(ROWS, 1, 5, "name").map((r) => [r.id, r.name, r.born])).toEqual([
      [1, "Ines", "1"],
      [5, undefined, "1"],
      [4, "Tom", undefined],
      [2, "Nell", undefined],
    ]);
  });

  it("knows what stands above, also of the row that is begun", () => {
    expect(above(ROWS, { item: 4, question: "born" })).toBe("1");
    expect(above(ROWS, { item: 1, question: "born" })).toBeUndefined();
    expect(above(ROWS, { item: 9, question: "name" })).toBe("Nell");
  });

  it("fills what is open below, and nothing else", () => {
    const rows: Item[] = [{ id: 1, born: "1" }, { id: 2 }, { id: 3, born: "3" }, { id: 4, born: "" }, { id: 5 }];
    const now = filled(rows, { item: 1, question: "born" }, (id) => id !== 5);
    expect(now.map((r) => r.born)).toEqual(["1", "1", "3", "1", undefined]);
    expect(filled(rows, { item: 2, question: "born" }, () => true)).toBe(rows);
    expect(filled(now, { item: 3, question: "born" }, (id) => id !== 5)).toBe(now);
  });

  it("walks as far as the table goes", () => {
    const from = { item: 4, question: "born" };
    expect(cellFrom(ROWS, COLUMNS, 9, from, 1, 1)).toEqual({ item: 2, question: "pages" });
    expect(cellFrom(ROWS, COLUMNS, 9, from, 99, 99)).toEqual({ item: 9, question: "pages" });
    expect(cellFrom(ROWS, COLUMNS, null, from, 99, -99)).toEqual({ item: 2, question: "name" });
  });

  it("reads what was copied from a spreadsheet", () => {
    expect(pastedCells("a\tb\r\nc\td\r\n")).toEqual([
      ["a", "b"],
      ["c", "d"],
    ]);
    expect(pastedCells('"two\nlines, ""so""\there"\tb')).toEqual([['two\nlines, "so"\there', "b"]]);
    expect(pastedCells("\t\nx")).toEqual([["", ""], ["x"]]);
    expect(pastedCells("")).toEqual([[""]]);
  });

  it("remembers each state once", () => {
    const one = remembered([], ROWS);
    expect(remembered(one, ROWS)).toBe(one);
    expect(remembered(one, [...ROWS])).toHaveLength(2);
  });

  it("means by a key what it says", () => {
    expect(meant(key("ArrowUp", { altKey: true }))).toBe("row up");
    expect(meant(key("d", { metaKey: true }))).toBe("same");
    expect(meant(key("D", { ctrlKey: true }))).toBe("fill");
    expect(meant(key("d"))).toEqual({ typed: "d" });
    expect(meant(key("Home", { ctrlKey: true }))).toBe("begin");
    for (const other of [key("Tab"), key(" "), key("c", { ctrlKey: true }), key("v", { ctrlKey: true })])
      expect(meant(other)).toBeNull();
  });
});
