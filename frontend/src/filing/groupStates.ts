// What the engine says of each cell of a table of repeats, and how an answer is shown in one.
import type { Schemas } from "../api/client";
import { placeOf } from "../api/place";
import { shortDay } from "../shared/say";
import { say } from "../shared/text";
import { type FormView, saidAt } from "./draft";
import type { Question } from "./groupRows";

export type Cell = { text: string; off: boolean; open: boolean; wrong: string; look: string; why: string };
type Papers = { missing: string[]; asked: number; to: string };
export type RowState = { cells: Record<string, Cell>; papers: Papers | null };

export const EMPTY: Cell = { text: "", off: false, open: false, wrong: "", look: "", why: "" };

/** What the engine says of each cell of a row, and what papers are missing. */
export function statesOf(view: FormView, part: Schemas["Part"], base: string): Map<number, RowState> {
  const found = new Map<number, RowState>();
  const row = (id: number) => {
    const there = found.get(id) ?? { cells: {}, papers: null };
    found.set(id, there);
    return there;
  };
  for (const q of view.assessment.parts.find((p) => p.id === part.id)?.questions ?? []) {
    const { item, question } = placeOf(q.place);
    row(Number(item)).cells[question] = {
      text: q.day ? shortDay(q.day) : q.said,
      off: q.asked !== "yes",
      open: q.asked === "yes" && !!q.left && !q.raw,
      wrong: q.fault ?? "",
      look: q.ask ?? "",
      why: q.asked === "yes" ? "" : q.because,
    };
  }
  for (const r of view.assessment.requirements) {
    for (const place of r.places) {
      const { head, item, question } = placeOf(place.ref);
      const own = head === part.id ? found.get(Number(item))?.cells[question] : undefined;
      if (!own) continue;
      for (const s of saidAt(view, place.ref)) {
        if (s.look && !own.look.includes(s.text)) own.look = `${own.look} ${s.text}`.trim();
        if (!s.look && !own.wrong.includes(s.text)) own.wrong = `${own.wrong} ${s.text}`.trim();
      }
    }
    const { head, rest } = placeOf(r.item ?? "");
    if (r.kind !== "document" || head !== part.id || !r.asked) continue;
    const there = row(Number(rest));
    there.papers ??= { missing: [], asked: 0, to: "" };
    there.papers.asked += 1;
    if (r.proposed === "wanting" && r.stops_filing) {
      there.papers.missing.push(r.plain_title);
      there.papers.to ||= `${base}/documents#${r.places[0]?.ref ?? r.id}`;
    }
  }
  return found;
}

/** An answer as a cell shows it. */
export function shown(q: Question, value: unknown, state: Cell | undefined, list: Map<string, string>): string {
  if (value === undefined || value === null || value === "") return "";
  if (q.type === "one of") return list.get(String(value)) ?? String(value);
  if (q.type === "yes or no") return value === true || value === "yes" ? say("Yes") : say("No");
  return q.type === "date" && state?.text ? state.text : String(value);
}
