"""Fee lines for each repeat, over other lines, with changes in their order, brought to a step, in other currencies; reckoned by hand."""

from __future__ import annotations

import unittest
from datetime import date
from decimal import Decimal
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from jolly_clerk.core.currency import coin_of, decimals_of
from jolly_clerk.core.fees.account import refund
from jolly_clerk.core.fees.lines import FeeSheet
from jolly_clerk.core.fees.sheet import fee_sheet
from jolly_clerk.core.form import read_answers
from jolly_clerk.core.history import FeeSet, Filed, Paid
from jolly_clerk.core.in_words import money
from jolly_clerk.core.lifecycle import fold
from jolly_clerk.shelf.nodes import UnreadableRulebook
from jolly_clerk.shelf.rulebooks import read_rulebook
from tests.helpers import QUILLHAVEN, at

HEAD = """
kind: ZZ
title: Ferry
about: For a crossing.
law: Ferry Order
in_force: 2026-01-01
currency: EUR
calendar: quillhaven
case_title: Crossing
scales:
  fare:
    title: Fare by age
    article: "2"
    steps: [{up_to: 11, is: 0}, {up_to: 17, is: 4.50}, {below: 65, is: 9.50}, {is: 7.00}]
tables:
  by_season:
    title: Season
    of: [season, car]
    article: "3"
    rows: [{season: summer, car: "yes", is: 30.00}, {season: summer, car: "no", is: 12.00}, {season: spring, car: "no", is: 9.00}]
    otherwise: 8.00
curves:
  weight: {title: Weight, article: "4", points: [{at: 1, is: 2.00}, {at: 3, is: 8.00}, {at: 5, is: 10.00}], beyond: straight on}
lists:
  seasons: [{id: summer, title: Summer}, {id: spring, title: Spring}, {id: winter, title: Winter}]
parts:
  - id: trip
    title: The trip
    questions:
      - {id: season, ask: When?, type: one of, options: seasons, default: summer}
      - {id: car, ask: With a car?, type: yes or no, default: "no"}
      - {id: cargo, ask: Cargo, type: number, default: 0}
      - {id: member, ask: Member?, type: yes or no, default: "no"}
      - {id: late, ask: Days late, type: count, default: 0}
  - id: people
    title: The people
    each: true
    questions:
      - {id: age, ask: Age, type: count}
      - {id: free, ask: Free pass?, type: yes or no, default: "no"}
signature: {text: Promised, article: "1"}
clock:
  check: {within: 5 working days, article: "2"}
  answers: {within: 14 days, article: "2"}
  pay: {within: 14 days, article: "2"}
  decision: {within: 10 working days, article: "2"}
fees:
"""
PEOPLE = """
  - line: people
    title: People
    stage: at filing
    each: people
    when: not people.free
    amount: fare(people.age)
    then:
      - {id: member, title: Member, when: trip.member, percent: -33, article: "5"}
    all_at_least: 5.00
    all_at_most: 20.00
    comes_back: 80 if trip.late == 0 else 50
    article: "2"
"""
DAY = date(2026, 11, 5)


def sheet(lines: str, people: list[dict[str, Any]] | None = None, head: str = HEAD, **trip: Any) -> FeeSheet:
    rulebook = read_rulebook(head + lines, "zz.yaml").rulebook
    return fee_sheet(read_answers(rulebook, {"trip": trip, "people": people or []}, DAY, DAY))


def amounts(lines: str, people: list[dict[str, Any]] | None = None, head: str = HEAD, **trip: Any) -> dict[str, str]:
    return {line.id: str(line.amount) for line in sheet(lines, people, head, **trip).lines}


def line(body: str, name: str = "x") -> str:
    return f"\n  - line: {name}\n    title: {name.upper()}\n    stage: at filing\n    article: '9'\n" + "".join(
        f"    {row}\n" for row in body.strip().splitlines()
    )


class Each(unittest.TestCase):
    def test_a_line_for_each_by_age(self) -> None:
        for ages, wanted in (([11], "5.00"), ([12, 18], "14.00"), ([17, 64, 65], "20.00"), ([65], "7.00"), ([], "5.00")):
            self.assertEqual(amounts(PEOPLE, [{"age": a} for a in ages])["people"], wanted, ages)

    def test_changes_and_conditions_hold_for_each_by_itself(self) -> None:
        # 9.50 less a third part of 33 %: 6.365, so 6.37 each; the third has a free pass
        people = [{"age": 30}, {"age": 30}, {"age": 30, "free": "yes"}]
        found = sheet(PEOPLE, people, member="yes").lines[0]
        self.assertEqual((found.amount, found.notes), (Decimal("12.74"), ("Member (art. 5)",)))
        self.assertEqual(
            found.working(), "2 × 6.37 = 12.74 · 6.37: 9.50 [Fare by age: 30; art. 2]; − 33 % = 6.37: Member (art. 5)"
        )

    def test_an_open_one_makes_the_line_open_from_to(self) -> None:
        found = sheet(PEOPLE, [{"age": 30}, {}]).lines[0]
        self.assertEqual(
            (found.state, found.low, found.high, found.depends_on), ("open", Decimal("9.50"), Decimal("20.00"), ("people.2.age",))
        )
        found = sheet(PEOPLE.replace("all_at_most: 20.00", "help: no most"), [{"age": 30}, {}]).lines[0]
        self.assertEqual((found.low, found.high), (Decimal("9.50"), None))

    def test_all_with_a_free_pass_are_not_asked(self) -> None:
        found = sheet(PEOPLE, [{"age": 30, "free": "yes"}]).lines[0]
        self.assertEqual((found.state, found.amount), ("not asked", Decimal("0.00")))


class OverLines(unittest.TestCase):
    def test_a_share_of_several_as_they_stand_before_or_after_changes(self) -> None:
        lines = line("flat: 10.00\nthen:\n  - {id: m, title: M, when: trip.member, times: 0.5, article: '1'}", "a")
        lines += line("flat: 5.00\nwhen: trip.car", "b")
        lines += line("percent: {of: [a, b], rate: 10}", "c") + line("percent: {of: [a, b], rate: 10, after_changes: true}", "d")
        self.assertEqual(amounts(lines, member="yes"), {"a": "5.00", "b": "0.00", "c": "1.00", "d": "0.50"})
        self.assertEqual(amounts(lines, member="yes", car="yes")["c"], "1.50")

    def test_a_rule_names_the_lines_above(self) -> None:
        lines = line("flat: 10.00\nthen:\n  - {id: m, title: M, when: trip.member, times: 0.5, article: '1'}", "a")
        lines += line("amount: max(fee.a, base.a) - fee.a", "b") + line("amount: min(0, 4.00 - (fee.a + fee.b))", "cap")
        self.assertEqual(amounts(lines, member="yes"), {"a": "5.00", "b": "5.00", "cap": "-6.00"})
        with self.assertRaises(UnreadableRulebook) as caught:
            sheet(line("amount: fee.z", "y") + line("flat: 1.00", "z"))
        self.assertIn("the line `z` stands below this place", str(caught.exception))

    def test_a_line_by_hand_changes_what_is_taken_from_it_as_charged(self) -> None:
        lines = line("flat: 10.00", "a") + line("amount: fee.a + base.a", "b")
        rulebook = read_rulebook(HEAD + lines, "zz.yaml").rulebook
        by_hand = FeeSet(at=at(2026, 11, 5), who="l", role="lead", line="a", was=Decimal(10), amount=Decimal(3), reason="r")
        found = fee_sheet(read_answers(rulebook, {}, DAY, DAY), {"a": by_hand})
        self.assertEqual([str(x.amount) for x in found.lines], ["3", "13.00"])

    def test_what_hangs_on_an_open_line_hangs_on_its_question(self) -> None:
        lines = line("amount: trip.cargo * 2", "a") + line("amount: fee.a + 1", "b")
        found = sheet(lines.replace("default: 0", ""), cargo="many").lines
        self.assertEqual([(x.state, x.depends_on) for x in found], [("open", ("trip.cargo",))] * 2)

    def test_a_line_that_is_only_told_is_not_charged(self) -> None:
        found = sheet(line("flat: 3.80", "a") + line("amount: contained(fee.a, 19)\ntold_only: true", "tax"))
        self.assertEqual((str(found.lines[1].amount), str(found.totals[0].amount)), ("0.61", "3.80"))


class Shapes(unittest.TestCase):
    def test_tables_scales_and_curves(self) -> None:
        table = line("amount: by_season(trip.season, trip.car)")
        for trip, wanted in (({}, "12.00"), ({"car": "yes"}, "30.00"), ({"season": "winter"}, "8.00")):
            self.assertEqual(amounts(table, **trip)["x"], wanted)
        for cargo, wanted in (
            ("0", "2.00"),
            ("1", "2.00"),
            ("2", "5.00"),
            ("3", "8.00"),
            ("4", "9.00"),
            ("5", "10.00"),
            ("7", "12.00"),
        ):
            self.assertEqual(amounts(line("amount: weight(trip.cargo)"), cargo=cargo)["x"], wanted, cargo)
        for beyond, wanted in (("beyond: level", "10.00"), ("beyond_adds: 0.25", "10.50")):
            self.assertEqual(
                amounts(line("amount: weight(trip.cargo)"), head=HEAD.replace("beyond: straight on", beyond), cargo=7)["x"],
                wanted,
            )

    def test_steps_started_full_and_even(self) -> None:
        for how, wanted in (("per_started: 2", "6.00"), ("per_full: 2", "4.50"), ("per: 2", "5.25")):
            self.assertEqual(amounts(line(f"steps: {{of: trip.cargo, {how}, adds: 1.50, free: 1}}"), cargo=8)["x"], wanted, how)
        text = line('steps: {of: trip.cargo, per: 1, adds: "2 if trip.car else 3", free: "1 if trip.car else 0"}')
        self.assertEqual([amounts(text, cargo=4, car=car)["x"] for car in ("yes", "no")], ["6.00", "12.00"])

    def test_bands_that_climb_evenly_or_by_whole_steps(self) -> None:
        bands = "bands:\n  of: trip.cargo\n  each:\n    - {up_to: 2, flat: 1.00}\n    - {up_to: 4, per: 1, adds: 0.30}\n"
        bands += "    - {above: 4, per_full: 2, adds: 5.00}"
        for cargo, wanted in (("2", "1.00"), ("3.5", "1.45"), ("4", "1.60"), ("5.9", "1.60"), ("6", "6.60")):
            self.assertEqual(amounts(line(bands), cargo=cargo)["x"], wanted, cargo)

    def test_changes_in_their_order_each_rounded(self) -> None:
        then = "flat: 10.01\nthen:\n  - {id: a, title: A, percent: 50, article: '1'}\n  - {id: b, title: B, adds: -1.00, article: '2'}\n"
        then += "  - {id: c, title: C, at_most: 13.00, article: '3'}\n  - {id: d, title: D, when: trip.car, becomes: amount_so_far * 2 + 1, article: '4'}\n"
        then += "  - {id: e, title: E, times: 1, rounded: up, to: 5, article: '5'}"
        # 15.015 so 15.02; 14.02; 13.00; with a car 27.00; up to the next 5.00
        self.assertEqual([amounts(line(then), car=car)["x"] for car in ("no", "yes")], ["15.00", "30.00"])
        found = sheet(line(then)).lines[0]
        told = "10.01, fixed; + 50 % = 15.02: A (art. 1); − 1.00 = 14.02: B (art. 2); at most 13.00 = 13.00: C (art. 3); × 1, rounded up to 5 = 15.00: E (art. 5)"
        self.assertEqual(found.working(), told)

    def test_one_change_over_several_lines(self) -> None:
        changes = "changes:\n  - {id: m, title: Member, of: [a, c], when: trip.member, percent: -70, article: '8'}\n"
        head = HEAD.replace("fees:\n", changes + "fees:\n")
        lines = line("flat: 10.05", "a") + line("flat: 10.00", "b") + line("flat: 1.00", "c")
        self.assertEqual(amounts(lines, head=head, member="yes"), {"a": "3.02", "b": "10.00", "c": "0.30"})
        self.assertEqual(amounts(lines, head=head)["a"], "10.05")

    def test_brought_up_down_or_to_the_even_coin(self) -> None:
        for how, wanted in (("rounded: up", "0.13"), ("rounded: down", "0.12"), ("rounded: half even", "0.12"), ("to: 0.05", "0.15"),
                            ("rounded: down\nto: 0.05", "0.10")):  # fmt: skip
            self.assertEqual(amounts(line(f"amount: 0.125 * trip.cargo\n{how}"), cargo=1)["x"], wanted, how)

    def test_bounds_by_rule(self) -> None:
        text = line("amount: trip.cargo\nat_least: 5 if trip.car else 2\nat_most: 3 * by_season(trip.season, trip.car)")
        self.assertEqual([amounts(text, cargo=1, car=car)["x"] for car in ("yes", "no")], ["5.00", "2.00"])
        self.assertEqual(amounts(text, cargo=99)["x"], "36.00")


class Money(unittest.TestCase):
    def test_currencies_with_none_two_and_three_decimals(self) -> None:
        for currency, wanted, due in (("JPY", "12", "JPY 24"), ("EUR", "12.50", "EUR 25.00"), ("KWD", "12.500", "KWD 25.000")):
            head = HEAD.replace("currency: EUR", f"currency: {currency}")
            found = sheet(line("amount: 12.4995 + trip.cargo", "a") + line("amount: fee.a", "b"), head=head)
            self.assertEqual(str(found.lines[0].amount), wanted)
            self.assertEqual(money(found.totals[0].low, currency), due)
        self.assertEqual([decimals_of(c) for c in ("EUR", "JPY", "BHD")], [2, 0, 3])
        self.assertEqual(str(coin_of("BHD")), "0.001")
        found = sheet(line("flat: 500"), head=HEAD.replace("EUR", "JPY")).lines[0]
        self.assertEqual(found.working(), "500, fixed")

    def test_what_comes_back_may_hang_on_a_rule(self) -> None:
        for late, wanted in (("0", "7.60"), ("1", "4.75")):
            rulebook = read_rulebook(HEAD + PEOPLE, "zz.yaml").rulebook
            found = fee_sheet(read_answers(rulebook, {"trip": {"late": late}, "people": [{"age": 30}]}, DAY, DAY))
            whose: Any = {"at": at(2026, 11, 5), "who": "o", "role": "applicant"}
            case = fold(
                [
                    Filed(**whose, edition="ZZ", due_at_filing=Decimal("9.50")),
                    Paid(**whose, amount=Decimal("9.50"), means="card", key="k"),
                ]
            )
            self.assertEqual(str(refund(rulebook, case, found, "withdrawn", QUILLHAVEN, at(2026, 11, 5)).total), wanted)


class Faults(unittest.TestCase):
    def test_every_fault_is_named_at_its_line(self) -> None:
        for old, new, says in (
            ("each: people", "each: trip", "`trip` is no part that repeats (one with `each: true`); those are people"),
            ("{up_to: 17, is: 4.50}", "{up_to: 10, is: 4.50}", "a step ends above 11, where the one before ends; 10 is not"),
            ("{is: 7.00}]", "{up_to: 99, is: 7.00}]", "the last step has no upper end"),
            ("{below: 65, is: 9.50}", "{is: 9.50}", "those after it are never reached"),
            ("{up_to: 17,", "{up_to: 17, below: 18,", "says `up_to` or `below`"),
            ("{at: 3, is: 8.00}", "{at: 1, is: 8.00}", "1 is not above 1"),
            ("is: 30.00}", "is: much}", "“much” is no number"),
            ("beyond: straight on", "beyond: straight on, beyond_adds: 2", "say either `beyond` or `beyond_adds`"),
            ("all_at_most: 20.00", "all_at_most: 20.00\n    flat: 3.00", "this says `flat` and `amount`"),
            ("percent: -33", "percent: -33, times: 2", "a change says one of"),
            ("percent: -33", "percent: people.name", "nothing is called `people.name`"),
            ("comes_back: 80", "comes_back: 180 #", "from 0 to 100"),
            ("{id: age, ask: Age, type: count}", "{id: from, ask: Age, type: count}", "'from' is a word of the rule language"),
            ("{id: age, ask: Age, type: count}", "{id: position, ask: Age, type: count}", "already means something here"),
            ("  weight: {title", "  round_up: {title", "is a function already"),
        ):  # fmt: skip
            with self.subTest(says), self.assertRaises(UnreadableRulebook) as caught:
                read_rulebook((HEAD + PEOPLE).replace(old, new, 1), "zz.yaml")
            self.assertIn(says, str(caught.exception))


class Properties(unittest.TestCase):
    RULES = read_rulebook(
        HEAD + PEOPLE + line("amount: weight(trip.cargo)", "w") + line("percent: {of: [people, w], rate: 20, after_changes: true}", "tax")
        + line("amount: min(0, 25 - (fee.people + fee.w))", "cap") + line("amount: by_season(trip.season, trip.car)\nwhen: trip.member", "s"),
        "zz.yaml",
    ).rulebook  # fmt: skip

    @given(
        st.lists(st.fixed_dictionaries({}, optional={"age": st.integers(0, 99).map(str), "free": st.sampled_from(["yes", "no"])}), max_size=5),
        st.fixed_dictionaries({}, optional={"cargo": st.one_of(st.decimals(0, 99, places=3).map(str), st.text(max_size=3)),
                                            "member": st.sampled_from(["yes", "no", "x"]), "car": st.sampled_from(["yes", "no"])}),
    )  # fmt: skip
    def test_it_adds_up_whatever_is_answered(self, people: list[dict[str, str]], trip: dict[str, str]) -> None:
        found = fee_sheet(read_answers(self.RULES, {"trip": trip, "people": people}, DAY, DAY))
        for total in found.totals:
            own = [x for x in found.lines if x.stage == total.stage]
            self.assertEqual(total.low, sum(x.low for x in own))
            self.assertEqual(total.amount is None, any(x.state == "open" for x in own))
        for x in found.lines:
            self.assertTrue(x.working())
            self.assertTrue(x.high is None or x.low <= x.high)
            self.assertTrue(x.state == "open" or x.low == x.high == x.amount)
