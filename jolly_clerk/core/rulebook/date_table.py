"""The functions of the rule language that go with dates and moments, by name."""

from __future__ import annotations

from datetime import date
from decimal import Decimal

from dateutil.easter import easter

from jolly_clerk.core.facts import spans
from jolly_clerk.core.rulebook.dates import (
    CALENDAR,
    DATES,
    NUMBERS,
    PAYMENTS,
    Function,
    at,
    clock_hours,
    days_between,
    each_day,
    each_month,
    exactly,
    first_of,
    full_years,
    gaps_in_cover,
    hours_between,
    hours_of,
    hours_within,
    last_of,
    last_yearly,
    minutes_between,
    months_between,
    most_days_stayed,
    mrz_faults,
    next_yearly,
    nth_weekday,
    overlap_days,
    paid_until,
    parts_of_years,
    practice_months,
    span_of,
    started_months,
    started_years,
    touched,
    weekday_from,
    weekday_until,
    whole,
    working_days_after,
)
from jolly_clerk.core.rulebook.types import DATE, DURATION, MOMENT, NUMBER, PERIOD, SPAN, TEXT, YES_NO
from jolly_clerk.core.say import _
from jolly_clerk.core.time.calendar import WEEKDAYS
from jolly_clerk.core.time.periods import Stretch

_DAYS = (DATE, DATE)
DATE_FUNCTIONS: dict[str, Function] = {
    f.name: f
    for f in (
        Function("days", span_of(days=1), (NUMBER,), SPAN, _("so many days, to add to a date")),
        Function("weeks", span_of(days=7), (NUMBER,), SPAN, _("so many weeks, to add to a date")),
        Function("months", span_of(months=1), (NUMBER,), SPAN, _("so many months, to add to a date")),
        Function("years", span_of(months=12), (NUMBER,), SPAN, _("so many years, to add to a date")),
        Function("hours", hours_of(60), (NUMBER,), DURATION, _("so many hours, to add to a moment")),
        Function("minutes", hours_of(1), (NUMBER,), DURATION, _("so many minutes, to add to a moment")),
        Function("year", lambda d: Decimal(d.year), (DATE,), NUMBER, _("the year of a date")),
        Function("month", lambda d: Decimal(d.month), (DATE,), NUMBER, _("the month of a date, 1 to 12")),
        Function("day", lambda d: Decimal(d.day), (DATE,), NUMBER, _("the day of the month")),
        Function("quarter", lambda d: Decimal((d.month + 2) // 3), (DATE,), NUMBER, _("the quarter of a date, 1 to 4")),
        Function("weekday", lambda d: WEEKDAYS[d.weekday()], (DATE,), TEXT, _("the weekday of a date: Monday")),
        Function(
            "date_of", lambda y, m, d: date(whole(y), whole(m), whole(d)), (NUMBER,) * 3, DATE, _("date_of(year, month, day)")
        ),
        Function("week", lambda d: Decimal(d.isocalendar().week), (DATE,), NUMBER, _("the week of the year, by ISO 8601")),
        Function("day_of_year", lambda d: Decimal(d.timetuple().tm_yday), (DATE,), NUMBER, _("the day of the year, 1 to 366")),
        Function("days_in_month", lambda d: Decimal(last_of(1)(d).day), (DATE,), NUMBER, _("how many days its month has")),
        Function(
            "days_in_year",
            lambda d: Decimal(last_of(12)(d).timetuple().tm_yday),
            (DATE,),
            NUMBER,
            _("how many days its year has"),
        ),
        Function("each_day", each_day, _DAYS, DATES, _("every day from one to another: each_day(first, last)")),
        Function("each_month", each_month, _DAYS, DATES, _("the first of every month that a stretch touches")),
        Function(
            "hours_within",
            hours_within,
            (MOMENT, MOMENT, TEXT, TEXT),
            NUMBER,
            _('hours that lie in a part of the day: hours_within(from, to, "08:00", "18:00")'),
            given=CALENDAR,
        ),
        Function("days_between", days_between, _DAYS, NUMBER, _("calendar days: days_between(from, to)")),
        Function("months_between", months_between, _DAYS, NUMBER, _("whole months: months_between(from, to)")),
        Function("years_between", full_years, _DAYS, NUMBER, _("whole years: years_between(from, to)")),
        Function("parts_of_years", parts_of_years, _DAYS, NUMBER, _("years by days of 365 and 366: parts_of_years(from, to)")),
        Function("clock_hours", clock_hours, (TEXT,), NUMBER, _("an hour of the day as a number: 13.5 for 13:30")),
        Function("started_months", started_months, _DAYS, NUMBER, _("started months: started_months(from, to)")),
        Function("started_years", started_years, _DAYS, NUMBER, _("started years: started_years(from, to)")),
        Function(
            "whole_months",
            lambda a, b: Decimal(spans.whole_months(a, b)[0]),
            _DAYS,
            NUMBER,
            _("whole months of a stretch, both days counted"),
        ),
        Function("months_touched", touched(1), _DAYS, NUMBER, _("calendar months that a stretch touches")),
        Function("quarters_touched", touched(3), _DAYS, NUMBER, _("calendar quarters that a stretch touches")),
        Function("half_years_touched", touched(6), _DAYS, NUMBER, _("calendar half-years that a stretch touches")),
        Function("years_touched", touched(12), _DAYS, NUMBER, _("calendar years that a stretch touches")),
        Function("first_of_month", first_of(1), (DATE,), DATE, _("the first day of the month")),
        Function("last_of_month", last_of(1), (DATE,), DATE, _("the last day of the month")),
        Function("first_of_quarter", first_of(3), (DATE,), DATE, _("the first day of the quarter")),
        Function("last_of_quarter", last_of(3), (DATE,), DATE, _("the last day of the quarter")),
        Function("first_of_half_year", first_of(6), (DATE,), DATE, _("the first day of the half-year")),
        Function("last_of_half_year", last_of(6), (DATE,), DATE, _("the last day of the half-year")),
        Function("first_of_year", first_of(12), (DATE,), DATE, _("the first day of the year")),
        Function("last_of_year", last_of(12), (DATE,), DATE, _("the last day of the year")),
        Function(
            "next_yearly", next_yearly, (DATE, NUMBER, NUMBER), DATE, _("that day or the next: next_yearly(from, month, day)")
        ),
        Function(
            "last_yearly", last_yearly, (DATE, NUMBER, NUMBER), DATE, _("that day or the last: last_yearly(until, month, day)")
        ),
        Function("weekday_from", weekday_from, (DATE, TEXT, NUMBER), DATE, _('weekday_from(day, "Friday", 2)'), optional=1),
        Function("weekday_until", weekday_until, (DATE, TEXT, NUMBER), DATE, _('weekday_until(day, "Friday", 3)'), optional=1),
        Function("nth_weekday", nth_weekday, (NUMBER, NUMBER, NUMBER, TEXT), DATE, _('nth_weekday(year, month, 2, "Monday")')),
        Function("easter", lambda y: easter(whole(y, 4000)), (NUMBER,), DATE, _("Easter Sunday of a year")),
        Function("overlap_days", overlap_days, (DATE,) * 4, NUMBER, _("days in both stretches: overlap_days(a, b, c, d)")),
        Function("first_day", lambda p: p.first, (PERIOD,), DATE, _("the first day of a period")),
        Function("last_day", lambda p: p.last, (PERIOD,), DATE, _("the last day of a period")),
        Function("period", Stretch, _DAYS, PERIOD, _("a period of two days: period(first, last)")),
        Function("practice_months", practice_months, (DATES, DATES), NUMBER, _("months of practice, overlaps once")),
        Function(
            "gaps_in_cover",
            gaps_in_cover,
            (DATES, DATES, NUMBERS, DATE, DATE, NUMBER),
            NUMBER,
            _("gaps_in_cover(firsts, lasts, amounts, from, to, least)"),
        ),
        Function(
            "most_days_stayed",
            most_days_stayed,
            (DATES, DATES, DATE, DATE, NUMBER),
            NUMBER,
            _("most_days_stayed(firsts, lasts, arrival, departure, window)"),
        ),
        Function(
            "mrz_faults", mrz_faults, (TEXT, DATE), NUMBER, _("what is wrong with machine-readable lines: mrz_faults(lines, on)")
        ),
        Function("hours_between", hours_between, (MOMENT, MOMENT), NUMBER, _("elapsed hours: hours_between(from, to)")),
        Function(
            "minutes_between",
            minutes_between,
            (MOMENT, MOMENT),
            NUMBER,
            _("elapsed minutes between moments"),
        ),
        Function("day_of", lambda c, m: c.local_day(m), (MOMENT,), DATE, _("the day of a moment"), given=CALENDAR),
        Function(
            "hour_of",
            lambda c, m: (lambda t: exactly(Decimal(60 * t.hour + t.minute), 60))(m.astimezone(c.zone)),
            (MOMENT,),
            NUMBER,
            _("the hour of a moment, 13.5 for half past one"),
            given=CALENDAR,
        ),
        Function(
            "at", lambda c, d, h: at(d, h, c), (DATE, TEXT), MOMENT, _('a day at an hour: at(day, "12:00")'), given=CALENDAR
        ),
        Function("is_working", lambda c, d: c.is_working(d), (DATE,), YES_NO, _("is it a working day"), given=CALENDAR),
        Function(
            "is_holiday", lambda c, d: c.is_holiday(d), (DATE,), YES_NO, _("is it a holiday, weekends aside"), given=CALENDAR
        ),
        Function(
            "working_day_from",
            lambda c, d: c.working_day_from(d),
            (DATE,),
            DATE,
            _("that day or the next working day"),
            given=CALENDAR,
        ),
        Function(
            "working_day_until",
            lambda c, d: c.working_day_until(d),
            (DATE,),
            DATE,
            _("that day or the last working day before"),
            given=CALENDAR,
        ),
        Function(
            "working_days_after", working_days_after, (DATE, NUMBER), DATE, _("the n-th working day after a day"), given=CALENDAR
        ),
        Function(
            "working_days_before",
            lambda c, d, n: working_days_after(c, d, -n),
            (DATE, NUMBER),
            DATE,
            _("the n-th working day before a day"),
            given=CALENDAR,
        ),
        Function(
            "working_days_between",
            lambda c, a, b: Decimal(c.working_days_between(a, b)),
            _DAYS,
            NUMBER,
            _("working days after a day up to another"),
            given=CALENDAR,
        ),
        Function(
            "office_hours_after",
            lambda c, m, h: c.add_office_hours(m, h),
            (MOMENT, NUMBER),
            MOMENT,
            _("when so many office hours have passed: office_hours_after(moment, hours)"),
            given=CALENDAR,
        ),
        Function(
            "office_hours_between",
            lambda c, a, b: c.office_hours_between(a, b),
            (MOMENT, MOMENT),
            NUMBER,
            _("office hours between two moments"),
            given=CALENDAR,
        ),
        Function("paid_until", paid_until, (DATE,), NUMBER, _("what was paid up to a day: paid_until(day)"), given=PAYMENTS),
        Function(
            "received_on",
            lambda c, m: c.received_on(m),
            (MOMENT,),
            DATE,
            _("the office day that a moment counts for"),
            0,
            CALENDAR,
        ),
    )
}
