// What a change elsewhere touches here.
import { expect, test } from "vitest";
import { Recent, touchedBy } from "../src/shared/events";

const seen = (revisions: Record<string, number>) => (key: readonly unknown[]) => revisions[key.join(" ")];

test("a case that is on the screen at an older revision is looked at again, and every list", () => {
  const told = { what: "case", name: "BW-26-00001-B", revision: 7 } as const;
  expect(touchedBy(told, seen({ "case BW-26-00001-B": 6 }))).toEqual([
    ["case", "BW-26-00001-B"],
    ["tray"],
    ["my-cases"],
    ["my-messages"],
    ["summary", "BW-26-00001-B"],
  ]);
  // what this window did itself it shows already
  expect(touchedBy(told, seen({ "case BW-26-00001-B": 7 }))[0]).toEqual(["tray"]);
  expect(touchedBy(told, seen({}))[0]).toEqual(["tray"]);
});

test("a draft in another window", () => {
  const told = { what: "draft", name: "d", revision: 3 } as const;
  expect(touchedBy(told, seen({ "draft d": 2 }))).toEqual([["draft", "d"], ["drafts"]]);
  expect(touchedBy(told, seen({ "draft d": 3 }))).toEqual([["drafts"]]);
});

test("files that were read, and everything", () => {
  expect(touchedBy({ what: "files", name: "", revision: 0 }, seen({}))).toEqual([["draft"]]);
  expect(touchedBy({ what: "all", name: "", revision: 0 }, seen({}))).toEqual([[]]);
});

test("a tab that comes is told what it missed, and to look at everything if that is too long ago", () => {
  const at = (id: number) => ({ what: "draft", name: "d", revision: id, id }) as const;
  const recent = new Recent(10);
  expect(recent.after(10)).toEqual([]);
  for (const id of [11, 13, 14]) recent.keep(at(id));
  expect(recent.after(13)).toEqual([at(14)]);
  expect(recent.after(10).map((told) => told.id)).toEqual([11, 13, 14]);
  expect(recent.after(9)).toEqual([{ what: "all", name: "", revision: 0, id: 14 }]);
  for (let id = 15; id < 215; id++) recent.keep(at(id));
  // two hundred are kept: those up to 14 have gone
  expect(recent.after(14)).toHaveLength(200);
  expect(recent.after(13)[0]?.what).toBe("all");
});
