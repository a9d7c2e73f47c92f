// One point with its answer, or one change that nobody asked for.
import { marked } from "../shared/keys";
import { Key, Tab } from "../shared/Marks";
import { say } from "../shared/text";
import type { Item } from "./items";
import "./answers.css";

const POINT_TAB: Record<string, string> = {
  closed: "met",
  "asked again": "wanting",
  answered: "to read",
  open: "wanting",
};

export function Point({
  item,
  chosen,
  may,
  doubt,
  now,
  onChoose,
  onClose,
  onAgain,
  onDoubt,
}: {
  item: Item;
  now: string;
  chosen: boolean;
  may: boolean;
  doubt: boolean;
  onChoose: () => void;
  onClose: () => void;
  onAgain: () => void;
  onDoubt: () => void;
}) {
  const p = item.point;
  if (!p) return null;
  return (
    <section className={`desk-answer${chosen ? " chosen" : ""}`} aria-label={say("Point {{no}}", { no: p.no })}>
      <Tab standing={doubt ? "in doubt" : (POINT_TAB[p.state] ?? "to read")} given={p.state !== "answered" || doubt} />
      <button type="button" className="desk-answer-head" onClick={onChoose} aria-expanded={chosen} {...marked(chosen)}>
        <b>
          {p.no} {p.title}
        </b>
        <span className={p.state === "closed" ? "moss" : p.state === "asked again" ? "madder" : "second"}>
          {doubt ? "in doubt" : p.state}
        </span>
      </button>
      <p className="second">{p.text}</p>
      <div className="desk-quote">
        {p.words && <p>“{p.words}”</p>}
        {p.changes.map((c) => (
          <p key={c.place + c.now}>
            {c.title || c.label}: {c.was && <s>{c.was}</s>} <b>{c.now || say("removed")}</b>
          </p>
        ))}
      </div>
      <p className="desk-now">{now}</p>
      {chosen && may && (
        <p className="desk-answer-keys">
          <button type="button" className="met" aria-pressed={p.state === "closed"} onClick={onClose}>
            {say("Close")} <Key>C</Key>
          </button>
          <button type="button" aria-pressed={p.state === "asked again"} onClick={onAgain}>
            {say("Ask again")} <Key>A</Key>
          </button>
          <button type="button" aria-pressed={doubt} onClick={onDoubt}>
            {say("Doubt")} <Key>D</Key>
          </button>
        </p>
      )}
    </section>
  );
}

export function Unasked({
  item,
  chosen,
  may,
  onChoose,
  onTake,
  onQuestion,
}: {
  item: Item;
  chosen: boolean;
  may: boolean;
  onChoose: () => void;
  onTake: () => void;
  onQuestion: () => void;
}) {
  const u = item.unasked;
  if (!u) return null;
  return (
    <section
      className={`desk-answer${chosen ? " chosen" : ""}`}
      aria-label={say("Changed: {{label}}", { label: u.change.label })}
    >
      <Tab standing={u.taken ? "met" : u.questioned ? "wanting" : "in doubt"} given />
      <button type="button" className="desk-answer-head" onClick={onChoose} aria-expanded={chosen} {...marked(chosen)}>
        <b>{u.change.label}</b>
        {u.taken && <span className="moss">{say("taken")}</span>}
        {u.questioned && <span className="madder">{say("asked in the next letter")}</span>}
      </button>
      <div className="desk-quote">
        <p>
          {u.change.was && <s>{u.change.was}</s>} <b>{u.change.now || say("removed")}</b>
        </p>
      </div>
      {chosen && may && !u.taken && !u.questioned && (
        <p className="desk-answer-keys">
          <button type="button" className="met" onClick={onTake}>
            {say("Take it")} <Key>T</Key>
          </button>
          <button type="button" onClick={onQuestion}>
            {say("Ask about it")} <Key>Q</Key>
          </button>
        </p>
      )}
    </section>
  );
}
