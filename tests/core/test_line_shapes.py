"""M9 and M10: shapes of fee lines that tariffs print, each in one place of YAML: their amounts, their workings, what is open, what is refused."""

from __future__ import annotations

import unittest
from datetime import date
from decimal import Decimal
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from jolly_clerk.core.absence import UNKNOWN
from jolly_clerk.core.fees.account import refund
from jolly_clerk.core.fees.lines import FeeSheet, Line
from jolly_clerk.core.fees.sheet import fee_sheet, reckon
from jolly_clerk.core.form import read_answers
from jolly_clerk.core.history import FeeSet
from jolly_clerk.core.rulebook.dates import clock_hours, parts_of_years
from jolly_clerk.shelf.nodes import UnreadableRulebook
from jolly_clerk.shelf.rulebooks import read_rulebook
from tests.core.test_fee_kinds import DAY, HEAD, line
from tests.core.test_money_rules import answered, paid, sheet
from tests.core.test_workings import worked_out
from tests.helpers import QUILLHAVEN, at

D = Decimal
TABLES = """band_tables:
      - when: trip.car
        of: trip.cargo
        each: [{up_to: 10, is: 5.00}, {above: 10, is: 5.00, per_started: 1, adds: 2.00}]
      - of: trip.cargo
        each: [{up_to: 20, is: 3.00}, {above: 20, is: 3.00, per_started: 5, adds: 1.00}]"""


def told(found: FeeSheet, id_: str = "x") -> Line:
    return next(made for made in found.lines if made.id == id_)


class Shapes(unittest.TestCase):
    def assert_line(self, found: Line, amount: str, working: str = "") -> None:
        self.assertEqual((found.state, str(found.amount)), ("settled", amount))
        if working:
            self.assertEqual(found.working().replace("\u00a0", " "), working)
        self.assertEqual(worked_out(found.working()), found.amount)

    def test_one_of_two_band_tables(self) -> None:
        self.assert_line(told(sheet(line(TABLES), car="yes", cargo="12.5")), "11.00", "5.00 + 3 × 2.00 [each started 1 of 12.5 [Cargo] above 10] = 11.00")  # fmt: skip
        self.assert_line(told(sheet(line(TABLES), car="no", cargo="26")), "5.00")
        self.assert_line(told(sheet(line(TABLES), car="no", cargo="20")), "3.00")
        found = told(sheet(line(TABLES), car="perhaps", cargo="12"))
        self.assertEqual((found.state, found.depends_on), ("open", ("trip.car",)))
        with self.assertRaises(UnreadableRulebook):
            read_rulebook(
                HEAD + line(TABLES.replace("      - of: trip", "      - when: trip.member\n        of: trip")), "zz.yaml"
            )

    def test_a_price_for_each_beyond_those_that_are_free(self) -> None:
        shape = "each_costs: {of: count(people), price: 4.50, free: 2}"
        for many, amount, working in ((5, "13.50", "(5 [The people] − 2) × 4.50 = 13.50"), (2, "0.00", "(the higher of 0 and 2 [The people] − 2) × 4.50 = 0.00")):  # fmt: skip
            rulebook = read_rulebook(HEAD + line(shape), "zz.yaml").rulebook
            people = [{"id": str(n), "age": "30"} for n in range(many)]
            found = fee_sheet(read_answers(rulebook, {"trip": {}, "people": people}, DAY, DAY, QUILLHAVEN))
            self.assert_line(told(found), amount, working)
        self.assert_line(
            told(sheet(line("each_costs: {of: trip.cargo, price: 1.10}"), cargo="2.5")), "2.75", "2.5 [Cargo] × 1.10 = 2.75"
        )

    def test_percent_of_a_value(self) -> None:
        found = told(sheet(line("percent: {value: trip.cargo, rate: 0.9}"), cargo="44547"))
        self.assert_line(found, "400.92", "0.9 % of 44 547 [Cargo] = 400.923, rounded to 0.01: 400.92")
        found = told(sheet(line("percent: {value: trip.cargo + 3, rate: 10}"), cargo="7"))
        self.assert_line(found, "1.00", "10 % of (7 [Cargo] + 3) = 1.00")

    def test_topped_up_to_and_capped_at_a_sum(self) -> None:
        two = line("amount: trip.cargo", "a") + line("flat: 20.00", "b")
        top = two + line("top_up: {of: [a, b], to: 50.00}")
        self.assert_line(told(sheet(top, cargo="12")), "18.00", "50.00 − (12.00 [A] + 20.00 [B]) = 18.00")  # fmt: skip
        self.assert_line(told(sheet(top, cargo="40")), "0.00")
        cap = two + line("cap: {of: [a, b], at: 50.00}")
        self.assert_line(told(sheet(cap, cargo="40")), "-10.00")
        self.assertEqual(str(sheet(cap, cargo="40").total("at filing").amount), "50.00")
        self.assert_line(told(sheet(cap, cargo="12")), "0.00")
        self.assertEqual(told(sheet(cap, cargo="x")).depends_on, ("trip.cargo",))

    def test_of_several_exemptions_the_first_that_holds(self) -> None:
        shape = """flat: 100.00
exemptions:
  - {id: member, title: Member, when: trip.member, percent: -50, article: "8"}
  - {id: late, title: Never late, when: trip.late == 0, percent: -20, article: "9"}
then: [{id: car, title: Car, when: trip.car, adds: 5, article: "10"}]"""
        for trip, amount in (
            ({"member": "yes"}, "50.00"),
            ({}, "80.00"),
            ({"late": "3"}, "100.00"),
            ({"member": "yes", "car": "yes"}, "55.00"),
        ):
            self.assert_line(told(sheet(line(shape), **trip)), amount)
        found = told(sheet(line(shape), member="perhaps"))
        self.assertEqual((found.state, [str(p) for p in found.possible]), ("open", ["50.00", "80.00"]))  # never 40.00
        waived = shape.replace("when: trip.member, percent: -50", "when: trip.member, waived: true")
        self.assertEqual(told(sheet(line(waived), member="yes")).state, "waived")
        found = told(sheet(line(waived), member="perhaps"))
        self.assertEqual([str(p) for p in found.possible], ["0.00", "80.00"])
        swapped = shape.replace("trip.member, percent: -50", "trip.member, percent: -10").replace(
            "trip.late == 0, percent: -20", "trip.late == 0, waived: true"
        )
        self.assertEqual(
            str(told(sheet(line(swapped), member="yes")).amount), "90.00"
        )  # a waiver below the first that holds is not made


class Finer(unittest.TestCase):
    THREE = line("amount: trip.cargo * 0.333\nfiner: true", "a") + line("amount: trip.cargo * 0.333\nfiner: true", "b")

    def test_lines_keep_what_is_finer_and_the_sum_is_rounded(self) -> None:
        found = sheet(self.THREE, cargo="1.5")
        self.assertEqual([str(x.amount) for x in found.lines[:2]], ["0.499500", "0.499500"])
        rounding = found.lines[-1]
        self.assertEqual((rounding.id, rounding.amount, rounding.title), ("rounding.filing", D("0.001"), "Rounding of the sum"))
        self.assertEqual(worked_out(rounding.working()), rounding.amount)
        self.assertEqual(str(found.total("at filing").amount), "1.00")  # 0.50 + 0.50 were each rounded: 1.00; 0.999 is 1.00 too
        self.assertEqual(str(sheet(self.THREE, cargo="1.48").total("at filing").amount), "0.99")  # each rounded would be 0.98

    def test_a_step_finer_than_the_coin(self) -> None:
        found = sheet(line("amount: trip.cargo / 7\nfiner: true\nto: 0.0001"), cargo="1")
        self.assertEqual([str(x.amount) for x in found.lines], ["0.1429", "-0.0029"])
        self.assertEqual(str(found.total("at filing").amount), "0.14")

    def test_the_sum_of_each_stage_down_to_five_cents(self) -> None:
        head = HEAD.replace("fees:\n", 'rounding: {rounded: down, to: 0.05, article: "12"}\nfees:\n')
        found = sheet(line("flat: 12.04", "a") + line("flat: 1.03", "b"), head)
        self.assertEqual([(x.id, str(x.amount), x.article) for x in found.lines[2:]], [("rounding.filing", "-0.02", "12")])
        self.assertEqual(str(found.total("at filing").amount), "13.05")
        self.assertEqual(len(sheet(line("flat: 12.05"), head).lines), 1)  # nothing to bring
        self.assertEqual(len(sheet(line("amount: trip.cargo"), head, cargo="x").lines), 1)  # not while a line is open

    def test_a_refund_of_finer_lines_never_exceeds_what_was_paid(self) -> None:
        text = HEAD + self.THREE.replace("finer: true", "finer: true\n    comes_back: 80")
        found = answered(text, cargo="1.48")
        back = refund(found.rulebook, paid("0.99"), fee_sheet(found), "withdrawn", QUILLHAVEN, at(2026, 11, 5))
        self.assertEqual(str(back.total), "0.78")  # 80 % of 0.49284, twice, each to the cent

    @settings(max_examples=25, deadline=None)
    @given(st.decimals("0", "500", places=3), st.sampled_from(["up", "down", "nearest", "half even"]))
    def test_the_lines_of_a_stage_are_its_total(self, cargo: Decimal, how: str) -> None:
        head = HEAD.replace("fees:\n", f'rounding: {{rounded: {how}, to: 0.1, article: "12"}}\nfees:\n')
        head = head.replace(
            "{id: cargo, ask: Cargo, type: number, default: 0}", "{id: cargo, ask: Cargo, type: number, default: 0, decimals: 3}"
        )
        found = sheet(self.THREE, head, cargo=str(cargo))
        total = found.total("at filing").amount
        self.assertEqual(sum((x.low for x in found.lines), D(0)), total)
        self.assertEqual(total % D("0.1"), 0)  # type: ignore[operator]


class Twice(unittest.TestCase):
    SPLIT = line(
        'amount: trip.cargo\nfalls_due: {percent: 37.5, rest: after the check}\nthen: [{id: car, title: Car, when: trip.car, times: 0.5, article: "1"}]'
    )

    def test_each_is_brought_to_the_cent_and_together_they_are_the_line(self) -> None:
        found = sheet(self.SPLIT, cargo="1024.50")
        first, rest = found.lines
        self.assertEqual((first.id, first.stage, str(first.amount)), ("x", "at filing", "384.19"))
        self.assertEqual((rest.id, rest.stage, str(rest.amount)), ("x.rest", "after the check", "640.31"))
        self.assertEqual([worked_out(x.working()) for x in found.lines], [first.amount, rest.amount])
        self.assertEqual(first.working().replace("\u00a0", " "), "37.5 % of 1 024.50 [Cargo] = 384.1875, rounded to 0.01: 384.19")

    def test_after_its_changes_open_and_not_asked(self) -> None:
        self.assertEqual([str(x.amount) for x in sheet(self.SPLIT, cargo="100", car="yes").lines], ["18.75", "31.25"])
        open_ = sheet(self.SPLIT, cargo="100", car="perhaps").lines
        self.assertEqual([[str(p) for p in x.possible] for x in open_], [["18.75", "37.50"], ["31.25", "62.50"]])
        none = sheet(line("flat: 10\nwhen: trip.car\nfalls_due: {percent: 50, rest: at issue}")).lines
        self.assertEqual([(x.state, str(x.amount)) for x in none], [("not asked", "0.00")] * 2)

    def test_one_half_set_by_hand_leaves_the_other(self) -> None:
        who: dict[str, Any] = {"at": at(2026, 11, 5), "who": "o", "role": "officer"}
        rest = FeeSet(**who, line="x.rest", amount=D("600.00"), was=D("640.31"), reason="agreed")
        text = HEAD + self.SPLIT + line("amount: fee.x", "whole")
        found = fee_sheet(answered(text, cargo="1024.50"), {"x.rest": rest})
        self.assertEqual([str(x.amount) for x in found.lines], ["384.19", "600.00", "984.19"])

    @settings(max_examples=25, deadline=None)
    @given(st.decimals("0", "99999", places=2), st.decimals("0.5", "99.5", places=1))
    def test_nothing_is_lost_between_the_two(self, cargo: Decimal, percent: Decimal) -> None:
        shape = line(f"amount: trip.cargo\nfalls_due: {{percent: {percent}, rest: at issue}}")
        first, rest = sheet(shape, cargo=str(cargo)).lines
        self.assertEqual((first.amount or 0) + (rest.amount or 0), cargo)


class Values(unittest.TestCase):
    def read(self, values: str, lines: str, **trip: Any) -> tuple[FeeSheet, Any]:
        text = HEAD.replace("fees:\n", f"values:\n{values}fees:\n") + lines
        rulebook = read_rulebook(text, "zz.yaml").rulebook
        return reckon(read_answers(rulebook, {"trip": trip, "people": []}, DAY, DAY, QUILLHAVEN), {})

    def test_a_value_reads_fees_and_a_line_below_reads_it(self) -> None:
        values = '  - {id: half, title: Half of it, rule: fee.a / 2, article: "1"}\n  - {id: dear, title: Dear, rule: half > 40, article: "1"}\n'
        lines = line("amount: trip.cargo", "a") + line("amount: 10 if dear else 1", "b")
        for cargo, half, amount in (("100", "50", "10.00"), ("60", "30", "1.00")):
            found, names = self.read(values, lines, cargo=cargo)
            self.assertEqual((names["half"], str(told(found, "b").amount)), (D(half), amount))
        found, names = self.read(values, lines, cargo="x")
        self.assertIs(names["half"], UNKNOWN)
        self.assertEqual(told(found, "b").state, "open")

    def test_what_is_asked_cannot_hang_on_it(self) -> None:
        values = '  - {id: half, title: Half of it, rule: fee.a / 2, article: "1"}\n'
        for text, says in (
            (HEAD.replace("{id: car,", "{id: car, when: half > 3,").replace("fees:\n", f"values:\n{values}fees:\n") + line("flat: 4", "a"), "come after the answers"),
            (HEAD.replace("fees:\n", f"values:\n{values}fees:\n") + line("amount: half", "b") + line("flat: 4", "a"), "stands below this one"),
            (HEAD.replace("fees:\n", f"values:\n{values.replace('{id', '{each: people, id')}fees:\n") + line("flat: 4", "a"), "reads no fees"),
        ):  # fmt: skip
            with self.assertRaises(UnreadableRulebook) as caught:
                read_rulebook(text, "zz.yaml")
            self.assertIn(says, str(caught.exception.faults[0].message))

    def test_the_rate_of_the_day_of_acceptance_for_a_later_stage(self) -> None:
        head = HEAD.replace(
            "scales:\n", 'scales:\n  yearly: {title: Rate, article: "2", steps: [{below: 2027-01-01, is: 10}, {is: 12}]}\n', 1
        )
        text = head + line("amount: yearly(case.accepted if asked(case.accepted) else case.today)")
        rulebook = read_rulebook(text, "zz.yaml").rulebook
        for steps, today, amount in (({}, date(2026, 12, 30), "10.00"), ({"case.accepted": date(2027, 1, 4)}, date(2027, 2, 1), "12.00"), ({"case.accepted": date(2026, 12, 31)}, date(2027, 2, 1), "10.00")):  # fmt: skip
            found = fee_sheet(read_answers(rulebook, {"trip": {}}, DAY, today, QUILLHAVEN, steps=steps))
            self.assertEqual(str(found.lines[0].amount), amount)


class Days(unittest.TestCase):
    def test_parts_of_years_by_their_days(self) -> None:
        self.assertEqual(parts_of_years(date(2027, 1, 1), date(2028, 1, 1)), 1)
        self.assertEqual(parts_of_years(date(2028, 1, 1), date(2029, 1, 1)), 1)  # 366 of 366
        self.assertEqual(parts_of_years(date(2027, 12, 1), date(2028, 2, 1)), D(31) / 365 + D(31) / 366)
        self.assertEqual(parts_of_years(date(2027, 1, 2), date(2027, 1, 1)), 0)
        found = sheet(line("amount: 1000 * 0.05 * parts_of_years(date_of(2027, 7, 1), date_of(2028, 7, 1))"))
        self.assertEqual(str(found.lines[0].amount), "50.07")  # 184 of 365 and 182 of 366

    def test_an_hour_of_the_day(self) -> None:
        head = HEAD.replace("  - id: people\n", "      - {id: opens, ask: Opens at, type: hour}\n  - id: people\n", 1)
        rule = line("amount: 2 * (clock_hours(trip.opens) - 6)")
        self.assertEqual(str(sheet(rule, head, opens="8:30").lines[0].amount), "5.00")
        self.assertEqual((clock_hours("24:00"), clock_hours("07:20") * 3), (24, 22))
        for said, why in (("half past", "“half past” is not an hour of the day. Write it as in 14:30."), ("24:10", "There is no 24:10 on a clock."), ("7:60", "There is no 7:60 on a clock.")):  # fmt: skip
            self.assertEqual(answered(head + rule, opens=said).faults["trip.opens"], why)
        for said in ("9.05", "9:05", "09:05:00", "9h05", "9:05 h"):
            self.assertEqual(answered(head + rule, opens=said).values["trip.opens"], "09:05")
        for said in ("9", "9 h", "9:00", "9 o'clock"):
            self.assertEqual(answered(head + rule, opens=said).values["trip.opens"], "09:00")


class Twofold(unittest.TestCase):
    """T7: an hour that the clock shows twice, and one that it leaves out."""

    HEAD_ = HEAD.replace("  - id: people\n", "      - {id: lands, ask: Lands, type: date and time}\n  - id: people\n", 1)

    def lands(self, said: str) -> Any:
        return answered(self.HEAD_ + line("flat: 1"), lands=said)

    def test_the_doubled_hour_asks_which(self) -> None:
        found = self.lands("25 Oct 2026 01:30")  # the zone of the borough goes back at 02:00
        self.assertEqual(
            found.faults["trip.lands"],
            "01:30 comes twice on Sun 25 Oct 2026, when the clocks go back. Write “summer time” or “winter time” after it.",
        )
        summer, winter = (self.lands(f"25 Oct 2026 01:30 {word} time").values["trip.lands"] for word in ("summer", "Winter"))
        self.assertEqual((winter.timestamp() - summer.timestamp()) / 60, 60)
        self.assertEqual(self.lands("25 Oct 2026 03:30").faults, {})

    def test_the_missing_hour_is_none(self) -> None:
        found = self.lands("2027-03-28 01:30")
        self.assertEqual(found.faults["trip.lands"], "There is no 01:30 on Sun 28 Mar 2027: the clocks go forward over it.")
        self.assertEqual(self.lands("2027-03-28T02:30").faults, {})
