"""What is known from outside the dossier: the calendar, the readings of files, what the terminal was told."""

from __future__ import annotations

import calendar as days_of
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from datetime import date, time
from typing import Literal
from zoneinfo import ZoneInfo, available_timezones

from pydantic import BaseModel, ConfigDict

from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.history import RegisterAsked
from jolly_clerk.core.in_words import one_of
from jolly_clerk.core.rulebook.near import did_you_mean
from jolly_clerk.core.rulebook.said import Id
from jolly_clerk.core.say import say
from jolly_clerk.core.time.calendar import WEEKDAYS, Calendar, ClosedRule, How

Path = tuple[str | int, ...]


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
    to_month: int = 0
    to_day: int = 0
    until: time | None = None


def _hours(said: str) -> tuple[time, time]:
    begin, found, end = said.partition(" to ")
    if not found or time.fromisoformat(begin) >= time.fromisoformat(end):
        raise ValueError(say("{said} are no hours; write them like '08:00 to 12:00'", said=f"{said!r}"))
    return time.fromisoformat(begin), time.fromisoformat(end)


class OtherCalendar(BaseModel):
    """A further calendar in the zone of the first, by which single periods are counted (``by: board``)."""

    model_config = ConfigDict(extra="forbid")
    name: str
    office_ends: time
    working_days: list[str]
    hours: dict[str, list[str]] = {}
    closed: list[ClosedDay] = []
    declared_closed: list[date] = []

    def in_zone(self, zone: str, version: str, others: dict[str, Calendar]) -> Calendar:
        """The calendar as the core uses it."""
        rules = tuple(
            ClosedRule(
                c.title, c.how, c.month, c.day, c.nth, WEEKDAYS.index(c.weekday), c.offset, c.moved, c.from_year, c.to_year, c.to_month,
                c.to_day, c.until,
            )
            for c in self.closed
        )  # fmt: skip
        hours = {WEEKDAYS.index(day): tuple(_hours(h) for h in said) for day, said in self.hours.items()}
        weekdays = frozenset(WEEKDAYS.index(d) for d in self.working_days)
        return Calendar(
            self.name, zone, self.office_ends, weekdays, rules, frozenset(self.declared_closed), version, hours, others
        )


class CalendarFile(OtherCalendar):
    """A calendar as a file says it. ``hours`` are the office hours of a weekday: ``Monday: [08:00 to 12:00, 13:00 to 16:00]``.

    ``others`` are further calendars, by their ids.
    """

    version: str
    zone: str
    others: dict[Id, OtherCalendar] = {}

    def calendar(self) -> Calendar:
        """The calendar as the core uses it."""
        others = {id_: other.in_zone(self.zone, self.version, {}) for id_, other in self.others.items()}
        return self.in_zone(self.zone, self.version, others)


def calendar_faults(told: CalendarFile, strict: bool) -> Iterator[tuple[Path, str]]:
    """What is wrong with a calendar: the path to its place, and a sentence. Only with ``strict`` what would merely never come."""
    try:
        ZoneInfo(told.zone)
    except (ValueError, KeyError, OSError):
        near = did_you_mean(told.zone, available_timezones(), 60)
        yield (
            ("zone",),
            say("“{zone}” is no time zone{near}", zone=told.zone, near=near or say("; write it as in `Europe/Lisbon`")),
        )
    yield from _day_faults(told, (), strict)
    for id_, other in told.others.items():
        yield from _day_faults(other, ("others", id_), strict)


def _day_faults(told: OtherCalendar, at: Path, strict: bool) -> Iterator[tuple[Path, str]]:
    """What is wrong with the days and hours of a calendar."""
    named: list[tuple[Path, str]] = [((*at, "working_days"), day) for day in told.working_days]
    named += [((*at, "hours", day), day) for day in told.hours]
    named += [((*at, "closed", n, "weekday"), rule.weekday) for n, rule in enumerate(told.closed)]
    for path, day in named:
        if day not in WEEKDAYS:
            near = did_you_mean(day, WEEKDAYS, 50)
            yield path, say("“{day}” is no weekday{near}; write {days}", day=day, near=near, days=one_of(WEEKDAYS))
    for day, hours in told.hours.items():
        for said in hours:
            try:
                _hours(said)
            except ValueError:
                yield (*at, "hours", day), say("“{said}” are no hours; write them as in `08:00 to 12:00`", said=said)
    if strict and not told.working_days:
        yield (
            (*at, "working_days"),
            say("no day is a working day; write `working_days: [Monday, Tuesday, Wednesday, Thursday, Friday]`"),
        )
    for n, rule in enumerate(told.closed if strict else ()):
        yield from (((*at, "closed", n, key), message) for key, message in _never_comes(rule))


def _never_comes(rule: ClosedDay) -> Iterator[tuple[str, str]]:
    """Why a closed day would never come: the key at fault, and a sentence."""
    if rule.how in ("easter", "orthodox easter"):
        return
    if not 1 <= rule.month <= 12:
        yield "month", say("`month` is a number from 1 to 12; {month} is none", month=rule.month)
    elif rule.how == "nth weekday":
        if not rule.nth or abs(rule.nth) > 5:
            yield "nth", say("`nth` says which one of the month: 1 to 5, or -1 for the last")
    else:
        most = days_of.monthrange(2024, rule.month)[1]
        if rule.how == "period" and not (
            1 <= rule.to_month <= 12 and 1 <= rule.to_day <= days_of.monthrange(2024, rule.to_month)[1]
        ):
            yield "how", say("a period says as well `to_month` and `to_day`, the last day that is closed")
        if not 1 <= rule.day <= most:
            yield (
                "day",
                say("month {month} has the days 1 to {most}; {day} is none of them", month=rule.month, most=most, day=rule.day),
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

    def all_read(self, files: Iterable[str]) -> bool:
        """True if all of these files (SHA-256) are read, so that nothing more will be known of them."""
        found = [self.readings.get(sha256) for sha256 in files]
        return all(reading is not None and reading.opens != "being read" for reading in found)
