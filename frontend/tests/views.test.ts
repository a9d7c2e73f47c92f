import { expect, test } from "vitest";
import { placeOf, slotOf } from "../src/api/place";
import { noteRevision, notOlder, seenAt, slotsFor } from "../src/api/views";

test("places are taken apart in one module", () => {
  expect(placeOf("works.area")).toEqual({ head: "works", rest: "area", item: "", question: "area" });
  expect(placeOf("people.2.name")).toEqual({ head: "people", rest: "2.name", item: "2", question: "name" });
  expect(placeOf("signature")).toEqual({ head: "signature", rest: "", item: "", question: "" });
  expect(slotOf("documents.passport.2")).toBe("passport.2");
  expect(slotOf("works.area")).toBeUndefined();
});

test("a slot of an item stands once for each item, in the place of the slot", () => {
  const slot = (id: string, each = "") => ({
    slot: id,
    title: id.toUpperCase(),
    says: "",
    article: "1",
    optional: false,
    accepts: "PDF",
    delivered_by: "",
    for_each: each,
    by_post: false,
    has_form: false,
  });
  const items = [
    { slot: "passport.1", of: "passport", title: "PASSPORT: Person 1", item_label: "Person 1", says: "" },
    { slot: "passport.3", of: "passport", title: "PASSPORT: Person 3", item_label: "Person 3", says: "" },
  ];
  const shown = slotsFor([slot("plan"), slot("passport", "persons"), slot("venue")], items);
  expect(shown.map((s) => s.slot)).toEqual(["plan", "passport.1", "passport.3", "venue"]);
  expect(shown.map((s) => s.plain_title)).toEqual(["PLAN", "PASSPORT", "PASSPORT", "VENUE"]);
  expect(slotsFor([slot("passport", "persons")], [])).toEqual([]);
});

test("a change sends the revision that was seen", () => {
  expect(seenAt(12)).toEqual({ "If-Match": '"12"' });
});

test("what was fetched is fetched once more if a newer revision came to hand, or was told of, meanwhile", async () => {
  const key = ["draft", "told"];
  const asked = async (revisions: number[], atHand?: number) => {
    const found = await notOlder(
      key,
      async () => ({ revision: revisions.shift() ?? 0 }),
      () => (atHand === undefined ? undefined : { revision: atHand }),
    );
    return [found.revision, revisions.length];
  };
  expect(await asked([3, 4])).toEqual([3, 1]);
  expect(await asked([3, 4], 3)).toEqual([3, 1]);
  expect(await asked([3, 4], 4)).toEqual([4, 0]);
  noteRevision(key, 5);
  noteRevision(key, 4); // told late
  expect(await asked([4, 5])).toEqual([5, 0]);
  expect(await asked([5, 6])).toEqual([5, 1]);
});
