// Two sheets laid over each other: what both have, what only one has, and where they differ. Pure, of grey values.

/** A sheet as grey values, row by row, 0 (black) to 255 (white). */
export type Grey = { data: ArrayLike<number>; width: number; height: number };

/** What is darker than this is written; what stands within so many dots of it in the other sheet is the same. */
const INK = 170;
const NEAR = 2;
/** So far one sheet is moved at most until both lie best over each other, as a share of its width. */
const MOVED = 0.04;
/** Places are looked for in squares of so many dots; a square with fewer dots that differ is dust. */
const SQUARE = 20;
const DUST = 6;

/** Colours of what both have, of what only the first has, and of what only the second has: red, green, blue. */
export const COLOURS = { both: [28, 42, 44], first: [163, 60, 46], second: [14, 79, 85] } as const;
const FAINT = 232;

export type Laid = {
  width: number;
  height: number;
  /** For each dot: 0 nothing, 1 both, 2 only the first, 3 only the second. */
  dots: Uint8Array;
  /** Where they differ: left, top, right, bottom as shares. */
  places: number[][];
};

const inkOf = ({ data, width, height }: Grey): Uint8Array => {
  const ink = new Uint8Array(width * height);
  for (let n = 0; n < ink.length; n++) ink[n] = (data[n] ?? 255) < INK ? 1 : 0;
  return ink;
};

/** How much is written in each row or column. */
function profile(ink: Uint8Array, width: number, height: number, across: boolean): Float64Array {
  const sums = new Float64Array(across ? width : height);
  for (let y = 0, n = 0; y < height; y++)
    for (let x = 0; x < width; x++, n++) if (ink[n]) sums[across ? x : y] = (sums[across ? x : y] ?? 0) + 1;
  return sums;
}

/** By how many dots the second profile has to be moved to lie best over the first. */
export function shift(first: ArrayLike<number>, second: ArrayLike<number>, most: number): number {
  let best = 0;
  let least = Number.POSITIVE_INFINITY;
  for (let by = -most; by <= most; by++) {
    let sum = 0;
    for (let n = 0; n < first.length; n++) sum += Math.abs((first[n] ?? 0) - (second[n - by] ?? 0));
    if (sum < least || (sum === least && Math.abs(by) < Math.abs(best))) {
      best = by;
      least = sum;
    }
  }
  return best;
}

/** The written dots, moved, in a sheet of another size. */
function movedTo(ink: Uint8Array, from: Grey, width: number, height: number, dx: number, dy: number): Uint8Array {
  const out = new Uint8Array(width * height);
  for (let y = 0; y < from.height; y++) {
    const to = y + dy;
    if (to < 0 || to >= height) continue;
    for (let x = 0; x < from.width; x++) {
      const across = x + dx;
      if (ink[y * from.width + x] && across >= 0 && across < width) out[to * width + across] = 1;
    }
  }
  return out;
}

/** What is written and all that stands close to it. */
function widened(ink: Uint8Array, width: number, height: number): Uint8Array {
  const rows = new Uint8Array(ink.length);
  const out = new Uint8Array(ink.length);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      if (ink[y * width + x])
        for (let d = Math.max(0, x - NEAR); d <= Math.min(width - 1, x + NEAR); d++) rows[y * width + d] = 1;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      if (rows[y * width + x])
        for (let d = Math.max(0, y - NEAR); d <= Math.min(height - 1, y + NEAR); d++) out[d * width + x] = 1;
  return out;
}

/** Lay two sheets over each other, the second moved to where it fits best. */
export function laidOver(first: Grey, second: Grey): Laid {
  const width = Math.max(first.width, second.width);
  const height = Math.max(first.height, second.height);
  const a = inkOf(first);
  const b = inkOf(second);
  const most = Math.round(width * MOVED);
  const by = (across: boolean) =>
    shift(profile(a, first.width, first.height, across), profile(b, second.width, second.height, across), most);
  const one = movedTo(a, first, width, height, 0, 0);
  const two = movedTo(b, second, width, height, by(true), by(false));
  const nearOne = widened(one, width, height);
  const nearTwo = widened(two, width, height);
  const dots = new Uint8Array(width * height);
  for (let n = 0; n < dots.length; n++) dots[n] = one[n] ? (nearTwo[n] ? 1 : 2) : two[n] ? (nearOne[n] ? 1 : 3) : 0;
  return { width, height, dots, places: placesOf(dots, width, height) };
}

/** Where dots differ: squares with more than dust, those that touch each other as one place. */
function placesOf(dots: Uint8Array, width: number, height: number): number[][] {
  const across = Math.ceil(width / SQUARE);
  const down = Math.ceil(height / SQUARE);
  const counts = new Uint16Array(across * down);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      if ((dots[y * width + x] ?? 0) > 1) {
        const square = Math.floor(y / SQUARE) * across + Math.floor(x / SQUARE);
        counts[square] = (counts[square] ?? 0) + 1;
      }
  const seen = new Uint8Array(counts.length);
  const places: number[][] = [];
  for (let start = 0; start < counts.length; start++) {
    if (seen[start] || (counts[start] ?? 0) < DUST) continue;
    let [left, top, right, bottom] = [across, down, 0, 0];
    const todo = [start];
    seen[start] = 1;
    for (let square = todo.pop(); square !== undefined; square = todo.pop()) {
      const x = square % across;
      const y = Math.floor(square / across);
      [left, top, right, bottom] = [Math.min(left, x), Math.min(top, y), Math.max(right, x), Math.max(bottom, y)];
      for (let dy = -1; dy <= 1; dy++)
        for (let dx = -1; dx <= 1; dx++) {
          const next = (y + dy) * across + x + dx;
          const inside = x + dx >= 0 && x + dx < across && y + dy >= 0 && y + dy < down;
          if (inside && !seen[next] && (counts[next] ?? 0) >= DUST) {
            seen[next] = 1;
            todo.push(next);
          }
        }
    }
    places.push([
      (left * SQUARE) / width,
      (top * SQUARE) / height,
      Math.min(1, ((right + 1) * SQUARE) / width),
      Math.min(1, ((bottom + 1) * SQUARE) / height),
    ]);
  }
  return places;
}

/** The dots as a picture: red, green, blue and cover of each. What both have is faint where only the differences are wanted. */
export function painted({ dots }: Laid, onlyDiffers: boolean): Uint8ClampedArray<ArrayBuffer> {
  const out = new Uint8ClampedArray(dots.length * 4).fill(255);
  const faint = [FAINT, FAINT, FAINT] as const;
  const colours = [null, onlyDiffers ? faint : COLOURS.both, COLOURS.first, COLOURS.second];
  for (let n = 0; n < dots.length; n++) {
    const colour = colours[dots[n] ?? 0];
    if (colour) out.set(colour, n * 4);
  }
  return out;
}

/** Grey values of a picture of red, green, blue and cover. */
export function greyOf(rgba: ArrayLike<number>, width: number, height: number): Grey {
  const data = new Uint8Array(width * height);
  for (let n = 0; n < data.length; n++) {
    const [r, g, b, a] = [rgba[n * 4] ?? 0, rgba[n * 4 + 1] ?? 0, rgba[n * 4 + 2] ?? 0, rgba[n * 4 + 3] ?? 0];
    data[n] = a === 0 ? 255 : Math.round(0.3 * r + 0.59 * g + 0.11 * b);
  }
  return { data, width, height };
}
