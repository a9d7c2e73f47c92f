"""Every way in which a case ends or goes back, with its letter, its money, and what is refused afterwards."""

from __future__ import annotations

from decimal import Decimal

from sqlalchemy import select

from jolly_clerk.core.fees.account import Refund
from jolly_clerk.core.in_words import money
from jolly_clerk.core.states import FINAL
from jolly_clerk.office.cases import endings, notices, paying
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.cases.clock_job import run_clock
from jolly_clerk.office.cases.lists import my_cases
from jolly_clerk.office.desk import checking, handwork, reviewing
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady
from jolly_clerk.office.keeping.verifying import rebuild, verify
from jolly_clerk.office.people.directory import add_person
from jolly_clerk.office.post import papers
from jolly_clerk.office.preparing import drafts, filing, signing
from jolly_clerk.office.views.case import case_view
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Outgoing
from tests.office.test_journey import Cases, text_of


class Endings(Cases):
    def setUp(self) -> None:
        super().setUp()
        self.silas = add_person(self.office, "silas", "Silas Thorne", "reviewer")
        self.other = add_person(self.office, "rowan", "Rowan Sedge", "reviewer")

    def tearDown(self) -> None:
        self.assertEqual(list(verify(self.office)), [])
        self.assertEqual(rebuild(self.office), 0)

    def paid(self, **changes: object) -> str:
        return self.filed(**changes)

    def unpaid(self, **changes: object) -> str:
        return filing.file(self.office, self.odalys, self.draft(**changes), take_gaps=True)  # type: ignore[arg-type]

    def met(self, reference: str) -> None:
        for r in load_case(self.office, self.imre, reference).assessment.requirements:
            if r.asked and not r.judged:
                checking.judge(self.office, self.imre, reference, r.id, "met", "Looked at by hand.")

    def complete(self, reference: str) -> None:
        self.move_to(2026, 11, 6)
        checking.begin_checking(self.office, self.imre, reference)
        self.met(reference)
        checking.accept(self.office, self.imre, reference)

    def under_review(self) -> str:
        reference = self.paid()
        self.complete(reference)
        handwork_to = reviewing.hand_over(self.office, self.imre, reference, "silas")
        self.assertEqual(handwork_to.assessment.state, "Under review")
        return reference

    def asked(self) -> str:
        reference = self.paid()
        self.move_to(2026, 11, 6)
        checking.begin_checking(self.office, self.imre, reference)
        checking.judge(self.office, self.imre, reference, "documents.sections", "wanting")
        self.move_to(2026, 11, 12)
        checking.send_letter(self.office, self.imre, reference)
        return reference

    def refund(self, reference: str, ending: str = "withdrawn") -> Refund:
        found = load_case(self.office, self.odalys, reference).assessment.refunds
        return next(r for r in found if r.ending == ending)

    def assert_final(self, reference: str, state: str) -> None:
        """Nobody can do anything more that matters, but for a lead who reopens what the office ended; each refusal says why."""
        loaded = load_case(self.office, self.imre, reference)
        self.assertEqual(loaded.assessment.state, state)
        self.assertIn(state, FINAL)
        for move in loaded.assessment.moves:
            if move.move not in ("write", "note", "take money", "charge back", "pay"):
                self.assertEqual(move.allowed, move.move == "reopen" and state not in ("Withdrawn", "Granted"), move)
                self.assertTrue(move.allowed or move.why_not[0].text)
        with self.assertRaises((NotReady, NotAllowed)):
            endings.withdraw(self.office, self.odalys, reference)
        with self.assertRaises((NotReady, NotAllowed)):
            checking.begin_checking(self.office, self.imre, reference)

    def decision(self, reference: str, what: str) -> str:
        entries = load_case(self.office, self.imre, reference).history.entries
        no = next(n for n, e in enumerate(entries, 1) if e.what == what)
        return text_of(papers.paper(self.office, load_case(self.office, self.imre, reference), no)[1])


class GoingBack(Endings):
    def mail(self, key: str) -> str:
        """The words of a mail that went out."""
        text = (self.office.post_room.folder / f"{key}.eml").read_text("utf-8")
        return " ".join(text.replace("=\n", "").replace("=20", " ").split())

    def test_withdrawn_before_checking_the_shares_come_back(self) -> None:
        reference = self.unpaid(works_distance="18", works_estimate="38176.50", works_area="0.1")
        at = paying.ask_payment(self.office, self.odalys, reference, prepay=True)
        self.assertEqual(at.amount, Decimal("846.00"))
        notices.at_stand_in(self.office, self.odalys, at.key, "approved")
        back = self.refund(reference)
        self.assertEqual((back.total, back.prepaid, back.kept), (Decimal("764.80"), Decimal("440.00"), Decimal("81.20")))
        self.assertEqual(next(line.working for line in back.lines), "80 % of 286.00 = 228.80")
        done = endings.withdraw(self.office, self.odalys, reference, "We move.")
        self.assertEqual(done.so_far.paid, Decimal("81.20"))
        self.assertEqual(done.assessment.account.prepaid, Decimal("0.00"))
        self.assertIn("EUR 764.80 is paid back", self.decision(reference, "withdrawn").replace("\u00a0", " "))
        self.assert_final(reference, "Withdrawn")

    def test_withdrawn_after_checking_only_what_was_prepaid(self) -> None:
        reference = self.paid()
        checking.begin_checking(self.office, self.imre, reference)
        self.assertEqual(self.refund(reference).total, Decimal("0.00"))
        done = endings.withdraw(self.office, self.odalys, reference)
        self.assertFalse(any(e.what == "refund due" for e in done.history.entries))

    def test_only_the_applicant_withdraws(self) -> None:
        reference = self.paid()
        with self.assertRaises(NotAllowed):
            endings.withdraw(self.office, self.imre, reference)
        with self.assertRaises(NotFound):
            endings.withdraw(self.office, self.tamsin, reference)

    def test_taken_back_mended_and_filed_again_under_its_reference(self) -> None:
        reference = self.paid()
        with self.assertRaises(Invalid):
            endings.take_back(self.office, self.odalys, reference, " ")
        draft = endings.take_back(self.office, self.odalys, reference, "The area is wrong.")
        view = drafts.open_draft(self.office, self.odalys, draft)
        self.assertEqual(view.assessment.state, "Draft")
        # it stands once among the own ones: as what is prepared
        self.assertEqual([d.draft.id for d in drafts.drafts_of(self.office, self.odalys)], [draft])
        self.assertEqual([row.reference for at in my_cases(self.office, self.odalys) for row in at.rows], [])
        answers = {**view.dossier.answers, "works": {**view.dossier.answers["works"], "area": "110"}}
        drafts.keep(self.office, self.odalys, draft, None, answers=answers)
        with self.assertRaises(NotReady):  # the area was signed otherwise
            filing.file(self.office, self.odalys, draft, take_gaps=True)
        signing.sign(self.office, self.odalys, draft, "Odalys Renn")
        self.assertEqual(filing.file(self.office, self.odalys, draft, take_gaps=True), reference)
        again = load_case(self.office, self.odalys, reference)
        self.assertIn(f"Pay {money(again.assessment.account.open, 'EUR')} by the end of", self.mail(f"{reference}-filed-2"))
        self.assertEqual((again.assessment.version, again.assessment.state), (2, "Waiting for payment"))
        self.assertEqual(again.assessment.account.paid, Decimal("438.18"))
        self.pay(reference)
        self.assertEqual(load_case(self.office, self.odalys, reference).assessment.state, "Filed")

    def test_filed_again_for_less_the_money_on_the_account_covers_it(self) -> None:
        reference = self.paid()
        draft = endings.take_back(self.office, self.odalys, reference, "Smaller.")
        dossier = drafts.open_draft(self.office, self.odalys, draft).dossier
        smaller = {**dossier.answers, "works": {**dossier.answers["works"], "distance": "80"}}
        drafts.keep(self.office, self.odalys, draft, None, answers=smaller)
        signing.sign(self.office, self.odalys, draft, "Odalys Renn")
        filing.file(self.office, self.odalys, draft, take_gaps=True)
        account = load_case(self.office, self.odalys, reference).assessment.account
        self.assertEqual((account.open, account.over), (Decimal("0.00"), Decimal("120.00")))
        self.assertIn("Nothing is due now. The office begins to check it.", self.mail(f"{reference}-filed-2"))

    def test_not_taken_back_once_checking_began(self) -> None:
        reference = self.paid()
        checking.begin_checking(self.office, self.imre, reference)
        with self.assertRaises(NotReady):
            endings.take_back(self.office, self.odalys, reference, "Too late.")

    def test_withdrawn_while_taken_back_leaves_no_draft(self) -> None:
        reference = self.paid()
        endings.take_back(self.office, self.odalys, reference, "Perhaps not.")
        endings.withdraw(self.office, self.odalys, reference)
        self.assertEqual(drafts.drafts_of(self.office, self.odalys), [])
        self.assert_final(reference, "Withdrawn")


class ByTheOffice(Endings):
    def test_not_accepted_needs_grounds_and_keeps_the_fee(self) -> None:
        reference = self.paid()
        with self.assertRaises(NotReady):
            endings.do_not_accept(self.office, self.imre, reference, "Too early.")
        checking.begin_checking(self.office, self.imre, reference)
        with self.assertRaises(Invalid):
            endings.do_not_accept(self.office, self.imre, reference, "")
        with self.assertRaises(NotAllowed):
            endings.do_not_accept(self.office, self.odalys, reference, "No.")
        done = endings.do_not_accept(self.office, self.imre, reference, "The loads cannot be checked.")
        self.assertEqual(done.so_far.paid, Decimal("438.18"))
        self.assertIn("The loads cannot be checked.", self.decision(reference, "not accepted"))
        self.assert_final(reference, "Not accepted")

    def test_out_of_scope_keeps_a_small_fee_and_never_more_than_was_paid(self) -> None:
        reference = self.paid()
        done = endings.put_out_of_scope(self.office, self.imre, reference, "The harbour master decides.")
        self.assertEqual(done.so_far.paid, Decimal("45.00"))
        self.assert_final(reference, "Out of scope")

    def test_lapsed_unpaid_by_the_clock_job_after_one_reminder(self) -> None:
        reference = self.unpaid()
        self.move_to(2026, 11, 11, 23)
        self.assertEqual(run_clock(self.office).reminded, 0)
        self.move_to(2026, 11, 12, 8)
        self.assertEqual(run_clock(self.office).reminded, 1)
        self.assertEqual(run_clock(self.office).reminded, 0)
        self.move_to(2026, 11, 19, 23, 59)
        self.assertEqual(run_clock(self.office).lapsed, 0)
        self.move_to(2026, 11, 20, 0)
        self.assertEqual(run_clock(self.office).lapsed, 1)
        self.assertIn("was to be paid by the end of Thu 19 Nov", self.decision(reference, "lapsed"))
        self.assert_final(reference, "Lapsed")
        self.assertEqual(run_clock(self.office).lapsed, 0)

    def test_lapsed_unanswered_reminded_twice(self) -> None:
        reference = self.asked()
        reminded = []
        for day in range(1, 15):
            self.move_to(2026, 12, day, 9)
            reminded += [day] * run_clock(self.office).reminded
        self.assertEqual(reminded, [7, 12])
        self.move_to(2026, 12, 15, 0)
        self.assertEqual(run_clock(self.office).lapsed, 1)
        self.assert_final(reference, "Lapsed")

    def test_lapsed_half_paid_the_half_comes_back(self) -> None:
        reference = self.unpaid()
        paying.take_money(self.office, self.imre, reference, Decimal("100.00"), "cheque", "C 100")
        self.move_to(2026, 11, 20, 1)
        run_clock(self.office)
        done = load_case(self.office, self.odalys, reference)
        self.assertEqual((done.assessment.state, done.so_far.paid), ("Lapsed", Decimal("0.00")))
        self.assertIn("EUR 338.18 was to be paid", self.decision(reference, "lapsed").replace("\u00a0", " "))

    def test_withdrawn_half_paid_the_share_of_the_half_comes_back(self) -> None:
        reference = self.unpaid()
        paying.take_money(self.office, self.imre, reference, Decimal("400.00"), "cheque", "C 400")
        back = self.refund(reference)
        self.assertEqual([line.working for line in back.lines], ["80 % of 318.18 = 254.54", "80 % of 81.82 = 65.46"])
        self.assertEqual(endings.withdraw(self.office, self.odalys, reference).so_far.paid, Decimal("80.00"))

    def test_not_accepted_gives_back_what_was_prepaid_and_paid_twice(self) -> None:
        reference = self.unpaid()
        at = paying.ask_payment(self.office, self.odalys, reference, prepay=True)
        notices.at_stand_in(self.office, self.odalys, at.key, "approved")
        paying.take_money(self.office, self.maud, reference, Decimal("438.18"), "transfer", "TR 100")
        checking.begin_checking(self.office, self.imre, reference)
        done = endings.do_not_accept(self.office, self.imre, reference, "The loads cannot be checked.")
        self.assertEqual((done.so_far.paid, done.so_far.prepaid), (Decimal("438.18"), Decimal("0.00")))

    def test_an_office_that_was_shut_reminds_once_and_not_for_each_day_missed(self) -> None:
        self.asked()
        self.move_to(2026, 12, 13, 9)
        self.assertEqual(run_clock(self.office).reminded, 1)
        self.assertEqual(run_clock(self.office).reminded, 0)

    def test_a_letter_that_came_back_does_not_let_a_case_lapse(self) -> None:
        reference = self.asked()
        self.move_to(2026, 11, 18)
        handwork.letter_came_back(self.office, self.imre, reference)
        self.assertEqual(load_case(self.office, self.imre, reference).assessment.state, "Being checked")
        self.move_to(2026, 12, 20)
        self.assertEqual(run_clock(self.office).lapsed, 0)
        done = handwork.send_again(self.office, self.imre, reference)
        self.assertEqual(done.assessment.state, "Answers wanted")
        self.assertEqual(str(done.so_far.rounds[0].due), "2027-01-19")
        with self.assertRaises(NotReady):
            handwork.send_again(self.office, self.imre, reference)

    def test_a_letter_sent_again_is_written_anew(self) -> None:
        reference = self.asked()
        first = papers.paper(self.office, load_case(self.office, self.odalys, reference), self.entry(reference, "letter sent"))
        self.move_to(2026, 12, 20)
        handwork.letter_came_back(self.office, self.imre, reference)
        done = handwork.send_again(self.office, self.imre, reference)
        no = self.entry(reference, "letter sent again")
        name, pdf = papers.paper(self.office, done, no)
        self.assertEqual(name, f"{reference}-letter-1-again.pdf")
        told, before = text_of(pdf), text_of(first[1])
        for words in ("Sun 20 Dec 2026", "We sent you this letter on Thu 12 Nov 2026. It came back to us.", "Tue 19 Jan 2027"):
            self.assertIn(words, told)
            self.assertNotIn(words, before)
        self.assertNotIn("Mon 14 Dec 2026", told)
        for point in done.so_far.rounds[0].points.values():
            self.assertIn(point.asked.title, told)
        with read_session(self.office.engine) as session:
            out = list(session.scalars(select(Outgoing).where(Outgoing.key.like("%again%"))))
        self.assertEqual([o.pdf_sha256 for o in out], [done.history.entries[no - 1].letter_sha256])
        papers_of = {m.no: m.paper for m in case_view(self.office, self.odalys, done).story}
        self.assertEqual(papers_of[no], "letter")

    def entry(self, reference: str, what: str) -> int:
        entries = load_case(self.office, self.imre, reference).history.entries
        return next(no for no, e in enumerate(entries, 1) if e.what == what)

    def test_more_time_once(self) -> None:
        reference = self.asked()
        done = handwork.more_time(self.office, self.odalys, reference)
        self.assertEqual(str(done.so_far.rounds[0].due), "2026-12-28")
        for who in (self.odalys, self.imre):
            with self.assertRaises(NotReady) as caught:
                handwork.more_time(self.office, who, reference)
            self.assertIn("once only", caught.exception.detail)


class Review(Endings):
    def test_granted_the_fee_at_issue_then_the_permit(self) -> None:
        reference = self.under_review()
        with self.assertRaises(NotAllowed):
            reviewing.grant(self.office, self.other, reference)
        with self.assertRaises(NotAllowed):
            reviewing.grant(self.office, self.imre, reference)
        granted = reviewing.grant(self.office, self.silas, reference, "Begin within two years.")
        self.assertEqual((granted.assessment.state, granted.assessment.account.open), ("Granted", Decimal("491.50")))
        self.assertEqual(granted.assessment.clock.holder if granted.assessment.clock else "", "theirs")
        self.assertIsNone(granted.so_far.issued)
        self.pay(reference)
        issued = load_case(self.office, self.odalys, reference)
        assert issued.so_far.issued
        code = issued.so_far.issued.code
        self.assertRegex(code, r"^([A-HJ-NPR-Z2-9]{4}-){3}[A-HJ-NPR-Z2-9]{4}$")
        said = self.decision(reference, "permit issued")
        for words in ("Building works permit", code, "Begin within two years.", "4 Saltern Slip", "New workshop roof"):
            self.assertIn(words, said)
        public = reviewing.check_permit(self.office, code.lower())
        self.assertEqual((public.reference, public.state), (reference, "Granted"))
        self.assertEqual({s.label for s in public.says}, {"Where are the works?", "What will you build or change?"})
        with self.assertRaises(NotFound):
            reviewing.check_permit(self.office, code[:-1] + ("A" if code[-1] != "A" else "B"))
        self.assert_final(reference, "Granted")

    def test_refused_needs_grounds(self) -> None:
        reference = self.under_review()
        with self.assertRaises(Invalid):
            reviewing.refuse(self.office, self.silas, reference, "")
        reviewing.refuse(self.office, self.silas, reference, "It stands below the flood line.")
        self.assertIn("below the flood line", self.decision(reference, "refused"))
        self.assert_final(reference, "Refused")

    def test_handed_over_only_when_complete_and_only_to_a_reviewer(self) -> None:
        reference = self.paid()
        with self.assertRaises(NotReady):
            reviewing.hand_over(self.office, self.imre, reference, "silas")
        with self.assertRaises(NotFound):
            reviewing.hand_over(self.office, self.imre, reference, "maud")
