// Two sheets laid over each other: what only one of them has is found, dust and a small shift are not.
import { describe, expect, it } from "vitest";
import { COLOURS, type Grey, greyOf, laidOver, painted, shift } from "../src/desk/laidOver";

const SIDE = 200;
type Box = [number, number, number, number];

function sheet(boxes: Box[], dx = 0, dy = 0): Grey {
  const data = new Uint8Array(SIDE * SIDE).fill(255);
  for (const [left, top, right, bottom] of boxes)
    for (let y = top + dy; y < bottom + dy; y++) for (let x = left + dx; x < right + dx; x++) data[y * SIDE + x] = 20;
  return { data, width: SIDE, height: SIDE };
}
const PLAN: Box[] = [
  [20, 20, 160, 24],
  [20, 20, 24, 160],
  [60, 90, 140, 94],
];

describe("two sheets laid over each other", () => {
  it("finds nothing between a sheet and itself, moved a little", () => {
    const laid = laidOver(sheet(PLAN), sheet(PLAN, 5, -3));
    expect(laid.places).toEqual([]);
    expect(laid.dots.some((d) => d > 1)).toBe(false);
    expect(laid.dots.some((d) => d === 1)).toBe(true);
  });

  it("tells what only the first has from what only the second has, each as one place", () => {
    const laid = laidOver(sheet([...PLAN, [100, 150, 130, 170]]), sheet([...PLAN, [150, 40, 190, 60]]));
    expect(laid.places.length).toBe(2);
    const at = (x: number, y: number) => laid.dots[y * SIDE + x];
    expect([at(115, 160), at(170, 50), at(90, 22), at(5, 5)]).toEqual([2, 3, 1, 0]);
    const [left, top, right, bottom] = laid.places[0] ?? [];
    expect([left, top, right, bottom]).toEqual([0.7, 0.2, 1, 0.3]);
  });

  it("takes a few dots for dust", () => {
    expect(laidOver(sheet(PLAN), sheet([...PLAN, [180, 180, 182, 182]])).places).toEqual([]);
  });

  it("paints what differs in its colours, and the rest faint", () => {
    const laid = laidOver(sheet([...PLAN, [100, 150, 130, 170]]), sheet(PLAN));
    const only = painted(laid, true);
    const colour = (x: number, y: number) => [...only.slice((y * SIDE + x) * 4, (y * SIDE + x) * 4 + 3)];
    expect(colour(115, 160)).toEqual([...COLOURS.first]);
    expect(colour(90, 22)).toEqual([232, 232, 232]);
    expect(painted(laid, false).slice((22 * SIDE + 90) * 4, (22 * SIDE + 90) * 4 + 3)).toEqual(
      new Uint8ClampedArray(COLOURS.both),
    );
  });

  it("lays sheets of two sizes over each other", () => {
    const small = { ...sheet(PLAN), height: 150 };
    expect(laidOver(sheet(PLAN), small).height).toBe(SIDE);
  });

  it("moves a profile to where it fits", () => {
    expect(shift([0, 0, 5, 0, 0], [5, 0, 0, 0, 0], 3)).toBe(2);
    expect(shift([0, 0], [0, 0], 3)).toBe(0);
  });

  it("reads grey values, what nothing covers as white", () => {
    const { data } = greyOf([255, 255, 255, 255, 0, 0, 0, 255, 9, 9, 9, 0], 3, 1);
    expect(Array.from(data)).toEqual([255, 0, 255]);
  });
});
