"""Working days, closed days and office hours of one authority, as data.

Source: the calendar file of the authority (for Quillhaven: the scenario's list of closed days).
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from datetime import UTC, date, datetime, time, timedelta
from decimal import Decimal, localcontext
from typing import Literal
from zoneinfo import ZoneInfo

from dateutil.easter import EASTER_ORTHODOX, EASTER_WESTERN, easter

from jolly_clerk.core.say import say

DAY = timedelta(days=1)
How = Literal["fixed", "nth weekday", "easter", "orthodox easter", "weekday from", "weekday until", "period"]
#: a weekday (0 = Monday) with the hours of the office on it, in their order
Hours = Mapping[int, tuple[tuple[time, time], ...]]
WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")


#: so many spans of days are kept counted
MOST_COUNTED = 4096


@dataclass(frozen=True, slots=True)
class ClosedRule:
    """A closed day that comes back every year.

    ``how`` tells which fields count: *fixed* uses month and day, *nth weekday* uses month, nth
    (1 = first, -1 = last) and weekday (0 = Monday), *easter* uses offset in days from Easter Sunday, *weekday from* and
    *weekday until* use the weekday on or after, or on or before, that month and day. ``from_year`` and ``to_year`` bound it;
    ``moved`` moves one that falls on a weekend to the Monday after (*monday*), or to the nearer weekday (*nearest*); two that would
    meet are put on days of their own. A *period* goes on to ``to_month`` and ``to_day``; with ``until`` the office is not closed but
    ends earlier on that day. *orthodox easter* is that of the eastern churches.
    """

    title: str
    how: How
    month: int = 0
    day: int = 0
    nth: int = 0
    weekday: int = 0
    offset: int = 0
    moved: Literal["", "monday", "nearest"] = ""
    from_year: int = 0
    to_year: int = 9999
    to_month: int = 0
    to_day: int = 0
    until: time | None = None

    def days(self, year: int) -> Iterator[date]:
        """The days on which this rule closes the office in ``year``, before any is moved; a period may run into the next year."""
        if not self.from_year <= year <= self.to_year:
            return
        first = self._plain(year)
        if first is None:
            return
        yield first
        if self.how == "period":
            goes_over = (self.to_month, self.to_day) < (self.month, self.day)
            last = date(year + goes_over, self.to_month, self.to_day)
            yield from (first + n * DAY for n in range(1, (last - first).days + 1))

    def _plain(self, year: int) -> date | None:
        if self.how in ("easter", "orthodox easter"):
            return easter(year, EASTER_ORTHODOX if self.how == "orthodox easter" else EASTER_WESTERN) + timedelta(
                days=self.offset
            )
        if self.how == "nth weekday":
            return self._nth(year)
        try:
            fixed = date(year, self.month, self.day)
        except ValueError:  # 29 February of a common year
            return None
        if self.how == "weekday from":
            fixed += (self.weekday - fixed.weekday()) % 7 * DAY
        elif self.how == "weekday until":
            fixed -= (fixed.weekday() - self.weekday) % 7 * DAY
        return fixed + self.offset * DAY

    def _nth(self, year: int) -> date | None:
        first = date(year, self.month, 1)
        if self.nth > 0:
            found = first + ((self.weekday - first.weekday()) % 7 + 7 * (self.nth - 1)) * DAY
        else:
            last = date(year + self.month // 12, self.month % 12 + 1, 1) - DAY
            found = last - ((last.weekday() - self.weekday) % 7 + 7 * (-self.nth - 1)) * DAY
        return found + self.offset * DAY if found.month == self.month else None


@dataclass(frozen=True, slots=True)
class Calendar:
    """The office's days. The closed days of a year are worked out once.

    ``hours`` are the hours of each weekday; a weekday without any has one stretch from 08:00 to ``office_ends``. ``others`` are further
    calendars in the same zone, by which single periods may be counted: those of a board, of a court. On a day of ``shut_hours`` the office
    was shut for these hours: the day counts, but no period ends on it.
    """

    name: str
    zone_name: str
    office_ends: time
    working_weekdays: frozenset[int]
    rules: tuple[ClosedRule, ...] = ()
    declared_closed: frozenset[date] = frozenset()
    version: str = "1"
    hours: Hours = field(default_factory=dict, hash=False)
    others: Mapping[str, Calendar] = field(default_factory=dict, hash=False)
    shut_hours: Mapping[date, tuple[time, time]] = field(default_factory=dict, hash=False)
    _years: dict[int, dict[date, str]] = field(default_factory=dict, compare=False, repr=False)
    _halves: dict[int, dict[date, time]] = field(default_factory=dict, compare=False, repr=False)
    _counted: dict[tuple[date, date], int] = field(default_factory=dict, compare=False, repr=False)

    @property
    def zone(self) -> ZoneInfo:
        """The time zone of the office."""
        return ZoneInfo(self.zone_name)

    def also_closed(self, days: frozenset[date], hours: Mapping[date, tuple[time, time]]) -> Calendar:
        """The same calendar with further closed days, and days on which it was shut for hours."""
        others = {id_: other.also_closed(days, hours) for id_, other in self.others.items()}
        return replace(self, declared_closed=self.declared_closed | days, shut_hours={**self.shut_hours, **hours}, others=others)

    def called(self, name: str | None) -> Calendar:
        """The further calendar of a name; this one itself without a name, or if there is none."""
        return self.others.get(name, self) if name else self

    def closed_on(self, day: date) -> str | None:
        """Why the office is closed on ``day`` (a title or a weekday), or None if it works."""
        if day.weekday() not in self.working_weekdays:
            return WEEKDAYS[day.weekday()]
        if day in self.declared_closed:
            return say("the office declared this day closed")
        return self._closed(day.year).get(day)

    def _closed(self, of: int) -> dict[date, str]:
        """The closed days of a year; the year after is asked too, since a feast may be moved back over New Year."""
        year = self._years.get(of)
        if year is None:
            year = {}
            for y in (of - 1, of, of + 1):
                self._close(y, year)
            self._years[of] = year
        return year

    def _close(self, year: int, closed: dict[date, str]) -> None:
        """Note the closed days of a year; those that are moved come last and keep off the others."""
        whole = [(rule, day) for rule in self.rules if rule.until is None for day in rule.days(year)]
        to_move = [(rule, day) for rule, day in whole if rule.moved and day.weekday() not in self.working_weekdays]
        closed.update({day: rule.title for rule, day in whole if (rule, day) not in to_move})
        for rule, day in sorted(to_move, key=lambda pair: pair[1]):
            before, after = day - DAY, self._weekday_after(day)
            near = rule.moved == "nearest" and before.weekday() in self.working_weekdays and before not in closed
            on = before if near else after
            while on in closed:
                on = self._weekday_after(on)
            closed[on] = rule.title

    def _weekday_after(self, day: date) -> date:
        day += DAY
        while day.weekday() not in self.working_weekdays:
            day += DAY
        return day

    def ends(self, day: date) -> time:
        """The hour at which the office day ends: that of its weekday, or the earlier one of a half day. The minute itself is in time."""
        halves = self._halves.get(day.year)
        if halves is None:
            halves = {d: rule.until for rule in self.rules if rule.until for y in (day.year - 1, day.year) for d in rule.days(y)}
            self._halves[day.year] = halves
        own = self.hours.get(day.weekday())
        last = own[-1][1] if own else self.office_ends
        return min(last, halves[day]) if day in halves else last

    def closed_in(self, year: int) -> dict[date, str]:
        """The days of a year on which the office is closed, each with why, weekends among them."""
        first = date(year, 1, 1)
        days = (first + timedelta(days=n) for n in range(366))
        return {day: why for day in days if day.year == year and (why := self.closed_on(day)) is not None}

    def is_working(self, day: date) -> bool:
        """True if the office works on ``day``."""
        return self.closed_on(day) is None

    def working_day_from(self, day: date) -> date:
        """``day`` itself if the office works then and was not shut for hours of it, else the next such day."""
        while not self.is_working(day) or day in self.shut_hours:
            day += DAY
        return day

    def working_day_until(self, day: date) -> date:
        """``day`` itself if the office works then, else the last day before on which it does."""
        while not self.is_working(day):
            day -= DAY
        return day

    def is_holiday(self, day: date) -> bool:
        """True if ``day`` is closed by a rule of its own, whatever its weekday."""
        return day in self.declared_closed or day in self._closed(day.year)

    def add_working_days(self, day: date, count: int) -> date:
        """The last of ``count`` working days that follow ``day`` (which is itself not counted), or go before it if ``count`` is negative."""
        step, left = (DAY if count > 0 else -DAY), abs(count)
        while left > 0:
            day += step
            if self.is_working(day):
                left -= 1
        return day

    def office_stretches(self, day: date) -> tuple[tuple[datetime, datetime], ...]:
        """The office hours of ``day`` as instants; none on a closed day."""
        if not self.is_working(day):
            return ()
        ends = self.ends(day)
        hours = [(a, min(b, ends)) for a, b in self.hours.get(day.weekday()) or ((time(8), ends),) if a < ends]
        if shut := self.shut_hours.get(day):
            hours = [(x, y) for a, b in hours for x, y in ((a, min(b, shut[0])), (max(a, shut[1]), b)) if x < y]
        return tuple((datetime.combine(day, a, self.zone), datetime.combine(day, b, self.zone)) for a, b in hours)

    def add_office_hours(self, moment: datetime, hours: Decimal) -> datetime:
        """The instant at which so many office hours have passed since ``moment``; before it if they are negative."""
        left, back = timedelta(seconds=int(abs(hours) * 3600)), hours < 0
        for begin, end in self._stretches_from(moment, back):
            length = end.astimezone(UTC) - begin.astimezone(UTC)
            if length >= left:
                found = end.astimezone(UTC) - left if back else begin.astimezone(UTC) + left
                return found.astimezone(self.zone)
            left -= length
        raise ValueError(say("so many office hours are never reached"))

    def _stretches_from(self, moment: datetime, back: bool) -> Iterator[tuple[datetime, datetime]]:
        day = self.local_day(moment)
        for n in range(4000):
            own = self.office_stretches(day + (-n if back else n) * DAY)
            for begin, end in reversed(own) if back else own:
                begin, end = (begin, min(end, moment)) if back else (max(begin, moment), end)
                if begin < end:
                    yield begin, end

    def office_hours_between(self, first: datetime, second: datetime) -> Decimal:
        """Office hours from ``first`` to ``second``; 0 if it is earlier."""
        seconds, day = 0.0, self.local_day(first)
        while day <= self.local_day(second):
            for begin, end in self.office_stretches(day):
                lasts = min(end, second).astimezone(UTC) - max(begin, first).astimezone(UTC)
                seconds += max(lasts.total_seconds(), 0)
            day += DAY
        with localcontext() as context:
            context.prec = 60  # so that minutes come out whole again
            return Decimal(int(seconds)) / 3600

    def working_days_between(self, after: date, until: date) -> int:
        """How many working days lie after ``after`` and up to and including ``until``; kept, for the rows of a list ask the same."""
        if (after, until) not in self._counted:
            if len(self._counted) >= MOST_COUNTED:
                self._counted.clear()
            days = range(1, (until - after).days + 1)
            self._counted[after, until] = sum(1 for n in days if self.is_working(after + n * DAY))
        return self._counted[after, until]

    def local_day(self, instant: datetime) -> date:
        """The calendar day of ``instant`` in the office's zone."""
        return instant.astimezone(self.zone).date()

    def received_on(self, instant: datetime) -> date:
        """The day that counts as receipt for office periods: after hours counts as the next working day."""
        local = instant.astimezone(self.zone)
        day = local.date()
        if self.is_working(day) and local.time().replace(tzinfo=None) > self.ends(day):
            day += DAY
        while not self.is_working(day):
            day += DAY
        return day

    def office_end(self, day: date) -> datetime:
        """The instant at which the office day ``day`` ends."""
        return datetime.combine(day, self.ends(day), self.zone)

    def day_begin(self, day: date) -> datetime:
        """0:00 of ``day`` in the office's zone."""
        return datetime.combine(day, time(0), self.zone)

    def day_end(self, day: date) -> datetime:
        """24:00 of ``day``, given as 0:00 of the day after."""
        return datetime.combine(day + DAY, time(0), self.zone)
