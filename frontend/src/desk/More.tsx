// Everything else that can be done with a case; and what cannot, with why not.
import { useRef, useState } from "react";
import { useHotkey } from "../shared/keys";
import { Key } from "../shared/Marks";
import { say } from "../shared/text";
import { WhyNot } from "../shared/WhyNot";
import { Palette } from "./Palette";
import { StepForm } from "./StepForm";
import { STEPS, type Step } from "./steps";
import type { CaseView, OnDesk } from "./useCase";
import "./more.css";
import "./rule.css";

export function More({ desk, view, role }: { desk: OnDesk; view: CaseView; role: string }) {
  const [open, setOpen] = useState(false);
  const [step, setStep] = useState<Step | null>(null);
  const own = view.assessment.moves.filter((m) => m.role === role);
  const may = (move: string) =>
    move === "undo"
      ? view.may_undo
      : move === "sign off"
        ? view.beside.some((one) => one.mine && !one.signed)
        : (own.find((m) => m.move === move)?.allowed ?? false);
  const there = STEPS.filter((s) => may(s.by ?? s.move));
  const button = useRef<HTMLButtonElement>(null);
  useHotkey("o", () => setOpen((now) => !now), own.length > 0 && !step, open);
  useHotkey("Escape", () => setOpen(false), open && !step, true);
  if (own.length === 0) return null;
  const close = () => {
    setStep(null);
    setOpen(false);
    button.current?.focus();
  };
  return (
    <>
      {there
        .filter((s) => s.plain)
        .map((s) => (
          <button
            key={s.move}
            type="button"
            className={`jc-button${s.move === "refuse" ? " plain" : ""}`}
            onClick={() => {
              setOpen(true);
              setStep(s);
            }}
          >
            {s.label}
          </button>
        ))}
      <button
        ref={button}
        type="button"
        className="jc-button plain"
        aria-expanded={open}
        onClick={() => {
          setOpen(!open);
          setStep(null);
        }}
      >
        {say("Other steps")} <Key>O</Key>
      </button>
      {open && (
        <section className="desk-more" aria-label={say("Other steps")}>
          {step ? (
            <StepForm desk={desk} view={view} step={step} onDone={close} onLeave={() => setStep(null)} />
          ) : (
            <Palette steps={there} onStep={setStep} onClose={close}>
              <WhyNot moves={own} />
              <p>
                <a href={`/api/cases/${view.reference}/package`} download>
                  {say("The whole case as a package (ZIP)")}
                </a>
              </p>
            </Palette>
          )}
        </section>
      )}
    </>
  );
}
