"""What is due of itself: a lapse, a fee that rose, a reminder. The clock job asks here and does what it is told."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from decimal import Decimal
from typing import Literal

from jolly_clerk.core import history as h
from jolly_clerk.core.additions import unpaid
from jolly_clerk.core.assessment import Assessment
from jolly_clerk.core.clock import ClockView, reminders
from jolly_clerk.core.deadlines import posting_day
from jolly_clerk.core.delivering import CameLater
from jolly_clerk.core.fees.debts import Debt
from jolly_clerk.core.in_words import day, money
from jolly_clerk.core.lifecycle import in_lane
from jolly_clerk.core.other_bodies import BodySoFar
from jolly_clerk.core.permit_steps import decides_itself, needs_asking, register_of_step
from jolly_clerk.core.say import say
from jolly_clerk.core.things import things
from jolly_clerk.core.time.calendar import DAY

#: a reminder that is more than so many days late is not made up for (the office was shut)
LATE = timedelta(days=5)
TheirStep = Literal["payment", "answers"]
#: the steps that wait for the applicant
THEIRS: tuple[TheirStep, ...] = ("payment", "answers")


@dataclass(frozen=True, slots=True)
class Lapse:
    """A period of the applicant's has ended, in a lane; ``grounds`` go into the letter."""

    lane: str
    step: TheirStep
    grounds: str


@dataclass(frozen=True, slots=True)
class Raise:
    """What is due at filing has risen beyond what was told, because it was not paid in time; ``until`` is the last day to pay."""

    due: Decimal
    because: str
    until: date


@dataclass(frozen=True, slots=True)
class Remind:
    """A reminder is to go out, in a lane; it names ``due``, and of a debt its key ``of``."""

    lane: str
    step: TheirStep | Literal["begin", "finish", "ends", "debt"]
    because: str
    due: date
    of: str = ""

    @property
    def letter(self) -> str:
        """The name of its letter."""
        return "reminder" if self.step in ("payment", "answers", "debt") else "permit_reminder"


@dataclass(frozen=True, slots=True)
class Silence:
    """Nobody decided by the end of the period, and the edition says that silence grants: ``at`` that instant; ``doubts`` are the
    titles of what was in doubt then."""

    at: datetime
    article: str
    doubts: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class AskPermit:
    """A short filing that is decided by itself asks the office's own register (``name``) how its permit stands."""

    name: str


@dataclass(frozen=True, slots=True)
class DecidesItself:
    """A short filing is granted by itself: everything in it is clear."""

    article: str


@dataclass(frozen=True, slots=True)
class BodyOver:
    """The time of another body that was asked is over, and it has not answered; ``no`` is its number in the case."""

    no: int


@dataclass(frozen=True, slots=True)
class NotTicked:
    """The printed letter of a round was to leave by post on a day that is over, and nobody ticked that it did."""

    lane: str
    round: int
    day: date


@dataclass(frozen=True, slots=True)
class LaterUnpaid:
    """What came later was to be paid by a day that is over, and is not: it counts as not having come."""

    added: CameLater


#: everything that comes due of itself
Due = Lapse | Silence | AskPermit | DecidesItself | Raise | Remind | BodyOver | NotTicked | LaterUnpaid


def what_is_due(assessment: Assessment) -> Due | None:
    """The next thing that is due of itself, the gravest first; None if nothing is."""
    return (
        _lapse(assessment)
        or _silence(assessment)
        or _by_itself(assessment)
        or _raise(assessment)
        or _remind(assessment)
        or _remind_of_debt(assessment)
        or _remind_of_permit(assessment)
        or _body_over(assessment)
        or _not_ticked(assessment)
        or _later_unpaid(assessment)
    )


def _later_unpaid(a: Assessment) -> LaterUnpaid | None:
    return next((LaterUnpaid(one) for one in unpaid(a) if a.now >= _later_over(a, one)), None)


def _later_over(a: Assessment, added: CameLater) -> datetime:
    """The instant from which it counts as not having come."""
    assert added.until
    return a.known.calendar.day_end(added.until)


def _silence_at(a: Assessment) -> datetime | None:
    """The instant at which silence grants: the end of the last day to decide; None if it does not, or no such period runs."""
    if a.clock_rules.decision.silence is None or a.clock is None or a.clock.step != "decision" or a.clock.limit_day is None:
        return None
    return a.clock.limit_at if a.clock_rules.decision.within.in_hours else a.known.calendar.day_end(a.clock.limit_day)


def _silence(a: Assessment) -> Silence | None:
    at = _silence_at(a)
    if at is None or a.now < at:
        return None
    doubts = tuple(r.title for r in a.requirements if r.asked and r.standing == "in doubt")
    return Silence(at, a.clock_rules.decision.article, doubts)


def _by_itself(a: Assessment) -> AskPermit | DecidesItself | None:
    if needs_asking(a):
        return AskPermit(register_of_step(a))
    return DecidesItself(a.rulebook.step.step.article) if a.rulebook.step and decides_itself(a) else None


def next_look(a: Assessment) -> datetime | None:
    """The next instant at which something may be due of itself, as the case stands: now if something is; None if nothing can be."""
    if what_is_due(a) is not None:
        return a.now
    calendar, rules = a.known.calendar, a.clock_rules
    today = calendar.local_day(a.now)
    instants = [calendar.day_end(d - DAY) for _, clock, _ in _theirs(a) for d in reminders(clock, rules) if d > today]
    instants += [clock.limit_at for _, clock, _ in _theirs(a) if clock.limit_at]
    instants += [calendar.day_begin(on) for _what, _day, on in permit_reminders(a)]
    instants += [body.asked.until for body in _out(a)]
    instants += [calendar.day_end(letter.day) for letter in _to_tick(a)]
    instants += [calendar.day_begin(on) for debt in _owed(a) for on in debt_reminders(debt)]
    instants += [_later_over(a, one) for one in unpaid(a)]
    if silence := _silence_at(a):
        instants.append(silence)
    if rules.pay.grows and a.case.filed is not None and a.case.covered_at is None:
        instants.append(calendar.day_end(today))
    return min((at for at in instants if at > a.now), default=None)


def _theirs(a: Assessment) -> Iterator[tuple[str, ClockView, TheirStep]]:
    """The clocks that run against the applicant, by lane; several only in a case with lanes."""
    clocks = [(lane.id, lane.clock) for lane in a.lanes] if a.clock_of else [("", a.clock)]
    for lane, clock in clocks:
        if clock is not None and (clock.step == "payment" or clock.step == "answers"):
            yield lane, clock, clock.step


def _lapse(a: Assessment) -> Lapse | None:
    over = next((found for found in _theirs(a) if found[1].limit_at and a.now >= found[1].limit_at), None)
    if over is None:
        return None
    lane, clock, step = over
    assert clock.limit_day
    rules, last = a.clock_rules, day(clock.limit_day)
    if clock.step == "payment":
        missing = money(a.account.open, a.rulebook.edition.currency)
        grounds = say(
            "{missing} was to be paid by the end of {last} and has not come (art. {article}).",
            missing=missing,
            last=last,
            article=rules.pay.article,
        )
    else:
        grounds = say(
            "Answers were due by the end of {last} and have not come (art. {article}).", last=last, article=rules.answers.article
        )
    return Lapse(lane, step, grounds)


def _raise(a: Assessment) -> Raise | None:
    due, clock = a.fees.total("at filing").amount, a.clock
    waits = a.case.filed is not None and a.case.covered_at is None
    if not a.clock_rules.pay.grows or not waits or due is None or due <= a.case.due_told:
        return None
    assert clock and clock.limit_day
    return Raise(
        due, say("{due} is due, since not all was paid in time.", due=money(due, a.rulebook.edition.currency)), clock.limit_day
    )


def _remind(a: Assessment) -> Remind | None:
    """A reminder whose day has come and that did not go out yet."""
    calendar = a.known.calendar
    today = calendar.local_day(a.now)
    for lane, clock, step in _theirs(a):
        if clock.limit_day is None:
            continue
        past = [d for d in reminders(clock, a.clock_rules) if d <= today]
        if not past or clock.limit_day is None or clock.since > max(past):
            continue
        sent = [e for e in a.history.entries if isinstance(e, h.Reminded) and (e.lane, e.due) == (lane, clock.limit_day)]
        # one that is long past is not made up for, nor one that a later one followed
        if any(calendar.local_day(e.at) >= max(past) for e in sent) or today - max(past) > LATE:
            continue
        return Remind(lane, step, _because(a, lane, clock), clock.limit_day)
    return None


def _out(a: Assessment) -> list[BodySoFar]:
    """The other bodies that have not answered yet, while the case lives."""
    return [] if a.case.ended else [body for body in a.case.bodies if body.answered_at is None]


def _body_over(a: Assessment) -> BodyOver | None:
    return next((BodyOver(body.asked.no) for body in _out(a) if a.now >= body.asked.until), None)


def _to_tick(a: Assessment) -> Iterator[NotTicked]:
    """The printed letters that nobody has ticked as posted yet, with the day on which each was to leave."""
    if not a.clock_rules.answers.posted or a.case.ended:
        return
    lanes = [(lane.id, in_lane(a.common, lane.id)) for lane in a.lanes] if a.lanes else [("", a.case)]
    for lane, case in lanes:
        latest = case.open_round
        if latest and latest.paused_from and not latest.posted and latest.posting_missed is None:
            yield NotTicked(lane, latest.no, posting_day(latest.paused_from, a.known.calendar))


def _not_ticked(a: Assessment) -> NotTicked | None:
    today = a.known.calendar.local_day(a.now)
    return next((letter for letter in _to_tick(a) if letter.day < today), None)


def _owed(a: Assessment) -> Iterator[Debt]:
    """The debts of a case that are open and have a day."""
    yield from (d for d in a.debts if a.case.filed is not None and d.due is not None and d.open > 0)


def debt_reminders(debt: Debt) -> tuple[date, ...]:
    """The days on which a part of what is owed is told: some days before its day, and on the day after it; soonest first."""
    if debt.due is None:
        return ()
    return (*sorted(debt.due - n * DAY for n in debt.remind), debt.due + DAY)


def _remind_of_debt(a: Assessment) -> Remind | None:
    calendar, currency = a.known.calendar, a.rulebook.edition.currency
    today = calendar.local_day(a.now)
    for debt in _owed(a):
        past = [on for on in debt_reminders(debt) if on <= today]
        if debt.due is None or not past or today - max(past) > LATE:
            continue
        sent = [
            e for e in a.history.entries if isinstance(e, h.Reminded) and (e.step, e.of, e.due) == ("debt", debt.key, debt.due)
        ]
        if any(calendar.local_day(e.at) >= max(past) for e in sent):
            continue
        told = {"title": debt.title, "amount": money(debt.open, currency)}
        said = (
            say("{title}: {amount} was to be paid and is late.", **told)
            if debt.late
            else say("{title}: {amount} is to be paid.", **told)
        )
        return Remind("", "debt", said, debt.due, debt.key)
    return None


def permit_reminders(a: Assessment) -> Iterator[tuple[Literal["begin", "finish", "ends"], date, date]]:
    """The days of what was granted of which the holder is reminded: which, the day itself, and the day of the reminder."""
    said = a.rulebook.edition.after_grant
    over = a.permit is not None and a.permit.state in ("cancelled", "finished")
    for own in a.permit.days if a.permit and said and not over else ():
        if own.what != "starts" and said:
            yield from ((own.what, own.day, own.day - n * DAY) for n in said.remind)


def _remind_of_permit(a: Assessment) -> Remind | None:
    calendar = a.known.calendar
    today = calendar.local_day(a.now)
    said = {
        "begin": say("What was granted has to be begun."), "finish": say("What was granted has to be finished."),
        "ends": say("What was granted ends."),
    }  # fmt: skip
    for what, day_, on in permit_reminders(a):
        if not on <= today <= day_ or today - on > LATE:
            continue
        sent = [e for e in a.history.entries if isinstance(e, h.Reminded) and (e.step, e.due) == (what, day_)]
        if not any(calendar.local_day(e.at) >= on for e in sent):
            return Remind("", what, said[what], day_)
    return None


def _because(a: Assessment, lane: str, clock: ClockView) -> str:
    if clock.step == "payment":
        return say("{amount} is to be paid.", amount=money(a.account.open, a.rulebook.edition.currency))
    latest = in_lane(a.case, lane).open_round
    return say("{count} of our letter to be answered.", count=things(len(latest.points) if latest else 0, "point"))


def due_in_words(due: Due) -> str:
    """What is due of itself, in a few words."""
    if isinstance(due, Lapse):
        return say("lapses: {grounds}", grounds=due.grounds)
    if isinstance(due, Silence):
        return say("is granted by silence (art. {article})", article=due.article)
    if isinstance(due, AskPermit):
        return say("how the permit stands is looked up")
    if isinstance(due, DecidesItself):
        return say("is granted by itself (art. {article})", article=due.article)
    if isinstance(due, Raise):
        return say("the fee rises: {because}", because=due.because)
    if isinstance(due, Remind):
        return say("a reminder goes out: {because}", because=due.because)
    if isinstance(due, BodyOver):
        return say("the time of another body is over")
    if isinstance(due, LaterUnpaid):
        return say("what came later is not paid and counts as not having come: {title}", title=due.added.title)
    return say("nobody ticked that the letter left by post")
