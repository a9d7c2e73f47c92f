"""Money that comes twice, late, short or by hand, and what both sides say to each other to the end."""

from __future__ import annotations

from decimal import Decimal

from jolly_clerk.office.cases import notices, paying, refunding
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.cases.clock_job import run_clock
from jolly_clerk.office.desk import checking, reviewing, talking
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady
from jolly_clerk.office.preparing import answering, drafts, signing
from jolly_clerk.office.views.case import look_at
from jolly_clerk.office.views.opened import opened
from tests.office.test_endings import Endings


class Money(Endings):
    def test_double_payment_goes_back_at_acceptance(self) -> None:
        reference = self.unpaid()
        first = paying.ask_payment(self.office, self.odalys, reference)
        second = paying.ask_payment(self.office, self.odalys, reference)
        for at in (first, second, second):
            notices.at_stand_in(self.office, self.odalys, at.key, "approved")
        account = load_case(self.office, self.odalys, reference).assessment.account
        self.assertEqual((account.paid, account.over), (Decimal("876.36"), Decimal("438.18")))
        self.complete(reference)
        self.assertEqual(load_case(self.office, self.odalys, reference).so_far.paid, Decimal("438.18"))

    def test_late_money_for_a_lapsed_case_goes_back_at_once(self) -> None:
        reference = self.unpaid()
        at = paying.ask_payment(self.office, self.odalys, reference)
        self.move_to(2026, 11, 20, 1)
        run_clock(self.office)
        notices.at_stand_in(self.office, self.odalys, at.key, "approved")
        loaded = load_case(self.office, self.odalys, reference)
        self.assertEqual((loaded.assessment.state, loaded.so_far.paid), ("Lapsed", Decimal("0.00")))
        self.assertEqual([e.what for e in loaded.history.entries][-2:], ["paid", "refund due"])

    def test_notices_out_of_order_and_for_another_amount(self) -> None:
        reference = self.unpaid()
        at = paying.ask_payment(self.office, self.odalys, reference)
        for amount in ("400.00", "438.19", "1.00"):  # another amount than was asked is never booked
            told = notices.at_stand_in(self.office, self.odalys, at.key, "approved", Decimal(amount))
            self.assertEqual(told.state, "asked")
        self.assertEqual(load_case(self.office, self.odalys, reference).so_far.paid, Decimal("0.00"))
        listed = refunding.ledger(self.office, self.maud).not_placed
        self.assertEqual({(n.reference, n.why) for n in listed}, {(reference, "EUR 438.18 was asked")})
        notices.at_stand_in(self.office, self.odalys, at.key, "abandoned")
        for outcome in ("approved", "abandoned", "declined", "approved"):
            told = notices.at_stand_in(self.office, self.odalys, at.key, outcome)  # type: ignore[arg-type]
            self.assertEqual(told.state, "approved")
        loaded = load_case(self.office, self.odalys, reference)
        self.assertEqual((loaded.so_far.paid, loaded.assessment.state), (Decimal("438.18"), "Filed"))
        for wrong in ("0", "-1", "1.001"):
            again = paying.ask_payment(self.office, self.odalys, self.unpaid())
            with self.assertRaises(Invalid):
                notices.at_stand_in(self.office, self.odalys, again.key, "approved", Decimal(wrong))
        with self.assertRaises(NotAllowed):
            refunding.ledger(self.office, self.imre)

    def test_the_office_books_a_transfer_once(self) -> None:
        reference = self.unpaid()
        for _ in range(2):
            paying.take_money(self.office, self.imre, reference, Decimal("438.18"), "transfer", "TR 7781")
        loaded = load_case(self.office, self.odalys, reference)
        self.assertEqual((loaded.so_far.paid, loaded.assessment.state), (Decimal("438.18"), "Filed"))
        with self.assertRaises(Invalid):
            paying.take_money(self.office, self.imre, reference, Decimal("1.00"), "cheque", "")
        with self.assertRaises(NotAllowed):
            paying.take_money(self.office, self.odalys, reference, Decimal("1.00"), "cheque", "C 12")

    def test_prepaid_and_granted_only_the_levy_is_left_and_refused_it_comes_back(self) -> None:
        for grants in (True, False):
            self.move_to(2026, 11, 5)
            reference = self.unpaid()
            at = paying.ask_payment(self.office, self.odalys, reference, prepay=True)
            notices.at_stand_in(self.office, self.odalys, at.key, "approved")
            self.complete(reference)
            self.assertEqual(load_case(self.office, self.odalys, reference).assessment.account.prepaid, Decimal("489.50"))
            self.fee_stands(reference)
            reviewing.hand_over(self.office, self.imre, reference, "silas")
            if grants:
                done = reviewing.grant(self.office, self.silas, reference)
                self.assertEqual(done.assessment.account.open, Decimal("2.00"))
                self.move_to(2026, 11, 9)
                paying.take_money(self.office, self.imre, reference, Decimal("2.00"), "cheque", "C 9")
                self.fee_stands(reference)
            else:
                done = reviewing.refuse(self.office, self.silas, reference, "No.  It cannot be.")
                self.assertEqual(done.so_far.paid, Decimal("438.18"))

    def fee_stands(self, reference: str) -> None:
        """The fee at filing stays as it was judged; money for the issue is not spoken of as paid too much."""
        fee = load_case(self.office, self.imre, reference).assessment.requirement("fee.at_filing")
        assert fee is not None
        self.assertTrue(fee.judged)
        self.assertEqual(fee.because, "EUR 438.18 paid, EUR 438.18 due.")

    def test_a_short_prepayment_is_not_booked_and_a_whole_one_is_kept_for_its_stage(self) -> None:
        reference = self.unpaid()
        at = paying.ask_payment(self.office, self.odalys, reference, prepay=True)
        notices.at_stand_in(self.office, self.odalys, at.key, "approved", Decimal("500.00"))
        loaded = load_case(self.office, self.odalys, reference)
        self.assertEqual((loaded.assessment.state, loaded.so_far.paid), ("Waiting for payment", Decimal("0.00")))
        notices.at_stand_in(self.office, self.odalys, at.key, "approved")
        loaded = load_case(self.office, self.odalys, reference)
        self.assertEqual((loaded.assessment.state, loaded.so_far.prepaid), ("Filed", Decimal("489.50")))


class Talking(Endings):
    def test_messages_both_ways_with_files_and_who_read_them(self) -> None:
        reference = self.paid()
        checking.begin_checking(self.office, self.imre, reference)
        talking.write(self.office, self.odalys, reference, "May I send the plan on paper?", [("<b>sketch</b>.png", b"\x89PNG")])
        self.move_to(2026, 11, 5, 11)
        view = look_at(self.office, self.imre, reference)
        self.assertEqual([(m.office, m.text) for m in view.messages], [(False, "May I send the plan on paper?")])
        self.assertEqual(view.messages[0].files[0].name, "b>.png")
        self.assertIsNone(look_at(self.office, self.odalys, reference).messages[0].read_at)
        opened(self.office, self.imre, reference)  # opening the case is not reading: the messages were not before the eyes
        self.assertIsNone(look_at(self.office, self.odalys, reference).messages[0].read_at)
        talking.read_talk(self.office, self.imre, reference)
        self.assertIsNotNone(look_at(self.office, self.odalys, reference).messages[0].read_at)
        talking.write(self.office, self.imre, reference, "Yes.")
        self.assertIsNone(look_at(self.office, self.imre, reference).messages[1].read_at)
        # the applicant's first page names it until the case was opened; one's own message waits for nobody
        told = talking.unread(self.office, self.odalys)
        self.assertEqual([(m.reference, m.who) for m in told], [(reference, "Imre Holt")])
        self.assertEqual(talking.unread(self.office, self.tamsin), ())
        self.move_to(2026, 11, 5, 12)
        opened(self.office, self.odalys, reference)
        self.assertEqual(talking.unread(self.office, self.odalys), ())
        for who, error in ((self.anselm, NotAllowed), (self.tamsin, NotFound)):
            with self.assertRaises(error):
                talking.write(self.office, who, reference, "Hello")
        with self.assertRaises(Invalid):
            talking.write(self.office, self.odalys, reference, "  ")

    def test_a_note_is_the_offices_alone(self) -> None:
        reference = self.paid()
        talking.note(self.office, self.imre, reference, "Looks like the last one.")
        self.assertEqual([n.text for n in look_at(self.office, self.imre, reference).notes], ["Looks like the last one."])
        own = look_at(self.office, self.odalys, reference)
        self.assertEqual(own.notes, ())
        self.assertFalse(any("last one" in m.text for m in own.story))
        for who in (self.odalys, self.anselm):
            with self.assertRaises(NotAllowed):
                talking.note(self.office, who, reference, "No")

    def test_answers_after_a_lapse_are_refused(self) -> None:
        reference = self.asked()
        draft = answering.begin_answering(self.office, self.odalys, reference)
        drafts.keep(self.office, self.odalys, draft, None, words={1: "Here."})
        self.move_to(2026, 12, 15, 1)
        run_clock(self.office)
        with self.assertRaises(NotReady) as caught:
            signing.sign(self.office, self.odalys, draft, self.odalys.name)
            answering.send_answers(self.office, self.odalys, draft)
        self.assertIn("Lapsed", caught.exception.detail)
