"""The functions over days, hours and working days that a rule may call.

Those marked ``calendar`` are given the authority's calendar before their own values. Hours are elapsed hours, right over
summer time; a day later is the same hour of the clock.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from decimal import Decimal
from typing import Any

from dateutil.easter import easter

from jolly_clerk.core.facts import spans, stays
from jolly_clerk.core.facts.mrz import read_mrz
from jolly_clerk.core.rulebook.types import DATE, DURATION, LIST, MOMENT, NUMBER, PERIOD, SPAN, TEXT, YES_NO
from jolly_clerk.core.time.calendar import WEEKDAYS, Calendar
from jolly_clerk.core.time.periods import Duration, Span, Stretch, add_months

_DAY = timedelta(days=1)
#: the longest list that a rule may make
MOST_MEMBERS = 400
CALENDAR, PAYMENTS = "case.calendar", "case.payments"
SAME, MEMBER = "the type of the first value", "a member of the first value"
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


def _whole(count: Decimal, most: int = 120_000) -> int:
    if count != count.to_integral_value() or abs(count) > most:
        raise ValueError(f"this has to be a whole number, at most {most}")
    return int(count)


def _span(months: int = 0, days: int = 0) -> Callable[[Decimal], Span]:
    return lambda count: Span(months=months * _whole(count), days=days * _whole(count))


def _hours(minutes: int) -> Callable[[Decimal], Duration]:
    return lambda count: Duration(_whole(count * minutes, 10_000_000))


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
    return add_months(date(year, 1, 1), _whole(month, 12) - 1) + (_whole(day, 31) - 1) * _DAY


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
    return day + ((WEEKDAYS.index(name) - day.weekday()) % 7 + 7 * (_whole(number) - 1)) * _DAY


def weekday_until(day: date, name: str, number: Decimal = Decimal(1)) -> date:
    """The ``number``-th such weekday on or before a day, counted backwards."""
    return day - ((day.weekday() - WEEKDAYS.index(name)) % 7 + 7 * (_whole(number) - 1)) * _DAY


def nth_weekday(year: Decimal, month: Decimal, number: Decimal, name: str) -> date:
    """``nth_weekday(2027, 5, 1, "Saturday")``; -1 is the last of the month. ValueError if there is none."""
    first = date(_whole(year), _whole(month), 1)
    found = weekday_from(first, name, number) if number > 0 else weekday_until(last_of(1)(first), name, -number)
    if (found.year, found.month) != (first.year, first.month):
        raise ValueError("the month has no such day")
    return found


def at(day: date, hour: str, calendar: Calendar | None = None) -> datetime:
    """A day at an hour of the office's zone: ``at(day, "12:00")``."""
    return datetime.combine(day, time.fromisoformat(hour), calendar.zone if calendar else UTC)


def hours_between(first: datetime, second: datetime) -> Decimal:
    """Elapsed hours, with decimals; negative if the second is earlier."""
    seconds = (second.astimezone(UTC) - first.astimezone(UTC)).total_seconds()
    return Decimal(int(seconds)) / 3600


def overlap_days(first: date, last: date, begin: date, end: date) -> Decimal:
    """Days that lie in both stretches, both ends counted."""
    return Decimal(max((min(last, end) - max(first, begin)).days + 1, 0))


def each_day(first: date, last: date) -> tuple[date, ...]:
    """Every day of a stretch, both ends counted, at most 400."""
    count = _whole(days_between(first, last), MOST_MEMBERS - 1) + 1
    return tuple(first + n * _DAY for n in range(count))


def each_month(first: date, last: date) -> tuple[date, ...]:
    """The first days of the calendar months that a stretch touches, at most 400."""
    count = _whole(touched(1)(first, last), MOST_MEMBERS)
    return tuple(add_months(date(first.year, first.month, 1), n) for n in range(count))


def hours_within(calendar: Calendar, first: datetime, second: datetime, begin: str, end: str) -> Decimal:
    """Elapsed hours between two moments that lie between two hours of each day; ``begin`` after ``end`` goes over midnight."""
    total, low, high = 0.0, time.fromisoformat(begin), time.fromisoformat(end)
    day = calendar.local_day(first) - _DAY
    if (calendar.local_day(second) - day).days > MOST_MEMBERS:
        raise ValueError("these hours are too many to be meant")
    while day <= calendar.local_day(second):
        until = day if low < high else day + _DAY
        a, b = datetime.combine(day, low, calendar.zone), datetime.combine(until, high, calendar.zone)
        total += max((min(b.astimezone(UTC), second) - max(a.astimezone(UTC), first)).total_seconds(), 0)
        day += _DAY
    return Decimal(int(total)) / 3600


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
    return Decimal(stays.look(_stretches(first, last), (arrival, departure), window=_whole(window)).most)


def mrz_faults(lines: str, on: date) -> Decimal:
    """How much is wrong with machine-readable lines as they are on a day: check digits, impossible dates; 99 if they are none."""
    found = read_mrz(lines.splitlines(), on)
    return Decimal(99) if isinstance(found, str) else Decimal(len(found.faults))


def _working_days(calendar: Calendar, day: date, count: Decimal) -> date:
    return calendar.add_working_days(day, _whole(count, 4000))


def paid_until(payments: Sequence[tuple[date, Decimal]], day: date) -> Decimal:
    """What was paid towards the stage at filing up to and including a day."""
    return sum((amount for on, amount in payments if on <= day), Decimal("0.00"))


_DAYS = (DATE, DATE)
DATE_FUNCTIONS: dict[str, Function] = {
    f.name: f
    for f in (
        Function("days", _span(days=1), (NUMBER,), SPAN, "so many days, to add to a date"),
        Function("weeks", _span(days=7), (NUMBER,), SPAN, "so many weeks, to add to a date"),
        Function("months", _span(months=1), (NUMBER,), SPAN, "so many months, to add to a date"),
        Function("years", _span(months=12), (NUMBER,), SPAN, "so many years, to add to a date"),
        Function("hours", _hours(60), (NUMBER,), DURATION, "so many hours, to add to a moment"),
        Function("minutes", _hours(1), (NUMBER,), DURATION, "so many minutes, to add to a moment"),
        Function("year", lambda d: Decimal(d.year), (DATE,), NUMBER, "the year of a date"),
        Function("month", lambda d: Decimal(d.month), (DATE,), NUMBER, "the month of a date, 1 to 12"),
        Function("day", lambda d: Decimal(d.day), (DATE,), NUMBER, "the day of the month"),
        Function("quarter", lambda d: Decimal((d.month + 2) // 3), (DATE,), NUMBER, "the quarter of a date, 1 to 4"),
        Function("weekday", lambda d: WEEKDAYS[d.weekday()], (DATE,), TEXT, "the weekday of a date: Monday"),
        Function(
            "date_of", lambda y, m, d: date(_whole(y), _whole(m), _whole(d)), (NUMBER,) * 3, DATE, "date_of(year, month, day)"
        ),
        Function("week", lambda d: Decimal(d.isocalendar().week), (DATE,), NUMBER, "the week of the year, by ISO 8601"),
        Function("day_of_year", lambda d: Decimal(d.timetuple().tm_yday), (DATE,), NUMBER, "the day of the year, 1 to 366"),
        Function("days_in_month", lambda d: Decimal(last_of(1)(d).day), (DATE,), NUMBER, "how many days its month has"),
        Function(
            "days_in_year", lambda d: Decimal(last_of(12)(d).timetuple().tm_yday), (DATE,), NUMBER, "how many days its year has"
        ),
        Function("each_day", each_day, _DAYS, DATES, "every day from one to another: each_day(first, last)"),
        Function("each_month", each_month, _DAYS, DATES, "the first of every month that a stretch touches"),
        Function(
            "hours_within",
            hours_within,
            (MOMENT, MOMENT, TEXT, TEXT),
            NUMBER,
            'hours that lie in a part of the day: hours_within(from, to, "08:00", "18:00")',
            given=CALENDAR,
        ),
        Function("days_between", days_between, _DAYS, NUMBER, "calendar days: days_between(from, to)"),
        Function("months_between", months_between, _DAYS, NUMBER, "whole months: months_between(from, to)"),
        Function("years_between", full_years, _DAYS, NUMBER, "whole years: years_between(from, to)"),
        Function("started_months", started_months, _DAYS, NUMBER, "started months: started_months(from, to)"),
        Function("started_years", started_years, _DAYS, NUMBER, "started years: started_years(from, to)"),
        Function(
            "whole_months",
            lambda a, b: Decimal(spans.whole_months(a, b)[0]),
            _DAYS,
            NUMBER,
            "whole months of a stretch, both days counted",
        ),
        Function("months_touched", touched(1), _DAYS, NUMBER, "calendar months that a stretch touches"),
        Function("quarters_touched", touched(3), _DAYS, NUMBER, "calendar quarters that a stretch touches"),
        Function("half_years_touched", touched(6), _DAYS, NUMBER, "calendar half-years that a stretch touches"),
        Function("years_touched", touched(12), _DAYS, NUMBER, "calendar years that a stretch touches"),
        Function("first_of_month", first_of(1), (DATE,), DATE, "the first day of the month"),
        Function("last_of_month", last_of(1), (DATE,), DATE, "the last day of the month"),
        Function("first_of_quarter", first_of(3), (DATE,), DATE, "the first day of the quarter"),
        Function("last_of_quarter", last_of(3), (DATE,), DATE, "the last day of the quarter"),
        Function("first_of_half_year", first_of(6), (DATE,), DATE, "the first day of the half-year"),
        Function("last_of_half_year", last_of(6), (DATE,), DATE, "the last day of the half-year"),
        Function("first_of_year", first_of(12), (DATE,), DATE, "the first day of the year"),
        Function("last_of_year", last_of(12), (DATE,), DATE, "the last day of the year"),
        Function("next_yearly", next_yearly, (DATE, NUMBER, NUMBER), DATE, "that day or the next: next_yearly(from, month, day)"),
        Function(
            "last_yearly", last_yearly, (DATE, NUMBER, NUMBER), DATE, "that day or the last: last_yearly(until, month, day)"
        ),
        Function("weekday_from", weekday_from, (DATE, TEXT, NUMBER), DATE, 'weekday_from(day, "Friday", 2)', optional=1),
        Function("weekday_until", weekday_until, (DATE, TEXT, NUMBER), DATE, 'weekday_until(day, "Friday", 3)', optional=1),
        Function("nth_weekday", nth_weekday, (NUMBER, NUMBER, NUMBER, TEXT), DATE, 'nth_weekday(year, month, 2, "Monday")'),
        Function("easter", lambda y: easter(_whole(y, 4000)), (NUMBER,), DATE, "Easter Sunday of a year"),
        Function("overlap_days", overlap_days, (DATE,) * 4, NUMBER, "days in both stretches: overlap_days(a, b, c, d)"),
        Function("first_day", lambda p: p.first, (PERIOD,), DATE, "the first day of a period"),
        Function("last_day", lambda p: p.last, (PERIOD,), DATE, "the last day of a period"),
        Function("period", Stretch, _DAYS, PERIOD, "a period of two days: period(first, last)"),
        Function("practice_months", practice_months, (DATES, DATES), NUMBER, "months of practice, overlaps once"),
        Function(
            "gaps_in_cover",
            gaps_in_cover,
            (DATES, DATES, NUMBERS, DATE, DATE, NUMBER),
            NUMBER,
            "gaps_in_cover(firsts, lasts, amounts, from, to, least)",
        ),
        Function(
            "most_days_stayed",
            most_days_stayed,
            (DATES, DATES, DATE, DATE, NUMBER),
            NUMBER,
            "most_days_stayed(firsts, lasts, arrival, departure, window)",
        ),
        Function(
            "mrz_faults", mrz_faults, (TEXT, DATE), NUMBER, "what is wrong with machine-readable lines: mrz_faults(lines, on)"
        ),
        Function("hours_between", hours_between, (MOMENT, MOMENT), NUMBER, "elapsed hours: hours_between(from, to)"),
        Function(
            "minutes_between", lambda a, b: hours_between(a, b) * 60, (MOMENT, MOMENT), NUMBER, "elapsed minutes between moments"
        ),
        Function("day_of", lambda c, m: c.local_day(m), (MOMENT,), DATE, "the day of a moment", given=CALENDAR),
        Function(
            "hour_of",
            lambda c, m: (lambda t: Decimal(t.hour) + Decimal(t.minute) / 60)(m.astimezone(c.zone)),
            (MOMENT,),
            NUMBER,
            "the hour of a moment, 13.5 for half past one",
            given=CALENDAR,
        ),
        Function("at", lambda c, d, h: at(d, h, c), (DATE, TEXT), MOMENT, 'a day at an hour: at(day, "12:00")', given=CALENDAR),
        Function("is_working", lambda c, d: c.is_working(d), (DATE,), YES_NO, "is it a working day", given=CALENDAR),
        Function("is_holiday", lambda c, d: c.is_holiday(d), (DATE,), YES_NO, "is it a holiday, weekends aside", given=CALENDAR),
        Function(
            "working_day_from",
            lambda c, d: c.working_day_from(d),
            (DATE,),
            DATE,
            "that day or the next working day",
            given=CALENDAR,
        ),
        Function(
            "working_day_until",
            lambda c, d: c.working_day_until(d),
            (DATE,),
            DATE,
            "that day or the last working day before",
            given=CALENDAR,
        ),
        Function("working_days_after", _working_days, (DATE, NUMBER), DATE, "the n-th working day after a day", given=CALENDAR),
        Function(
            "working_days_before",
            lambda c, d, n: _working_days(c, d, -n),
            (DATE, NUMBER),
            DATE,
            "the n-th working day before a day",
            given=CALENDAR,
        ),
        Function(
            "working_days_between",
            lambda c, a, b: Decimal(c.working_days_between(a, b)),
            _DAYS,
            NUMBER,
            "working days after a day up to another",
            given=CALENDAR,
        ),
        Function(
            "office_hours_after",
            lambda c, m, h: c.add_office_hours(m, h),
            (MOMENT, NUMBER),
            MOMENT,
            "when so many office hours have passed: office_hours_after(moment, hours)",
            given=CALENDAR,
        ),
        Function(
            "office_hours_between",
            lambda c, a, b: c.office_hours_between(a, b),
            (MOMENT, MOMENT),
            NUMBER,
            "office hours between two moments",
            given=CALENDAR,
        ),
        Function("paid_until", paid_until, (DATE,), NUMBER, "what was paid up to a day: paid_until(day)", given=PAYMENTS),
        Function(
            "received_on", lambda c, m: c.received_on(m), (MOMENT,), DATE, "the office day that a moment counts for", 0, CALENDAR
        ),
    )
}
