// Who has the case, since when and until when.
import type { CaseView } from "../api/views";
import { Ribbon } from "../shared/Ribbon";
import { shortDay } from "../shared/say";

export function WhoHasIt({ view }: { view: CaseView }) {
  const clock = view.assessment.clock;
  if (!clock) return null;
  if (clock.step === "ended" || clock.step === "issue payment")
    return (
      <section className="my-case-clock">
        <h2>{clock.step === "ended" ? "Who had it" : "Who has it"}</h2>
        <Ribbon clock={clock} />
        <p>{clock.step === "ended" ? <b>Nobody: the case {clock.said}.</b> : <b>You: {clock.said}.</b>}</p>
      </section>
    );
  const who =
    clock.holder === "theirs" ? `You, since ${shortDay(clock.since)}.` : `The office, since ${shortDay(clock.since)}.`;
  return (
    <section className="my-case-clock">
      <h2>Who has it</h2>
      <Ribbon clock={clock} />
      <p>
        <b>{who}</b>{" "}
        {clock.holder === "theirs"
          ? `${clock.left < 0 ? "" : `${clock.short}, `}${clock.said}.`
          : `${clock.short}; ${clock.by}.`}
      </p>
      {clock.holder === "theirs" && (
        <p>
          <a href={`/api/cases/${view.reference}/due.ics`}>The last day for my calendar (iCalendar)</a>
        </p>
      )}
      {clock.why.slice(1).map((w) => (
        <p key={w} className="second">
          {w}
        </p>
      ))}
    </section>
  );
}
