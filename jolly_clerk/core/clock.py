"""The clock of a case: the running limit, what was used, and who held the case on each day.

Source: the scenario, *Periods*, *Pausing* and *Who held it*.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime
from typing import Literal

from jolly_clerk.core.deadlines import Due, answers_due, payment_due, received_on
from jolly_clerk.core.history import Ended
from jolly_clerk.core.in_words import day as said_day
from jolly_clerk.core.lifecycle import CaseSoFar
from jolly_clerk.core.rulebook.model import CheckClock, Clock, DecisionClock
from jolly_clerk.core.say import say
from jolly_clerk.core.things import things
from jolly_clerk.core.time.calendar import DAY, Calendar
from jolly_clerk.core.time.running import Counted, OfficeRun, Pause, office_run

Holder = Literal["ours", "theirs", "a third party's"]
Step = Literal["payment", "check", "answers", "decision", "issue payment", "ended"]


@dataclass(frozen=True, slots=True)
class RibbonDay:
    """One calendar day of the ribbon: who holds it at its end, and how it is drawn."""

    day: date
    holder: Holder
    working: bool
    to_come: bool
    today: bool
    limit: bool


@dataclass(frozen=True, slots=True)
class ClockView:
    """The clock as everybody sees it.

    ``limit_at`` is the last instant (for an applicant's period 24:00, given as 0:00 of the next
    day). ``used``, ``left`` and ``of`` count ``unit``; ``left`` is negative when the limit is past.
    ``said`` tells it in a sentence, ``short`` and ``by`` (``6 of 10 working days left``, ``check by Thu 3 Dec``) in a few words.
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


def pauses(case: CaseSoFar) -> list[Pause]:
    """The stretches that nobody uses: from the letter that arrived to its answers, round by round."""
    return [Pause(r.paused_from, r.answered_at) for r in case.rounds if r.paused_from]


def check_run(case: CaseSoFar, rules: Clock, calendar: Calendar, now: datetime) -> OfficeRun:
    """The office's period to check, from the later of filing and full payment; ValueError while that is to come."""
    if case.filed is None or case.covered_at is None:
        raise ValueError(say("the period to check begins with the payment"))
    filed, covered = case.filed.at, case.covered_at
    begin = {"later": max(covered, filed), "earlier": min(covered, filed), "filing": filed, "payment": covered}[rules.check.from_]
    stood = pauses(case)
    if rules.check.after_answers == "begins anew":
        answered = [pause.end for pause in stood if pause.end is not None]
        begin, stood = max([begin, *answered]), [pause for pause in stood if pause.end is None]
    return office_run(begin, rules.check.within, stood, now, calendar, rules.check.if_closed)


def decision_run(accepted_at: datetime, covered_at: datetime, rules: Clock, calendar: Calendar, now: datetime) -> OfficeRun:
    """The office's period to decide, from the later of acceptance and the payment of what fell due with it."""
    return office_run(max(accepted_at, covered_at), rules.decision.within, [], now, calendar, rules.decision.if_closed)


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
    turns = _turns(case)
    if case.to_set:
        return _to_set(case, calendar, today, turns)
    if case.accepted and case.check_covered_at is None:
        return _their_clock(case, rules, calendar, now, turns, "payment")
    if case.accepted and case.check_covered_at:
        run = decision_run(case.accepted.at, case.check_covered_at, rules, calendar, now)
        return _our_clock(case, calendar, now, turns, run, "decision", rules.decision)
    if case.covered_at is None:
        return _their_clock(case, rules, calendar, now, turns, "payment")
    if case.open_round and case.open_round.paused_from:
        return _their_clock(case, rules, calendar, now, turns, "answers")
    return _our_clock(case, calendar, now, turns, check_run(case, rules, calendar, now), "check", rules.check)


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
    today, holder = calendar.local_day(now), _holder(turns, now)
    anew = isinstance(rule, CheckClock) and rule.after_answers == "begins anew"
    stood = [pause.days(calendar) for pause in pauses(case)] if step == "check" and not anew else []
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
        ribbon=_ribbon(case, calendar, turns, today, run.last_day, holder),
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


def _to_pay_for_issue(case: CaseSoFar) -> bool:
    """True if something was to be paid after the grant before it was issued: what fell due then, or a part of what is owed."""
    if case.granted is None:
        return False
    later = (case.filed and case.filed.later) or (case.accepted and case.accepted.later)
    waited = case.issued is None or case.issued.at > case.granted.at
    return case.granted.due > 0 or (bool(later) and waited)


def _ended(case: CaseSoFar, ended: Ended, calendar: Calendar, today: date, grants: str) -> ClockView:
    """A closed case: its ribbon ends on its last day. A granted one whose fee at issue is open is with the applicant, without a limit."""
    waits = _to_pay_for_issue(case) and case.issued is None
    closed = case.issued.at if case.issued else ended.at
    last = today if waits else calendar.local_day(closed)
    turns = _turns(case)
    holder: Holder = "theirs" if waits else _holder(turns, closed)
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
        whole = answers_due(latest.paused_from, rules, calendar, received=event)
        plain = None if rules.answers.within.in_hours else rules.answers.within.last_day(event, calendar)
        if plain is not None and not latest.extended and whole.day > plain:
            why.append(
                say(
                    "{plain} is closed ({closed_on}), so it ends on the next working day.",
                    plain=said_day(plain, today),
                    closed_on=calendar.closed_on(plain),
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
        ribbon=_ribbon(case, calendar, turns, today, due.day, "theirs"),
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


def _turns(case: CaseSoFar) -> list[tuple[datetime, Holder]]:
    """The instants at which the case changed hands, oldest first."""
    assert case.filed is not None
    turns: list[tuple[datetime, Holder]] = [(case.filed.at, "ours" if case.filed.to_set else "theirs")]
    if case.filed.to_set and not case.to_set and case.pay_from:
        turns.append((case.pay_from, "theirs"))
    for covered, charged_back in case.uncovered:
        turns += [(covered, "ours"), (charged_back, "theirs")]
    if case.covered_at:
        turns.append((case.covered_at, "ours"))
    if case.accepted and case.accepted.due_at_once:
        turns.append((case.accepted.at, "theirs"))
        if case.check_covered_at:
            turns.append((case.check_covered_at, "ours"))
    if case.granted and _to_pay_for_issue(case):
        turns.append((case.granted.at, "theirs"))
    if case.issued:
        turns.append((case.issued.at, "ours"))
    for a_round in case.rounds:
        if a_round.paused_from:
            turns.append((a_round.paused_from, "theirs"))
        if a_round.answered_at:
            turns.append((a_round.answered_at, "ours"))
    return sorted(turns, key=lambda turn: turn[0])


def _holder(turns: list[tuple[datetime, Holder]], at: datetime) -> Holder:
    holder = turns[0][1]
    for instant, who in turns:
        if instant <= at:
            holder = who
    return holder


def holder_by_day(case: CaseSoFar, calendar: Calendar, until: date) -> dict[date, Holder]:
    """Who held the case on each calendar day from filing to ``until``: whoever holds at the day's end."""
    assert case.filed is not None
    day, found = calendar.local_day(case.filed.at), {}
    turns = [(calendar.local_day(instant), who) for instant, who in _turns(case)]
    holder, at = turns[0][1], 0
    while day <= until:
        while at < len(turns) and turns[at][0] <= day:
            holder, at = turns[at][1], at + 1
        found[day] = holder
        day += DAY
    return found


def _ribbon(
    case: CaseSoFar,
    calendar: Calendar,
    turns: list[tuple[datetime, Holder]],
    today: date,
    limit: date,
    holder: Holder,
) -> tuple[RibbonDay, ...]:
    held = holder_by_day(case, calendar, today)
    last = max(today, limit)
    day = min(held) if held else today
    days = []
    while day <= last:
        who = held.get(day, holder)
        days.append(RibbonDay(day, who, calendar.is_working(day), day > today, day == today, day == limit))
        day += DAY
    return tuple(days)


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
