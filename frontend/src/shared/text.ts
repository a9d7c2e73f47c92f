// Every sentence that this side of the program says is made here from a message and values; its text stands in one catalogue
// a language (src/texts). The message is English; `npm run texts` finds all of them.
import i18next from "i18next";
import { initReactI18next } from "react-i18next";
import english from "../texts/en.json";

i18next.use(initReactI18next).init({
  lng: "en",
  fallbackLng: false,
  resources: { en: { translation: english } },
  keySeparator: false,
  nsSeparator: false,
  returnEmptyString: false,
  initAsync: false,
  interpolation: { escapeValue: false },
});

/** Texts by their message, looked up once: most sentences are said with every look. */
const plain = new Map<string, string>();
i18next.on("languageChanged", () => plain.clear());

/** The sentence of a message; `{{name}}` stands for a value, `{{count}}` chooses between one and many. */
export function say(message: string, values?: Record<string, unknown>): string {
  if (values && "count" in values) return i18next.t(message, values);
  const text = plain.get(message) ?? i18next.t(message, { skipInterpolation: true });
  plain.set(message, text);
  return values ? text.replaceAll(/{{(\w+)}}/g, (_, name) => String(values[name] ?? "")) : text;
}

/** What can be counted, each with its one and its many. */
const THINGS = {
  case: (count: number) => say("{{count}} case", { count }),
  finding: (count: number) => say("{{count}} finding", { count }),
  file: (count: number) => say("{{count}} file", { count }),
  hour: (count: number) => say("{{count}} hour", { count }),
  letter: (count: number) => say("{{count}} letter", { count }),
  minute: (count: number) => say("{{count}} minute", { count }),
  point: (count: number) => say("{{count}} point", { count }),
  question: (count: number) => say("{{count}} question", { count }),
  refund: (count: number) => say("{{count}} refund", { count }),
  second: (count: number) => say("{{count}} second", { count }),
  thing: (count: number) => say("{{count}} thing", { count }),
};

/** `1 file` or `3 files`. */
export function things(count: number, what: keyof typeof THINGS): string {
  return THINGS[what](count);
}
