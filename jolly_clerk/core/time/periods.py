"""Lengths of time as rulebooks say them (``10 working days``, ``2 months``) and where they end."""

from __future__ import annotations

import calendar as days_of
import re
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from decimal import Decimal
from typing import Any, Literal

from jolly_clerk.core.say import _, say
from jolly_clerk.core.things import things
from jolly_clerk.core.time.calendar import Calendar
from jolly_clerk.core.values import Value

Unit = Literal["office hours", "hours", "working days", "days", "weeks", "months", "years"]
_WORDING = re.compile(r"(\d{1,4}) (office hour|hour|working day|day|week|month|year)s?")
#: periods in these units run from an instant to an instant
HOURS = ("office hours", "hours")


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

    def _moved(self, day: Value, sign: int) -> date:
        if not isinstance(day, date):
            raise TypeError(say("a span of time goes with a date"))
        if isinstance(day, datetime):  # the same hour of the clock, days later
            return datetime.combine(self._moved(day.date(), sign), day.time(), day.tzinfo)
        return add_months(day, sign * self.months) + timedelta(days=sign * self.days)

    def __radd__(self, day: Value) -> date:
        return self._moved(day, 1)

    __add__ = __radd__

    def __rsub__(self, day: Value) -> date:
        return self._moved(day, -1)


@dataclass(frozen=True, slots=True)
class Duration:
    """So many elapsed minutes, to add to or take from a moment; right over summer time."""

    minutes: int

    def _moved(self, moment: Value, sign: int) -> datetime:
        if not isinstance(moment, datetime):
            raise TypeError(say("hours go with a moment"))
        return (moment.astimezone(UTC) + timedelta(minutes=sign * self.minutes)).astimezone(moment.tzinfo)

    def __radd__(self, moment: Value) -> datetime:
        return self._moved(moment, 1)

    def __rsub__(self, moment: Value) -> datetime:
        return self._moved(moment, -1)


@dataclass(frozen=True, slots=True)
class Stretch:
    """A period of days as an answer gives it, both days counted. ValueError if it ends before it begins."""

    first: date
    last: date

    def __post_init__(self) -> None:
        if self.last < self.first:
            raise ValueError(say("a period ends before it begins"))


IfClosed = Literal["stays", "next working day", "working day before"]
#: where a last day moves to, as it is said
MOVES_TO = (_("next working day"), _("working day before"))


_COUNTED = {"a": 1, "an": 1, "one": 1, "two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "ten": 10, "twelve": 12}


def _no_period(text: str) -> str:
    """What would be right for a text that is no period."""
    count, _, unit = text.strip().partition(" ")
    if count.casefold() in _COUNTED and _WORDING.fullmatch(f"1 {unit}"):
        return say("write the number in figures: `{right}`", right=f"{_COUNTED[count.casefold()]} {unit}")
    if count.isdigit() and not unit:
        return say("say of what: `{count} days`, `{count} working days`, `{count} weeks`, `{count} months`", count=count)
    if re.fullmatch(r"\d+[.,]\d+", count):
        return say("a period has a whole number, as in `15 days`; “{text}” has not", text=text)
    if count.startswith("-") and _WORDING.fullmatch(text.strip()[1:]):
        return say("a period is written without a sign: `{right}`", right=text.strip()[1:])
    if re.search(r"(?i)work|business|office", unit) and count.isdigit():
        return say("write `{count} working days`, or `{count} office hours`", count=count)
    return say("“{text}” is no period; write it like `10 working days`, `30 days`, `2 months` or `24 hours`", text=text)


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
            raise ValueError(_no_period(text))
        unit: Any = found[2] + "s"
        return cls(int(found[1]), unit)

    def __format__(self, spec: str) -> str:
        """As it is said; :func:`str` gives it as an edition writes it."""
        return things(self.count, self.unit[:-1])

    def __str__(self) -> str:
        return f"{self.count} {self.unit[:-1] if self.count == 1 else self.unit}"

    @property
    def in_hours(self) -> bool:
        """True if it runs from an instant to an instant."""
        return self.unit in HOURS

    def last_day(self, event: date, calendar: Calendar) -> date:
        """The last day of the period; the first is the day after ``event``. Not moved off closed days.

        ValueError for hours, which have no days.
        """
        if self.unit in HOURS:
            raise ValueError(say("{self} have no last day", self=self))
        if self.unit == "working days":
            return calendar.add_working_days(event, self.count)
        if self.unit in ("months", "years"):
            return add_months(event, self.count * (12 if self.unit == "years" else 1))
        return event + timedelta(days=self.count * (7 if self.unit == "weeks" else 1))

    def before(self, event: date, calendar: Calendar) -> date:
        """The day from which the period reaches back: ``3 working days`` before a day is the third working day before it."""
        return Period(-self.count, self.unit).last_day(event, calendar)

    def limit(self, event: Value, calendar: Calendar, back: bool = False, if_closed: IfClosed = "stays") -> Value:
        """Where the period ends, counted from ``event`` forwards or backwards: a moment for hours, else a day.

        A day that is closed stays or moves, as ``if_closed`` says. Days counted from a moment are counted from its day.
        """
        sign = -1 if back else 1
        if self.unit == "hours":
            return event + Duration(sign * self.count * 60)
        if self.unit == "office hours":
            return calendar.add_office_hours(event, Decimal(sign * self.count))
        day = calendar.local_day(event) if isinstance(event, datetime) else event
        day = self.before(day, calendar) if back else self.last_day(day, calendar)
        if if_closed == "next working day":
            return calendar.working_day_from(day)
        return calendar.working_day_until(day) if if_closed == "working day before" else day

    def plus(self, other: Period) -> Period:
        """Both together, for an extension; the units must be the same."""
        if self.unit != other.unit:
            raise ValueError(say("cannot lengthen {self} by {other}: the units differ", self=self, other=other))
        return Period(self.count + other.count, self.unit)


def applicant_last_day(event: date, period: Period, calendar: Calendar) -> date:
    """The last day of an applicant's period: one that would end on a closed day ends on the next working day."""
    return calendar.working_day_from(period.last_day(event, calendar))
