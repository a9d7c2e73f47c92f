// The one line that a judgement asks for: a waiver, and what is met against the machine.
import { say } from "../shared/text";
import { Words } from "./Words";

/** `against` is what the machine says, empty where nothing is overruled. */
export function ReasonLine({
  against,
  onGive,
  onClose,
}: {
  against: string;
  onGive: (reason: string) => void;
  onClose: () => void;
}) {
  return (
    <Words
      className="desk-waive"
      label={against ? say("Why is it met all the same?") : say("Why is this not asked here?")}
      give={against ? say("Met all the same") : say("Waive it")}
      least={3}
      byEnter
      onGive={onGive}
      onClose={onClose}
    >
      {against && (
        <p>
          <b>{say("The machine says:")}</b> {against}
        </p>
      )}
    </Words>
  );
}
