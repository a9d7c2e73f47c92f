// The engine's sentences at a place of the form: what is wrong there, and what a person will look at.
import { type FormView, saidAt } from "./draft";
import "./said.css";

export function Said({ view, place, looksOnly }: { view: FormView; place: string; looksOnly?: boolean }) {
  const said = saidAt(view, place).filter((s) => s.look || !looksOnly);
  if (said.length === 0) return null;
  return (
    <div className="filing-said" id={`said-${place}`}>
      {said.map((s) => (
        <p key={s.id} className={s.look ? "look" : "wrong"}>
          {s.text}
        </p>
      ))}
    </div>
  );
}
