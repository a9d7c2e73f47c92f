"""Money that authorities print and that was wrong or could not be said: each case told by its letter in the review."""

from __future__ import annotations

import unittest
from datetime import datetime
from decimal import Decimal
from typing import Any

from jolly_clerk.core.currency import to_coin
from jolly_clerk.core.fees.account import Refund, amount_fault, refund
from jolly_clerk.core.fees.lines import FeeSheet
from jolly_clerk.core.fees.sheet import fee_sheet
from jolly_clerk.core.form import Sheet, read_answers
from jolly_clerk.core.history import CheckingBegan, Filed, LetterSent, Paid
from jolly_clerk.core.lifecycle import CaseSoFar, fold
from jolly_clerk.core.rulebook.dates import hours_between, minutes_between
from jolly_clerk.core.rulebook.functions import started
from jolly_clerk.shelf.rulebooks import read_rulebook
from tests.core.test_fee_kinds import DAY, HEAD, line
from tests.helpers import QUILLHAVEN, at

D = Decimal


def answered(text: str, **trip: Any) -> Sheet:
    """The answers over an edition whose fees end with these lines."""
    rulebook = read_rulebook(text, "zz.yaml").rulebook
    return read_answers(rulebook, {"trip": trip, "people": []}, DAY, DAY, QUILLHAVEN)


def sheet(lines: str, head: str = HEAD, **trip: Any) -> FeeSheet:
    return fee_sheet(answered(head + lines, **trip))


def paid(amount: str, *then: Any, prepaid: str = "0") -> CaseSoFar:
    who: dict[str, Any] = {"at": at(2026, 11, 5), "who": "o", "role": "applicant"}
    filed = Filed(**who, edition="ZZ", due_at_filing=D(amount))
    return fold([filed, Paid(**who, amount=D(amount), prepaid=D(prepaid), means="card", key="k"), *then])


def withdrawn(lines: str, case: CaseSoFar, now: datetime = at(2026, 11, 5), refunds: str = "", **trip: Any) -> Refund:
    head = HEAD.replace("fees:\n", f"{refunds}fees:\n") if refunds else HEAD
    found = answered(head + lines, **trip)
    return refund(found.rulebook, case, fee_sheet(found), "withdrawn", QUILLHAVEN, now)


class Uncomputable(unittest.TestCase):
    """M1"""

    TABLE = HEAD.replace(
        "tables:\n",
        'tables:\n  index:\n    title: Index of the year\n    of: [y]\n    article: "7"\n    rows: [{y: "2025", is: 104.2}]\n',
    )

    def test_a_table_without_the_row_says_so(self) -> None:
        found = sheet(line("amount: 10 * index(2026)"), self.TABLE).lines[0]
        self.assertEqual((found.state, found.amount, found.depends_on), ("open", None, ()))
        self.assertEqual(found.trouble, "cannot be worked out: the table “Index of the year” has no row for 2026")

    def test_other_troubles(self) -> None:
        for rule, told in (
            ("100 / trip.cargo", "it would be divided by nothing"),
            ("count(d for d in each_day(case.filed, case.filed + days(500)))", "this has to be a whole number, at most 399"),
            ("root(0 - 4)", "the numbers that go in do not allow it"),
        ):
            self.assertEqual(sheet(line(f"amount: {rule}"), cargo=0).lines[0].trouble, f"cannot be worked out: {told}", rule)

    def test_what_hangs_on_a_question_has_no_trouble(self) -> None:
        self.assertEqual(sheet(line("amount: 100 / trip.cargo"), cargo="many").lines[0].trouble, "")


class Bands(unittest.TestCase):
    """M2"""

    def test_amounts_due_in_all(self) -> None:
        printed = "bands:\n  of: trip.cargo\n  each: [{up_to: 10, is: 20}, {up_to: 20, is: 50}, {above: 20, is: 90, per_started: 5, adds: 10}]"
        added = printed.replace("is:", "flat:")
        for cargo, due, sum_ in (
            ("5", "20.00", "20.00"),
            ("15", "50.00", "70.00"),
            ("21", "100.00", "170.00"),
            ("26", "110.00", "180.00"),
        ):
            self.assertEqual(str(sheet(line(printed), cargo=cargo).lines[0].amount), due)
            self.assertEqual(str(sheet(line(added), cargo=cargo).lines[0].amount), sum_)


class Durations(unittest.TestCase):
    """M3"""

    def test_every_minute_of_a_day_is_whole(self) -> None:
        begin = at(2026, 11, 5, 8)
        for minutes in range(1, 1441):
            end = datetime.fromtimestamp(begin.timestamp() + 60 * minutes, begin.tzinfo)
            self.assertEqual(minutes_between(begin, end), minutes)
            self.assertEqual(hours_between(begin, end) * 60, minutes)
            self.assertEqual(started(hours_between(begin, end) * 60, D(1)), minutes)


class Refunds(unittest.TestCase):
    """M4, M5, M6"""

    LOWERED = line("flat: 100.00\ncomes_back: 80", "a") + line("amount: 0 - 20.00\ncomes_back: 80", "b")

    def test_a_line_that_lowers_another(self) -> None:
        self.assertEqual(withdrawn(self.LOWERED, paid("80.00")).total, D("64.00"))
        self.assertEqual(withdrawn(self.LOWERED, paid("50.00")).total, D("40.00"))

    def test_a_bond_above_such_a_line_is_held_whole(self) -> None:
        bond = line("flat: 50.00\nbond: true", "bond") + self.LOWERED
        self.assertEqual(withdrawn(bond, paid("130.00")).total, D("114.00"))

    def test_a_sheet_below_zero_pays_out_nothing_that_nobody_paid(self) -> None:
        below = line("flat: 10.00\ncomes_back: 100", "a") + line("amount: 0 - 60.00", "b")
        for amount in ("0.01", "10.00", "25.00"):
            self.assertEqual(withdrawn(below, paid(amount)).total, D(amount))

    STEPS = (
        "refunds:\n  withdrawn_article: '1'\n  out_of_scope_keeps: 0\n  out_of_scope_article: '1'\n  keeps: 50.00\n  smallest: 5.00\n"
        "  withdrawn:\n    - {within: 3 working days, share: 100}\n    - {before: checking}\n    - {before: letter, share: 40}\n"
    )

    def test_by_stage_days_what_stays_and_the_smallest(self) -> None:
        fee = line("flat: 310.00\ncomes_back: 80", "a") + line("flat: 7.00", "b")
        who: dict[str, Any] = {"at": at(2026, 11, 6), "who": "i", "role": "officer"}
        checking = CheckingBegan(**who)
        letter = LetterSent(**who, round=1, version=1, points=(), due=DAY)
        late = at(2026, 11, 11)  # 6, 9 and 10 November are the three working days
        for case, now, total in (
            (paid("317.00"), at(2026, 11, 10, 23, 59), "260.00"),
            (paid("317.00"), late, "248.00"),
            (paid("317.00", checking), late, "124.00"),
            (paid("317.00", checking, letter), late, "0.00"),
            (paid("85.00"), late, "35.00"),
            (paid("55.00"), late, "5.00"),
            (paid("54.99"), late, "0.00"),
        ):
            with self.subTest(paid=case.paid, now=now):
                found = withdrawn(fee, case, now, self.STEPS)
                self.assertEqual(found.total, D(total))
                self.assertEqual(sum((x.amount for x in found.lines), D(0)), found.total)


class Currencies(unittest.TestCase):
    """M8"""

    def in_currency(self, currency: str) -> str:
        return HEAD.replace("currency: EUR", f"currency: {currency}").replace(
            "type: number, default: 0", "type: money, default: 0"
        )

    def test_none_and_three_decimals_everywhere(self) -> None:
        lines = line("amount: trip.cargo * 0.5\ncomes_back: 80", "a") + line("flat: 14116", "b")
        for currency, cargo, told, total in (
            ("JPY", "25001", "12501", "26617"),
            ("KWD", "1.234", "0.617", "14116.617"),
            ("EUR", "1.23", "0.62", "14116.62"),
        ):
            found = sheet(lines, self.in_currency(currency), cargo=cargo)
            self.assertEqual((str(found.lines[0].amount), str(found.totals[0].amount)), (told, total))

    def test_a_money_question_takes_the_decimals_of_its_currency(self) -> None:
        for currency, good, bad in (("JPY", "1260", "1260.5"), ("KWD", "1.234", "1.2345"), ("EUR", "1.23", "1.234")):
            for raw, is_right in ((good, True), (bad, False)):
                found = answered(self.in_currency(currency) + line("flat: 1"), cargo=raw)
                self.assertEqual("trip.cargo" not in found.faults, is_right, (currency, raw))

    def test_refunds_and_hand_set_amounts(self) -> None:
        case = paid("0.014")
        found = answered(self.in_currency("KWD") + line("amount: 0.014\ncomes_back: 100", "a"))
        self.assertEqual(
            str(refund(found.rulebook, case, fee_sheet(found), "withdrawn", QUILLHAVEN, at(2026, 11, 5)).total), "0.014"
        )
        for amount, currency, good in (
            ("1.234", "KWD", True),
            ("1.2345", "KWD", False),
            ("12.5", "JPY", False),
            ("12", "JPY", True),
            ("0.001", "EUR", False),
        ):
            self.assertEqual(amount_fault(D(amount), currency) == "", good, (amount, currency))

    def test_nothing_is_never_less_than_nothing(self) -> None:
        self.assertEqual(str(to_coin(D("-0.001"))), "0.00")
        self.assertEqual(str(sheet(line("amount: 0 - 0.4\nrounded: up\nto: 1")).lines[0].amount), "0.00")
