"""Calendar, periods and the clock, by the examples of Quillhaven."""

from __future__ import annotations

import unittest
from datetime import date, datetime, timedelta
from decimal import Decimal
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from jolly_clerk.core import history as h
from jolly_clerk.core.clock import clock, decision_day
from jolly_clerk.core.deadlines import answers_due
from jolly_clerk.core.holders import holder_by_day
from jolly_clerk.core.known import CalendarFile
from jolly_clerk.core.lifecycle import fold
from jolly_clerk.core.rulebook.model import Clock
from jolly_clerk.core.time.calendar import WEEKDAYS, Calendar
from jolly_clerk.core.time.periods import Period, applicant_last_day
from jolly_clerk.core.to_come import next_steps
from tests.helpers import BW, QUILLHAVEN, at

RULES = BW.edition.clock


def filed_and_paid(when: datetime = at(2026, 11, 5, 10), paid: datetime | None = None) -> list[h.Entry]:
    return [
        h.Filed(at=when, who="o", role="applicant", edition="BW 2026-07-01", due_at_filing=Decimal("438.18")),
        h.Paid(
            at=paid or when + timedelta(minutes=5), who="o", role="applicant", amount=Decimal("438.18"), means="card", key="k"
        ),
    ]


def letter(when: datetime, number: int = 1) -> h.LetterSent:
    return h.LetterSent(
        at=when, who="i", role="officer", round=number, version=1, due=answers_due(when, RULES, QUILLHAVEN).day,
        points=(h.AskedPoint(no=1, requirement="documents.site_plan", title="Plan", text="?", places=("documents.site_plan",)),),
    )  # fmt: skip


def answered(when: datetime) -> h.Answered:
    return h.Answered(at=when, who="o", role="applicant", round=1, version=2, words={1: "here"})


def seen(entries: list[h.Entry], now: datetime):
    found = clock(fold(entries), RULES, QUILLHAVEN, now)
    assert found is not None
    return found


class ClosedDays(unittest.TestCase):
    def test_the_list_of_quillhaven(self) -> None:
        # second Tuesday of January, Easter Monday, Easter + 39, 19 October, first Monday of November, 17, 25, 26 December
        for day in (
            date(2026, 1, 1), date(2026, 1, 13), date(2026, 4, 6), date(2026, 5, 14), date(2026, 10, 19), date(2026, 11, 2),
            date(2026, 12, 17), date(2026, 12, 25), date(2026, 12, 26), date(2027, 1, 12), date(2027, 3, 29), date(2027, 5, 6),
        ):  # fmt: skip
            self.assertFalse(QUILLHAVEN.is_working(day), day)
        for day in (date(2026, 1, 6), date(2026, 4, 3), date(2026, 11, 9), date(2026, 12, 24), date(2026, 11, 5)):
            self.assertTrue(QUILLHAVEN.is_working(day), day)

    def test_after_hours_and_closed_days_count_as_the_next_working_day(self) -> None:
        self.assertEqual(QUILLHAVEN.received_on(at(2026, 11, 5, 16, 30)), date(2026, 11, 5))
        self.assertEqual(QUILLHAVEN.received_on(at(2026, 11, 5, 16, 31)), date(2026, 11, 6))
        self.assertEqual(QUILLHAVEN.received_on(at(2026, 11, 6, 17)), date(2026, 11, 9))
        self.assertEqual(QUILLHAVEN.received_on(at(2026, 10, 31, 9)), date(2026, 11, 3))

    def test_summer_time(self) -> None:
        self.assertEqual(QUILLHAVEN.office_end(date(2026, 7, 1)).utcoffset(), timedelta(hours=1))
        self.assertEqual(QUILLHAVEN.office_end(date(2026, 12, 1)).utcoffset(), timedelta(0))
        self.assertEqual(QUILLHAVEN.local_day(datetime.fromisoformat("2026-07-01T23:30:00+00:00")), date(2026, 7, 2))


class Periods(unittest.TestCase):
    def test_wording(self) -> None:
        self.assertEqual(str(Period.parse("10 working days")), "10 working days")
        self.assertEqual(str(Period.parse("1 month")), "1 month")
        with self.assertRaisesRegex(ValueError, "is no period; write it like|in figures"):
            Period.parse("ten days")

    def test_the_event_day_is_not_counted_and_months_end_on_their_day(self) -> None:
        for wording, event, last in (
            ("30 days", date(2026, 11, 12), date(2026, 12, 12)),
            ("2 months", date(2026, 6, 30), date(2026, 8, 30)),
            ("1 month", date(2027, 1, 31), date(2027, 2, 28)),
            ("10 working days", date(2026, 11, 5), date(2026, 11, 19)),
            ("2 weeks", date(2026, 11, 5), date(2026, 11, 19)),
        ):
            self.assertEqual(Period.parse(wording).last_day(event, QUILLHAVEN), last, wording)

    def test_an_applicants_period_ends_on_a_working_day(self) -> None:
        self.assertEqual(applicant_last_day(date(2026, 11, 12), Period.parse("30 days"), QUILLHAVEN), date(2026, 12, 14))

    @given(st.dates(date(2020, 1, 1), date(2040, 1, 1)), st.integers(0, 60))
    def test_working_days_added_are_working_days_between(self, day: date, count: int) -> None:
        self.assertEqual(QUILLHAVEN.working_days_between(day, QUILLHAVEN.add_working_days(day, count)), count)


class TheExample(unittest.TestCase):
    """Filed and paid Thu 5 Nov 2026, letter 12 Nov, answered 25 Nov, ten working days."""

    def test_before_the_letter(self) -> None:
        found = seen(filed_and_paid(), at(2026, 11, 12, 9))
        self.assertEqual((found.limit_day, found.used, found.left, found.of), (date(2026, 11, 19), 5, 5, 10))
        self.assertEqual(found.limit_at, at(2026, 11, 19, 16, 30))
        self.assertEqual((found.holder, found.unit), ("ours", "working days"))

    def test_while_it_waits(self) -> None:
        found = seen([*filed_and_paid(), letter(at(2026, 11, 12, 15))], at(2026, 11, 20, 9))
        self.assertEqual((found.holder, found.step, found.unit), ("theirs", "answers", "days"))
        self.assertEqual(found.limit_day, date(2026, 12, 14))
        self.assertEqual(found.limit_at, at(2026, 12, 15, 0))
        self.assertEqual(found.paused_left, 6)
        self.assertEqual(found.left, 24)
        self.assertIn("Sat 12 Dec is closed (Saturday)", " ".join(found.why))

    def test_after_the_answers(self) -> None:
        found = seen([*filed_and_paid(), letter(at(2026, 11, 12, 15)), answered(at(2026, 11, 25, 11))], at(2026, 11, 25, 12))
        self.assertEqual((found.limit_day, found.used, found.left), (date(2026, 12, 3), 4, 6))

    def test_the_extension_runs_from_the_same_first_day(self) -> None:
        due = answers_due(at(2026, 11, 12, 15), RULES, QUILLHAVEN, extended=True).day
        self.assertEqual(due, date(2026, 12, 28))
        entries = [
            *filed_and_paid(),
            letter(at(2026, 11, 12, 15)),
            h.Extended(at=at(2026, 12, 1), who="i", role="officer", round=1, due=due),
        ]
        self.assertEqual(seen(entries, at(2026, 12, 2)).limit_day, date(2026, 12, 28))

    def test_the_letter_that_bounced_never_paused(self) -> None:
        entries = [
            *filed_and_paid(),
            letter(at(2026, 11, 12, 15)),
            h.LetterReturned(at=at(2026, 11, 16, 9), who="post", role="post room", round=1),
        ]
        between = seen(entries, at(2026, 11, 16, 10))
        self.assertEqual((between.holder, between.limit_day), ("ours", date(2026, 11, 19)))
        again = h.LetterSentAgain(
            at=at(2026, 11, 16, 11),
            who="i",
            role="officer",
            round=1,
            due=answers_due(at(2026, 11, 16, 11), RULES, QUILLHAVEN).day,
        )
        found = seen([*entries, again, answered(at(2026, 11, 25, 11))], at(2026, 11, 26, 9))
        self.assertEqual(found.limit_day, date(2026, 12, 1))

    def test_answers_after_hours_count_as_received_on_the_next_day(self) -> None:
        found = seen([*filed_and_paid(), letter(at(2026, 11, 12, 15)), answered(at(2026, 11, 25, 18))], at(2026, 11, 26, 9))
        self.assertEqual(found.limit_day, date(2026, 12, 4))

    def test_a_limit_already_past_stays_where_it_is(self) -> None:
        entries = [*filed_and_paid(), letter(at(2026, 11, 24, 15)), answered(at(2026, 11, 30, 9))]
        found = seen(entries, at(2026, 12, 1, 9))
        self.assertEqual((found.limit_day, found.left), (date(2026, 11, 19), -8))

    def test_until_it_is_paid_it_is_theirs(self) -> None:
        entries = filed_and_paid(paid=at(2026, 11, 10, 9))
        waiting = seen(entries[:1], at(2026, 11, 9))
        self.assertEqual((waiting.holder, waiting.step, waiting.limit_day), ("theirs", "payment", date(2026, 11, 19)))
        self.assertEqual(seen(entries, at(2026, 11, 11)).limit_day, date(2026, 11, 24))


class EveryUnit(unittest.TestCase):
    """The office's period in each unit that an edition may say, and around a pause."""

    def rules(self, within: str, decision: str = "40 working days") -> Clock:
        check = RULES.check.model_copy(update={"within": Period.parse(within)})
        decide = RULES.decision.model_copy(update={"within": Period.parse(decision)})
        return RULES.model_copy(update={"check": check, "decision": decide})

    def limit(self, within: str, *more: h.Entry, now: datetime | None = None) -> tuple[datetime | None, int, int, int, str]:
        found = clock(fold([*filed_and_paid(), *more]), self.rules(within), QUILLHAVEN, now or at(2026, 11, 6, 9))
        assert found is not None
        return found.limit_at, found.used, found.left, found.of, found.unit

    def test_counted_from_filing_and_payment(self) -> None:
        self.assertEqual(self.limit("8 weeks"), (at(2026, 12, 31, 16, 30), 1, 55, 56, "days"))
        self.assertEqual(self.limit("30 days"), (at(2026, 12, 7, 16, 30), 1, 31, 32, "days"))  # Sat 5 Dec is closed
        self.assertEqual(self.limit("2 months"), (at(2027, 1, 5, 16, 30), 1, 60, 61, "days"))
        self.assertEqual(self.limit("1 year"), (at(2027, 11, 5, 16, 30), 1, 364, 365, "days"))
        self.assertEqual(self.limit("10 working days"), (at(2026, 11, 19, 16, 30), 1, 9, 10, "working days"))
        self.assertEqual(self.limit("24 hours"), (at(2026, 11, 6, 10, 5), 22, 2, 24, "hours"))
        self.assertEqual(self.limit("8 office hours"), (at(2026, 11, 6, 9, 35), 7, 1, 8, "office hours"))

    def test_around_a_letter_and_its_answers(self) -> None:
        waits = [letter(at(2026, 11, 12, 15)), answered(at(2026, 11, 25, 11))]
        now = at(2026, 11, 26, 9)
        self.assertEqual(self.limit("8 weeks", *waits, now=now), (at(2027, 1, 14, 16, 30), 7, 49, 56, "days"))
        self.assertEqual(self.limit("2 months", *waits, now=now)[0], at(2027, 1, 19, 16, 30))
        # 172 h 55 were used when the letter went out, so 67 h 05 are left of 240
        self.assertEqual(self.limit("240 hours", *waits, now=now)[0], at(2026, 11, 28, 6, 5))
        self.assertEqual(self.limit("80 office hours", *waits, now=now)[0], at(2026, 12, 1, 9, 35))

    def test_while_it_stands_still_it_says_what_is_left_in_its_unit(self) -> None:
        asked = [*filed_and_paid(), letter(at(2026, 11, 12, 15))]
        for within, left, unit, said in (
            ("8 weeks", 50, "days", "50 days left"),
            ("240 hours", 68, "hours", "68 of 240 hours left"),
            ("10 working days", 6, "working days", "6 of 10 working days left"),
        ):
            found = clock(fold(asked), self.rules(within), QUILLHAVEN, at(2026, 11, 20, 9))
            assert found is not None
            self.assertEqual((found.paused_left, found.paused_unit), (left, unit))
            self.assertIn(said, " ".join(found.why))
            steps = next_steps(fold(asked), self.rules(within), found, QUILLHAVEN, at(2026, 11, 20, 9))
            self.assertTrue(
                any(s.text.startswith("The office checks on; it has ") and s.text.endswith(f"{unit} left") for s in steps)
            )

    def test_past_it_counts_on(self) -> None:
        self.assertEqual(self.limit("8 weeks", now=at(2027, 1, 4, 9))[2], -4)
        self.assertEqual(self.limit("24 hours", now=at(2026, 11, 6, 12, 30))[2], -3)
        found = clock(fold(filed_and_paid()), self.rules("24 hours"), QUILLHAVEN, at(2026, 11, 6, 12, 30))
        self.assertEqual(found and found.said, "3 hours over, the limit was Fri 6 Nov 10:05")

    def test_the_letter_and_the_clock_name_the_same_decision_day(self) -> None:
        for decision in ("8 weeks", "3 months", "40 working days", "48 hours"):
            rules = self.rules("10 working days", decision)
            accepted = h.Accepted(at=at(2026, 11, 9, 11), who="i", role="officer", target=date(2026, 11, 9))
            case = fold([*filed_and_paid(), accepted])
            found = clock(case, rules, QUILLHAVEN, at(2026, 11, 10, 9))
            self.assertEqual(found and found.limit_day, decision_day(accepted.at, case.check_covered_at, rules, QUILLHAVEN))


class Ribbon(unittest.TestCase):
    def test_each_day_belongs_to_whoever_holds_at_its_end(self) -> None:
        entries = [*filed_and_paid(), letter(at(2026, 11, 12, 15)), answered(at(2026, 11, 25, 11))]
        found = seen(entries, at(2026, 11, 26, 9))
        held = {d.day: d.holder for d in found.ribbon if not d.to_come}
        self.assertEqual(
            [held[date(2026, 11, n)] for n in (5, 11, 12, 24, 25, 26)], ["ours", "ours", "theirs", "theirs", "ours", "ours"]
        )
        self.assertEqual(sum(1 for who in held.values() if who == "theirs"), 13)
        self.assertEqual([d.day for d in found.ribbon if d.limit], [date(2026, 12, 3)])
        self.assertEqual([d.day for d in found.ribbon if d.today], [date(2026, 11, 26)])

    @given(st.integers(0, 40), st.integers(1, 50), st.integers(0, 60))
    def test_the_days_of_all_holders_are_the_days_elapsed(self, letter_after: int, answer_after: int, later: int) -> None:
        first = at(2026, 11, 5, 10)
        sent, came = first + timedelta(days=letter_after, hours=1), first + timedelta(days=letter_after + answer_after)
        entries = [*filed_and_paid(first), letter(sent), answered(came)]
        until = (came + timedelta(days=later)).date()
        held = holder_by_day(fold(entries), QUILLHAVEN, until)
        self.assertEqual(len(held), (until - first.date()).days + 1)
        self.assertEqual(sum(1 for who in held.values() if who == "theirs"), answer_after)


class OddCalendars(unittest.TestCase):
    """Holidays that meet, periods over New Year, half days, the eastern Easter, other weekends, hours of each weekday."""

    def calendar(self, closed: list[dict[str, Any]], **more: Any) -> Calendar:
        told = {
            "name": "odd",
            "version": "1",
            "zone": "Europe/Lisbon",
            "office_ends": "16:30",
            "working_days": list(WEEKDAYS[:5]),
        }
        return CalendarFile.model_validate(told | {"closed": closed} | more).calendar()

    def test_two_moved_holidays_that_meet(self) -> None:
        """In 2027 the 25th and 26th of December are a Saturday and a Sunday: Monday and Tuesday are closed."""
        christmas = [
            {"title": t, "how": "fixed", "month": 12, "day": d, "moved": "monday"} for t, d in (("First", 25), ("Second", 26))
        ]
        found = self.calendar(christmas)
        self.assertEqual([found.closed_on(date(2027, 12, d)) for d in (27, 28, 29)], ["First", "Second", None])
        nearest = self.calendar([c | {"moved": "nearest"} for c in christmas])
        self.assertEqual([nearest.closed_on(date(2027, 12, d)) for d in (24, 27, 28)], ["First", "Second", None])

    def test_another_weekend(self) -> None:
        found = self.calendar(
            [{"title": "Day", "how": "fixed", "month": 11, "day": 13, "moved": "monday"}],
            working_days=["Sunday", "Monday", "Tuesday", "Wednesday", "Thursday"],
        )
        self.assertEqual([found.closed_on(date(2026, 11, d)) for d in (13, 15, 16)], ["Friday", "Day", None])

    def test_a_period_over_new_year(self) -> None:
        found = self.calendar([{"title": "Rest", "how": "period", "month": 12, "day": 24, "to_month": 1, "to_day": 2}])
        days = [date(2026, 12, 23), date(2026, 12, 24), date(2026, 12, 31), date(2027, 1, 1), date(2027, 1, 4)]
        self.assertEqual([found.is_working(d) for d in days], [True, False, False, False, True])

    def test_the_eastern_easter(self) -> None:
        found = self.calendar([{"title": "Easter Monday", "how": "orthodox easter", "offset": 1}])
        self.assertEqual(
            [found.is_working(d) for d in (date(2026, 4, 13), date(2026, 4, 6), date(2027, 5, 3))], [False, True, False]
        )

    def test_half_days_and_hours_of_a_weekday_are_one_truth(self) -> None:
        hours = {"Friday": ["08:00 to 12:00"], "Monday": ["08:00 to 12:00", "13:00 to 18:00"]}
        found = self.calendar([{"title": "Eve", "how": "fixed", "month": 12, "day": 24, "until": "11:00"}], hours=hours)
        for when, received in (
            (at(2026, 11, 6, 12), date(2026, 11, 6)), (at(2026, 11, 6, 12, 1), date(2026, 11, 9)), (at(2026, 11, 9, 17, 59), date(2026, 11, 9)),
            (at(2026, 12, 24, 11), date(2026, 12, 24)), (at(2026, 12, 24, 11, 1), date(2026, 12, 25)),
        ):  # fmt: skip
            self.assertEqual(found.received_on(when), received, when)
        self.assertEqual(found.office_end(date(2026, 12, 24)), at(2026, 12, 24, 11))
        self.assertEqual(found.office_hours_between(at(2026, 12, 24, 8), at(2026, 12, 24, 16)), 3)

    def test_office_hours_over_a_change_of_clocks(self) -> None:
        night = self.calendar([], hours={"Sunday": ["00:00 to 06:00"]}, working_days=list(WEEKDAYS))
        self.assertEqual(night.office_hours_between(at(2026, 10, 25, 0), at(2026, 10, 25, 6)), 7)
        self.assertEqual(night.office_hours_between(at(2026, 3, 29, 0), at(2026, 3, 29, 6)), 5)
