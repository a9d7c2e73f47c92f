// Places, as links go to them: `works.area`, `people.2.name`, `documents.site_plan`, `declarations.costs`, `signature`, `fee`.

export type PlaceRef = {
  /** The part, or `documents`, `declarations`, `signature`, `fee`. */
  head: string;
  /** All behind the head: the question, the slot, the declaration, with the number of its item. */
  rest: string;
  /** The number of the item; empty where nothing repeats. */
  item: string;
  /** The question alone. */
  question: string;
};

export function placeOf(ref: string): PlaceRef {
  const [head = "", ...deeper] = ref.split(".");
  return {
    head,
    rest: deeper.join("."),
    item: deeper.length > 1 ? (deeper[0] ?? "") : "",
    question: deeper.at(-1) ?? "",
  };
}

/** The slot of a place; undefined if it is none. */
export function slotOf(ref: string): string | undefined {
  const { head, rest } = placeOf(ref);
  return head === "documents" ? rest : undefined;
}
