// Which requirements count, and what stands beneath each in the checklist.
import type { Schemas } from "../api/client";
import { things } from "../shared/say";

export type Requirement = Schemas["Requirement"];
export type Given = "met" | "wanting" | "in doubt" | "waived";

export function counts(r: Requirement): boolean {
  return !["not asked", "not known yet"].includes(r.proposed) || !!r.given?.holds;
}

export function beneath(r: Requirement): string {
  const findings = r.findings.filter((f) => f.weight !== "note").length;
  if (r.given && !r.given.holds) return `changed since it was judged ${r.given.standing}`;
  if (r.standing === "not asked" || r.standing === "not known yet") return r.because;
  if (r.kind === "document")
    return r.files.length === 0
      ? "nothing attached"
      : `${things(r.files.length, "file")} · ${findings ? things(findings, "finding") : "no findings"}`;
  if (r.given?.holds) return r.given.reason ? `${r.standing}: ${r.given.reason}` : r.standing;
  return r.proposed === "to read" ? "to read" : `${r.proposed}, says the machine`;
}
