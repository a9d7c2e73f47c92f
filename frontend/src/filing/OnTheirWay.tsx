// Files that have not arrived, by name: under their slot, and in one line on every page of the filing.

import { giveUp, type OnItsWay, useOnTheirWay } from "../api/sending";
import { say, things } from "../shared/text";

/** Those of one slot, each with how far it is or why it did not arrive. */
export function OnTheirWay({ draft, slot }: { draft: string; slot: string }) {
  const files = useOnTheirWay().filter((f) => f.draft === draft && f.slot === slot);
  return (
    <>
      {files.map((f) => (
        <p
          key={f.key}
          className={f.state === "refused" ? "madder" : "second"}
          role={f.state === "refused" ? "alert" : "status"}
        >
          {said(f)}{" "}
          <button type="button" className="jc-link" onClick={() => giveUp(f.key)}>
            {f.state === "refused" ? say("Close") : say("Do not send it")}
            <span className="jc-hidden"> {f.file.name}</span>
          </button>
        </p>
      ))}
    </>
  );
}

function said(f: OnItsWay): string {
  const name = f.file.name;
  if (f.state === "refused") return f.said;
  if (f.state === "sending")
    return say("{{name}} is being sent, {{percent}} % so far", { name, percent: Math.round(f.share * 100) });
  return f.state === "waiting"
    ? say("{{name}} is sent next", { name })
    : say("{{name}} has not arrived. It is kept here and sent as soon as the office can be reached.", { name });
}

/** All that have not arrived; nothing if there are none. */
export function NotArrived({ draft }: { draft: string }) {
  const names = useOnTheirWay()
    .filter((f) => f.draft === draft && f.state !== "refused")
    .map((f) => f.file.name);
  if (names.length === 0) return null;
  return (
    <p className="filing-not-arrived" role="status">
      <b>{say("{{files}} not arrived yet:", { files: things(names.length, "file") })}</b> {names.join(", ")}
    </p>
  );
}

/** True while a file of a draft has not arrived: it is not filed without it. */
export const useWaitsForFiles = (draft: string): boolean =>
  useOnTheirWay().some((f) => f.draft === draft && f.state !== "refused");
