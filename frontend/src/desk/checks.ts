// What stands beneath each requirement in the checklist.
import type { Schemas } from "../api/client";
import { say, things } from "../shared/text";

export type Requirement = Schemas["RequirementView"];
export type Given = "met" | "wanting" | "in doubt" | "waived";

export function beneath(r: Requirement): string {
  const findings = r.findings.filter((f) => f.weight !== "note").length;
  if (r.given && !r.given.holds) return say("changed since it was judged {{standing}}", { standing: r.given.standing });
  if (!r.asked) return r.because;
  if (r.kind === "document")
    return r.files.length === 0
      ? say("nothing attached")
      : `${things(r.files.length, "file")} · ${findings ? things(findings, "finding") : say("no findings")}`;
  if (r.overruled) return say("met against the machine: {{reason}}", { reason: r.given?.reason });
  if (r.judged) return r.given?.reason ? `${r.standing}: ${r.given.reason}` : r.standing;
  return r.proposed === "to read" ? "to read" : say("{{proposed}}, says the machine", { proposed: r.proposed });
}
