// Views of cases and drafts: fetched, joined with the form of their edition (fetched once), and changed by what a reply says.
import { api, ask, type Schemas } from "./client";
import { applied } from "./difference";

export type SlotForm = Schemas["SlotForm"] & { plain_title: string; item_label: string };
/** The form with the slots of each item in the place of those that repeat. */
export type Form = Omit<Schemas["Form"], "slots"> & { slots: SlotForm[] };
export type CaseView = Schemas["CaseView"] & { form: Form };
export type DraftView = Schemas["DraftView"] & { form: Form };
type Served = { edition_sha256: string; item_slots: Schemas["ItemSlot"][] };
type Whole = Served & { digest: string; revision: number };
type Reply<V> = {
  revision: number;
  digest: string;
  base: string;
  changes?: Record<string, unknown> | null;
  view?: V | null;
};

const forms = new Map<string, Schemas["Form"]>();

/** The form of an edition; it never changes. */
export async function formOf(edition: string): Promise<Schemas["Form"]> {
  const kept = forms.get(edition);
  if (kept) return kept;
  const form = await ask(api.GET("/api/editions/{sha256}/form", { params: { path: { sha256: edition } } }));
  forms.set(edition, form);
  return form;
}

const NO_SLOT = {
  article: "",
  optional: false,
  accepts: "",
  delivered_by: "",
  for_each: "",
  by_post: false,
  has_form: false,
};

/** The slots as they stand for these items. */
export function slotsFor(slots: Schemas["SlotForm"][], items: Schemas["ItemSlot"][]): SlotForm[] {
  // what an officer asked for by hand has a slot that no edition knows
  const byHand = items.filter((item) => !item.of).map((item) => ({ ...NO_SLOT, ...item, plain_title: item.title }));
  const own = slots.flatMap((slot) => {
    const plain = { ...slot, plain_title: slot.title, item_label: "" };
    if (!slot.for_each) return [plain];
    return items
      .filter((item) => item.of === slot.slot)
      .map((item) => ({ ...plain, slot: item.slot, title: item.title, item_label: item.item_label }));
  });
  return [...own, ...byHand];
}

/** A view joined with its form. */
export async function withForm<V extends Served>(view: V): Promise<V & { form: Form }> {
  const form = await formOf(view.edition_sha256);
  return { ...view, form: { ...form, slots: slotsFor(form.slots, view.item_slots) } };
}

/** The form of an edition before there is a case: slots that repeat stand once. */
export async function plainForm(edition: string): Promise<Form> {
  return plain(await formOf(edition));
}

/** A form over which nothing is filed: each slot once, whatever repeats. */
export function plain(form: Schemas["Form"]): Form {
  return { ...form, slots: form.slots.map((slot) => ({ ...slot, plain_title: slot.title, item_label: "" })) };
}

/** The view after a change; undefined if it has to be fetched whole, because another state was at hand than the reply is about. */
export async function afterChange<V extends Whole>(
  before: (V & { form: Form }) | undefined,
  reply: Reply<V>,
): Promise<(V & { form: Form }) | undefined> {
  if (reply.view) return withForm(reply.view);
  if (!before || !reply.changes || before.digest !== reply.base) return undefined;
  const { form: _, ...plain } = before;
  return withForm({ ...(applied(plain, reply.changes) as V), digest: reply.digest });
}

export const caseKey = (reference: string) => ["case", reference];
export const draftKey = (id: string) => ["draft", id];

const nameOf = (key: readonly unknown[]) => key.join(" ");
const newest = new Map<string, number>();

/** Note the revision of a case or draft that this page was told of; what is told late changes nothing. */
export function noteRevision(key: readonly unknown[], revision: number): void {
  newest.set(nameOf(key), Math.max(revision, newest.get(nameOf(key)) ?? 0));
}

/**
 * What is fetched, unless a newer state came to hand, or was told of, while it was on its way: a look that was begun before a change and
 * ends after it would take the change off the screen again, or never show it. It then looks once more.
 */
export async function notOlder<V extends { revision: number }>(
  key: readonly unknown[],
  fetched: () => Promise<V>,
  atHand: () => V | undefined,
): Promise<V> {
  const found = await fetched();
  const known = Math.max(atHand()?.revision ?? 0, newest.get(nameOf(key)) ?? 0);
  return found.revision < known ? fetched() : found;
}

export async function fetchCase(reference: string): Promise<CaseView> {
  return withForm(await ask(api.GET("/api/cases/{reference}", { params: { path: { reference } } })));
}

export async function fetchDraft(id: string): Promise<DraftView> {
  return withForm(await ask(api.GET("/api/drafts/{draft}", { params: { path: { draft: id } } })));
}

/** The revision that was seen, as every change sends it. */
export type Seen = { "If-Match": string };
export const seenAt = (revision: number): Seen => ({ "If-Match": `"${revision}"` });
