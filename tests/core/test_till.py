"""Money on the account finds its case: references with a sign off, sums for several, what came twice, and a day that has to agree."""

from __future__ import annotations

import unittest
from datetime import date
from decimal import Decimal
from typing import Any

from jolly_clerk.core.reference import make_reference
from jolly_clerk.core.till import day, matching, statement, written
from jolly_clerk.core.till.matching import Awaiting, Booked
from jolly_clerk.core.till.statement import Movement
from jolly_clerk.core.till.table import BadTable, table_statement

KINDS = frozenset({"BW", "TL", "QV", "PL", "IP", "CT"})
WORKSHOP, TIMBER = make_reference("BW", 2026, 419), make_reference("BW", 2026, 415)
FRIDAY = date(2026, 11, 27)


def paid(text: str, amount: str = "438.18", **more: Any) -> Movement:
    return Movement("B-1", FRIDAY, FRIDAY, Decimal(amount), "EUR", **{"text": text, **more})


def case(reference: str = WORKSHOP, awaited: str = "438.18", **more: Any) -> Awaiting:
    told = {"title": "New workshop roof", "applicant": "Corvin Pell", "currency": "EUR", **more}
    return Awaiting(reference, awaited=Decimal(awaited), **told)


def proposed(movement: Movement, *cases: Awaiting) -> list[matching.Proposal]:
    return matching.proposals(movement, cases, KINDS)


class WrittenReferences(unittest.TestCase):
    def test_a_reference_is_read_however_it_is_written(self) -> None:
        plain = WORKSHOP.replace("-", "")
        for text in (
            WORKSHOP,
            WORKSHOP.lower(),
            plain,
            WORKSHOP.replace("-", " "),
            WORKSHOP.replace("-", "/"),
            f"ref:{WORKSHOP}, roof",
        ):
            with self.subTest(text):
                self.assertEqual([(w.reference, w.fits) for w in written.references_in(text)], [(WORKSHOP, True)])
        self.assertEqual(written.references_in("roof fee thank you 2026"), [])

    def test_letters_that_stand_for_digits(self) -> None:
        off = WORKSHOP.replace("0", "O")
        self.assertEqual([w.reference for w in written.references_in(off)], [WORKSHOP])

    def test_each_single_sign_that_is_off_leads_back(self) -> None:
        """Every wrong digit and every exchange of neighbours in the number: the right one is among those proposed."""
        kind, year, number, letter = WORKSHOP.split("-")
        wrong = [number[:at] + digit + number[at + 1 :] for at in range(5) for digit in "0123456789" if digit != number[at]]
        wrong += [number[:at] + number[at + 1] + number[at] + number[at + 2 :] for at in range(4) if number[at] != number[at + 1]]
        for other in wrong:
            self.assertIn(WORKSHOP, written.one_sign_off(f"{kind}-{year}-{other}-{letter}", KINDS), other)
        for one in (
            f"{kind}-{year}-{number}-{'A' if letter != 'A' else 'B'}",
            f"{kind}-{year}-{number[1:]}-{letter}",
            f"BV-{year}-{number}-{letter}",
        ):
            self.assertIn(WORKSHOP, written.one_sign_off(one, KINDS), one)
        self.assertTrue(all(written.references_in(other)[0].fits for other in written.one_sign_off(WORKSHOP, KINDS)))

    def test_where_it_is_off(self) -> None:
        off = WORKSHOP.replace("00419", "00415")
        self.assertEqual(written.differing(off, WORKSHOP), [10])
        self.assertEqual(written.differing("BW-26-0419-K", WORKSHOP), list(range(12)))


class Proposals(unittest.TestCase):
    def test_reference_and_amount_agree(self) -> None:
        (one,) = proposed(paid(WORKSHOP), case())
        self.assertEqual(
            (one.how, one.short, one.parts), ("sure", "reference and amount agree", ((WORKSHOP, Decimal("438.18")),))
        )

    def test_one_sign_off_is_looked_at_with_its_reason(self) -> None:
        off = WORKSHOP.replace("00419", "00416")
        (one,) = proposed(paid(f"{off} roof", payer="C. Pell"), case())
        self.assertEqual((one.how, one.short), ("look", "one sign of the reference differs"))
        self.assertEqual(
            one.because,
            f"The amount is the same, the payer is the applicant and one sign of the reference differs. The last letter fits {WORKSHOP} and not {off}.",
        )
        self.assertEqual((one.written, one.marks), (off, (10,)))

    def test_nothing_is_awaited(self) -> None:
        (only,) = proposed(paid(TIMBER), case(TIMBER, "0", title="Timber workshop"))
        self.assertEqual((only.how, only.short), ("look", "nothing is awaited"))
        self.assertIn("it would be EUR 438.18 over", only.because)

    def test_short_over_and_the_second_time(self) -> None:
        (short,) = proposed(paid(WORKSHOP, "428.18"), case())
        self.assertEqual((short.how, short.short), ("look", "10.00 short of 438.18"))
        (over,) = proposed(paid(WORKSHOP, "500.00"), case())
        self.assertEqual((over.how, over.short), ("look", "61.82 over"))
        (twice,) = proposed(paid(WORKSHOP), case(awaited="0", paid=((Decimal("438.18"), FRIDAY, "2026-00051"),)))
        self.assertEqual((twice.how, twice.short), ("look", "the second time"))
        self.assertIn("The same amount came on Fri 27 Nov 2026, receipt 2026-00051.", twice.because)

    def test_one_payment_for_two_cases(self) -> None:
        both = paid(f"{WORKSHOP} and {TIMBER}", "500.00")
        one, *_ = proposed(both, case(awaited="438.18"), case(TIMBER, "61.82"))
        self.assertEqual((one.how, one.parts), ("sure", ((WORKSHOP, Decimal("438.18")), (TIMBER, Decimal("61.82")))))
        for awaited in ("61.81", "0"):
            self.assertTrue(all(p.how == "look" for p in proposed(both, case(), case(TIMBER, awaited))), awaited)

    def test_no_reference(self) -> None:
        """The amount alone proposes; account and payer put the likelier first; nothing alike proposes nothing."""
        other = case(TIMBER, applicant="Tamsin Oake")
        known = case(accounts=("QH21 0001 2345 6789",))
        told = proposed(paid("roof fee", payer="Corvin Pell", account="QH210001234 56789"), other, known)
        self.assertEqual([p.parts[0][0] for p in told], [WORKSHOP, TIMBER])
        self.assertEqual({p.how for p in told}, {"look"})
        self.assertEqual(
            told[0].because, "The amount is the same, the payer is the applicant and this account paid for the applicant before."
        )
        self.assertEqual(proposed(paid("roof fee", "1.00"), other), [])
        self.assertEqual(proposed(paid(WORKSHOP), case(currency="GBP")), [])

    def test_a_reference_that_fits_but_is_of_no_case_proposes_what_is_near(self) -> None:
        off = make_reference("BW", 2026, 914)
        self.assertEqual(proposed(paid(off, "12.00"), case()), [])

    def test_two_references_and_one_amount_are_looked_at(self) -> None:
        told = proposed(paid(f"{WORKSHOP} {TIMBER}"), case(), case(TIMBER, "10.00"))
        self.assertEqual([p.how for p in told], ["look", "look"])
        self.assertEqual(told[0].short, "names another case too")

    def test_what_the_bank_takes_back(self) -> None:
        gone = Movement(
            "B-2", FRIDAY, FRIDAY, Decimal("-226.08"), "EUR", text="receipt 2026-00031", reason="not recognised", returned=True
        )
        right = Booked(WORKSHOP, "card 1", "K-1", "2026-00031", Decimal("226.08"), FRIDAY, "Corvin Pell")
        other = Booked(TIMBER, "card 2", "K-2", "2026-00032", Decimal("226.08"), FRIDAY, "Tamsin Oake")
        (one,) = matching.taken_back(gone, [other, right])
        self.assertEqual((one.payment, one.because), (right, "The amount is the same and the receipt is named."))


class Statements(unittest.TestCase):
    def test_it_has_to_add_up(self) -> None:
        told = statement.Statement("1", "", "EUR", Decimal("10.00"), Decimal("20.00"), (paid("x", "10.00"),))
        self.assertEqual(statement.balance_fault(told), "")
        wrong = statement.Statement("1", "", "EUR", Decimal("10.00"), Decimal("25.00"), (paid("x", "10.00"),))
        self.assertIn("EUR 10.00 and EUR 10.00 are EUR 20.00, the statement says EUR 25.00", statement.balance_fault(wrong))
        self.assertEqual(statement.balance_fault(statement.Statement("1", "", "EUR", None, Decimal(1), ())), "")

    def test_account_numbers(self) -> None:
        self.assertTrue(statement.is_iban("QH21 0001 2345 6789"))
        for wrong in ("QH07 0001 2345 6789", "0001 2345", "", "QH21", "QH210001234567890"):
            self.assertFalse(statement.is_iban(wrong), wrong)

    def test_a_table_is_read_by_the_names_of_its_columns(self) -> None:
        rows = [["Booking date", "Amount", "Purpose", "Name", "IBAN", "Value date"],
                ["27 Nov 2026", "1.204,36", WORKSHOP, "C. Pell", "QH21", "26.11.2026"], ["", "", "", "", "", ""],
                ["2026-11-27", "-12.50", "fee of the bank", "", "", ""], ["2026-11-27", "-12.50", "fee of the bank", "", "", ""]]  # fmt: skip
        told = table_statement(rows, "QH21", "EUR", "bank.csv")
        first, second, third = told.movements
        self.assertEqual(
            (first.amount, first.booked, first.value_day, first.payer),
            (Decimal("1204.36"), FRIDAY, date(2026, 11, 26), "C. Pell"),
        )
        self.assertEqual(second.amount, Decimal("-12.50"))
        self.assertNotEqual(second.mark, third.mark)  # the same twice is two movements

    def test_a_table_says_what_is_wrong_and_where(self) -> None:
        head = ["Date", "Amount"]
        for rows, said in (
            ([["Amount"]], "no column “booked”"),
            ([head, ["2026-13-01", "1.00"]], "Row 2, booked"),
            ([head, ["2026-11-27", "much"]], "Row 2: “much” is no amount."),
            ([head, ["2026-11-27", "1,204"]], "Row 2, amount: “1,204” can be"),
            ([head], "no movement"),
        ):
            with self.subTest(said), self.assertRaises(BadTable) as told:
                table_statement(rows, "", "EUR", "x")
            self.assertIn(said, str(told.exception))


class Days(unittest.TestCase):
    def taken(self, means: Any, amount: str, receipt: str, placed: str, loose: str = "0", back: str = "0") -> day.Taken:
        return day.Taken(means, Decimal(amount), receipt, Decimal(placed), Decimal(loose), Decimal(back))

    def test_a_day_comes_to_what_it_comes_to(self) -> None:
        taken = [
            self.taken("cash", "60.00", "2026-00057", "60.00"),
            self.taken("card", "1204.36", "2026-00051", "1204.36"),
            self.taken("transfer", "100.00", "2026-00058", "88.80", "11.20"),
            self.taken("transfer", "83.85", "", "0", "83.85"),
        ]
        gone = [day.Gone(Decimal("32.18"), False), day.Gone(Decimal("226.08"), True)]
        told = day.totals("EUR", Decimal("150.00"), taken, gone, [Decimal("60.00")], [Decimal("10.00")])
        self.assertEqual(
            (told.cash, told.cards, told.transfers, told.cheques), (Decimal("60.00"), Decimal("1204.36"), Decimal("100.00"), 0)
        )
        self.assertEqual(
            (told.first_receipt, told.last_receipt, told.receipts, told.agrees),
            ("2026-00051", "2026-00058", Decimal("1364.36"), True),
        )
        self.assertEqual(
            (told.not_placed, told.paid_back, told.charged_back), (Decimal("95.05"), Decimal("32.18"), Decimal("226.08"))
        )
        self.assertEqual(told.drawer, Decimal("200.00"))
        self.assertFalse(day.totals("EUR", Decimal(0), [self.taken("card", "5.00", "1", "4.99")], []).agrees)

    def test_a_counted_drawer(self) -> None:
        should = Decimal("210.00")
        for there, because, fault, second in (
            ("210.00", "", "", False),
            ("209.00", "", "Say why", False),
            ("209.00", "a coin fell behind the desk", "", False),
            ("200.00", "not known", "", False),
            ("199.99", "not known", "", True),
            ("220.01", "not known", "", True),
            ("210.001", "x", "at most 2 decimals", False),
        ):
            with self.subTest(there=there):
                told = day.counted(should, Decimal(there), because, "EUR")
                self.assertIn(fault, told.fault)
                self.assertEqual((bool(told.fault), told.needs_second), (bool(fault), second))

    def test_parts(self) -> None:
        whole = Decimal("100.00")
        for parts, fault in (
            ([], "Choose a case."),
            ([("A", Decimal("60")), ("B", Decimal("41"))], "more than the payment"),
            ([("A", Decimal("60")), ("A", Decimal("1"))], "each case once"),
            ([("A", Decimal("0"))], "above zero"),
            ([("A", Decimal("60")), ("B", Decimal("40"))], ""),
        ):
            said = day.parts_fault(whole, parts)
            self.assertTrue(fault in said and bool(said) == bool(fault), said)
