// `npm run texts`: every message that the screen says, into the catalogue of each language.
export default {
  locales: ["en", "pt"],
  input: ["src/**/*.{ts,tsx}"],
  output: "src/texts/$LOCALE.json",
  keySeparator: false,
  namespaceSeparator: false,
  pluralSeparator: "_",
  contextSeparator: "|",
  lexers: { ts: [{ lexer: "JavascriptLexer", functions: ["say"] }], tsx: [{ lexer: "JsxLexer", functions: ["say"] }] },
  // English is its own text until somebody words it otherwise; what another language has not is said in English
  defaultValue: (locale, _namespace, key) => (locale === "en" ? key.replace(/_(one|other|many)$/, "") : ""),
  sort: true,
  createOldCatalogs: false,
  keepRemoved: false,
  verbose: false,
};
