"""Stretches of time: months of practice with overlaps counted once, and cover without a gap.

Source: the scenario, *Months*, and surveyors: periods merged, both days counted, whole months of each merged period, days left over
added, 30 of them a month.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal

from jolly_clerk.core.say import say
from jolly_clerk.core.time.periods import add_months

DAY = timedelta(days=1)
Stretch = tuple[date, date]


@dataclass(frozen=True, slots=True)
class Merged:
    """A merged stretch, both days counted, with its whole months and the days left over."""

    first: date
    last: date
    months: int
    days: int


@dataclass(frozen=True, slots=True)
class Practice:
    """All months, the days left over after every 30 made one, and the stretches."""

    months: int
    days: int
    stretches: tuple[Merged, ...]


def merged(stretches: Sequence[Stretch]) -> list[Stretch]:
    """Stretches that overlap or touch become one, oldest first. ValueError for one that ends before it begins."""
    found: list[Stretch] = []
    for first, last in sorted(stretches):
        if last < first:
            raise ValueError(say("a period ends on {last}, before it begins on {first}", last=last, first=first))
        if found and first <= found[-1][1] + DAY:
            found[-1] = (found[-1][0], max(found[-1][1], last))
        else:
            found.append((first, last))
    return found


def whole_months(first: date, last: date) -> tuple[int, int]:
    """Whole months in a stretch with both days counted, and the days left over.

    It holds n months if its first day plus n months is not later than the day after its last. A day that the month
    does not have is carried over into the next one, so that 31 August to 28 February are 5 months and some days.
    """
    after = last + DAY
    months = (after.year - first.year) * 12 + after.month - first.month
    while _carried(first, months) > after:
        months -= 1
    return months, (after - _carried(first, months)).days


def _carried(first: date, months: int) -> date:
    end = add_months(first, months)
    return end + (first.day - end.day) * DAY


def practice(stretches: Sequence[Stretch]) -> Practice:
    """Months of practice over all stretches."""
    found = tuple(Merged(a, b, *whole_months(a, b)) for a, b in merged(stretches))
    left = sum(m.days for m in found)
    return Practice(sum(m.months for m in found) + left // 30, left % 30, found)


@dataclass(frozen=True, slots=True)
class Policy:
    """A cover in force on both days named, for an amount."""

    first: date
    last: date
    amount: Decimal


@dataclass(frozen=True, slots=True)
class Cover:
    """Whether each day is covered by one policy of enough, and the stretches that are not."""

    covers: bool
    gaps: tuple[Stretch, ...]


def cover(policies: Sequence[Policy], first: date, last: date, least: Decimal) -> Cover:
    """Look whether policies of at least ``least`` each cover every day from ``first`` to ``last``."""
    enough = merged([(p.first, p.last) for p in policies if p.amount >= least])
    gaps: list[Stretch] = []
    day = first
    for begin, end in enough:
        if end < day or begin > last:
            continue
        if begin > day:
            gaps.append((day, begin - DAY))
        day = end + DAY
    if day <= last:
        gaps.append((day, last))
    return Cover(not gaps, tuple(gaps))
