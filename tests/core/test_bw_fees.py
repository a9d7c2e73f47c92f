"""The fee table of building works, row by row; every expected amount was reckoned by hand."""

from __future__ import annotations

import unittest
from decimal import Decimal

from hypothesis import given
from hypothesis import strategies as st

from jolly_clerk.shelf.rulebooks import read_rulebook
from tests.helpers import BW, EDITION, amounts, answers, fees

# V, permit fee, examination 65 %, levy
TABLE = """
2000.00     60.00    45.00    1.00
2000.01     71.50    46.48    1.00
25000.00    324.50   210.93   1.00
25000.01    332.75   216.29   2.00
38176.50    440.00   286.00   2.00
50000.01    536.50   348.73   3.00
100000.01   822.85   534.85   5.00
500000.01   2662.15  1730.40  21.00
1000000.01  4610.85  2997.05  41.00
"""


def by_value(value: str, **changes: object) -> dict[str, str]:
    """The amounts when the declared value decides (the area is next to nothing)."""
    return amounts(fees(works_estimate=value, works_area="0.1", works_distance="31", **changes))


class BuildingWorksTable(unittest.TestCase):
    def test_every_row(self) -> None:
        rows = [line.split() for line in TABLE.strip().splitlines()]
        self.assertEqual(len(rows), 9)
        for value, permit, examination, levy in rows:
            with self.subTest(value=value):
                self.assertEqual(
                    by_value(value), {"permit": permit, "examination": examination, "shoreline": "0.00", "levy": levy}
                )

    def test_the_cent_before_and_after_each_band(self) -> None:
        # band end, fee at it, fee one cent above: by hand, one more started thousand of the next band
        for value, at_it, above in (
            ("2000.00", "60.00", "71.50"),
            ("25000.00", "324.50", "332.75"),
            ("50000.00", "530.75", "536.50"),
            ("100000.00", "818.25", "822.85"),
            ("500000.00", "2658.25", "2662.15"),
            ("1000000.00", "4608.25", "4610.85"),
        ):
            with self.subTest(value=value):
                self.assertEqual(by_value(value)["permit"], at_it)
                self.assertEqual(by_value(str(Decimal(value) - Decimal("0.01")))["permit"], at_it)
                self.assertEqual(by_value(str(Decimal(value) + Decimal("0.01")))["permit"], above)

    def test_fast_doubles_the_examination_and_only_it(self) -> None:
        for value, permit, examination, levy in (line.split() for line in TABLE.strip().splitlines()):
            with self.subTest(value=value):
                fast = by_value(value, service_speed="fast", service_reason="storm")
                self.assertEqual(fast["examination"], str(Decimal(examination) * 2))
                self.assertEqual((fast["permit"], fast["levy"]), (permit, levy))

    def test_works_begun_before_the_filing_day_double_the_permit_fee_and_nothing_else(self) -> None:
        for value, permit, examination, _ in (line.split() for line in TABLE.strip().splitlines()):
            with self.subTest(value=value):
                begun = by_value(value, works_begun_yet="yes", works_begun="2026-11-04")
                self.assertEqual(begun["permit"], str(Decimal(permit) * 2))
                self.assertEqual(begun["examination"], examination)

    def test_works_begun_on_the_filing_day_are_not_doubled(self) -> None:
        self.assertEqual(by_value("38176.50", works_begun_yet="yes", works_begun="2026-11-05")["permit"], "440.00")

    def test_repairs_to_a_listed_building_are_waived_and_a_waiver_beats_doubling(self) -> None:
        listed = {"place_listed": "yes", "works_repair": "yes"}
        waived = by_value("38176.50", **listed)
        self.assertEqual((waived["permit"], waived["examination"]), ("0.00", "286.00"))
        both = by_value("38176.50", works_begun_yet="yes", works_begun="2026-01-01", **listed)
        self.assertEqual(both["permit"], "0.00")
        line = fees(works_begun_yet="yes", works_begun="2026-01-01", **listed).lines[0]
        self.assertEqual(line.state, "waived")
        self.assertIn("art. 32(1)", line.working())

    def test_listed_but_no_repair_pays(self) -> None:
        self.assertEqual(by_value("38176.50", place_listed="yes", works_repair="no")["permit"], "440.00")

    def test_the_shoreline_surcharge_ends_at_thirty_metres(self) -> None:
        self.assertEqual(amounts(fees(works_distance="30.0"))["shoreline"], "120.00")
        self.assertEqual(amounts(fees(works_distance="30.1"))["shoreline"], "0.00")
        self.assertEqual(amounts(fees(works_distance="0"))["shoreline"], "120.00")

    def test_the_value_is_the_higher_of_estimate_and_reference(self) -> None:
        # 95.8 m² × 465.00 = 44 547.00; 20 started thousands above 25 000: 324.50 + 20 × 8.25
        self.assertEqual(amounts(fees())["permit"], "489.50")
        self.assertEqual(amounts(fees(works_estimate="44547.01"))["permit"], "489.50")
        self.assertEqual(amounts(fees(works_estimate="45000.01"))["permit"], "497.75")
        # 82.1 m² × 465.00 = 38 176.50
        self.assertEqual(amounts(fees(works_area="82.1"))["permit"], "440.00")

    def test_working_is_shown(self) -> None:
        lines = {line.id: line.working() for line in fees(works_area="82.1").lines}
        self.assertEqual(
            lines["permit"],
            "324.50 + 14 × 8.25 [each started 1\u00a0000 of 38\u00a0176.50 [Value of the works] above 25\u00a0000] = 440.00",
        )
        self.assertEqual(lines["examination"], "65 % of 440.00 [Permit fee, before its changes] = 286.00")
        self.assertIn("18 m ≤ 30.0 m", lines["shoreline"])
        rounded = fees(works_estimate="2000.01", works_area="0.1").lines[1].working()
        self.assertEqual(rounded, "65 % of 71.50 [Permit fee, before its changes] = 46.475, rounded to 0.01: 46.48")
        least = fees(works_estimate="2000.00", works_area="0.1").lines[1].working()
        self.assertEqual(least, "65 % of 60.00 [Permit fee, before its changes] = 39.00, at least 45.00")


class WhatIsNotKnownYet(unittest.TestCase):
    def test_an_open_condition_gives_both_amounts_and_its_place(self) -> None:
        line = fees(works_begun_yet=None).lines[0]
        self.assertEqual((line.state, line.amount), ("open", None))
        self.assertEqual([str(p) for p in line.possible], ["489.50", "979.00"])
        self.assertEqual(line.depends_on, ("works.begun_yet",))

    def test_an_open_distance_gives_nothing_or_the_surcharge(self) -> None:
        line = fees(works_distance=None).lines[2]
        self.assertEqual([str(p) for p in line.possible], ["0.00", "120.00"])
        self.assertEqual(line.depends_on, ("works.distance",))

    def test_an_open_value_is_never_a_settled_amount(self) -> None:
        sheet = fees(works_area=None)
        self.assertEqual([line.state for line in sheet.lines], ["open", "open", "settled", "open"])
        self.assertEqual(str(sheet.lines[1].low), "45.00")
        self.assertIsNone(sheet.lines[1].high)
        self.assertIn("works.area", sheet.lines[0].depends_on)
        self.assertIsNone(sheet.total("at filing").amount)
        self.assertEqual(str(sheet.total("at filing").low), "165.00")

    def test_totals_settle_by_stage(self) -> None:
        sheet = fees(works_begun_yet=None)
        self.assertEqual(str(sheet.total("at filing").amount), "438.18")
        later = sheet.total("at issue")
        self.assertEqual((later.amount, str(later.low), str(later.high)), (None, "491.50", "981.00"))


class Properties(unittest.TestCase):
    @given(st.decimals(min_value=0, max_value=3_000_000, places=2), st.decimals(min_value=0, max_value=5_000, places=2))
    def test_a_fee_never_falls_as_the_value_grows(self, value: Decimal, more: Decimal) -> None:
        low, high = by_value(str(value)), by_value(str(value + more))
        for line in ("permit", "examination", "levy"):
            self.assertLessEqual(Decimal(low[line]), Decimal(high[line]))

    @given(st.dictionaries(st.sampled_from(["area", "estimate", "distance", "begun_yet", "use"]), st.text(max_size=12)))
    def test_a_fee_sheet_adds_up_whatever_is_typed(self, typed: dict[str, str]) -> None:
        sheet = fees(**{f"works_{key}": value for key, value in typed.items()})
        for total in sheet.totals:
            own = [line for line in sheet.lines if line.stage == total.stage]
            self.assertEqual(total.low, sum(line.low for line in own))
            if total.amount is not None:
                self.assertEqual(total.amount, sum(line.amount or 0 for line in own))


class SecondEdition(unittest.TestCase):
    def test_one_rate_changed_in_the_text_changes_the_sheet(self) -> None:
        text = (
            EDITION.read_text("utf-8").replace("adds: 8.25", "adds: 9.00").replace("in_force: 2026-07-01", "in_force: 2026-11-05")
        )
        second = read_rulebook(text, "second.yaml").rulebook
        self.assertEqual(second.edition.id, "BW 2026-11-05")
        self.assertEqual(amounts(fees(rulebook=second, works_area="82.1"))["permit"], "450.50")
        self.assertEqual(amounts(fees(rulebook=BW, works_area="82.1"))["permit"], "440.00")

    def test_answers_are_left_as_they_were_typed(self) -> None:
        self.assertEqual(answers()["works"]["area"], "95.8")
