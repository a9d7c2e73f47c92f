"""A step is ready for a short time before it leaves: taken back, sent at once, fallen, or gone at the instant that was told."""

from __future__ import annotations

from datetime import UTC, timedelta
from decimal import Decimal

from sqlalchemy import select

from jolly_clerk.core.history import LetterSent, StepTakenBack
from jolly_clerk.office.cases import endings, notices, paying
from jolly_clerk.office.cases.casework import Loaded, load_case
from jolly_clerk.office.cases.clock_job import run_clock
from jolly_clerk.office.cases.leaving import before_it_leaves, leaving, send_step_now, take_step_back
from jolly_clerk.office.desk import checking, reviewing, talking
from jolly_clerk.office.errors import Leaving, NotAllowed, NotFound, NotReady
from jolly_clerk.office.keeping.verifying import rebuild, verify
from jolly_clerk.office.office import open_office
from jolly_clerk.office.people.directory import add_person
from jolly_clerk.office.preparing import filing
from jolly_clerk.office.views.case import look_at
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Outgoing
from tests.helpers import at
from tests.office.test_journey import SMALL_PLAN, Cases


class BeforeItLeaves(Cases):
    def setUp(self) -> None:
        super().setUp()
        self.office.settings.letter_waits, self.office.settings.step_waits = 600, 60
        self.silas = add_person(self.office, "silas", "Silas Thorne", "reviewer")
        self.reference = filing.file(self.office, self.odalys, self.draft(plan=SMALL_PLAN), take_gaps=True)
        self.second_window = paying.ask_payment(self.office, self.odalys, self.reference).key
        self.pay(self.reference)
        self.move_to(2026, 11, 6)
        checking.begin_checking(self.office, self.imre, self.reference)
        checking.judge(self.office, self.imre, self.reference, "documents.site_plan", "wanting")

    def tearDown(self) -> None:
        self.assertEqual(list(verify(self.office)), [])
        self.assertEqual(rebuild(self.office), 0)

    def letter(self) -> Loaded:
        return before_it_leaves(
            self.office, self.imre, self.reference, "send the letter", "",
            lambda then: checking.send_letter(then, self.imre, self.reference),
        )  # fmt: skip

    def accept(self) -> Loaded:
        for r in load_case(self.office, self.imre, self.reference).assessment.requirements:
            if (r.asked and not r.judged) or r.standing == "wanting":
                checking.judge(self.office, self.imre, self.reference, r.id, "met", "Looked at by hand.")
        return before_it_leaves(
            self.office, self.imre, self.reference, "accept as complete", "",
            lambda then: checking.accept(then, self.imre, self.reference),
        )  # fmt: skip

    def step(self) -> int:
        return leaving(self.office, self.imre, load_case(self.office, self.imre, self.reference))[0].id

    def state(self) -> str:
        return load_case(self.office, self.imre, self.reference).assessment.state

    def mails(self) -> list[str]:
        with read_session(self.office.engine) as session:
            return [key for key in session.scalars(select(Outgoing.key)) if "letter-1" in key or key.endswith("-complete")]

    def test_until_it_leaves_only_the_office_sees_it(self) -> None:
        before = load_case(self.office, self.imre, self.reference)
        done = self.letter()
        self.assertEqual((done.assessment.state, done.entries, self.mails()), ("Being checked", before.entries, []))
        seen = look_at(self.office, self.maud, self.reference).leaving
        self.assertEqual([s.says for s in seen], ["The letter leaves in 10 min, made ready by Imre Holt."])
        self.assertEqual(look_at(self.office, self.odalys, self.reference).leaving, ())
        self.instant += timedelta(minutes=9, seconds=30)
        self.assertIn("in less than a minute", look_at(self.office, self.imre, self.reference).leaving[0].says)

    def test_whoever_touches_the_case_first_lets_it_leave_at_its_instant(self) -> None:
        self.letter()
        told = self.instant + timedelta(minutes=10)
        self.instant += timedelta(minutes=37)
        now = look_at(self.office, self.odalys, self.reference)
        self.assertEqual((now.assessment.state, now.leaving), ("Answers wanted", ()))
        sent = load_case(self.office, self.imre, self.reference).history.entries[-1]
        assert isinstance(sent, LetterSent)
        self.assertEqual(sent.at, told)
        self.assertEqual(self.mails(), [f"{self.reference}-letter-1"])

    def test_the_clock_job_lets_it_leave_after_a_crash(self) -> None:
        self.letter()
        self.instant += timedelta(hours=20)
        self.office.close()
        self.office = open_office(self.folder, now=lambda: self.instant, demo=True, database=self.url)
        run_clock(self.office)
        run_clock(self.office)
        entries = load_case(self.office, self.imre, self.reference).history.entries
        self.assertEqual([e.at for e in entries if isinstance(e, LetterSent)], [at(2026, 11, 6, 10, 10).astimezone(UTC)])
        self.assertEqual(self.mails(), [f"{self.reference}-letter-1"])

    def test_every_date_is_reckoned_from_the_instant_at_which_it_leaves(self) -> None:
        self.move_to(2026, 11, 6, 23, 55)
        self.letter()
        self.move_to(2026, 11, 7, 0, 30)
        sent = load_case(self.office, self.imre, self.reference).history.entries[-1]
        assert isinstance(sent, LetterSent)
        self.assertEqual((sent.at.astimezone(UTC), str(sent.due)), (at(2026, 11, 7, 0, 5).astimezone(UTC), "2026-12-07"))

    def test_taken_back_nothing_has_happened(self) -> None:
        self.letter()
        with self.assertRaises(NotAllowed):
            take_step_back(self.office, self.odalys, self.reference, self.step())
        step = self.step()
        take_step_back(self.office, self.maud, self.reference, step)
        with self.assertRaises(NotFound):
            take_step_back(self.office, self.imre, self.reference, step)
        with self.assertRaises(NotFound):
            send_step_now(self.office, self.imre, self.reference, step)
        self.instant += timedelta(hours=1)
        run_clock(self.office)
        self.assertEqual((self.state(), self.mails()), ("Being checked", []))
        story = look_at(self.office, self.imre, self.reference).story
        self.assertEqual(story[-1].text, "The letter was taken back by Maud Ferrier before it left")
        self.assertNotIn("taken back", str(look_at(self.office, self.odalys, self.reference).story))
        # and made ready again it leaves
        self.letter()
        self.instant += timedelta(minutes=11)
        self.assertEqual(self.state(), "Answers wanted")

    def test_sent_at_once_after_all(self) -> None:
        self.letter()
        self.assertEqual(send_step_now(self.office, self.imre, self.reference, self.step()).assessment.state, "Answers wanted")
        self.assertEqual(load_case(self.office, self.imre, self.reference).history.entries[-1].at, self.instant)
        self.assertEqual(self.mails(), [f"{self.reference}-letter-1"])
        self.instant += timedelta(minutes=11)
        run_clock(self.office)
        self.assertEqual(len(self.mails()), 1)

    def test_a_letter_of_tomorrow_is_not_sent_today(self) -> None:
        self.move_to(2026, 11, 6, 23, 55)
        self.letter()
        with self.assertRaises(NotReady):
            send_step_now(self.office, self.imre, self.reference, self.step())
        self.assertEqual(self.mails(), [])

    def test_an_officer_who_judges_meanwhile_is_asked_first(self) -> None:
        self.letter()
        step = self.step()
        with self.assertRaises(Leaving) as asked:
            checking.judge(self.office, self.maud, self.reference, "documents.site_plan", "in doubt")
        self.assertEqual(asked.exception.step, step)
        self.assertIn("The letter is ready and leaves soon.", str(asked.exception))
        with self.assertRaises(Leaving):
            self.letter()
        talking.note(self.office, self.maud, self.reference, "A note asks nobody.")
        take_step_back(self.office, self.maud, self.reference, step)
        checking.judge(self.office, self.maud, self.reference, "documents.site_plan", "in doubt")
        self.assertEqual(look_at(self.office, self.imre, self.reference).leaving, ())

    def test_it_falls_with_a_withdrawal_and_the_officer_is_told(self) -> None:
        self.letter()
        endings.withdraw(self.office, self.odalys, self.reference)
        self.instant += timedelta(hours=1)
        run_clock(self.office)
        loaded = load_case(self.office, self.imre, self.reference)
        self.assertEqual((loaded.assessment.state, self.mails()), ("Withdrawn", []))
        self.assertEqual(sum(isinstance(e, StepTakenBack) for e in loaded.history.entries), 1)
        told = look_at(self.office, self.imre, self.reference).story[-1]
        self.assertEqual((told.inner, told.text), (True, "The letter did not leave: the case was changed before by Odalys Renn"))

    def test_a_message_lets_a_letter_leave(self) -> None:
        self.letter()
        talking.write(self.office, self.odalys, self.reference, "How does it stand?")
        self.instant += timedelta(minutes=10)
        self.assertEqual(self.state(), "Answers wanted")

    def test_an_acceptance_and_a_hand_over_wait_a_minute(self) -> None:
        self.assertEqual(self.accept().assessment.state, "Being checked")
        self.instant += timedelta(seconds=61)
        self.assertEqual((self.state(), self.mails()), ("Complete", [f"{self.reference}-complete"]))
        before_it_leaves(
            self.office, self.imre, self.reference, "hand over", "",
            lambda then: reviewing.hand_over(then, self.imre, self.reference, "silas"),
        )  # fmt: skip
        self.assertEqual(self.state(), "Complete")
        take_step_back(self.office, self.imre, self.reference, self.step())
        self.instant += timedelta(seconds=61)
        self.assertEqual(self.state(), "Complete")

    def test_an_office_that_lets_nothing_wait_does_it_at_once(self) -> None:
        self.office.settings.letter_waits = 0
        self.assertEqual(self.letter().assessment.state, "Answers wanted")

    def test_a_payment_that_comes_meanwhile_makes_an_acceptance_fall(self) -> None:
        self.accept()
        notices.at_stand_in(self.office, self.odalys, self.second_window, "approved")
        self.instant += timedelta(seconds=61)
        self.assertEqual((self.state(), self.mails()), ("Being checked", []))
        self.assertIn("The acceptance did not leave", look_at(self.office, self.imre, self.reference).story[-1].text)
        self.accept()
        self.instant += timedelta(seconds=61)
        self.assertEqual(self.state(), "Complete")
        back = [e.amount for e in load_case(self.office, self.imre, self.reference).history.entries if e.what == "refund due"]
        self.assertEqual(back, [Decimal("438.18")])
