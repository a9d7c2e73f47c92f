// The texts of the form in the language of the screen, where the rulebook says them in it.
import type { Schemas } from "../api/client";
import type { Form } from "../api/views";
import { LANGUAGE } from "../shared/text";

/** A form with its texts in another language; a text that is not translated stands as it is. */
export function formIn(form: Form, language: string): Form {
  const told = form.translations[language];
  if (!told) return form;
  const t = <T extends string | null | undefined>(text: T): T => (text ? ((told[flat(text)] ?? text) as T) : text);
  return {
    ...form,
    title: t(form.title),
    about: t(form.about),
    parts: form.parts.map((part) => ({
      ...part,
      title: t(part.title),
      one: t(part.one),
      questions: part.questions.map((q) => ({
        ...q,
        ask: t(q.ask),
        help: t(q.help),
        unit: t(q.unit),
        columns: q.columns?.map((c) => ({ ...c, ask: t(c.ask) })),
      })),
    })),
    lists: Object.fromEntries(
      Object.entries(form.lists).map(([name, options]) => [name, options.map((o) => ({ ...o, title: t(o.title) }))]),
    ),
    registers: Object.fromEntries(Object.entries(form.registers).map(([name, title]) => [name, t(title)])),
    declarations: form.declarations.map((d) => ({ ...d, title: t(d.title), text: t(d.text) })),
    slots: form.slots.map((slot) => ({
      ...titled(told, slot),
      says: t(slot.says),
      accepts: t(slot.accepts),
      delivered_by: t(slot.delivered_by),
    })),
  };
}

/** A text of a form in the language of the screen, if the rulebook says it in it and it differs. */
export function alsoSaid(form: Form, text: string): string | null {
  const told = form.translations[LANGUAGE]?.[flat(text)];
  return told && told !== text ? told : null;
}

const flat = (text: string) => text.split(/\s+/).join(" ").trim();

/** A title in another language, with what the item is called. */
function titled<T extends { title: string; plain_title: string; item_label: string }>(
  told: Record<string, string>,
  of: T,
): T {
  const plain = told[flat(of.plain_title)] ?? of.plain_title;
  return { ...of, plain_title: plain, title: of.item_label ? `${plain}: ${of.item_label}` : plain };
}

/** A view whose form and titles of documents are in another language. */
export function viewIn<V extends { form: Form; assessment: Schemas["AssessmentView"] }>(view: V, language: string): V {
  const told = view.form.translations[language];
  if (!told) return view;
  const requirements = view.assessment.requirements.map((r) => (r.kind === "document" ? titled(told, r) : r));
  return { ...view, form: formIn(view.form, language), assessment: { ...view.assessment, requirements } };
}
