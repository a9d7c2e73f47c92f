// The texts of the form in the language that the person chose, where the rulebook says them in it.
import { useLocalStorage } from "@mantine/hooks";
import type { Schemas } from "../api/client";
import type { Form } from "../api/views";

/** The languages of a form, the rulebook's own first, by their own names. */
export function languagesOf(form: Form): [string, string][] {
  const told = Object.keys(form.translations);
  return told.length === 0 ? [] : ["en", ...told].map((code) => [code, nameOf(code)]);
}

function nameOf(code: string): string {
  const name = new Intl.DisplayNames([code], { type: "language" }).of(code) ?? code;
  return name.charAt(0).toUpperCase() + name.slice(1);
}

/** The language that the person chose for forms, remembered in this browser. */
export function useLanguage(): [string, (code: string) => void] {
  const [now, choose] = useLocalStorage<string>({
    key: "jc-language",
    defaultValue: "en",
    getInitialValueInEffect: false,
    serialize: (code) => code,
    deserialize: (code) => code ?? "en",
  });
  return [now, choose];
}

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
    declarations: form.declarations.map((d) => ({ ...d, title: t(d.title), text: t(d.text) })),
    slots: form.slots.map((slot) => ({ ...titled(told, slot), says: t(slot.says) })),
  };
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
