"""What is known from outside the dossier: the calendar, the readings of files, what the terminal was told."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import date, time
from typing import Literal

from pydantic import BaseModel, ConfigDict

from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.time.calendar import WEEKDAYS, Calendar, ClosedRule


class ClosedDay(BaseModel):
    """One rule for a closed day, as the calendar file says it."""

    model_config = ConfigDict(extra="forbid")
    title: str
    how: Literal["fixed", "nth weekday", "easter"]
    month: int = 0
    day: int = 0
    nth: int = 0
    weekday: str = "Monday"
    offset: int = 0


class CalendarFile(BaseModel):
    """A calendar as a file says it."""

    model_config = ConfigDict(extra="forbid")
    name: str
    version: str
    zone: str
    office_ends: time
    working_days: list[str]
    closed: list[ClosedDay] = []
    declared_closed: list[date] = []

    def calendar(self) -> Calendar:
        """The calendar as the core uses it."""
        rules = tuple(ClosedRule(c.title, c.how, c.month, c.day, c.nth, WEEKDAYS.index(c.weekday), c.offset) for c in self.closed)
        weekdays = frozenset(WEEKDAYS.index(d) for d in self.working_days)
        return Calendar(self.name, self.zone, self.office_ends, weekdays, rules, frozenset(self.declared_closed), self.version)


class KnownFile(BaseModel):
    """``known`` as a JSON document (``jolly-clerk assess --known``). Without a calendar the rulebook's own is used."""

    model_config = ConfigDict(extra="forbid")
    calendar: CalendarFile | None = None
    readings: list[Reading] = []


@dataclass(frozen=True, slots=True)
class Known:
    """The plain value that :func:`jolly_clerk.core.assess.assess` takes."""

    calendar: Calendar
    readings: dict[str, Reading] = field(default_factory=dict)
