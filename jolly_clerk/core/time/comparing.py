"""Two calendars compared: the closed days that are new or gone, and what differs besides."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date

from jolly_clerk.core.say import say
from jolly_clerk.core.time.calendar import Calendar


@dataclass(frozen=True, slots=True)
class ClosedDay:
    """A day on which the office is closed besides its weekly days, and why. ``change`` tells that it is *new* or *gone* in what is written;
    nothing if both calendars have it."""

    day: date
    title: str
    change: str


def differences(old: Calendar, new: Calendar) -> Iterator[str]:
    """What differs besides single days, in words."""
    if new.name != old.name:
        yield say("It is called {name}; editions name {old}.", name=new.name, old=old.name)
    if new.zone_name != old.zone_name:
        yield say("Its time zone is {zone}, and was {old}.", zone=new.zone_name, old=old.zone_name)
    if new.working_weekdays != old.working_weekdays:
        yield say("Other days of the week are working days.")
    if (new.office_ends, new.hours) != (old.office_ends, old.hours):
        yield say("The hours of the office are others.")
    if new.others != old.others:
        yield say("Its further calendars are others.")


def closed_days(old: Calendar, new: Calendar, year: int, years: int) -> Iterator[ClosedDay]:
    """The closed days of so many ``years`` from one on that are no weekly ones, by day; of a calendar that differs also those that are gone."""
    for of in range(year, year + years):
        before, after = _own(old, of), _own(new, of)
        for day in sorted({**before, **after}):
            change = "" if day in before and day in after else "new" if day in after else "gone"
            yield ClosedDay(day, after.get(day) or before[day], change)


def _own(calendar: Calendar, year: int) -> dict[date, str]:
    return {day: title for day, title in calendar.closed_in(year).items() if day.weekday() in calendar.working_weekdays}
