// Every sentence that this side of the program says is made here from a message and values; its text stands in one catalogue
// a language (src/texts). The message is English; `npm run texts` finds all of them.
import i18next from "i18next";
import { initReactI18next } from "react-i18next";
import english from "../texts/en.json";

/** The languages of the screen, each by its own name. */
export const LANGUAGES = { en: "English", pt: "Português" } as const;
export type Language = keyof typeof LANGUAGES;
const KEY = "jc-language";

/** The language that the person chose, remembered in this browser. */
export const LANGUAGE: Language =
  typeof localStorage !== "undefined" && localStorage.getItem(KEY) === "pt" ? "pt" : "en";

/** Choose a language: the page is loaded anew in it, with everything that was kept. */
export function chooseLanguage(language: Language): void {
  localStorage.setItem(KEY, language);
  window.location.reload();
}

/** Say everything from now on in the language that was chosen; what has no text is said in English. */
export function speak(texts: Record<string, string>): void {
  i18next.addResourceBundle(LANGUAGE, "translation", texts);
  i18next.changeLanguage(LANGUAGE);
  document.documentElement.lang = LANGUAGE;
}

i18next.use(initReactI18next).init({
  lng: "en",
  fallbackLng: "en",
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
  entry: (count: number) => say("{{count}} entry", { count }),
  finding: (count: number) => say("{{count}} finding", { count }),
  document: (count: number) => say("{{count}} document", { count }),
  fault: (count: number) => say("{{count}} fault", { count }),
  file: (count: number) => say("{{count}} file", { count }),
  hour: (count: number) => say("{{count}} hour", { count }),
  letter: (count: number) => say("{{count}} letter", { count }),
  paper: (count: number) => say("{{count}} paper", { count }),
  movement: (count: number) => say("{{count}} movement", { count }),
  minute: (count: number) => say("{{count}} minute", { count }),
  place: (count: number) => say("{{count}} place", { count }),
  plot: (count: number) => say("{{count}} plot", { count }),
  point: (count: number) => say("{{count}} point", { count }),
  question: (count: number) => say("{{count}} question", { count }),
  refund: (count: number) => say("{{count}} refund", { count }),
  requirement: (count: number) => say("{{count}} requirement", { count }),
  row: (count: number) => say("{{count}} row", { count }),
  second: (count: number) => say("{{count}} second", { count }),
  sheet: (count: number) => say("{{count}} sheet", { count }),
  thing: (count: number) => say("{{count}} thing", { count }),
};

/** `1 file` or `3 files`. */
export function things(count: number, what: keyof typeof THINGS): string {
  return THINGS[what](count);
}
