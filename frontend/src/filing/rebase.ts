// What was typed over an older state, put onto what stands there now: the own keys stay, what others changed meanwhile is not undone.

export type Answers = Record<string, unknown>;
type Fields = Record<string, unknown>;

const same = (a: unknown, b: unknown) => a === b || JSON.stringify(a) === JSON.stringify(b);
const isItems = (given: unknown): given is Fields[] =>
  Array.isArray(given) && given.every((item) => typeof item === "object" && item !== null && "id" in item);
const isFields = (given: unknown): given is Fields =>
  typeof given === "object" && given !== null && !Array.isArray(given);

/** One field after the other: the own where it was changed, else what stands there now. */
function fields(base: Fields, mine: Fields, now: Fields): Fields {
  const made: Fields = {};
  for (const key of new Set([...Object.keys(mine), ...Object.keys(now)])) {
    const from = same(mine[key], base[key]) ? now : mine;
    if (key in from) made[key] = from[key];
  }
  return made;
}

/** Items by their numbers: what was added stays added, what was removed stays removed unless the other side changed it. */
function items(base: Fields[], mine: Fields[], now: Fields[]): Fields[] {
  const by = (given: Fields[]) => new Map(given.map((item) => [item.id, item]));
  const [was, there] = [by(base), by(now)];
  const own = mine.flatMap((item) => {
    const [before, present] = [was.get(item.id), there.get(item.id)];
    if (!before) return [present ? fields({}, item, present) : item];
    if (!present) return same(item, before) ? [] : [item];
    return [fields(before, item, present)];
  });
  const known = by(mine);
  return [
    ...own,
    ...now.filter((item) => {
      if (known.has(item.id)) return false;
      const before = was.get(item.id);
      return !before || !same(item, before); // added by others, or removed here while others changed it
    }),
  ];
}

/** `mine`, typed over `base`, onto `now`. */
export function rebased(base: Answers, mine: Answers, now: Answers): Answers {
  const made: Answers = {};
  for (const part of new Set([...Object.keys(mine), ...Object.keys(now)])) {
    const [was, own, there] = [base[part], mine[part], now[part]];
    if (isFields(own) && isFields(there)) made[part] = fields(isFields(was) ? was : {}, own, there);
    else if (isItems(own) && isItems(there)) made[part] = items(isItems(was) ? was : [], own, there);
    else {
      const from = same(own, was) ? now : mine;
      if (part in from) made[part] = from[part];
    }
  }
  return made;
}
