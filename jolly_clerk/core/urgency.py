"""How urgent a case is in a list: the time left in words, its group, and how loudly it is said."""

from __future__ import annotations

import functools
from collections.abc import Hashable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, time
from typing import Any, Literal, cast

from jolly_clerk.core.say import _, say, spoken
from jolly_clerk.core.states import STATES, WITH_INTAKE, State
from jolly_clerk.core.things import things
from jolly_clerk.core.time.calendar import DAY, Calendar

#: what runs out in each step of the clock, for a calendar
RUNS_OUT: Mapping[str, str] = {
    "payment": _("payment is due"),
    "issue payment": _("payment is due"),
    "check": _("to be checked"),
    "answers": _("answers are due"),
    "decision": _("to be decided"),
    "other body": _("another body answers"),
}


def limit_in_words(step: str) -> str:
    """What runs out at the limit of a step, without names."""
    return say(RUNS_OUT.get(step, _("a limit")))


def week_from(day: date) -> date:
    """The last day of what a list calls this week."""
    return day + 7 * DAY


Group = Literal["running out", "at once", "ready", "waiting"]
#: an office limit so many working days away, or nearer, is running out
RUNNING_OUT = 4


def days_left(limit: date | None, holder: str, today: date, calendar: Calendar, after: date | None = None) -> int | None:
    """From today to a limit: working days if the office holds the case, else days; negative when it is past, None without one.

    A period of the office that runs only ``after`` a day that is still to come has the days from then.
    """
    if limit is None:
        return None
    if holder != "ours":
        return (limit - today).days
    if limit >= today:
        return calendar.working_days_between(max(today, after or today), limit)
    return -calendar.working_days_between(limit, today)


def running_out_until(today: date, calendar: Calendar) -> tuple[date, date]:
    """The last days that count as running out today: for a limit of the office, and for one that is counted in days."""
    last = today
    while calendar.working_days_between(today, last + DAY) <= RUNNING_OUT:
        last += DAY
    return last, today + RUNNING_OUT * DAY


def soonest_that_does_not_run_out(last: date, last_in_days: date) -> datetime:
    """An instant before which every limit runs out, whatever the zone of the office: these are the last days that count as running out."""
    return datetime.combine(min(last, last_in_days), time(), UTC)


def group_of(holder: str, left: int | None, at_once: bool) -> Group:
    """Where a case stands in a list: waiting on others, running out, to be finished ``at_once``, or ready for whoever has the time."""
    if holder != "ours":
        return "waiting"
    if left is not None and left <= RUNNING_OUT:
        return "running out"
    return "at once" if at_once else "ready"


#: with no more than so many requirements to look at, what the office does next with a case is done in minutes
FEW_TO_LOOK_AT = 3


def finished_at_once(state: State, squares: Iterable[Sequence[Any]]) -> bool:
    """True if the intake is done with a case in minutes: judging with little left to look at, or handing over.

    ``squares`` are the standing of each requirement and whether it is judged. What is proposed *met* is confirmed with one key, so
    only the others count.
    """
    if state not in WITH_INTAKE:
        return False
    return sum(1 for standing, judged in squares if not judged and standing != "met") <= FEW_TO_LOOK_AT


Urgency = Literal["over", "near", "soon", "later"]
#: an applicant's limit so many days away, or nearer, is near
THEIRS_NEAR = 7


@dataclass(frozen=True, slots=True)
class TimeLeft:
    """The time left in words, and how loudly it is said."""

    words: str
    urgency: Urgency


def time_left(left: int | None, holder: str, step: str, own: bool) -> TimeLeft:
    """``3 working days left``, ``lapses tonight``, ``to answer, 12 days left``: for the office, or (``own``) for the applicant."""
    return _time_left(left, holder, step, own, cast(Hashable, spoken()))


@functools.lru_cache(4096)
def _time_left(left: int | None, holder: str, step: str, own: bool, _spoken: Hashable) -> TimeLeft:
    """The same, in the language that is spoken: a list says few different ones, again and again."""
    if left is None:
        return TimeLeft("", "later")
    count = things(abs(left), "working day" if holder == "ours" else "day")
    if left < 0:
        return TimeLeft(say("{count} over", count=count), "over")
    if holder == "a third party's":
        return TimeLeft(say("another body's, {count} left", count=count), "later")
    if holder != "theirs":
        if left == 0:
            return TimeLeft(say("ends today"), "over")
        return TimeLeft(say("{count} left", count=count), "near" if left <= 1 else "soon" if left <= RUNNING_OUT else "later")
    if left <= THEIRS_NEAR:
        return TimeLeft(say("lapses tonight") if left == 0 else say("lapses in {count}", count=count), "near")
    if step == "payment":
        return TimeLeft(say("to pay, {count} left", count=count), "later")
    return TimeLeft(say("to answer, {count} left", count=count) if own else say("theirs, {count} left", count=count), "later")


Place = Literal["waiting", "preparing", "running", "closed"]


def place_of(state: State, step: str, holder: str) -> Place:
    """Where an applicant's case stands among the own ones: it waits for the applicant, was taken back and is prepared anew (its
    draft stands for it), runs, or is closed."""
    info = STATES[state]
    if state == "Draft":
        return "preparing"
    if info.final and step != "issue payment":
        return "closed"
    return "waiting" if holder == "theirs" and (info.desk or info.final) else "running"
