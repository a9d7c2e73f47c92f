// The points of a letter that replaces another: reworded, left out, one added.
import { say } from "../shared/text";
import type { CaseView } from "./useCase";

export type PointAnew = { no: number; text: string; title: string; file: boolean };

/** The points of the letter that is out, as they were asked. */
export const pointsOf = (view: CaseView): PointAnew[] =>
  (view.assessment.rounds.at(-1)?.points ?? []).map((p) => ({ no: p.no, text: p.text, title: p.title, file: false }));

export function PointsAnew({ points, onChange }: { points: PointAnew[]; onChange: (points: PointAnew[]) => void }) {
  const change = (at: number, to: Partial<PointAnew>) =>
    onChange(points.map((p, n) => (n === at ? { ...p, ...to } : p)));
  return (
    <>
      {points.map((p, n) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: new points have no number yet, only their place
        <fieldset key={n} className="points-anew">
          <legend>{p.no ? `${p.no} ${p.title}` : say("A new point")}</legend>
          {!p.no && (
            <>
              <label htmlFor={`anew-title-${n}`}>{say("What is it called?")}</label>
              <input
                id={`anew-title-${n}`}
                value={p.title}
                maxLength={120}
                onChange={(e) => change(n, { title: e.target.value })}
              />
              <label>
                <input type="checkbox" checked={p.file} onChange={(e) => change(n, { file: e.target.checked })} />{" "}
                {say("a file is wanted")}
              </label>
            </>
          )}
          <textarea
            rows={3}
            aria-label={say("Words of point {{no}}", { no: n + 1 })}
            value={p.text}
            onChange={(e) => change(n, { text: e.target.value })}
          />
          {points.length > 1 && (
            <button
              type="button"
              className="jc-link"
              onClick={() => onChange(points.filter((_, other) => other !== n))}
            >
              {say("leave it out")}
            </button>
          )}
        </fieldset>
      ))}
      <p>
        <button
          type="button"
          className="jc-link"
          onClick={() => onChange([...points, { no: 0, text: "", title: "", file: false }])}
        >
          {say("add a point")}
        </button>
      </p>
    </>
  );
}
