// The cards that can be held to the stand-in terminal, and walking away.
import type { Schemas } from "../api/client";
import { say } from "../shared/text";

export function Cards({
  busy,
  onHold,
}: {
  busy: boolean;
  onHold: (outcome: Schemas["TerminalIn"]["outcome"]) => void;
}) {
  return (
    <div className="till-cards">
      <button type="button" className="jc-button wide" onClick={() => onHold("approved")} disabled={busy}>
        {say("Hold a good card to it")}
      </button>
      <button type="button" className="jc-button plain wide" onClick={() => onHold("declined")}>
        {say("Hold a card without money to it")}
      </button>
      <button type="button" className="jc-button plain wide" onClick={() => onHold("abandoned")}>
        {say("Walk away")}
      </button>
    </div>
  );
}

/** What the terminal shows of an order, or of what is to be paid before it is asked. */
export function Screen({ asked, sum }: { asked: Schemas["TerminalOut"] | null; sum: string }) {
  if (asked?.state === "approved")
    return (
      <>
        <b>{say("Approved")}</b>
        <span>{sum}</span>
        <small>{say("Take your receipt.")}</small>
      </>
    );
  if (asked && asked.state !== "asked")
    return (
      <>
        <b>{asked.state === "declined" ? say("Declined") : say("Cancelled")}</b>
        <small>{asked.said}</small>
      </>
    );
  return (
    <>
      <b>{asked ? say("Hold your card here") : say("To pay")}</b>
      <span>{sum}</span>
    </>
  );
}
