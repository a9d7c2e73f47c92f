// What stands beneath each requirement in the checklist.
import type { Schemas } from "../api/client";
import { things } from "../shared/say";

export type Requirement = Schemas["RequirementView"];
export type Given = "met" | "wanting" | "in doubt" | "waived";

export function beneath(r: Requirement): string {
  const findings = r.findings.filter((f) => f.weight !== "note").length;
  if (r.given && !r.given.holds) return `changed since it was judged ${r.given.standing}`;
  if (!r.asked) return r.because;
  if (r.kind === "document")
    return r.files.length === 0
      ? "nothing attached"
      : `${things(r.files.length, "file")} · ${findings ? things(findings, "finding") : "no findings"}`;
  if (r.judged) return r.given?.reason ? `${r.standing}: ${r.given.reason}` : r.standing;
  return r.proposed === "to read" ? "to read" : `${r.proposed}, says the machine`;
}
