"""Working days, closed days and office hours of one authority, as data.

Source: the calendar file of the authority (for Quillhaven: the scenario's list of closed days).
"""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import date, datetime, time, timedelta
from typing import Literal
from zoneinfo import ZoneInfo

from dateutil.easter import easter

DAY = timedelta(days=1)
WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")


@dataclass(frozen=True, slots=True)
class ClosedRule:
    """A closed day that comes back every year.

    ``how`` tells which fields count: *fixed* uses month and day, *nth weekday* uses month, nth
    (1 = first) and weekday (0 = Monday), *easter* uses offset in days from Easter Sunday.
    """

    title: str
    how: Literal["fixed", "nth weekday", "easter"]
    month: int = 0
    day: int = 0
    nth: int = 0
    weekday: int = 0
    offset: int = 0

    def on(self, year: int) -> date:
        """The day on which this rule closes the office in ``year``."""
        if self.how == "fixed":
            return date(year, self.month, self.day)
        if self.how == "easter":
            return easter(year) + timedelta(days=self.offset)
        first = date(year, self.month, 1)
        ahead = (self.weekday - first.weekday()) % 7 + 7 * (self.nth - 1)
        return first + timedelta(days=ahead)


@dataclass(frozen=True, slots=True)
class Calendar:
    """The office's days. Hashable; the closed days of a year are worked out once."""

    name: str
    zone_name: str
    office_ends: time
    working_weekdays: frozenset[int]
    rules: tuple[ClosedRule, ...] = ()
    declared_closed: frozenset[date] = frozenset()
    version: str = "1"
    _years: dict[int, dict[date, str]] = field(default_factory=dict, compare=False, repr=False)

    @property
    def zone(self) -> ZoneInfo:
        """The time zone of the office."""
        return ZoneInfo(self.zone_name)

    def closed_on(self, day: date) -> str | None:
        """Why the office is closed on ``day`` (a title or a weekday), or None if it works."""
        if day.weekday() not in self.working_weekdays:
            return WEEKDAYS[day.weekday()]
        if day in self.declared_closed:
            return "the office declared this day closed"
        year = self._years.get(day.year)
        if year is None:
            year = {rule.on(day.year): rule.title for rule in self.rules}
            self._years[day.year] = year
        return year.get(day)

    def is_working(self, day: date) -> bool:
        """True if the office works on ``day``."""
        return self.closed_on(day) is None

    def working_day_from(self, day: date) -> date:
        """``day`` itself if the office works then, else the next day on which it does."""
        while not self.is_working(day):
            day += DAY
        return day

    def add_working_days(self, day: date, count: int) -> date:
        """The last of ``count`` working days that follow ``day`` (which is itself not counted)."""
        while count > 0:
            day += DAY
            if self.is_working(day):
                count -= 1
        return day

    def working_days_between(self, after: date, until: date) -> int:
        """How many working days lie after ``after`` and up to and including ``until``."""
        days = (until - after).days
        return sum(1 for n in range(1, days + 1) if self.is_working(after + n * DAY))

    def local_day(self, instant: datetime) -> date:
        """The calendar day of ``instant`` in the office's zone."""
        return instant.astimezone(self.zone).date()

    def received_on(self, instant: datetime) -> date:
        """The day that counts as receipt for office periods: after hours counts as the next working day."""
        local = instant.astimezone(self.zone)
        day = local.date()
        if local.time().replace(tzinfo=None) > self.office_ends:
            day += DAY
        return self.working_day_from(day)

    def office_end(self, day: date) -> datetime:
        """The instant at which the office day ``day`` ends."""
        return datetime.combine(day, self.office_ends, self.zone)

    def day_end(self, day: date) -> datetime:
        """24:00 of ``day``, given as 0:00 of the day after."""
        return datetime.combine(day + DAY, time(0), self.zone)
