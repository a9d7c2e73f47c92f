// A step before it is taken: what it brings, its letter, what is met against the machine; one more key does it.
import type { ReactNode } from "react";
import { Dialog, Yes } from "../shared/Dialog";
import { Key } from "../shared/Marks";
import { PdfView } from "../shared/PdfView";
import { say, things } from "../shared/text";
import type { CaseView } from "./useCase";
import "./desk.css";

export function StepFirst({
  title,
  yes,
  move,
  lane,
  view,
  letter,
  opened,
  onYes,
  onClose,
  children,
}: {
  title: string;
  yes: string;
  move: string;
  lane: string;
  view: CaseView;
  /** Where its letter is to be had as it would go out. */
  letter?: string;
  opened: boolean;
  onYes: () => void;
  onClose: () => void;
  children?: ReactNode;
}) {
  const brings = view.foreseen[lane]?.[move] ?? [];
  const against = move === "accept as complete" ? view.assessment.requirements.filter((r) => r.overruled) : [];
  return (
    <Dialog title={title} opened={opened} onClose={onClose}>
      <div className={letter ? "step-first with-letter" : "step-first"}>
        <div>
          {brings.map((sentence) => (
            <p key={sentence}>{sentence}</p>
          ))}
          {against.length > 0 && (
            <>
              <p>
                <b>{say("{{count}} met against the machine:", { count: things(against.length, "requirement") })}</b>
              </p>
              <ul className="desk-against">
                {against.map((r) => (
                  <li key={r.id}>
                    <b>{r.title}</b> {r.given?.overrules} <span>{r.given?.reason}</span>
                  </li>
                ))}
              </ul>
            </>
          )}
          {children}
          <p className="second">{say("It can be taken back until it leaves.")}</p>
          <Yes onYes={onYes} onClose={onClose}>
            {yes} <Key>{say("Enter")}</Key>
          </Yes>{" "}
          <button type="button" className="jc-button plain" onClick={onClose}>
            {say("Not yet")}
          </button>
        </div>
        {letter && opened && (
          <div className="step-letter">
            <PdfView url={letter} label={say("Its letter")} />
          </div>
        )}
      </div>
    </Dialog>
  );
}

/** Where the letter of a step is to be had before it is taken. */
export const stepLetter = (reference: string, move: string, lane: string, grounds = "") =>
  `/api/cases/${reference}/step-letter?${new URLSearchParams({ move, lane, grounds })}`;
