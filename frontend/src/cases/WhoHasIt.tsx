// Who has the case, since when and until when.
import type { CaseView } from "../api/views";
import { Ribbon } from "../shared/Ribbon";
import { shortDay } from "../shared/say";
import { say } from "../shared/text";
import "./my-case.css";

export function WhoHasIt({ view }: { view: CaseView }) {
  const clock = view.assessment.clock;
  if (!clock) return null;
  if (clock.step === "ended" || clock.step === "issue payment")
    return (
      <section className="my-case-clock">
        <h2>{clock.step === "ended" ? say("Who had it") : say("Who has it")}</h2>
        <Ribbon clock={clock} />
        <p>
          {clock.step === "ended" ? (
            <b>{say("Nobody: the case {{said}}.", { said: clock.said })}</b>
          ) : (
            <b>{say("You: {{said}}.", { said: clock.said })}</b>
          )}
        </p>
      </section>
    );
  const who =
    clock.holder === "theirs"
      ? say("You, since {{since}}.", { since: shortDay(clock.since) })
      : clock.holder === "ours"
        ? say("The office, since {{since}}.", { since: shortDay(clock.since) })
        : say("Another body, since {{since}}.", { since: shortDay(clock.since) });
  return (
    <section className="my-case-clock">
      <h2>{say("Who has it")}</h2>
      <Ribbon clock={clock} />
      <p>
        <b>{who}</b>{" "}
        {clock.holder === "theirs"
          ? `${clock.left < 0 ? "" : `${clock.short}, `}${clock.said}.`
          : clock.holder === "ours"
            ? `${clock.short}; ${clock.by}.`
            : `${clock.said}.`}
      </p>
      {clock.holder === "theirs" && (
        <p>
          <a href={`/api/cases/${view.reference}/due.ics`}>{say("The last day for my calendar (iCalendar)")}</a>
        </p>
      )}
      <p className="second my-case-legend">
        {say("In the row of days: filled ones are gone, small ones are closed, the red line is the last day.")}
      </p>
      {clock.why.slice(1).map((w) => (
        <p key={w} className="second">
          {w}
        </p>
      ))}
    </section>
  );
}
