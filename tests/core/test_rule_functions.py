"""The functions that a rule may call, each by a table of cases reckoned by hand; and lists, loops and rows in rules."""

from __future__ import annotations

import unittest
from datetime import date, datetime
from decimal import Decimal
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from jolly_clerk.core.absence import NONE, UNKNOWN
from jolly_clerk.core.in_words import in_words
from jolly_clerk.core.known import CalendarFile
from jolly_clerk.core.rulebook import types
from jolly_clerk.core.rulebook.dates import CALENDAR, PAYMENTS
from jolly_clerk.core.rulebook.expressions import compile_expression
from jolly_clerk.core.rulebook.functions import rounded
from jolly_clerk.core.rulebook.scope import ExpressionError, Scope
from jolly_clerk.core.time.periods import Duration, Period, Stretch
from tests.helpers import QUILLHAVEN, at

D = Decimal
NAMES = {"a.n": "number", "a.d": "date", "a.e": "date", "a.m": "moment", "a.t": "text", "a.l": "list of number",
         "a.p": "period", "dog": "items of dog", "dog.cost": "list of number"}  # fmt: skip
ITEMS = {"dog": {"cost": "number", "born": "date", "trips": "items of dog.trips"}, "dog.trips": {"days": "number"}}
SCOPE = Scope(NAMES, ITEMS)


def value(source: str, **values: Any) -> Any:
    known = {name.replace("_", ".", 1): v for name, v in values.items()}
    return compile_expression(source, SCOPE).value({CALENDAR: QUILLHAVEN, PAYMENTS: (), **known})


def day(text: str) -> date:
    return date.fromisoformat(text)


class Numbers(unittest.TestCase):
    def test_each(self) -> None:
        for source, wanted in (
            ("round_up(2.01)", "3"), ("round_up(2.00)", "2"), ("round_up(37.60, 0.50)", "38.00"), ("round_down(9.99, 0.10)", "9.90"),
            ("round_to(2.5)", "3"), ("round_to(-2.5)", "-3"), ("round_to(21.9375, 0.05)", "21.95"), ("round_even(2.5)", "2"),
            ("round_even(3.5)", "4"), ("full(7, 2)", "3"), ("started(7, 2)", "4"), ("power(1.5, 2)", "2.25"), ("power(2, -1)", "0.5"),
            ("root(6.25)", "2.5"), ("within(12, 1, 10)", "10"), ("within(0, 1, 10)", "1"), ("sum(upto(4))", "10"),
            ("sum(largest((3, 9, 5), 2))", "14"), ("sum(smallest((3, 9, 5), 2))", "8"), ("item(largest((3, 9, 5), 2), 2)", "5"),
            ("count(distinct((3, 3, 5)))", "2"), ("mean((1, 2, 6))", "3"), ("median((1, 2, 6))", "2"), ("median((1, 2, 4, 6))", "3"),
            ("place_from_top(5, (9, 5, 5, 1))", "2"), ("place_from_bottom(5, (9, 5, 5, 1))", "2"),
            ("sum(repeat(2.5, 4))", "10.0"), ("sum(joined((1, 2), repeat(3, 2)))", "9"), ("grown(100, 3, 3, 1)", "109"),
            ("grown(100, 3, 3)", "109.27"), ("number('0042')", "42"), ("words('a b  c')", "3"), ("length(piece('ABCD', 2, 2))", "2"),
            ("round_to(contained(3.80, 19), 0.01)", "0.61"), ("sum(x * x for x in (1, 2, 3) if x > 1)", "13"),
            ("sum([x + y for x in (1, 2) for y in (10, 20)])", "66"),
        ):  # fmt: skip
            self.assertEqual(value(source), D(wanted), source)
        for source, wanted in (
            ("contains('Old Tolly', 'tolly')", True),
            ("starts_with('QH-1', 'qh')", True),
            ("text(2027)", "2027"),
        ):
            self.assertEqual(value(source), wanted, source)

    def test_what_cannot_be_is_unknown(self) -> None:
        for source in ("item((1, 2), 3)", "power(10, 999)", "power(10, 5000)", "upto(401)", "root(0 - 1)", "round_up(3, 0)",
                       "number('x')", "mean(upto(0))", "days(0.5)", "nth_weekday(2027, 2, 5, 'Monday')", "weekday_from(a.d, 'Mond')"):  # fmt: skip
            self.assertIs(value(source, a_d=day("2027-01-01")), UNKNOWN, source)

    @given(st.decimals(-10_000, 10_000, places=4), st.sampled_from(["0.01", "0.05", "0.50", "1", "5"]))
    def test_brought_to_a_step(self, amount: Decimal, step: str) -> None:
        up, down, near = (rounded(amount, D(step), how) for how in ("up", "down", "nearest"))
        self.assertTrue(down <= amount <= up and up - down in (0, D(step)))
        self.assertLessEqual(abs(near - amount) * 2, D(step))
        self.assertEqual(rounded(near, D(step), "up"), near)


class Days(unittest.TestCase):
    def test_each(self) -> None:
        for source, wanted in (
            ("year(a.d)", "2027"), ("month(a.d)", "3"), ("day(a.d)", "31"), ("quarter(a.d)", "1"), ("week(a.d)", "13"),
            ("day_of_year(a.d)", "90"), ("days_in_month(a.d)", "31"), ("days_in_year(date_of(2028, 1, 1))", "366"),
            ("months_between(date_of(2027, 1, 31), date_of(2027, 2, 28))", "1"), ("months_between(a.d, date_of(2027, 4, 29))", "0"),
            ("started_months(date_of(2027, 4, 5), date_of(2027, 7, 5))", "3"), ("started_months(a.d, a.d)", "0"),
            ("started_months(date_of(2027, 4, 5), date_of(2027, 7, 6))", "4"), ("started_years(a.d, date_of(2028, 3, 31))", "1"),
            ("started_years(a.d, date_of(2028, 4, 1))", "2"), ("whole_months(date_of(2027, 3, 1), date_of(2027, 8, 31))", "6"),
            ("months_touched(a.d, date_of(2027, 4, 1))", "2"), ("quarters_touched(date_of(2027, 6, 30), date_of(2027, 12, 31))", "3"),
            ("half_years_touched(date_of(2027, 7, 1), date_of(2028, 6, 30))", "2"), ("years_touched(a.d, a.d)", "1"),
            ("overlap_days(a.d, date_of(2027, 4, 10), date_of(2027, 4, 5), date_of(2027, 5, 1))", "6"),
            ("count(each_day(a.d, date_of(2027, 4, 2)))", "3"), ("count(each_month(a.d, date_of(2027, 5, 1)))", "3"),
            ("practice_months((date_of(2020, 1, 1), date_of(2020, 6, 1)), (date_of(2020, 8, 31), date_of(2020, 12, 31)))", "12"),
            ("gaps_in_cover((date_of(2027, 1, 1),), (date_of(2027, 5, 31),), (250000,), a.d, date_of(2027, 6, 30), 250000)", "1"),
            ("most_days_stayed((date_of(2027, 1, 1),), (date_of(2027, 1, 10),), a.d, date_of(2027, 4, 9), 180)", "20"),
            ("age(date_of(2008, 2, 29), date_of(2026, 2, 28))", "18"), ("years_between(a.d, date_of(2029, 3, 30))", "1"),
            ("mrz_faults('x', a.d)", "99"),
        ):  # fmt: skip
            self.assertEqual(value(source, a_d=day("2027-03-31")), D(wanted), source)
        for source, wanted in (
            ("first_of_month(a.d)", "2027-08-01"), ("last_of_month(a.d)", "2027-08-31"), ("first_of_quarter(a.d)", "2027-07-01"),
            ("last_of_quarter(a.d)", "2027-09-30"), ("first_of_half_year(a.d)", "2027-07-01"), ("last_of_half_year(a.d)", "2027-12-31"),
            ("first_of_year(a.d)", "2027-01-01"), ("last_of_year(a.d)", "2027-12-31"), ("next_yearly(a.d, 6, 30)", "2028-06-30"),
            ("next_yearly(a.d, 8, 15)", "2027-08-15"), ("last_yearly(a.d, 8, 16)", "2026-08-16"), ("easter(2027)", "2027-03-28"),
            ("weekday_from(a.d, 'Sunday')", "2027-08-15"), ("weekday_from(a.d, 'Monday', 2)", "2027-08-23"),
            ("weekday_until(a.d, 'Friday', 3)", "2027-07-30"), ("nth_weekday(2027, 5, 1, 'Saturday')", "2027-05-01"),
            ("nth_weekday(2027, 5, -1, 'Monday')", "2027-05-31"), ("a.d + months(1) - days(1)", "2027-09-14"),
            ("working_day_from(a.d)", "2027-08-16"), ("working_day_until(a.d)", "2027-08-13"), ("working_days_before(a.d, 3)", "2027-08-11"),
            ("working_days_after(date_of(2026, 12, 23), 2)", "2026-12-28"), ("first_day(period(a.d, a.d + days(2)))", "2027-08-15"),
            ("max(d for d in each_day(a.d, a.d + days(4)) if is_working(d))", "2027-08-19"),
        ):  # fmt: skip
            self.assertEqual(value(source, a_d=day("2027-08-15")), day(wanted), source)
        self.assertIs(value("is_holiday(date_of(2026, 12, 26))"), True)
        self.assertIs(value("is_holiday(date_of(2026, 12, 27))"), False)
        self.assertEqual(value("weekday(date_of(2026, 12, 27))"), "Sunday")
        self.assertEqual(value("working_days_between(date_of(2026, 12, 16), date_of(2026, 12, 28))"), D(6))

    def test_hours_are_elapsed_hours_and_days_keep_the_clock(self) -> None:
        # summer time begins in Lisbon on 28 March 2027 at 01:00: the day has 23 hours
        before = at(2027, 3, 27, 12)
        self.assertEqual(value("hours_between(a.m, a.m + days(1))", a_m=before), D(23))
        self.assertEqual(in_words(value("a.m + hours(24)", a_m=before)), "Sun 28 Mar 2027 13:00")
        self.assertEqual(value("hour_of(a.m + minutes(90))", a_m=before), D("13.5"))
        self.assertEqual(value("minutes_between(a.m, a.m + minutes(90))", a_m=before), D(90))
        self.assertEqual(value("day_of(at(a.d, '12:00'))", a_d=day("2027-03-28")), day("2027-03-28"))
        self.assertEqual(value("hours_within(a.m, a.m + hours(30), '08:00', '18:00')", a_m=at(2027, 5, 3, 12)), D(6 + 10))
        self.assertEqual(value("hours_within(a.m, a.m + hours(30), '22:00', '06:00')", a_m=at(2027, 5, 3, 0)), D(6 + 8))

    def test_what_was_paid_up_to_a_day(self) -> None:
        rule = compile_expression("paid_until(a.d)", SCOPE)
        paid = ((day("2027-01-05"), D("10.00")), (day("2027-02-05"), D("5.00")))
        for on, wanted in (("2027-01-04", "0.00"), ("2027-01-05", "10.00"), ("2027-03-01", "15.00")):
            self.assertEqual(rule.value({"a.d": day(on), PAYMENTS: paid}), D(wanted))


class Lists(unittest.TestCase):
    DOGS = [{"cost": D(3), "born": day("2020-01-01"), "trips": ({"days": D(2)}, {"days": D(5)})},
            {"cost": D(4), "born": day("2021-01-01"), "trips": NONE}]  # fmt: skip

    def test_parts_rows_and_two_loops(self) -> None:
        dogs = {"dog": self.DOGS, "dog_cost": (D(3), D(4))}
        for source, wanted in (("sum(t.days for d in dog for t in d.trips)", "7"), ("sum(largest(dog.cost, 1))", "4"),
                               ("count(d.cost for d in dog if count(t.days for t in d.trips) > 1)", "1"),
                               ("sum(largest((d.cost * 2 for d in dog), 5))", "14"), ("max(len for len in dog.cost)", "4")):  # fmt: skip
            self.assertEqual(value(source, **dogs), D(wanted), source)

    def test_a_column_of_rows_is_a_list(self) -> None:
        scope = Scope(
            {"stay.offers": types.ITEMS + "stay.offers", "stay.fee": types.NUMBER}, {"stay.offers": {"price": types.NUMBER}}
        )
        offers = tuple({"price": D(n)} for n in (30, 20, 25))
        for source, wanted in (
            ("min(stay.offers.price)", "20"),
            ("sum(stay.offers.price) + stay.fee", "76"),
            ("sum(o.price for o in stay.offers if o.price > min(stay.offers.price))", "55"),
            ("item(smallest(stay.offers.price, 2), 2)", "25"),
        ):
            rule = compile_expression(source, scope)
            self.assertEqual(rule.value({"stay.offers": offers, "stay.fee": D(1)}), D(wanted), source)
            self.assertIs(rule.value({"stay.offers": UNKNOWN, "stay.fee": D(1)}), UNKNOWN)
        self.assertEqual(compile_expression("min(stay.offers.price)", scope).reads, {"stay.offers", "stay.offers.price"})
        with self.assertRaises(ExpressionError):
            compile_expression("min(stay.offers.cost)", scope)

    def test_none_is_skipped_and_unknown_makes_unknown(self) -> None:
        self.assertEqual(value("sum(largest(a.l, 2))", a_l=(D(1), NONE, D(5))), D(6))
        self.assertIs(value("sum(largest(a.l, 2))", a_l=(D(1), UNKNOWN, D(5))), UNKNOWN)
        self.assertIs(value("sum(d.cost for d in dog)", dog=UNKNOWN), UNKNOWN)
        self.assertEqual(value("sum(d.cost for d in dog)", dog=NONE), D(0))

    def test_what_may_not_be_said(self) -> None:
        for source, says in (
            ("sum(d for d in dog)", "say which question of d"), ("sum(x.y for x in a.l)", "nothing stands after its point"),
            ("sum(x for x in a.n)", "comes a part that repeats, or a list"), ("sum(dog for dog in a.l)", "already means something"),
            ("largest(a.n, 2)", "takes a list of values here"), ("round_up()", "takes 1 to 2 values"), ("a.m - a.m", "hours_between"),
            ("a.d + hours(2)", "are not joined"), ("sum(x for x in a.l for y in a.l for z in a.l)", "2 lists at a time"),
            ("day_of(a.d)", "takes a moment here"),
        ):  # fmt: skip
            with self.subTest(source), self.assertRaises(ExpressionError) as caught:
                compile_expression(source, SCOPE)
            self.assertIn(says, str(caught.exception))

    def test_what_cannot_be_known_without_a_calendar_is_unknown(self) -> None:
        self.assertIs(compile_expression("is_working(a.d)", SCOPE).value({"a.d": day("2027-01-01"), CALENDAR: None}), UNKNOWN)


OFFICE = CalendarFile.model_validate(
    {
        "name": "o", "version": "1", "zone": "Europe/Lisbon", "office_ends": "16:00", "working_days": ["Monday", "Tuesday", "Friday"],
        "hours": {"Monday": ["08:00 to 12:00", "13:00 to 16:00"], "Friday": ["09:00 to 11:30"]},
        "closed": [
            {"title": "Last Monday of May", "how": "nth weekday", "month": 5, "nth": -1, "weekday": "Monday"},
            {"title": "Friday before Midsummer", "how": "weekday until", "month": 6, "day": 24, "weekday": "Friday"},
            {"title": "Monday from 1 September", "how": "weekday from", "month": 9, "day": 1, "weekday": "Monday"},
            {"title": "Founding", "how": "fixed", "month": 8, "day": 14, "moved": "monday"},
            {"title": "Leap day", "how": "fixed", "month": 2, "day": 29},
            {"title": "New Year", "how": "fixed", "month": 1, "day": 1, "moved": "nearest"},
            {"title": "Jubilee", "how": "fixed", "month": 3, "day": 2, "from_year": 2027, "to_year": 2027},
        ],
    }
).calendar()  # fmt: skip


class Offices(unittest.TestCase):
    def test_closed_days_by_every_kind_of_rule(self) -> None:
        for text in (
            "2027-05-31",
            "2027-06-18",
            "2027-09-06",
            "2027-08-16",
            "2028-02-29",
            "2027-03-02",
            "2027-12-31",
            "2021-01-01",
        ):
            self.assertTrue(OFFICE.is_holiday(day(text)), text)
        for text in ("2027-08-14", "2026-03-02", "2027-02-26", "2022-01-01", "2027-05-24"):
            self.assertFalse(OFFICE.is_holiday(day(text)), text)

    def test_office_hours_forwards_backwards_and_between(self) -> None:
        monday = at(2027, 5, 3, 11)
        for hours, wanted in (("1", "2027-05-03 12:00"), ("1.5", "2027-05-03 13:30"), ("4", "2027-05-03 16:00"),
                              ("4.25", "2027-05-04 08:15"), ("14", "2027-05-07 11:00"), ("-3", "2027-05-03 08:00"), ("-4", "2027-04-30 10:30")):  # fmt: skip
            found = OFFICE.add_office_hours(monday, D(hours))
            self.assertEqual(f"{found:%Y-%m-%d %H:%M}", wanted, hours)
            self.assertEqual(OFFICE.office_hours_between(*sorted((monday, found))), abs(D(hours)), hours)

    def test_hours_that_are_none_are_refused(self) -> None:
        for said in ("08:00", "12:00 to 08:00", "8 to 12"):
            with self.subTest(said), self.assertRaises(ValueError):
                CalendarFile.model_validate(
                    {
                        "name": "o",
                        "version": "1",
                        "zone": "UTC",
                        "office_ends": "16:00",
                        "working_days": [],
                        "hours": {"Monday": [said]},
                    }
                ).calendar()


class Periods(unittest.TestCase):
    def test_limits_forwards_and_backwards(self) -> None:
        for said, event, back, closed, wanted in (
            ("3 working days", day("2027-03-31"), True, "stays", "2027-03-25"),
            ("2 months", day("2026-12-31"), False, "stays", "2027-02-28"),
            ("2 months", day("2026-12-31"), False, "next working day", "2027-03-01"),
            ("2 months", day("2026-12-31"), False, "working day before", "2027-02-26"),
            ("1 month", day("2027-03-31"), True, "stays", "2027-02-28"),
            ("2 weeks", day("2027-03-31"), True, "stays", "2027-03-17"),
            ("10 days", at(2027, 3, 31, 23), False, "stays", "2027-04-10"),
        ):  # fmt: skip
            self.assertEqual(Period.parse(said).limit(event, QUILLHAVEN, back, closed), day(wanted), said)
        self.assertEqual(Period.parse("24 hours").limit(at(2027, 3, 31, 9), QUILLHAVEN, True), at(2027, 3, 30, 9))
        with self.assertRaises(ValueError):
            Period.parse("2 office hours").last_day(day("2027-03-31"), QUILLHAVEN)

    def test_they_are_said_in_words(self) -> None:
        self.assertEqual(in_words(Stretch(day("2027-03-01"), day("2027-03-02"))), "Mon 1 Mar 2027 to Tue 2 Mar 2027")
        self.assertEqual((in_words(Duration(120)), in_words(Duration(90))), ("2 hours", "90 minutes"))
        self.assertEqual(in_words(datetime(2027, 3, 1, 9, 5)), "Mon 1 Mar 2027 09:05")
        with self.assertRaises(ValueError):
            Stretch(day("2027-03-02"), day("2027-03-01"))
