"""The functions over days, hours and working days that a rule may call.

Those marked ``calendar`` are given the authority's calendar before their own values. Hours are elapsed hours, right over
summer time; a day later is the same hour of the clock.
"""

from __future__ import annotations

from calendar import isleap
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from decimal import Decimal, localcontext
from typing import Any

from jolly_clerk.core.facts import spans, stays
from jolly_clerk.core.facts.mrz import read_mrz
from jolly_clerk.core.rulebook.types import DATE, LIST, NUMBER
from jolly_clerk.core.say import _, say
from jolly_clerk.core.time.calendar import WEEKDAYS, Calendar
from jolly_clerk.core.time.periods import Duration, Span, add_months

_DAY = timedelta(days=1)
#: the longest list that a rule may make
MOST_MEMBERS = 400
CALENDAR, PAYMENTS = "case.calendar", "case.payments"
SAME, MEMBER = _("the type of the first value"), _("a member of the first value")
DATES, NUMBERS = LIST + DATE, LIST + NUMBER


@dataclass(frozen=True, slots=True)
class Function:
    """A function of the rule language: what it takes, what it gives and what it is for.

    The last ``optional`` values may be left out. ``given`` names what is put before its own values: the authority's calendar
    (``case.calendar``) or what was paid (``case.payments``). ``gives`` is a type, ``SAME`` or ``MEMBER`` (of the first value).
    """

    name: str
    call: Callable[..., Any]
    takes: tuple[str, ...]
    gives: str
    help: str
    optional: int = 0
    given: str = ""


def whole(count: Decimal, most: int = 120_000) -> int:
    """A count that has to be a whole number, at most so many. Raises ValueError."""
    if count != count.to_integral_value() or abs(count) > most:
        raise ValueError(say("this has to be a whole number, at most {most}", most=most))
    return int(count)


def span_of(months: int = 0, days: int = 0) -> Callable[[Decimal], Span]:
    """A function that makes a span of so many months or days."""
    return lambda count: Span(months=months * whole(count), days=days * whole(count))


def hours_of(minutes: int) -> Callable[[Decimal], Duration]:
    """A function that makes a duration of so many units of minutes."""
    return lambda count: Duration(whole(count * minutes, 10_000_000))


def days_between(first: date, second: date) -> Decimal:
    """Calendar days from ``first`` to ``second``; negative if the second is earlier."""
    return Decimal((second - first).days)


def months_between(first: date, second: date) -> Decimal:
    """Whole months from ``first`` to ``second``: how often a month can be added without passing it; 0 if it is earlier."""
    months = (second.year - first.year) * 12 + second.month - first.month
    return Decimal(max(months if add_months(first, months) <= second else months - 1, 0))


def started_months(first: date, second: date) -> Decimal:
    """Started months after ``first`` up to and including ``second``; 0 on the day itself and before."""
    if second <= first:
        return Decimal(0)
    months = int(months_between(first, second))
    return Decimal(months if add_months(first, months) == second else months + 1)


def full_years(first: date, second: date) -> Decimal:
    """Whole years from ``first`` to ``second``."""
    return (months_between(first, second) / 12).to_integral_value("ROUND_FLOOR")


def started_years(first: date, second: date) -> Decimal:
    """Started years after ``first`` up to and including ``second``."""
    return (started_months(first, second) / 12).to_integral_value("ROUND_CEILING")


def touched(months: int) -> Callable[[date, date], Decimal]:
    """Calendar months (1), quarters (3), half-years (6) or years (12) that a stretch touches, both days included."""

    def count(first: date, last: date) -> Decimal:
        begin, end = ((d.year * 12 + d.month - 1) // months for d in (first, last))
        return Decimal(max(end - begin + 1, 0))

    return count


def first_of(months: int) -> Callable[[date], date]:
    """The first day of the calendar month, quarter, half-year or year of a day."""
    return lambda day: date(day.year, (day.month - 1) // months * months + 1, 1)


def last_of(months: int) -> Callable[[date], date]:
    """The last day of the calendar month, quarter, half-year or year of a day."""
    first = first_of(months)
    return lambda day: add_months(first(day), months) - _DAY


def _yearly(year: int, month: Decimal, day: Decimal) -> date:
    return add_months(date(year, 1, 1), whole(month, 12) - 1) + (whole(day, 31) - 1) * _DAY


def next_yearly(day: date, month: Decimal, of: Decimal) -> date:
    """The day itself or the next with this month and day of the month."""
    this = _yearly(day.year, month, of)
    return this if this >= day else _yearly(day.year + 1, month, of)


def last_yearly(day: date, month: Decimal, of: Decimal) -> date:
    """The day itself or the last before it with this month and day of the month."""
    this = _yearly(day.year, month, of)
    return this if this <= day else _yearly(day.year - 1, month, of)


def weekday_from(day: date, name: str, number: Decimal = Decimal(1)) -> date:
    """The ``number``-th such weekday on or after a day: ``weekday_from(day, "Friday")``."""
    return day + ((WEEKDAYS.index(name) - day.weekday()) % 7 + 7 * (whole(number) - 1)) * _DAY


def weekday_until(day: date, name: str, number: Decimal = Decimal(1)) -> date:
    """The ``number``-th such weekday on or before a day, counted backwards."""
    return day - ((day.weekday() - WEEKDAYS.index(name)) % 7 + 7 * (whole(number) - 1)) * _DAY


def nth_weekday(year: Decimal, month: Decimal, number: Decimal, name: str) -> date:
    """``nth_weekday(2027, 5, 1, "Saturday")``; -1 is the last of the month. ValueError if there is none."""
    first = date(whole(year), whole(month), 1)
    found = weekday_from(first, name, number) if number > 0 else weekday_until(last_of(1)(first), name, -number)
    if (found.year, found.month) != (first.year, first.month):
        raise ValueError(say("the month has no such day"))
    return found


def at(day: date, hour: str, calendar: Calendar | None = None) -> datetime:
    """A day at an hour of the office's zone: ``at(day, "12:00")``."""
    return datetime.combine(day, time.fromisoformat(hour), calendar.zone if calendar else UTC)


def seconds_between(first: datetime, second: datetime) -> Decimal:
    """Elapsed seconds; negative if the second moment is earlier."""
    return Decimal(int((second.astimezone(UTC) - first.astimezone(UTC)).total_seconds()))


def exactly(count: Decimal, parts: int) -> Decimal:
    """A share with twice the digits that rules compute with: multiplied again it is the whole number that it came from."""
    with localcontext() as context:
        context.prec = 60
        return count / parts


def hours_between(first: datetime, second: datetime) -> Decimal:
    """Elapsed hours, with decimals; negative if the second is earlier."""
    return exactly(seconds_between(first, second), 3600)


def minutes_between(first: datetime, second: datetime) -> Decimal:
    """Elapsed minutes, with decimals; negative if the second is earlier."""
    return exactly(seconds_between(first, second), 60)


def parts_of_years(first: date, last: date) -> Decimal:
    """Years from one day to another by the days of each calendar year, 365 or 366: 0 if the second is not later."""
    total, day = Decimal(0), first
    while day < last:
        end = min(date(day.year + 1, 1, 1), last)
        total += Decimal((end - day).days) / (366 if isleap(day.year) else 365)
        day = end
    return total


def clock_hours(hour: str) -> Decimal:
    """An hour of the day as a number: 13.5 for ``13:30``, 24 for ``24:00``. ValueError if it is none."""
    hours, _colon, minutes = hour.partition(":")
    if not 0 <= int(minutes) < 60 or not 0 <= int(hours) <= 24:
        raise ValueError(say("There is no {hour} on a clock.", hour=hour))
    return exactly(Decimal(60 * int(hours) + int(minutes)), 60)


def overlap_days(first: date, last: date, begin: date, end: date) -> Decimal:
    """Days that lie in both stretches, both ends counted."""
    return Decimal(max((min(last, end) - max(first, begin)).days + 1, 0))


def each_day(first: date, last: date) -> tuple[date, ...]:
    """Every day of a stretch, both ends counted, at most 400."""
    count = whole(days_between(first, last), MOST_MEMBERS - 1) + 1
    return tuple(first + n * _DAY for n in range(count))


def each_month(first: date, last: date) -> tuple[date, ...]:
    """The first days of the calendar months that a stretch touches, at most 400."""
    count = whole(touched(1)(first, last), MOST_MEMBERS)
    return tuple(add_months(date(first.year, first.month, 1), n) for n in range(count))


def hours_within(calendar: Calendar, first: datetime, second: datetime, begin: str, end: str) -> Decimal:
    """Elapsed hours between two moments that lie between two hours of each day; ``begin`` after ``end`` goes over midnight."""
    total, low, high = 0.0, time.fromisoformat(begin), time.fromisoformat(end)
    day = calendar.local_day(first) - _DAY
    if (calendar.local_day(second) - day).days > MOST_MEMBERS:
        raise ValueError(say("these hours are too many to be meant"))
    while day <= calendar.local_day(second):
        until = day if low < high else day + _DAY
        a, b = datetime.combine(day, low, calendar.zone), datetime.combine(until, high, calendar.zone)
        total += max((min(b.astimezone(UTC), second) - max(a.astimezone(UTC), first)).total_seconds(), 0)
        day += _DAY
    return exactly(Decimal(int(total)), 3600)


def _stretches(first: Sequence[date], last: Sequence[date]) -> list[tuple[date, date]]:
    return list(zip(first, last, strict=True))


def practice_months(first: Sequence[date], last: Sequence[date]) -> Decimal:
    """Months of practice, overlaps counted once, days left over added, 30 of them a month."""
    return Decimal(spans.practice(_stretches(first, last)).months)


def gaps_in_cover(
    first: Sequence[date], last: Sequence[date], amount: Sequence[Decimal], begin: date, end: date, least: Decimal
) -> Decimal:
    """How many stretches from ``begin`` to ``end`` no cover of at least ``least`` is in force on."""
    policies = [spans.Policy(a, b, c) for a, b, c in zip(first, last, amount, strict=True)]
    return Decimal(len(spans.cover(policies, begin, end, least).gaps))


def most_days_stayed(first: Sequence[date], last: Sequence[date], arrival: date, departure: date, window: Decimal) -> Decimal:
    """The highest number of days in any window of so many days that ends during a planned stay, earlier stays counted."""
    return Decimal(stays.look(_stretches(first, last), (arrival, departure), window=whole(window)).most)


def mrz_faults(lines: str, on: date) -> Decimal:
    """How much is wrong with machine-readable lines as they are on a day: check digits, impossible dates; 99 if they are none."""
    found = read_mrz(lines.splitlines(), on)
    return Decimal(99) if isinstance(found, str) else Decimal(len(found.faults))


def working_days_after(calendar: Calendar, day: date, count: Decimal) -> date:
    """The working day that lies so many after a day."""
    return calendar.add_working_days(day, whole(count, 4000))


def paid_until(payments: Sequence[tuple[date, Decimal]], day: date) -> Decimal:
    """What was paid towards the stage at filing up to and including a day."""
    return sum((amount for on, amount in payments if on <= day), Decimal("0.00"))
