// What is typed while others change the same filing: nothing of either is undone.
import { describe, expect, it } from "vitest";
import { rebased } from "../src/filing/rebase";

const BASE = {
  works: { area: "18", use: "shed" },
  people: [
    { id: 1, name: "Odo" },
    { id: 2, name: "Ida" },
  ],
};

describe("what was typed over an older state", () => {
  it("stays as it is where nobody else changed anything", () => {
    const mine = { ...BASE, works: { area: "19", use: "shed" } };
    expect(rebased(BASE, mine, BASE)).toEqual(mine);
  });
  it("keeps what others changed elsewhere, in the same part too", () => {
    const mine = { ...BASE, works: { area: "19", use: "shed" } };
    const now = { ...BASE, works: { area: "18", use: "workshop" }, place: { plot: "Q-1" } };
    expect(rebased(BASE, mine, now)).toEqual({ ...now, works: { area: "19", use: "workshop" } });
  });
  it("puts the own key over another of the same answer, for the office to decide by its revision", () => {
    const [mine, now] = [{ works: { area: "20" } }, { works: { area: "21" } }];
    expect(rebased({ works: { area: "18" } }, mine, now)).toEqual(mine);
  });
  it("keeps an answer that was emptied here empty, and one that was emptied there", () => {
    expect(rebased(BASE, { works: { use: "shed" } }, { works: BASE.works })).toEqual({ works: { use: "shed" } });
    expect(rebased(BASE, { works: BASE.works }, { works: { use: "shed" } })).toEqual({ works: { use: "shed" } });
  });
  it("knows items by their numbers", () => {
    const people = [
      { id: 2, name: "Ida" },
      { id: 1, name: "Odo Fenn" },
      { id: 3, name: "new here" },
    ];
    const now = {
      ...BASE,
      people: [
        { id: 1, name: "Odo" },
        { id: 2, name: "Ida Marsh" },
        { id: 4, name: "new there" },
      ],
    };
    expect(rebased(BASE, { ...BASE, people }, now).people).toEqual([
      { id: 2, name: "Ida Marsh" },
      { id: 1, name: "Odo Fenn" },
      { id: 3, name: "new here" },
      { id: 4, name: "new there" },
    ]);
  });
  it("lets an item go that was removed by either, and keeps one that the other changed", () => {
    const only = (id: number) => BASE.people.filter((p) => p.id === id);
    expect(rebased(BASE, { ...BASE, people: only(1) }, BASE).people).toEqual(only(1));
    expect(rebased(BASE, BASE, { ...BASE, people: only(1) }).people).toEqual(only(1));
    const changed = [
      { id: 1, name: "Odo" },
      { id: 2, name: "Ida Marsh" },
    ];
    expect(rebased(BASE, { ...BASE, people: only(1) }, { ...BASE, people: changed }).people).toEqual([
      { id: 1, name: "Odo" },
      { id: 2, name: "Ida Marsh" },
    ]);
    expect(rebased(BASE, { ...BASE, people: changed }, { ...BASE, people: only(1) }).people).toEqual(changed);
  });
});
