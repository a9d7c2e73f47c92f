"""M9: what is due in parts and shared by several payers, run through the office: paid one by one, booked, reminded, late, issued."""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from typing import Any

from jolly_clerk.core import history as h
from jolly_clerk.office.cases import notices, paying, refunding
from jolly_clerk.office.cases.casework import Loaded, load_case
from jolly_clerk.office.cases.clock_job import run_clock
from jolly_clerk.office.desk import checking, reviewing
from jolly_clerk.office.errors import NotFound, NotReady
from jolly_clerk.office.post import papers, receipts
from jolly_clerk.office.preparing import drafts, filing, signing
from jolly_clerk.office.rules.rulebooks import publish
from jolly_clerk.office.views.case import case_view
from tests.helpers import ROOT
from tests.office.test_endings import Endings
from tests.office.test_journey import text_of

CHARGE = ROOT / "tests" / "unseen" / "connection-charge.yaml"
TWO = [{"name": "Ada Finch", "share": "60"}, {"name": "Tom Ashby", "share": "40"}]
#: 300.00 at filing in three parts, of which the second holds up the acceptance
AT_FILING = """debts:
  - stage: at filing
    instalments:
      - {percent: 50}
      - {percent: 25, within: 20 days, holds: acceptance, title: Second part}
      - {within: 60 days, holds: nothing}
    remind: [5]
    article: "9"
refunds:"""


class Owed(Endings):
    def charge(self, *changes: tuple[str, str]) -> None:
        """The edition of the connection charge, in force now."""
        text = CHARGE.read_text("utf-8").replace("calendar: borough", "calendar: quillhaven")
        text = text.replace("in_force: 2027-01-01", "in_force: 2026-07-02").partition("examples:")[0]
        for old, new in changes:
            self.assertEqual(text.count(old), 1, old)
            text = text.replace(old, new)
        file = self.folder / "CC" / "2026-07-02.yaml"
        file.parent.mkdir(exist_ok=True)
        file.write_text(text, "utf-8")
        publish(self.office, file)

    def filed_charge(self, in_parts: str = "no", owners: Any = ({"name": "Ada Finch", "share": "100"},), pay: bool = True) -> str:
        draft = drafts.start_draft(self.office, self.odalys, "CC")
        told = {"pipe": {"length": "8", "in_parts": in_parts}, "owners": [{"id": str(n), **o} for n, o in enumerate(owners, 1)]}
        drafts.keep(self.office, self.odalys, draft, None, answers=told)
        signing.sign(self.office, self.odalys, draft, "Odalys Renn")
        reference = filing.file(self.office, self.odalys, draft, take_gaps=True)
        if pay:
            self.pay(reference)
        return reference

    def accepted(self, reference: str) -> Loaded:
        checking.begin_checking(self.office, self.imre, reference)
        self.judge_all(reference)
        return checking.accept(self.office, self.imre, reference)

    def case(self, reference: str) -> Loaded:
        return load_case(self.office, self.imre, reference)

    def pay_debt(self, reference: str, key: str) -> Decimal:
        at = paying.ask_payment(self.office, self.odalys, reference, debt=key)
        notices.at_stand_in(self.office, self.odalys, at.key, "approved")
        return at.amount

    def owed(self, reference: str) -> list[tuple[str, str, str]]:
        return [(d.key, str(d.open), str(d.due or "")) for d in self.case(reference).assessment.debts]


class Shared(Owed):
    def test_two_payers_pay_one_by_one_and_the_decision_begins_when_both_have(self) -> None:
        self.charge()
        reference = self.filed_charge(owners=TWO)
        done = self.accepted(reference)
        self.assertEqual(self.owed(reference), [("filing", "0.00", ""), ("check.1.1", "233.75", ""), ("check.2.1", "155.83", "")])
        self.assertEqual((done.assessment.clock.step, str(done.assessment.account.open)), ("payment", "389.58"))  # type: ignore[union-attr]
        letter = text_of(self.office.vault.get(done.so_far.accepted.letter_sha256))  # type: ignore[union-attr]
        self.assertIn("It is owed like this: Ada Finch, EUR 233.75, due at once; Tom Ashby, EUR 155.83, due at once.", letter)
        self.assertEqual(self.pay_debt(reference, "check.2.1"), Decimal("155.83"))
        self.assertEqual(self.case(reference).assessment.clock.step, "payment")  # type: ignore[union-attr]
        with self.assertRaises(NotFound):
            self.pay_debt(reference, "check.2.1")
        with self.assertRaises(NotFound):
            self.pay_debt(reference, "check.9.9")
        paying.take_money(self.office, self.imre, reference, Decimal("233.75"), "transfer", "T-1", debt="check.1.1")
        found = self.case(reference)
        self.assertEqual((found.assessment.clock.step, str(found.assessment.account.open)), ("decision", "0.00"))  # type: ignore[union-attr]
        self.assertEqual(found.so_far.payments[-1].payer, "Ada Finch")  # who owes it, where the officer says nothing else
        receipt = text_of(receipts.payment_receipt(self.office, found, found.so_far.payments[1]))
        self.assertIn("Tom Ashby", receipt)
        self.assertIn("389.58 × 40 ÷ 100", receipt)

    def test_a_share_charged_back_is_due_again_and_the_other_stays_paid(self) -> None:
        self.charge()
        reference = self.filed_charge(owners=TWO)
        self.accepted(reference)
        self.pay_debt(reference, "check.1.1")
        self.pay_debt(reference, "check.2.1")
        key = self.case(reference).so_far.payments[-1].key
        refunding.charge_back(self.office, self.imre, reference, key, "the bank took it back")
        self.assertEqual(self.owed(reference)[1:], [("check.1.1", "0.00", ""), ("check.2.1", "155.83", "")])
        self.assertEqual(self.case(reference).assessment.clock.step, "payment")  # type: ignore[union-attr]

    def test_odd_shares_are_owed_by_the_applicant(self) -> None:
        self.charge()
        reference = self.filed_charge(owners=[{"name": "Ada Finch", "share": "0"}, {"name": "Tom Ashby", "share": "0"}])
        self.accepted(reference)
        self.assertEqual(self.owed(reference)[1:], [("check.1.1", "389.58", "")])


class InParts(Owed):
    def test_three_parts_are_reminded_late_and_hold_up_the_issue_as_the_edition_says(self) -> None:
        self.charge()
        reference = self.filed_charge("yes")
        self.move_to(2026, 11, 9, 10)
        done = self.accepted(reference)
        self.assertEqual(
            self.owed(reference)[1:],
            [("check.1.1", "129.86", "2026-12-09"), ("check.1.2", "129.86", "2027-01-08"), ("check.1.3", "129.86", "2027-02-08")],
        )  # the third would end on a Sunday
        self.assertEqual((done.assessment.clock.step, done.so_far.accepted.target), ("decision", date(2026, 12, 7)))  # type: ignore[union-attr]
        self.assertIn("until Wed 9 Dec 2026", text_of(self.office.vault.get(done.so_far.accepted.letter_sha256)))  # type: ignore[union-attr]
        with self.assertRaises(NotReady):
            paying.ask_payment(self.office, self.odalys, reference)  # nothing is asked for yet
        told = [s.text for s in case_view(self.office, self.odalys, load_case(self.office, self.odalys, reference)).next_steps]
        self.assertIn("Last day to pay EUR 129.86: Ada Finch · Part 1 of 3", told)

        self.move_to(2026, 12, 2, 8)
        run_clock(self.office)
        run_clock(self.office)
        reminded = [e for e in self.case(reference).history.entries if isinstance(e, h.Reminded)]
        self.assertEqual([(e.step, e.of, e.due) for e in reminded], [("debt", "check.1.1", date(2026, 12, 9))])
        self.assertIn("Part 1 of 3: EUR 129.86 is to be paid.", text_of(self.office.vault.get(reminded[0].letter_sha256)))
        self.move_to(2026, 12, 10, 8)
        run_clock(self.office)
        found = self.case(reference)
        self.assertTrue(found.assessment.debts[1].late)
        self.assertEqual((found.assessment.state, str(found.assessment.account.open)), ("Complete", "129.86"))
        self.assertIn("was to be paid and is late", text_of(self.office.vault.get(found.history.entries[-1].letter_sha256)))  # type: ignore[union-attr]

        reviewing.hand_over(self.office, self.imre, reference, self.silas.id)
        reviewing.grant(self.office, self.silas, reference, "")
        self.assertIsNone(self.case(reference).so_far.issued)
        self.pay_debt(reference, "check.1.3")  # a later one alone does not issue it
        self.assertIsNone(self.case(reference).so_far.issued)
        self.pay_debt(reference, "check.1.1")
        found = self.case(reference)
        self.assertIsNotNone(found.so_far.issued)
        self.assertEqual(self.owed(reference)[1:], [("check.1.1", "0.00", "2026-12-09"), ("check.1.2", "129.86", "2027-01-08"), ("check.1.3", "0.00", "2027-02-08")])  # fmt: skip
        self.assertEqual(str(found.assessment.account.later), "129.86")
        self.move_to(2027, 1, 8, 9)
        run_clock(self.office)
        self.assertEqual(str(self.case(reference).assessment.account.open), "129.86")  # after the grant it is a debt
        self.pay(reference)
        self.assertEqual([d.open for d in self.case(reference).assessment.debts], [Decimal("0.00")] * 4)

    def test_parts_at_filing_hold_up_what_the_edition_says(self) -> None:
        self.charge_at_filing()
        reference = self.filed_charge(pay=False)
        found = self.case(reference)
        self.assertEqual((found.so_far.due_told, str(found.assessment.account.open)), (Decimal("150.00"), "150.00"))
        receipt = text_of(papers.filing_receipt(self.office, found))
        self.assertIn("Part 1 of 3, EUR 150.00, due at once; Second part, EUR 75.00, until Wed 25 Nov 2026", receipt)
        self.pay(reference)
        self.assertEqual(self.case(reference).assessment.state, "Filed")
        checking.begin_checking(self.office, self.imre, reference)
        self.judge_all(reference)
        why = [w.text for w in self.case(reference).assessment.move("officer", "accept as complete").why_not]
        self.assertEqual(why[-1], "EUR 75.00 of the fee due at filing is not paid.")
        self.pay_debt(reference, "filing.1.2")
        checking.judge(self.office, self.imre, reference, "fee.at_filing", "met", "The rest is owed in parts.")
        done = checking.accept(self.office, self.imre, reference)
        self.assertEqual(done.assessment.state, "Complete")
        fee = done.assessment.requirement("fee.at_filing")
        assert fee is not None
        self.assertEqual(
            fee.because, "EUR 225.00 paid, EUR 300.00 due. The rest falls due in later parts, which hold nothing up here."
        )
        self.pay_debt(reference, "filing.1.3")
        self.assertEqual([str(d.open) for d in self.case(reference).assessment.debts], ["0.00"] * 3)

    def charge_at_filing(self) -> None:
        text = CHARGE.read_text("utf-8")
        lines = text[text.index("  - line: pipe") : text.index("refunds:")]
        flat = '  - {line: charge, title: Charge, stage: at filing, flat: 300.00, article: "1"}\n' + AT_FILING.removesuffix(
            "refunds:"
        )
        self.charge((lines, flat))

    def test_paid_more_than_one_part_the_rest_goes_to_the_next(self) -> None:
        self.charge_at_filing()
        reference = self.filed_charge(pay=False)
        paying.take_money(self.office, self.imre, reference, Decimal("240.00"), "cheque", "C-7")
        self.assertEqual([str(d.open) for d in self.case(reference).assessment.debts], ["0.00", "0.00", "60.00"])
        self.assertEqual(
            self.case(reference).so_far.payments[0].debts,
            {"filing.1.1": Decimal("150.00"), "filing.1.2": Decimal("75.00"), "filing.1.3": Decimal("15.00")},
        )
        receipt = text_of(receipts.payment_receipt(self.office, self.case(reference), self.case(reference).so_far.payments[0]))
        self.assertIn("in part, of EUR 75.00", receipt)

    def test_paid_too_late_at_filing_it_lapses_and_what_was_paid_comes_back(self) -> None:
        self.charge_at_filing()
        reference = self.filed_charge(pay=False)
        paying.take_money(self.office, self.imre, reference, Decimal("75.00"), "cheque", "C-8", debt="filing.1.2")
        self.assertEqual(self.case(reference).assessment.state, "Waiting for payment")  # a later part paid first covers nothing
        self.move_to(2026, 11, 25, 8)
        run_clock(self.office)
        self.assertEqual(self.case(reference).assessment.state, "Lapsed")
        self.assertEqual([str(b.amount) for b in self.case(reference).so_far.refunds_due], ["75.00"])
