"""How old a paper is on a day, whether it is valid on a day, and credits gathered in a time.

Source: the scenario, *Documents*: a document may be so old at most; a passport is valid so long after; records of credits.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from jolly_clerk.core.rulebook.dates import months_between
from jolly_clerk.core.say import say
from jolly_clerk.core.time.calendar import Calendar
from jolly_clerk.core.time.periods import Period, add_months


@dataclass(frozen=True, slots=True)
class DocumentAge:
    """A paper's age on a day in days and in whole months with days, the last day on which it is young enough, and whether it is."""

    days: int
    months: int
    days_left_over: int
    last_day: date
    in_time: bool


def document_age(dated: date, on: date, within: Period, calendar: Calendar) -> DocumentAge:
    """How old a paper of a day is on another. ValueError if it is dated after that day, or for a period in hours."""
    if on < dated:
        raise ValueError(say("the paper is dated {dated}, after {on}", dated=dated, on=on))
    months = int(months_between(dated, on))
    left = (on - add_months(dated, months)).days
    last = within.last_day(dated, calendar)
    return DocumentAge((on - dated).days, months, left, last, on <= last)


@dataclass(frozen=True, slots=True)
class Validity:
    """Whether something is valid on a day and long enough after it; the last day on which it is, and the days that are missing."""

    valid: bool
    needed_until: date
    missing_days: int


def validity(first: date | None, last: date | None, on: date, after: Period | None, calendar: Calendar) -> Validity:
    """Whether something that is valid from ``first`` until ``last`` (None for no end) is so on a day and a period after it."""
    needed = after.last_day(on, calendar) if after else on
    if first is not None and on < first:
        return Validity(False, needed, (first - on).days)
    missing = 0 if last is None else max((needed - last).days, 0)
    return Validity(not missing, needed, missing)


@dataclass(frozen=True, slots=True)
class Record:
    """Credits that were given on a day."""

    given: date
    credits: Decimal


@dataclass(frozen=True, slots=True)
class Credits:
    """The credits that count, what is missing to the least, and how many records lie outside the time."""

    counted: Decimal
    missing: Decimal
    outside: int


def credits_in(records: Sequence[Record], first: date, last: date, least: Decimal) -> Credits:
    """Credits given from ``first`` to ``last``, both days counted. ValueError for a record below nothing or a time that ends before it begins."""
    if last < first:
        raise ValueError(say("the time ends on {last}, before it begins on {first}", last=last, first=first))
    if any(r.credits < 0 for r in records):
        raise ValueError(say("a record has less than no credits"))
    counted = sum((r.credits for r in records if first <= r.given <= last), Decimal(0))
    outside = sum(not first <= r.given <= last for r in records)
    return Credits(counted, max(least - counted, Decimal(0)), outside)
