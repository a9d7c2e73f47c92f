// All papers of a case, each once: with the newest version that has it, the newest first.
import type { Schemas } from "../api/client";
import type { CaseView } from "./useCase";

export type Paper = {
  file: Schemas["FileView"];
  version: Schemas["VersionView"];
  /** Whether the version that stands now has it. */
  now: boolean;
};

export function papersOf(view: Pick<CaseView, "versions">): Paper[] {
  const latest = view.versions.at(-1);
  const seen = new Map<string, Paper>();
  for (const version of [...view.versions].reverse())
    for (const file of version.files)
      if (!seen.has(file.attachment.id)) seen.set(file.attachment.id, { file, version, now: version === latest });
  return [...seen.values()];
}
