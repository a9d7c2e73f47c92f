// Beginning a filing, and which parts of it were left before: there, what was passed over is marked as needed.
import { api, ask, type Schemas } from "../api/client";

const BEGUN = "jolly-clerk-begun";

/** The drafts begun in this tab, each with the parts and items that were left since. */
function begun(): Record<string, string[]> {
  try {
    return JSON.parse(sessionStorage.getItem(BEGUN) ?? "{}");
  } catch {
    return {}; // nothing is kept in this browser
  }
}

function keep(all: Record<string, string[]>) {
  try {
    sessionStorage.setItem(BEGUN, JSON.stringify(all));
  } catch {
    // without it nothing more is marked than what was passed over
  }
}

let owner = "";

/** For whom the next filing is begun, by a mandate; for oneself without. */
export function beginFor(whom: string) {
  owner = whom;
}

/** Begin a filing, with what the way in was told; gives the id of its draft. */
export async function beginFiling(body: Omit<Schemas["BeginFiling"], "owner">): Promise<string> {
  const { id } = await ask(api.POST("/api/drafts", { body: { ...body, owner } }));
  owner = "";
  keep({ ...begun(), [id]: [] });
  return id;
}

/** Whether a part or an item of a draft was left before; undefined for a draft that was not begun in this tab. */
export const wasLeft = (draft: string, place: string): boolean | undefined => begun()[draft]?.includes(place);

/** A part or an item of a draft is left. */
export function leave(draft: string, place: string) {
  const all = begun();
  const left = all[draft];
  if (left && !left.includes(place)) keep({ ...all, [draft]: [...left, place] });
}
