"""What is known from outside the dossier: the calendar, the readings of files, what the terminal was told."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import date, time
from typing import Literal

from pydantic import BaseModel, ConfigDict

from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.history import RegisterAsked
from jolly_clerk.core.say import say
from jolly_clerk.core.time.calendar import WEEKDAYS, Calendar, ClosedRule, How


class ClosedDay(BaseModel):
    """One rule for a closed day, as the calendar file says it."""

    model_config = ConfigDict(extra="forbid")
    title: str
    how: How
    month: int = 0
    day: int = 0
    nth: int = 0
    weekday: str = "Monday"
    offset: int = 0
    moved: Literal["", "monday", "nearest"] = ""
    from_year: int = 0
    to_year: int = 9999


def _hours(said: str) -> tuple[time, time]:
    begin, found, end = said.partition(" to ")
    if not found or time.fromisoformat(begin) >= time.fromisoformat(end):
        raise ValueError(say("{said} are no hours; write them like '08:00 to 12:00'", said=f"{said!r}"))
    return time.fromisoformat(begin), time.fromisoformat(end)


class CalendarFile(BaseModel):
    """A calendar as a file says it. ``hours`` are the office hours of a weekday: ``Monday: [08:00 to 12:00, 13:00 to 16:00]``."""

    model_config = ConfigDict(extra="forbid")
    name: str
    version: str
    zone: str
    office_ends: time
    working_days: list[str]
    hours: dict[str, list[str]] = {}
    closed: list[ClosedDay] = []
    declared_closed: list[date] = []

    def calendar(self) -> Calendar:
        """The calendar as the core uses it."""
        rules = tuple(
            ClosedRule(
                c.title, c.how, c.month, c.day, c.nth, WEEKDAYS.index(c.weekday), c.offset, c.moved, c.from_year, c.to_year
            )
            for c in self.closed
        )
        hours = {WEEKDAYS.index(day): tuple(_hours(h) for h in said) for day, said in self.hours.items()}
        weekdays = frozenset(WEEKDAYS.index(d) for d in self.working_days)
        return Calendar(
            self.name, self.zone, self.office_ends, weekdays, rules, frozenset(self.declared_closed), self.version, hours
        )


class KnownFile(BaseModel):
    """``known`` as a JSON document (``jolly-clerk assess --known``). Without a calendar the rulebook's own is used."""

    model_config = ConfigDict(extra="forbid")
    calendar: CalendarFile | None = None
    readings: list[Reading] = []
    registers: list[RegisterAsked] = []


@dataclass(frozen=True, slots=True)
class Known:
    """The plain value that :func:`jolly_clerk.core.assessment.assess` takes.

    ``registers`` are answers given while the filing was prepared; those in the history go before them.
    """

    calendar: Calendar
    readings: dict[str, Reading] = field(default_factory=dict)
    registers: dict[str, RegisterAsked] = field(default_factory=dict)
