// The same cases as on the server: tests/web/differences.json.
import { expect, test } from "vitest";
import cases from "../../tests/web/differences.json";
import { applied, identity } from "../src/api/difference";

test.each(cases)("a difference gives the state after: %j", ({ before, after, change }) => {
  expect(applied(before, change)).toEqual(after);
});

test("what does not change is shared with the state before", () => {
  const before = { a: { deep: 1 }, b: 2 };
  const after = applied(before, { b: 3 }) as typeof before;
  expect(after.a).toBe(before.a);
});

test("members are told apart by the first key that all of them have", () => {
  expect(identity([{ id: 1 }, { id: 2 }])).toBe("id");
  expect(
    identity([
      { id: 1, no: 1 },
      { id: 1, no: 2 },
    ]),
  ).toBe("no");
  expect(identity([{ note: "a" }])).toBeUndefined();
  expect(identity([])).toBeUndefined();
  expect(identity([1, 2])).toBeUndefined();
});
