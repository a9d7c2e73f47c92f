"""Stays in a rolling window: days used, the first day over, the earliest lawful entry.

Source: the scenario, visa: at most 90 days in any 180; both the day of arrival and the day of departure count.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from jolly_clerk.core.say import say

DAY = timedelta(days=1)
MOST_DAYS = 40_000
Stay = tuple[date, date]


@dataclass(frozen=True, slots=True)
class StaysView:
    """``before`` are the days used before, in the window that ends on the first planned day; ``used`` counts that day as well; ``most`` is
    the highest count of any planned day."""

    before: int
    used: int
    most: int
    first_day_over: date | None
    earliest_entry: date | None


def days_of(stays: Iterable[Stay]) -> set[date]:
    """Every day of the stays, each once. ValueError for a stay that ends before it begins, or for too many days."""
    found: set[date] = set()
    for first, last in stays:
        if last < first:
            raise ValueError(say("a stay ends on {last}, before it begins on {first}", last=last, first=first))
        if (last - first).days > MOST_DAYS or len(found) > MOST_DAYS:
            raise ValueError(say("these stays are longer than can be meant"))
        found |= {first + n * DAY for n in range((last - first).days + 1)}
    return found


def used_on(day: date, spent: Sequence[date], window: int) -> int:
    """How many of the ``window`` days that end with ``day`` were spent; ``spent`` in order, each once."""
    return bisect_right(spent, day) - bisect_left(spent, day - (window - 1) * DAY)


def look(earlier: Sequence[Stay], planned: Stay, days: int = 90, window: int = 180) -> StaysView:
    """A planned stay after earlier ones."""
    past = days_of(earlier)
    trip = sorted(days_of([planned]))
    spent = sorted(past.union(trip))
    counts = [(day, used_on(day, spent, window)) for day in trip]
    over = next((day for day, count in counts if count > days), None)
    most = max(count for _, count in counts)
    before = used_on(trip[0], sorted(past - {trip[0]}), window)
    return StaysView(before, counts[0][1], most, over, _earliest(past, trip[0], len(trip), days, window))


def _earliest(past: set[date], wish: date, length: int, days: int, window: int) -> date | None:
    """The first day from ``wish`` on from which a stay of that length is lawful on each of its days, also with stays after it."""
    if length > days:
        return None
    last = max(past, default=wish)
    day = wish
    while day <= max(last, wish) + window * DAY:
        spent = sorted(past.union(day + n * DAY for n in range(length)))
        touched = spent[bisect_left(spent, day) : bisect_right(spent, day + (length + window) * DAY)]
        if all(used_on(d, spent, window) <= days for d in touched):
            return day
        day += DAY
    return day
