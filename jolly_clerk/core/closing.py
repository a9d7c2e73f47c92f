"""A day on which the office was shut, declared for the cases that it touches: it counts as closed, and what would end on it ends later.

Source: the decisions, *A day of closure*. It only ever lengthens.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, time, timedelta
from typing import TYPE_CHECKING

from jolly_clerk.core.deadlines import payment_due
from jolly_clerk.core.history import ClosureDeclared, Entry, History, Lapsed, LapseUndone
from jolly_clerk.core.in_words import day as said_day
from jolly_clerk.core.known import Known
from jolly_clerk.core.refunds import cancelled
from jolly_clerk.core.roles import Role
from jolly_clerk.core.say import say
from jolly_clerk.core.shut import Shut
from jolly_clerk.core.states import STATES
from jolly_clerk.core.time.calendar import DAY, Calendar

if TYPE_CHECKING:
    from jolly_clerk.core.assessment import Assessment
    from jolly_clerk.core.clock import ClockView


@dataclass(frozen=True, slots=True)
class MovedLimit:
    """A limit that moves: of what (a lane's title or nothing), whose step, from which day to which."""

    of: str
    step: str
    was: date
    now: date

    def said(self, comes_back: bool) -> str:
        """The limit in words as it is now, and unless the case comes back, as it was."""
        now, was, of = said_day(self.now), said_day(self.was), f"{self.of}: " if self.of else ""
        if self.step in ("payment", "issue payment"):
            said = say("Last day to pay: {now}", now=now)
        elif self.step == "answers":
            said = say("Last day to answer: {now}", now=now)
        elif self.step == "other body":
            said = say("The other body answers by {now}", now=now)
        elif self.step == "decision":
            said = say("The office decides by {now}", now=now)
        else:
            said = say("The office checks by {now}", now=now)
        return f"{of}{said}." if comes_back else say("{of}{said} (it was {was}).", of=of, said=said, was=was)


@dataclass(frozen=True, slots=True)
class Closing:
    """What declaring a closure does to a case: the entries, the limits that move, whether it comes back."""

    entries: tuple[Entry, ...]
    moved: tuple[MovedLimit, ...]
    comes_back: bool


#: a day so far from today, either way, is taken for a mistake
FAR = 366 * DAY


def is_far(shut: Shut, today: date) -> bool:
    """True if the day is so far away that it is taken for a mistake."""
    return abs(shut.day - today) > FAR


def opened_over(known: Known, entries: Sequence[object]) -> Known:
    """What is known, with the calendar as the closures that were declared for the case make it."""
    declared = [e for e in entries if isinstance(e, ClosureDeclared)]
    return replace(known, calendar=_closed(known.calendar, declared)) if declared else known


def _closed(calendar: Calendar, declared: Sequence[ClosureDeclared]) -> Calendar:
    days, hours = set[date](), dict[date, tuple[time, time]]()
    for one in declared:
        whole = one.shut.begins is None or one.shut.ends is None
        first = one.shut.day if whole else one.shut.day + DAY
        days |= {first + n * DAY for n in range((one.until - first).days + 1)}
        if one.shut.begins and one.shut.ends:
            hours[one.shut.day] = (one.shut.begins, one.shut.ends)
    return calendar.also_closed(frozenset(days), hours)


def close(a: Assessment, shut: Shut, who: str, role: Role) -> Closing | None:
    """What declaring a closure does to a case now; None if it does not touch it: no limit moves, and no day of it is to come."""
    calendar, today = a.known.calendar, a.known.calendar.local_day(a.now)
    if any(isinstance(e, ClosureDeclared) and e.shut == shut for e in a.history.entries):
        return None
    back = _lapsed_on(a) == shut.day
    if a.case.filed is None or (STATES[a.state].final and not back):
        return None
    until = max(shut.day, today) if back else shut.day
    entry = ClosureDeclared(at=a.now, who=who, role=role, shut=shut, until=until)
    then = _closed(calendar, [entry])
    moved, moved_at = dict[str, date](), dict[str, datetime]()
    asked = {"": a.common.rounds, **{id_: lane.rounds for id_, lane in a.common.lanes.items()}}
    for lane, rounds in asked.items():
        latest = rounds[-1] if rounds else None
        if latest is None or latest.answered_at is not None or not shut.day <= latest.due <= until:
            continue
        moved[lane] = then.working_day_from(latest.due)
        if latest.due_at:
            moved_at[lane] = latest.due_at + timedelta(days=(moved[lane] - latest.due).days)
    entry = entry.model_copy(update={"moved": moved, "moved_at": moved_at})
    entries: list[Entry] = [entry]
    if back:
        because = say("the office was shut on {day}", day=said_day(shut.day))
        entries.append(LapseUndone(at=a.now, who=who, role=role, because=because, cancels=tuple(sorted(cancelled(a.case)))))
    after = _with(a, entries)
    limits = tuple(_moved(a, after)) if not back else tuple(_limits(after))
    if any(limit.now < limit.was for limit in limits) or not (limits or back or shut.day >= today):
        return None
    return Closing(tuple(entries), limits, back)


def _with(a: Assessment, entries: Sequence[Entry]) -> Assessment:
    """The same case after further entries."""
    history = History(entries=(*a.history.entries, *entries), versions=a.history.versions)
    return type(a)(a.rulebook, a.dossier, history, a.known, a.now, {}, "")


def _lapsed_on(a: Assessment) -> date | None:
    """The last day of the period that ran out when the case lapsed; None if it did not."""
    ended, case = a.case.ended, a.case
    if not isinstance(ended, Lapsed):
        return None
    if ended.step == "answers":
        return case.rounds[-1].due if case.rounds else None
    return payment_due(case.pay_from, a.clock_rules.pay, a.known.calendar).day if case.pay_from else None


def _clocks(a: Assessment) -> Mapping[str, tuple[str, ClockView]]:
    own = {lane.id: (lane.title, lane.clock) for lane in a.lanes} if a.lanes else {"": ("", a.clock)}
    return {id_: (title, clock) for id_, (title, clock) in own.items() if clock is not None}


def _moved(before: Assessment, after: Assessment) -> list[MovedLimit]:
    was, now = _clocks(before), _clocks(after)
    pairs = [(title, clock, now[id_][1]) for id_, (title, clock) in was.items() if id_ in now]
    return [
        MovedLimit(title, then.step, clock.limit_day, then.limit_day)
        for title, clock, then in pairs
        if clock.limit_day and then.limit_day and clock.limit_day != then.limit_day
    ]


def _limits(after: Assessment) -> list[MovedLimit]:
    """The limits of a case that came back; what was the limit is the day on which it ran out."""
    return [MovedLimit(t, c.step, c.limit_day, c.limit_day) for t, c in _clocks(after).values() if c.limit_day]
