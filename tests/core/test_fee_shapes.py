"""Every shape of a fee line on small tariffs; amounts reckoned by hand, at each boundary and one cent beside it."""

from __future__ import annotations

import unittest
from datetime import date
from decimal import Decimal
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from jolly_clerk.core.currency import to_coin
from jolly_clerk.core.fees.lines import FeeSheet, Line
from jolly_clerk.core.fees.sheet import fee_sheet
from jolly_clerk.core.form import read_answers
from jolly_clerk.shelf.nodes import UnreadableRulebook
from jolly_clerk.shelf.rulebooks import read_rulebook

HEAD = """
kind: ZZ
title: Ferry berth
about: For boats.
law: Berth Order
in_force: 2026-01-01
currency: EUR
calendar: quillhaven
incomplete_filing: warn
case_title: Berth
parts:
  - id: boat
    title: The boat
    questions:
      - {id: length, ask: How long?, type: number, unit: m, decimals: 3}
      - {id: crew, ask: How many crew?, type: count}
      - {id: value, ask: What is it worth?, type: money}
      - {id: guest, ask: Is it a guest?, type: yes or no}
      - {id: charity, ask: Does a charity own it?, type: yes or no}
      - {id: since, ask: Since when?, type: date, when: boat.guest}
signature: {text: Promised, article: "1"}
clock:
  check: {within: 5 working days, article: "2"}
  answers: {within: 14 days, article: "2"}
  pay: {within: 14 days, article: "2"}
  decision: {within: 10 working days, article: "2"}
letters:
  correction: {subject: s, opening: o, closing: c}
  complete: {subject: s, opening: o, closing: c}
fees:
"""
DAY = date(2026, 11, 5)


def tariff(lines: str) -> Any:
    return read_rulebook(HEAD + lines, "zz.yaml").rulebook


def sheet(lines: str, **boat: Any) -> FeeSheet:
    return fee_sheet(read_answers(tariff(lines), {"boat": boat}, DAY, DAY))


def line(lines: str, **boat: Any) -> Line:
    return sheet(lines, **boat).lines[-1]


def amount(lines: str, **boat: Any) -> str:
    return str(line(lines, **boat).amount)


BANDS = """
  - line: berth
    title: Berth
    stage: at filing
    bands:
      of: boat.length
      each:
        - {up_to: 5, flat: 20.00}
        - {up_to: 12, per_started: 2, adds: 7.50}
        - {up_to: 20, flat: 10.00}
        - {above: 20, flat: 5.00, per_started: 0.5, adds: 1.25}
    article: "9(1)"
"""
STEPS = """
  - line: crew
    title: Crew
    stage: after the check
    steps: {of: boat.crew, per_started: 3, adds: 4.40, free: 2}
    at_most: 13.20
    article: "9(2)"
"""
PERCENT = """
  - line: berth
    title: Berth
    stage: at issue
    amount: boat.value * 0.01
    then:
      - {id: guest, title: guest, when: boat.guest, times: 2, article: "9(4)"}
    article: "9(3)"
  - line: light
    title: Light dues
    stage: at filing
    percent: {of: berth, rate: 33.3}
    at_least: 10.00
    at_most: 60.00
    then:
      - {id: charity, title: charity, when: boat.charity, times: 0.5, article: "9(6)"}
      - {id: guest, title: guest, when: boat.guest, times: 3, article: "9(7)"}
    article: "9(5)"
"""
FLAT = """
  - line: guest
    title: Guest
    stage: at filing
    when: boat.guest and boat.since < case.filed
    flat: 12.345
    article: "9(8)"
"""


class Bands(unittest.TestCase):
    def test_every_boundary(self) -> None:
        # to 5 m 20.00; each started 2 m to 12 m + 7.50 (4 steps: 50.00); then + 10.00; above 20 m + 5.00 and 1.25 each started 0.5 m
        for length, expected in (
            ("0", "20.00"), ("5", "20.00"), ("5.001", "27.50"), ("7", "27.50"), ("7.001", "35.00"), ("11", "42.50"), ("11.001", "50.00"),
            ("12", "50.00"), ("12.001", "60.00"), ("20", "60.00"), ("20.001", "66.25"), ("20.5", "66.25"), ("20.501", "67.50"), ("30", "90.00"),
        ):  # fmt: skip
            with self.subTest(length=length):
                self.assertEqual(amount(BANDS, length=length), expected)

    def test_working(self) -> None:
        for length, told in (
            ("4", "20.00 [4 m [How long]: up to 5]"),
            ("8", "20.00 + 2 × 7.50 [each started 2 of 8 m [How long] above 5] = 35.00"),
            ("15", "60.00 [15 m [How long]: up to 20]"),
            ("21", "65.00 + 2 × 1.25 [each started 0.5 of 21 m [How long] above 20] = 67.50"),
        ):
            self.assertEqual(line(BANDS, length=length).working(), told)

    def test_open_it_is_at_least_the_lowest_start(self) -> None:
        found = line(BANDS)
        self.assertEqual((found.state, str(found.low), found.high, found.depends_on), ("open", "20.00", None, ("boat.length",)))

    @given(st.decimals(min_value=0, max_value=60, places=3), st.decimals(min_value=0, max_value=10, places=3))
    def test_it_never_falls_as_the_value_grows(self, low: Decimal, more: Decimal) -> None:
        rules = RULES["bands"]

        def fee(length: Decimal) -> Decimal:
            found = fee_sheet(read_answers(rules, {"boat": {"length": str(length)}}, DAY, DAY)).lines[0].amount
            assert found is not None
            return found

        self.assertLessEqual(fee(low), fee(low + more))


class StepsAfterAFreeNumber(unittest.TestCase):
    def test_every_boundary(self) -> None:
        for crew, expected in (
            ("0", "0.00"),
            ("2", "0.00"),
            ("3", "4.40"),
            ("5", "4.40"),
            ("6", "8.80"),
            ("8", "8.80"),
            ("9", "13.20"),
            ("12", "13.20"),
            ("99", "13.20"),
        ):
            with self.subTest(crew=crew):
                self.assertEqual(amount(STEPS, crew=crew), expected)

    def test_working_and_stage(self) -> None:
        found = sheet(STEPS, crew="12")
        self.assertEqual(
            found.lines[0].working(), "4 × 4.40 [each started 3 of 12 [How many crew] beyond 2] = 17.60, at most 13.20"
        )
        self.assertEqual([(t.stage, str(t.amount)) for t in found.totals], [("after the check", "13.20")])
        self.assertEqual(str(found.total("at filing").amount), "0.00")


class PercentOfAnotherLine(unittest.TestCase):
    def test_it_is_of_the_line_before_that_lines_changes(self) -> None:
        # 1 % of 10 000 is 100.00, doubled for a guest; 33.3 % is of the 100.00
        found = sheet(PERCENT, value="10000", guest="yes", since="2026-01-01", charity="no")
        self.assertEqual([str(x.amount) for x in found.lines], ["200.00", "99.90"])

    def test_bounds_come_before_the_changes(self) -> None:
        for value, light in (
            ("3003.00", "10.00"),
            ("3004.50", "10.01"),
            ("3000.00", "10.00"),
            ("18000.00", "59.94"),
            ("18018.00", "60.00"),
            ("90000.00", "60.00"),
        ):
            with self.subTest(value=value):
                self.assertEqual(amount(PERCENT, value=value, guest="no", charity="no"), light)

    def test_changes_in_the_order_written_each_rounded(self) -> None:
        # 1 % of 3 337.00 = 33.37; 33.3 % = 11.11221 = 11.11; half 5.555 = 5.56; three times 16.68
        found = line(PERCENT, value="3337.00", guest="yes", since="2026-01-01", charity="yes")
        self.assertEqual(str(found.amount), "16.68")
        self.assertIn("× 0.5 = 5.56: charity (art. 9(6)); × 3 = 16.68: guest (art. 9(7))", found.working())
        self.assertEqual(found.notes, ("charity (art. 9(6))", "guest (art. 9(7))"))

    def test_an_open_change_is_tried_both_ways(self) -> None:
        found = line(PERCENT, value="10000", charity="no")
        self.assertEqual([str(p) for p in found.possible], ["33.30", "99.90"])
        self.assertEqual(found.depends_on, ("boat.guest",))
        both = line(PERCENT, value="10000")
        self.assertEqual([str(p) for p in both.possible], ["16.65", "33.30", "49.95", "99.90"])
        self.assertEqual(both.depends_on, ("boat.charity", "boat.guest"))

    def test_open_at_the_root_it_is_open_all_the_way(self) -> None:
        found = sheet(PERCENT, guest="no", charity="no")
        self.assertEqual([x.state for x in found.lines], ["open", "open"])
        self.assertEqual(found.lines[1].depends_on, ("boat.value",))
        self.assertEqual(found.totals[0].amount, None)


class FlatAndCondition(unittest.TestCase):
    def test_rounded_half_up_to_the_cent(self) -> None:
        self.assertEqual(amount(FLAT, guest="yes", since="2026-11-04"), "12.35")
        self.assertEqual(
            [str(to_coin(Decimal(x))) for x in ("0.005", "0.015", "0.025", "2.675", "0.0049")],
            ["0.01", "0.02", "0.03", "2.68", "0.00"],
        )

    def test_not_asked_says_why(self) -> None:
        found = line(FLAT, guest="yes", since="2026-11-05")
        self.assertEqual((found.state, str(found.amount)), ("not asked", "0.00"))
        self.assertIn("Thu 5 Nov 2026", found.working())
        self.assertEqual(line(FLAT, guest="no").state, "not asked")

    def test_open_it_is_nothing_or_the_whole(self) -> None:
        for boat, decides in (({}, "boat.guest"), ({"guest": "yes"}, "boat.since")):
            found = line(FLAT, **boat)
            self.assertEqual(([str(p) for p in found.possible], found.depends_on), (["0.00", "12.35"], (decides,)))


class NotAskedAtAll(unittest.TestCase):
    LINES = (
        '\n  - {line: age, title: Age, stage: at filing, amount: "days_between(boat.since, case.filed) * 0.10", article: "9"}\n'
    )

    def test_an_amount_over_a_question_that_is_not_asked_is_not_asked(self) -> None:
        found = line(self.LINES, guest="no")
        self.assertEqual((found.state, str(found.amount)), ("not asked", "0.00"))
        self.assertEqual(amount(self.LINES, guest="yes", since="2026-10-26"), "1.00")


class Refused(unittest.TestCase):
    def test_lines_that_cannot_be_reckoned(self) -> None:
        for lines, says in (
            (BANDS.replace("of: boat.length", "of: boat.guest"), "a number is needed here; this gives a yes or no"),
            (BANDS.replace("{up_to: 12,", "{up_to: 5,"), "is not above 5"),
            (BANDS.replace("above: 20", "up_to: 40"), "no band says what holds above 40"),
            (
                BANDS.replace("per_started: 2, adds: 7.50", "adds: 7.50"),
                "a band says `flat` or `is`, or `per_started` with `adds`",
            ),
            (STEPS.replace("per_started: 3", "per_started: 0"), "is above 0; 0 is not"),
            (STEPS.replace("at_most: 13.20", "at_most: 13.20\n    at_least: 20.00"), "at_least is above at_most"),
            (PERCENT.replace("percent: {of: berth", "percent: {of: light"), "is no line above this one"),
            (FLAT.replace("flat: 12.345", "flat: -1"), "greater than or equal to 0"),
            (FLAT.replace("stage: at filing", "stage: later"), "write `at filing`, `after the check` or `at issue`"),
        ):
            with self.subTest(says), self.assertRaises(UnreadableRulebook) as caught:
                tariff(lines)
            self.assertIn(says, str(caught.exception))


class AddsUp(unittest.TestCase):
    @given(
        st.fixed_dictionaries(
            {},
            optional={
                "length": st.one_of(st.decimals(min_value=-5, max_value=99, places=3).map(str), st.text(max_size=4)),
                "crew": st.integers(-3, 60).map(str),
                "value": st.decimals(min_value=-1, max_value=10**6, places=2).map(str),
                "guest": st.sampled_from(["yes", "no", "perhaps", True]),
                "charity": st.booleans(),
                "since": st.sampled_from(["2026-11-04", "2026-11-05", "31.2.2026", ""]),
            },
        )
    )
    def test_whatever_is_answered(self, boat: dict[str, Any]) -> None:
        found = fee_sheet(read_answers(RULES["all"], {"boat": boat}, DAY, DAY))
        for total in found.totals:
            own = [x for x in found.lines if x.stage == total.stage]
            self.assertEqual(total.amount is None, any(x.state == "open" for x in own))
            if total.amount is not None:
                self.assertEqual(total.amount, sum((x.amount or Decimal(0)) for x in own))
            self.assertTrue(total.high is None or total.low <= total.high)
        for x in found.lines:
            self.assertTrue(x.working())
            self.assertEqual(x.state == "open", x.amount is None)
            self.assertEqual(x.state == "open", bool(x.depends_on))


RULES = {
    "bands": tariff(BANDS),
    "all": tariff(BANDS + STEPS + PERCENT.replace("line: berth", "line: worth").replace("of: berth", "of: worth") + FLAT),
}
