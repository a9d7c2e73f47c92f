// What changed in a view, applied: the mirror of jolly_clerk/web/difference.py, which says how it is written.

const IDENTITIES = ["id", "no", "key", "place", "ref", "slot", "move", "stage", "ending", "name", "text"] as const;
type Bag = Record<string, unknown>;

function isBag(value: unknown): value is Bag {
  return typeof value === "object" && value !== null && !Array.isArray(value);
}

/** The key by which the members of a list are told apart; undefined if there is none. */
export function identity(members: unknown[]): string | undefined {
  if (members.length === 0 || !members.every(isBag)) return undefined;
  const bags = members as Bag[];
  return IDENTITIES.find(
    (key) =>
      bags.every((m) => typeof m[key] === "string" || typeof m[key] === "number") &&
      new Set(bags.map((m) => String(m[key]))).size === bags.length,
  );
}

/** A value with a difference applied. What does not change is shared with the value before. */
export function applied(before: unknown, change: unknown): unknown {
  if (!isBag(change)) return change;
  if ("$value" in change) return change.$value;
  if ("$items" in change) return appliedToList(before as Bag[], change);
  const made: Bag = {};
  const old = isBag(before) ? before : {};
  for (const [key, value] of Object.entries(old)) if (!(key in change) || change[key] !== null) made[key] = value;
  for (const [key, own] of Object.entries(change)) if (own !== null) made[key] = applied(old[key], own);
  return made;
}

function appliedToList(before: Bag[], change: Bag): unknown[] {
  const key = identity(before) ?? "id";
  const old = new Map(before.map((m) => [String(m[key]), m as unknown]));
  const items = change.$items as Bag;
  const order = (change.$order as string[] | undefined) ?? [...old.keys()];
  return order.map((name) => (name in items ? applied(old.get(name), items[name]) : old.get(name)));
}
