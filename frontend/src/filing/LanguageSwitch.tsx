// The switch between the languages in which a rulebook says its form.
import type { Form } from "../api/views";
import { say } from "../shared/text";
import { languagesOf, useLanguage } from "./language";
import "./filing.css";

/** In which language the questions are read, where the rulebook says them in more than one. */
export function LanguageSwitch({ form }: { form: Form }) {
  const [now, choose] = useLanguage();
  const languages = languagesOf(form);
  if (languages.length === 0) return null;
  const shown = languages.some(([code]) => code === now) ? now : "en";
  return (
    <p className="filing-languages" role="group" aria-label={say("Language of the questions")}>
      {languages.map(([code, name]) => (
        <button key={code} type="button" lang={code} aria-pressed={code === shown} onClick={() => choose(code)}>
          {name}
        </button>
      ))}
    </p>
  );
}
