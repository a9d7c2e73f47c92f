// The ribbon: one tick a calendar day, drawn from what the assessment says; past weeks fold when it is long.
import type { Schemas } from "../api/client";
import { day } from "./say";
import { say } from "./text";
import "./ribbon.css";

type Day = Schemas["RibbonDay"];
const FOLD_OVER = 30;

const TALL: Record<string, string> = { ours: "ours", theirs: "theirs", "a third party's": "third" };

type Piece =
  | { kind: "day"; day: Day }
  | { kind: "weeks"; holder: string; weeks: number; from: string; to: string; toCome: boolean };

/** Over 30 days, whole weeks of one holder become one labelled block: those past, and then those to come before the last. */
export function folded(days: Day[]): Piece[] {
  const single = days.map((d): Piece => ({ kind: "day", day: d }));
  if (days.length <= FOLD_OVER) return single;
  const pieces: Piece[] = [];
  const last = days.length - 7;
  let at = 0;
  while (at < days.length) {
    const first = days[at];
    if (!first) break;
    const alike = (d?: Day) => d && !d.today && d.to_come === first.to_come && d.holder === first.holder;
    let end = at;
    while (end < (first.to_come ? last : days.length) && alike(days[end])) end += 1;
    const weeks = Math.floor((end - at) / 7);
    if (weeks > 0 && (!first.to_come || days.length - at > FOLD_OVER)) {
      const to = days[at + weeks * 7 - 1]?.day ?? first.day;
      pieces.push({ kind: "weeks", holder: first.holder, weeks, from: first.day, to, toCome: first.to_come });
      at += weeks * 7;
    } else {
      const until = Math.max(end, at + 1);
      pieces.push(...single.slice(at, until));
      at = until;
    }
  }
  return pieces;
}

export function Ribbon({ clock }: { clock: Schemas["ClockView"] }) {
  const words = say("{{holder}} since {{since}}; {{said}}", {
    holder: clock.holder,
    since: day(clock.since),
    said: clock.said,
  });
  return (
    <span className="jc-ribbon" role="img" aria-label={say("Who holds the case: {{words}}", { words })}>
      {folded(clock.ribbon).map((piece) =>
        piece.kind === "weeks" ? (
          <i
            key={`w${piece.from}`}
            className={`weeks ${TALL[piece.holder]}${piece.toCome ? " to-come" : ""}`}
            title={say("{{from}} to {{to}}: {{holder}}", {
              from: day(piece.from),
              to: day(piece.to),
              holder: piece.holder,
            })}
          >
            {say("{{weeks}} wk", { weeks: piece.weeks })}
          </i>
        ) : (
          <i
            key={piece.day.day}
            className={[
              TALL[piece.day.holder],
              piece.day.working ? "" : "closed",
              piece.day.to_come ? "to-come" : "",
              piece.day.today ? "today" : "",
              piece.day.limit ? "limit" : "",
            ].join(" ")}
            title={`${day(piece.day.day)}: ${piece.day.holder}${piece.day.working ? "" : say(", closed")}${piece.day.limit ? say(", the limit") : ""}`}
          />
        ),
      )}
    </span>
  );
}

/** The clock in words, as it stands above the desk: what is left and whose it is, and until when. */
export function clockWords(clock: Schemas["ClockView"]): [string, string] {
  const words =
    clock.holder === "theirs"
      ? ["theirs", clock.short]
      : clock.holder === "ours"
        ? [clock.short, clock.step === "ended" ? "" : "ours"]
        : [say("another body's"), clock.short];
  return [words.filter(Boolean).join(", "), clock.by];
}
