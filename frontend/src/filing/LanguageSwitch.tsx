// The switch between the languages of the screen.
import { chooseLanguage, LANGUAGE, LANGUAGES, type Language, say } from "../shared/text";
import "./languages.css";

export function LanguageSwitch() {
  return (
    <p className="filing-languages" role="group" aria-label={say("Language")}>
      {Object.entries(LANGUAGES).map(([code, name]) => (
        <button
          key={code}
          type="button"
          lang={code}
          aria-pressed={code === LANGUAGE}
          onClick={() => chooseLanguage(code as Language)}
        >
          {name}
        </button>
      ))}
    </p>
  );
}
