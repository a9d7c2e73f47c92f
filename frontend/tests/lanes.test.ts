// Finding one lane among many.
import { expect, test } from "vitest";
import { lanesWith } from "../src/shared/Lanes";

const lanes = [
  { title: "Common part", state: "Complete" },
  { title: "Site 2, Harbour clinic", state: "Answers wanted" },
  { title: "Site 12, Pier clinic", state: "Being checked" },
];
const titles = (words: string) => lanesWith(lanes, words).map((lane) => lane.title);

test("by any part of the title or the state, every word of it", () => {
  expect(titles("")).toHaveLength(3);
  expect(titles("clinic")).toEqual(["Site 2, Harbour clinic", "Site 12, Pier clinic"]);
  expect(titles("PIER clinic")).toEqual(["Site 12, Pier clinic"]);
  expect(titles("answers")).toEqual(["Site 2, Harbour clinic"]);
  expect(titles("site 2 checked")).toEqual(["Site 12, Pier clinic"]);
  expect(titles("nothing")).toEqual([]);
});
