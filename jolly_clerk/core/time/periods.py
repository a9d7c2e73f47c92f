"""Lengths of time as rulebooks say them (``10 working days``, ``2 months``) and where they end."""

from __future__ import annotations

import calendar as days_of
import re
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any, Literal

from jolly_clerk.core.time.calendar import Calendar

Unit = Literal["working days", "days", "weeks", "months", "years"]
_WORDING = re.compile(r"(\d{1,4}) (working day|day|week|month|year)s?")


def add_months(day: date, months: int) -> date:
    """The same day ``months`` later (or earlier), or that month's last day.

    Raises ValueError when the year leaves 1 to 9999.
    """
    index = day.year * 12 + day.month - 1 + months
    year, month = divmod(index, 12)
    return date(year, month + 1, min(day.day, days_of.monthrange(year, month + 1)[1]))


@dataclass(frozen=True, slots=True)
class Span:
    """A length of time that can be added to or taken from a date in a rule."""

    months: int = 0
    days: int = 0

    def _moved(self, day: Any, sign: int) -> date:
        if not isinstance(day, date):
            raise TypeError("a span of time goes with a date")
        return add_months(day, sign * self.months) + timedelta(days=sign * self.days)

    def __radd__(self, day: Any) -> date:
        return self._moved(day, 1)

    __add__ = __radd__

    def __rsub__(self, day: Any) -> date:
        return self._moved(day, -1)


@dataclass(frozen=True, slots=True)
class Period:
    """A number of days, weeks, months or years, or of working days."""

    count: int
    unit: Unit

    @classmethod
    def parse(cls, text: str) -> Period:
        """Read ``30 days`` or ``10 working days``; ValueError says what would be right."""
        found = _WORDING.fullmatch(text.strip())
        if not found:
            raise ValueError(f"{text!r} is not a period; write it like '10 working days', '30 days' or '2 months'")
        unit: Any = found[2] + "s"
        return cls(int(found[1]), unit)

    def __str__(self) -> str:
        return f"{self.count} {self.unit[:-1] if self.count == 1 else self.unit}"

    def last_day(self, event: date, calendar: Calendar) -> date:
        """The last day of the period; the first is the day after ``event``. Not moved off closed days."""
        if self.unit == "working days":
            return calendar.add_working_days(event, self.count)
        if self.unit in ("months", "years"):
            return add_months(event, self.count * (12 if self.unit == "years" else 1))
        return event + timedelta(days=self.count * (7 if self.unit == "weeks" else 1))

    def plus(self, other: Period) -> Period:
        """Both together, for an extension; the units must be the same."""
        if self.unit != other.unit:
            raise ValueError(f"cannot lengthen {self} by {other}: the units differ")
        return Period(self.count + other.count, self.unit)


def applicant_last_day(event: date, period: Period, calendar: Calendar) -> date:
    """The last day of an applicant's period: one that would end on a closed day ends on the next working day."""
    return calendar.working_day_from(period.last_day(event, calendar))
