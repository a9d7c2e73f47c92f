"""Who held a case on each day: the applicant, the office, another body; and the ribbon that shows it.

Source: the scenario, *Who held it*.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime

from jolly_clerk.core.lifecycle import CaseSoFar
from jolly_clerk.core.states import Holder
from jolly_clerk.core.time.calendar import DAY, Calendar


@dataclass(frozen=True, slots=True)
class RibbonDay:
    """One calendar day of the ribbon: who holds it at its end, and how it is drawn."""

    day: date
    holder: Holder
    working: bool
    to_come: bool
    today: bool
    limit: bool


def to_pay_for_issue(case: CaseSoFar) -> bool:
    """True if something was to be paid after the grant before it was issued: what fell due then, or a part of what is owed."""
    if case.granted is None:
        return False
    later = (case.filed and case.filed.later) or (case.accepted and case.accepted.later)
    waited = case.issued is None or case.issued.at > case.granted.at
    return case.granted.due > 0 or (bool(later) and waited)


def turns_of(case: CaseSoFar) -> list[tuple[datetime, Holder]]:
    """The instants at which the case changed hands, oldest first."""
    assert case.filed is not None
    turns: list[tuple[datetime, Holder]] = [(case.filed.begins_at, "ours" if case.filed.to_set else "theirs")]
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
    if case.granted and to_pay_for_issue(case):
        turns.append((case.granted.at, "theirs"))
    if case.issued:
        turns.append((case.issued.at, "ours"))
    for a_round in case.rounds:
        if a_round.paused_from:
            turns.append((a_round.paused_from, "theirs"))
        if a_round.answered_at:
            turns.append((a_round.answered_at, "ours"))
    turns.sort(key=lambda turn: turn[0])
    away = [(b.asked.at, b.holds_until) for b in case.bodies if b.asked.pauses]
    return _with_others(turns, away) if away else turns


def _with_others(
    turns: list[tuple[datetime, Holder]], away: Sequence[tuple[datetime, datetime]]
) -> list[tuple[datetime, Holder]]:
    """The turns with the stretches in which another body holds what would be the office's."""
    instants = sorted({instant for instant, _ in turns} | {end for stretch in away for end in stretch})
    found: list[tuple[datetime, Holder]] = []
    for instant in instants:
        plain = holder_at(turns, instant)
        third = plain == "ours" and any(begin <= instant < end for begin, end in away)
        found.append((instant, "a third party's" if third else plain))
    return found


def holder_at(turns: list[tuple[datetime, Holder]], at: datetime) -> Holder:
    """Who held the case at an instant."""
    holder = turns[0][1]
    for instant, who in turns:
        if instant <= at:
            holder = who
    return holder


def holder_by_day(case: CaseSoFar, calendar: Calendar, until: date) -> dict[date, Holder]:
    """Who held the case on each calendar day from filing to ``until``: whoever holds at the day's end."""
    assert case.filed is not None
    day, found = calendar.local_day(case.filed.begins_at), {}
    turns = [(calendar.local_day(instant), who) for instant, who in turns_of(case)]
    holder, at = turns[0][1], 0
    while day <= until:
        while at < len(turns) and turns[at][0] <= day:
            holder, at = turns[at][1], at + 1
        found[day] = holder
        day += DAY
    return found


def ribbon_of(
    case: CaseSoFar,
    calendar: Calendar,
    turns: list[tuple[datetime, Holder]],
    today: date,
    limit: date,
    holder: Holder,
) -> tuple[RibbonDay, ...]:
    """The ribbon from the filing day to the limit, or to today if that is later."""
    held = holder_by_day(case, calendar, today)
    last = max(today, limit)
    day = min(held) if held else today
    days = []
    while day <= last:
        who = held.get(day, holder)
        days.append(RibbonDay(day, who, calendar.is_working(day), day > today, day == today, day == limit))
        day += DAY
    return tuple(days)
