// Any step found by its words: those with a key of their own, and the others; what cannot be done now stands beneath, with why not.
import { type KeyboardEvent, type ReactNode, useState } from "react";
import { isBound, press, useOpened } from "../shared/keys";
import { Key } from "../shared/Marks";
import { say } from "../shared/text";
import { NAMED } from "./deskKeys";
import type { Step } from "./steps";
import "./more.css";

type Found = { label: string; says: string; key: string; act: () => void };

export function Palette({
  steps,
  onStep,
  onClose,
  children,
}: {
  steps: Step[];
  onStep: (step: Step) => void;
  onClose: () => void;
  children: ReactNode;
}) {
  const opened = useOpened<HTMLDivElement>();
  const [words, setWords] = useState("");
  const [at, setAt] = useState(0);
  const all: Found[] = [
    ...steps.map((s) => ({ label: s.label, says: s.says, key: "", act: () => onStep(s) })),
    ...NAMED.filter(([key]) => isBound(key)).map(([key, label]) => ({
      label,
      says: "",
      key,
      act: () => {
        onClose();
        press(key);
      },
    })),
  ];
  const asked = words.toLowerCase().match(/\S+/g) ?? [];
  const found = all.filter((f) => asked.every((w) => `${f.label} ${f.says}`.toLowerCase().includes(w)));
  const now = Math.min(at, found.length - 1);
  function onKeyDown(e: KeyboardEvent) {
    if (e.key === "ArrowDown" || e.key === "ArrowUp") {
      e.preventDefault();
      setAt(Math.max(0, Math.min(found.length - 1, now + (e.key === "ArrowDown" ? 1 : -1))));
    }
    if (e.key === "Enter" && found[now]) {
      e.preventDefault();
      found[now].act();
    }
    if (e.key === "Escape") onClose();
  }
  return (
    <div {...opened}>
      <input
        className="palette-words"
        role="combobox"
        aria-expanded
        aria-controls="palette"
        aria-activedescendant={found[now] ? `step-${now}` : undefined}
        aria-label={say("Find a step by its words")}
        placeholder={say("What do you want to do?")}
        value={words}
        onChange={(e) => {
          setWords(e.target.value);
          setAt(0);
        }}
        onKeyDown={onKeyDown}
      />
      <div id="palette" role="listbox" aria-label={say("Steps")} tabIndex={-1}>
        {found.map((f, n) => (
          <button
            key={`${f.key}${f.label}`}
            id={`step-${n}`}
            type="button"
            role="option"
            aria-selected={n === now}
            className="palette-step"
            onClick={f.act}
          >
            <b>{f.label}</b> {f.says && <small>{f.says}</small>} {f.key && <Key>{f.key.toUpperCase()}</Key>}
          </button>
        ))}
      </div>
      {found.length === 0 && <p className="second">{say("No step has these words.")}</p>}
      {words === "" && children}
      <button type="button" className="jc-link" onClick={onClose}>
        {say("close")}
      </button>
    </div>
  );
}
