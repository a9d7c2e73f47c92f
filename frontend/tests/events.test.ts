// What a change elsewhere touches here.
import { expect, test } from "vitest";
import { touchedBy } from "../src/shared/events";

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
