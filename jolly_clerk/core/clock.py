"""The clock of a case: the running limit, what was used, and who held the case on each day.

Source: the scenario, *Periods*, *Pausing* and *Who held it*.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Final, Literal

from jolly_clerk.core.deadlines import Due, answers_due, payment_due, received_on
from jolly_clerk.core.history import Ended
from jolly_clerk.core.holders import RibbonDay, holder_at, holder_by_day, ribbon_of, to_pay_for_issue, turns_of
from jolly_clerk.core.in_words import day as said_day
from jolly_clerk.core.lifecycle import CaseSoFar
from jolly_clerk.core.other_bodies import BodySoFar
from jolly_clerk.core.rulebook.model import CheckClock, Clock, DecisionClock
from jolly_clerk.core.say import say
from jolly_clerk.core.states import Holder
from jolly_clerk.core.things import things
from jolly_clerk.core.time.calendar import DAY, Calendar
from jolly_clerk.core.time.running import Counted, OfficeRun, Pause, merged, office_run

Step = Literal["payment", "check", "answers", "decision", "issue payment", "ended", "other body"]
#: the steps in which a payment is awaited
PAYING: Final[tuple[Step, ...]] = ("payment", "issue payment")


@dataclass(frozen=True, slots=True)
class ClockView:
    """The clock as everybody sees it.

    ``limit_at`` is the last instant (for an applicant's period 24:00, given as 0:00 of the next
    day). ``used``, ``left`` and ``of`` count ``unit``; ``left`` is negative when the limit is past.
    ``said`` tells it in a sentence, ``short`` and ``by`` (``6 of 10 working days left``, ``check by Thu 3 Dec``) in a few words.
    ``after`` is the day after which an office period runs now, as in `OfficeRun`.
    While the office's own period stands still, ``paused_left`` is what is left of it, in ``paused_unit``.
    """

    holder: Holder
    since: date
    step: Step
    limit_day: date | None
    limit_at: datetime | None
    used: int
    left: int
    of: int
    unit: Counted
    said: str
    short: str
    by: str
    why: tuple[str, ...]
    paused_left: int | None
    paused_unit: str
    ribbon: tuple[RibbonDay, ...]
    after: date | None = None


def pauses(case: CaseSoFar) -> list[Pause]:
    """The stretches that the office does not use: from the letter that arrived to its answers, and while another body holds the case."""
    return merged([*(Pause(r.paused_from, r.answered_at) for r in case.rounds if r.paused_from), *away(case)])


def away(case: CaseSoFar) -> list[Pause]:
    """The stretches in which another body holds the case."""
    return merged([Pause(b.asked.at, b.back_at, b.last_day) for b in case.bodies if b.asked.pauses])


def check_run(case: CaseSoFar, rules: Clock, calendar: Calendar, now: datetime) -> OfficeRun:
    """The office's period to check, from the later of filing and full payment; ValueError while that is to come."""
    if case.filed is None or case.covered_at is None:
        raise ValueError(say("the period to check begins with the payment"))
    filed, covered = case.filed.begins_at, case.covered_at
    begin = {"later": max(covered, filed), "earlier": min(covered, filed), "filing": filed, "payment": covered}[rules.check.from_]
    stood = pauses(case)
    if rules.check.after_answers == "begins anew":
        answered = [r.answered_at for r in case.rounds if r.paused_from and r.answered_at]
        begin = max([begin, *answered])
        stood = [pause for pause in stood if pause.end is None or pause.end > begin]
    return office_run(begin, rules.check.within, stood, now, calendar.called(rules.check.by), rules.check.if_closed)


def decision_run(
    accepted_at: datetime, covered_at: datetime, rules: Clock, calendar: Calendar, now: datetime, stood: Sequence[Pause] = ()
) -> OfficeRun:
    """The office's period to decide, from the later of acceptance and the payment of what fell due with it; ``stood`` is when it stands
    still."""
    begin = max(accepted_at, covered_at)
    stretches = [pause for pause in stood if pause.end is None or pause.end > begin]
    return office_run(begin, rules.decision.within, stretches, now, calendar.called(rules.decision.by), rules.decision.if_closed)


def decision_day(accepted_at: datetime, covered_at: datetime | None, rules: Clock, calendar: Calendar) -> date | None:
    """The day by which a decision is planned; None while what falls due with acceptance is not paid."""
    if covered_at is None:
        return None
    return decision_run(accepted_at, covered_at, rules, calendar, accepted_at).last_day


def clock(case: CaseSoFar, rules: Clock, calendar: Calendar, now: datetime, grants: str = "permit") -> ClockView | None:
    """The clock at ``now``; None for a draft. ``grants`` is what the edition grants."""
    if case.filed is None:
        return None
    today = calendar.local_day(now)
    if case.ended:
        return _ended(case, case.ended, calendar, today, grants)
    turns = turns_of(case)
    if case.to_set:
        return _to_set(case, calendar, today, turns)
    if case.accepted and case.check_covered_at is None:
        return _their_clock(case, rules, calendar, now, turns, "payment")
    if case.accepted and case.check_covered_at:
        run = decision_run(case.accepted.at, case.check_covered_at, rules, calendar, now, away(case))
        if (body := holds_it(case)) is not None:
            return _body_clock(case, calendar, now, turns, body, run)
        return _our_clock(case, calendar, now, turns, run, "decision", rules.decision)
    if case.covered_at is None:
        return _their_clock(case, rules, calendar, now, turns, "payment")
    if case.open_round and case.open_round.paused_from:
        return _their_clock(case, rules, calendar, now, turns, "answers")
    run = check_run(case, rules, calendar, now)
    if (body := holds_it(case)) is not None:
        return _body_clock(case, calendar, now, turns, body, run)
    return _our_clock(case, calendar, now, turns, run, "check", rules.check)


def holds_it(case: CaseSoFar) -> BodySoFar | None:
    """The other body that holds a case, the one with the latest end; None if none does."""
    held = [body for body in case.bodies if body.asked.pauses and body.back_at is None]
    return max(held, key=lambda body: body.asked.until, default=None)


def _body_clock(
    case: CaseSoFar, calendar: Calendar, now: datetime, turns: list[tuple[datetime, Holder]], body: BodySoFar, run: OfficeRun
) -> ClockView:
    """The clock while another body holds the case: its time runs, the office's stands still."""
    today, asked, due = calendar.local_day(now), calendar.local_day(body.asked.at), body.asked.due
    left, by = (due - today).days, said_day(due, today)
    told = {"body": body.asked.body, "asked": said_day(asked, today), "due": by}
    why = (
        say("{body} was asked on {asked} and has until the end of {due}.", **told),
        say(
            "The office's clock stands still with {left} left, until it has answered or its time is over.", left=things_left(run)
        ),
    )
    return ClockView(
        "a third party's", asked, "other body", due, body.asked.until, max((today - asked).days, 0), left, (due - asked).days, "days",
        say("with {body} until the end of {due}", **told), say("{days} left", days=things(left, "day")), say("answer due {due}", due=by),
        why, run.left, run.unit, ribbon_of(case, calendar, turns, today, due, "a third party's"),
    )  # fmt: skip


def _our_clock(
    case: CaseSoFar,
    calendar: Calendar,
    now: datetime,
    turns: list[tuple[datetime, Holder]],
    run: OfficeRun,
    step: Literal["check", "decision"],
    rule: CheckClock | DecisionClock,
) -> ClockView:
    assert run.last_day is not None
    today, holder = calendar.local_day(now), holder_at(turns, now)
    anew = isinstance(rule, CheckClock) and rule.after_answers == "begins anew"
    whole = pauses(case) if step == "check" and not anew else away(case)
    begun = calendar.day_begin(run.event)
    stood = [pause.days(calendar) for pause in whole if pause.end is None or pause.end > begun]
    told = {"within": rule.within, "article": rule.article, "event": said_day(run.event, today)}
    by_days = run.unit in ("days", "working days")
    if step == "decision":
        counted = (
            say("{within} to decide (art. {article}), counted from the day after {event}.", **told)
            if by_days
            else say("{within} to decide (art. {article}), counted from the moment of receipt, {event}.", **told)
        )
    elif by_days:
        counted = say("{within} to check (art. {article}), counted from the day after {event}.", **told)
    else:
        counted = say("{within} to check (art. {article}), counted from the moment of receipt, {event}.", **told)
    silent = isinstance(rule, DecisionClock) and rule.silence is not None
    why = [
        counted,
        *([say("It is counted by the calendar “{name}”.", name=calendar.called(rule.by).name)] if rule.by else []),
        *([say("If nobody decides by the end of the last day, it is granted by silence.")] if silent else []),
        *(say("The clock stood still from {a} to {b}.", a=said_day(a, today), b=said_day(b, today)) for a, b in stood if b),
    ]
    return ClockView(
        holder=holder,
        since=calendar.local_day(turns[-1][0]),
        step=step,
        limit_day=run.last_day,
        limit_at=run.limit_at,
        used=run.used,
        left=run.left,
        of=run.of,
        unit=run.unit,
        said=_said_ours(run, calendar, now),
        short=say("{things_left} over", things_left=things_left(run))
        if run.left < 0
        else say("{left} of {of} left", left=run.left, of=things(run.of, run.unit[:-1])),
        by=say("decide by {last_day}", last_day=said_day(run.last_day, today))
        if step == "decision"
        else say("check by {last_day}", last_day=said_day(run.last_day, today)),
        why=tuple(why),
        paused_left=None,
        paused_unit="",
        ribbon=ribbon_of(case, calendar, turns, today, run.last_day, holder),
        after=run.after,
    )


def _to_set(case: CaseSoFar, calendar: Calendar, today: date, turns: list[tuple[datetime, Holder]]) -> ClockView:
    """The office has to set a part of the fee that the rules could not work out; nobody's period runs."""
    ribbon = tuple(
        RibbonDay(d, who, calendar.is_working(d), False, d == today, False)
        for d, who in holder_by_day(case, calendar, today).items()
    )
    said = say("the office sets a part of the fee; then the period to pay begins")
    since = calendar.local_day(turns[-1][0])
    return ClockView("ours", since, "payment", None, None, 0, 0, 0, "days", said, "", said, (), None, "", ribbon)


def _ended(case: CaseSoFar, ended: Ended, calendar: Calendar, today: date, grants: str) -> ClockView:
    """A closed case: its ribbon ends on its last day. A granted one whose fee at issue is open is with the applicant, without a limit."""
    waits = to_pay_for_issue(case) and case.issued is None
    closed = case.issued.at if case.issued else ended.at
    last = today if waits else calendar.local_day(closed)
    turns = turns_of(case)
    holder: Holder = "theirs" if waits else holder_at(turns, closed)
    said = (
        say("the {grants} is issued when this is paid", grants=grants)
        if waits
        else say("ended on {last}", last=said_day(last, today))
    )
    held = holder_by_day(case, calendar, last)
    ribbon = tuple(RibbonDay(d, who, calendar.is_working(d), False, d == today, False) for d, who in held.items())
    since = calendar.local_day(ended.at)
    step: Step = "issue payment" if waits else "ended"
    return ClockView(
        holder, since, step, None, None, 0, 0, 0, "days", said, "" if waits else "closed", said, (), None, "", ribbon
    )


def _their_clock(
    case: CaseSoFar,
    rules: Clock,
    calendar: Calendar,
    now: datetime,
    turns: list[tuple[datetime, Holder]],
    step: Literal["payment", "answers"],
) -> ClockView:
    assert case.filed is not None
    today, latest, paused = calendar.local_day(now), case.open_round, None
    if step == "payment":
        assert case.pay_from is not None
        event, due = calendar.local_day(case.pay_from), payment_due(case.pay_from, rules.pay, calendar)
        why = _why_theirs(say("{within} to pay", within=rules.pay.within), rules.pay.article, event, due, today)
    else:
        assert latest is not None and latest.paused_from is not None and case.covered_at is not None
        event, due = latest.received or received_on(latest.paused_from, rules.answers, calendar), Due(latest.due, latest.due_at)
        granted = f"{rules.answers.within}"
        if latest.extended:
            granted = say("{within} and {once_more} more", within=rules.answers.within, once_more=rules.answers.once_more)
        why = _why_theirs(say("{granted} to answer", granted=granted), rules.answers.article, event, due, today)
        sent_on = calendar.local_day(latest.paused_from)
        if event != sent_on:
            told = {"sent": said_day(sent_on, today), "event": said_day(event, today)}
            why.insert(0, say("The letter of {sent} counts as received on {event}.", **told))
        if rules.answers.by:
            why.append(say("It is counted by the calendar “{name}”.", name=calendar.called(rules.answers.by).name))
        whole = answers_due(latest.paused_from, rules, calendar, received=event)
        counts = calendar.called(rules.answers.by)
        plain = None if rules.answers.within.in_hours else rules.answers.within.last_day(event, counts)
        if plain is not None and not latest.extended and whole.day > plain:
            why.append(
                say(
                    "{plain} is closed ({closed_on}), so it ends on the next working day.",
                    plain=said_day(plain, today),
                    closed_on=counts.closed_on(plain),
                )
            )
        if rules.latest_answers is not None and due.day == rules.latest_answers:
            why.append(say("It ends at the latest on {day}.", day=said_day(due.day, today)))
        paused = check_run(case, rules, calendar, now)
        left_of = (
            say("{left} of {within}", left=paused.left, within=rules.check.within)
            if paused.of == rules.check.within.count
            else things_left(paused)
        )
        why.append(
            say("The office's period begins anew with your answers.")
            if rules.check.after_answers == "begins anew"
            else say("The office's clock stands still with {left_of} left.", left_of=left_of)
        )
    left, over = (due.day - today).days, now >= due.ends(calendar)
    by_hour = f" {due.at.astimezone(calendar.zone):%H:%M}" if due.at else ""
    by = f"{said_day(due.day, today)}{by_hour}"
    said = (
        say("the period ended on {by}", by=by)
        if over
        else say("until {by}", by=by)
        if due.at
        else say("until the end of {due}", due=by)
    )
    return ClockView(
        holder="theirs",
        since=event,
        step=step,
        limit_day=due.day,
        limit_at=due.ends(calendar),
        used=max((today - event).days, 0),
        left=left,
        of=(due.day - event).days,
        unit="days",
        said=said,
        short=_short_theirs(due, over, left, now),
        by=say("payment due {due}", due=by) if step == "payment" else say("answers due {due}", due=by),
        why=tuple(why),
        paused_left=paused.left if paused else None,
        paused_unit=paused.unit if paused else "",
        ribbon=ribbon_of(case, calendar, turns, today, due.day, "theirs"),
    )


def _why_theirs(counted: str, article: str, event: date, due: Due, today: date) -> list[str]:
    told = {"counted": counted, "article": article, "event": said_day(event, today)}
    if due.at is not None:
        return [say("{counted} (art. {article}), counted from the moment itself, {event}.", **told)]
    return [say("{counted} (art. {article}), counted from the day after {event}.", **told)]


def _short_theirs(due: Due, over: bool, left: int, now: datetime) -> str:
    if due.at is not None:
        hours = things(int(abs((due.at - now).total_seconds()) // 3600), "hour")
        return say("{hours} over", hours=hours) if over else say("{hours} left", hours=hours)
    return say("{days} over", days=things(-left, "day")) if left < 0 else say("{days} left", days=things(left, "day"))


def things_left(run: OfficeRun) -> str:
    """``3 working days``, ``1 hour``: what is left of an office period, or how far it is over."""
    return things(abs(run.left), run.unit[:-1])


def _said_ours(run: OfficeRun, calendar: Calendar, now: datetime) -> str:
    today = calendar.local_day(now)
    assert run.last_day is not None and run.limit_at is not None
    by = said_day(run.last_day, today)
    if run.unit in ("hours", "office hours"):
        by = f"{by} {run.limit_at:%H:%M}"
    if run.left < 0:
        return say("{things_left} over, the limit was {by}", things_left=things_left(run), by=by)
    if run.last_day == today and run.unit in ("days", "working days"):
        return say("ends today at the end of the office day")
    return say("{things_left} left, by {by}", things_left=things_left(run), by=by)


def reminders(view: ClockView | None, rules: Clock) -> tuple[date, ...]:
    """The days on which the applicant is reminded in the running step, soonest first."""
    if view is None or view.limit_day is None:
        return ()
    if view.step == "payment":
        return (view.since + rules.pay.remind_after * DAY,)
    if view.step == "answers":
        days = (view.limit_day - n * DAY for n in rules.answers.remind)
        return tuple(day for day in days if day > view.since)
    return ()
