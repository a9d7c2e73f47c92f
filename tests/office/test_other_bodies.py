"""T6: another body holds a case for a while; and a printed letter is ticked as posted. Run through the office and by the clock job."""

from __future__ import annotations

from datetime import date

from jolly_clerk.core import history as h
from jolly_clerk.core.time.running import Pause, merged
from jolly_clerk.office.cases import lists
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.cases.clock_job import run_clock
from jolly_clerk.office.desk import checking, handwork, inquiring, reviewing
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady
from jolly_clerk.office.keeping.verifying import rebuild, verify
from jolly_clerk.office.post import papers
from jolly_clerk.office.views.case import case_view
from tests.helpers import at
from tests.office.test_clock_shapes import Shapes
from tests.office.test_journey import text_of

OTHER = 'within: 20 days, article: "38"'
BY_POST = 'within: 30 days, printed: {when: case.today == case.today, received: 3 working days, article: "41(3)"}, article: "35"'


class Waiting(Shapes):
    def rows(self) -> list[lists.Row]:
        found = lists.tray(self.office, self.imre, "everyone's")
        return [row for group in found.groups for row in group.rows]


class Bodies(Waiting):
    def asked(self, **periods: str) -> str:
        """A case that is being checked, about which another body was asked on Mon 9 Nov; four of ten working days had gone by then."""
        self.published(**{"other_body": OTHER, **periods})
        reference = self.paid()
        self.move_to(2026, 11, 6, 9)
        checking.begin_checking(self.office, self.imre, reference)
        self.move_to(2026, 11, 11, 10)
        inquiring.ask_body(self.office, self.imre, reference, "  Harbour  Board ", "May a boat lie there?")
        return reference

    def held(self, reference: str) -> list[str]:
        return [d.holder for d in self.clock(reference).ribbon if not d.to_come]

    def test_the_office_stands_still_until_the_answer(self) -> None:
        reference = self.asked()
        clock = self.clock(reference)
        self.assertEqual((clock.holder, clock.step, clock.limit_day), ("a third party's", "other body", date(2026, 12, 1)))
        self.assertEqual(
            (clock.said, clock.short, clock.paused_left), ("with Harbour Board until the end of Tue 1 Dec", "20 days left", 7)
        )
        self.assertEqual(clock.why[0], "Harbour Board was asked on Wed 11 Nov and has until the end of Tue 1 Dec.")
        self.assertEqual(load_case(self.office, self.imre, reference).assessment.next_officer, "An answer of Harbour Board")
        self.assertEqual(self.rows()[0].time_left.words, "another body's, 20 days left")
        self.move_to(2026, 11, 19, 11)
        inquiring.body_answered(self.office, self.imre, reference, 1, "It may.")
        clock = self.clock(reference)
        # used before: 6, 9, 10 Nov; 11 to 19 Nov nobody's; seven working days from 20 Nov
        self.assertEqual((clock.holder, clock.used, clock.limit_day), ("ours", 3, date(2026, 11, 30)))
        self.assertIn("The clock stood still from Wed 11 Nov to Thu 19 Nov.", clock.why)
        self.assertEqual(self.held(reference), ["ours"] * 6 + ["a third party's"] * 8 + ["ours"])
        story = [m.text for m in case_view(self.office, self.imre, load_case(self.office, self.imre, reference)).story]
        self.assertIn("Imre Holt asked Harbour Board; the answer is due Tue 1 Dec", story)
        self.assertIn("An answer of another body came: It may.", story)

    def test_without_an_answer_the_office_goes_on_at_the_end_of_its_time(self) -> None:
        reference = self.asked()
        self.move_to(2026, 12, 1, 23, 59)
        run_clock(self.office)
        self.assertEqual(self.clock(reference).holder, "a third party's")
        self.move_to(2026, 12, 2, 0)
        run_clock(self.office)
        loaded = load_case(self.office, self.imre, reference)
        self.assertIsInstance(loaded.history.entries[-1], h.BodyAnswered)
        self.assertEqual((self.clock(reference).holder, self.clock(reference).limit_day), ("ours", date(2026, 12, 10)))
        (row,) = self.rows()
        self.assertEqual((row.holder, row.limit_day), ("ours", date(2026, 12, 10)))
        with self.assertRaises(NotReady):
            inquiring.body_answered(self.office, self.imre, reference, 1, "Too late.")

    def test_it_does_not_stand_still_where_the_edition_says_so(self) -> None:
        reference = self.asked(other_body=f"pauses: false, {OTHER}")
        self.assertEqual((self.clock(reference).holder, self.clock(reference).limit_day), ("ours", date(2026, 11, 19)))

    def test_a_letter_while_it_is_out_is_the_applicants(self) -> None:
        reference = self.asked()
        checking.judge(self.office, self.imre, reference, "documents.site_plan", "wanting")
        self.move_to(2026, 11, 16, 10)
        checking.send_letter(self.office, self.imre, reference)
        self.assertEqual(self.held(reference)[-2:], ["a third party's", "theirs"])
        self.move_to(2026, 11, 20, 10)
        inquiring_answer = load_case(self.office, self.imre, reference).assessment.move("officer", "another body answered")
        self.assertFalse(inquiring_answer.allowed)  # the letter has the case; its answers come first
        self.assertEqual(self.clock(reference).step, "answers")

    def test_a_reviewer_asks_while_deciding(self) -> None:
        self.published(other_body=OTHER)
        reference = self.under_review()
        before = self.clock(reference)
        self.move_to(2026, 11, 12, 10)
        inquiring.ask_body(self.office, self.silas, reference, "Fire Service", "Is the stair wide enough?")
        self.assertEqual(self.clock(reference).step, "other body")
        self.move_to(2026, 11, 16, 10)
        inquiring.body_answered(self.office, self.silas, reference, 1, "It is.")
        after = self.clock(reference)
        assert before.limit_day and after.limit_day
        calendar = load_case(self.office, self.imre, reference).known.calendar
        self.assertEqual(after.limit_day, calendar.add_working_days(before.limit_day, 3))  # 12, 13 and 16 Nov were nobody's
        reviewing.grant(self.office, self.silas, reference, "")

    def test_the_letter_goes_to_the_body(self) -> None:
        reference = self.asked()
        loaded = load_case(self.office, self.imre, reference)
        name, pdf = papers.paper(self.office, loaded, loaded.entries)
        text = text_of(pdf)
        self.assertEqual(name, f"{reference}-inquiry-1.pdf")
        for told in ("Harbour Board", "May a boat lie there?", "Please answer by Tue 1 Dec 2026"):
            self.assertIn(told, text)

    def test_bad_questions(self) -> None:
        reference = self.asked()
        with self.assertRaises(Invalid):
            inquiring.ask_body(self.office, self.imre, reference, "x", "What?")
        with self.assertRaises(Invalid):
            inquiring.ask_body(self.office, self.imre, reference, "Fire Service", " ")
        with self.assertRaises(NotFound):
            inquiring.body_answered(self.office, self.imre, reference, 2, "It may.")
        with self.assertRaises(NotAllowed):
            inquiring.ask_body(self.office, self.odalys, reference, "Fire Service", "Is it?")
        self.published()
        other = self.paid()
        checking.begin_checking(self.office, self.imre, other)
        with self.assertRaises(NotReady) as caught:
            inquiring.ask_body(self.office, self.imre, other, "Fire Service", "Is it?")
        self.assertEqual(str(caught.exception), "This kind asks no other body.")

    def test_it_verifies_and_is_rebuilt(self) -> None:
        self.asked()
        self.assertEqual(list(verify(self.office)), [])
        self.assertEqual(rebuild(self.office), 0)

    def test_stretches_that_meet_count_once(self) -> None:
        one, two = Pause(at(2026, 11, 5), at(2026, 11, 9)), Pause(at(2026, 11, 7), at(2026, 11, 12))
        self.assertEqual(merged([two, one]), [Pause(at(2026, 11, 5), at(2026, 11, 12))])
        self.assertEqual(merged([one, Pause(at(2026, 11, 6), None)]), [Pause(at(2026, 11, 5), None)])
        self.assertEqual(len(merged([one, Pause(at(2026, 11, 10), at(2026, 11, 11))])), 2)


class Posted(Waiting):
    def printed(self) -> str:
        """A letter by post that left on Thu 12 Nov after the office's end, so that it counts as posted on Fri 13 Nov."""
        self.published(answers=BY_POST)
        reference = self.paid()
        self.move_to(2026, 11, 12, 17)
        self.letter(reference)
        return reference

    def told(self, reference: str) -> str:
        return load_case(self.office, self.imre, reference).assessment.next_officer

    def test_ticked_on_its_day_nothing_is_said(self) -> None:
        reference = self.printed()
        self.move_to(2026, 11, 13, 15)
        self.assertEqual(self.told(reference), "Answers to 1 point")
        inquiring.letter_posted(self.office, self.imre, reference)
        self.move_to(2026, 11, 16, 8)
        self.assertEqual(self.told(reference), "Answers to 1 point")
        with self.assertRaises(NotReady):
            inquiring.letter_posted(self.office, self.imre, reference)

    def test_not_ticked_by_the_end_of_its_day_the_officer_is_told(self) -> None:
        reference = self.printed()
        self.move_to(2026, 11, 14, 0)
        run_clock(self.office)
        run_clock(self.office)  # it is told once
        self.assertEqual(sum(e.what == "posting missed" for e in load_case(self.office, self.imre, reference).history.entries), 1)
        self.assertEqual(self.told(reference), "The letter of Fri 13 Nov 2026 is not ticked as posted")
        (row,) = self.rows()
        self.assertEqual(row.next, "The letter of Fri 13 Nov 2026 is not ticked as posted")
        # one that left later is written anew, as one that came back
        self.move_to(2026, 11, 17, 10)
        handwork.letter_came_back(self.office, self.imre, reference)
        handwork.send_again(self.office, self.imre, reference)
        found = load_case(self.office, self.imre, reference).so_far.rounds[0]
        self.assertEqual((found.posted, found.received), (False, date(2026, 11, 20)))
        inquiring.letter_posted(self.office, self.imre, reference)
        self.assertTrue(load_case(self.office, self.imre, reference).so_far.rounds[0].posted)

    def test_a_letter_by_mail_is_not_posted(self) -> None:
        self.published()
        reference = self.paid()
        self.letter(reference)
        with self.assertRaises(NotReady) as caught:
            inquiring.letter_posted(self.office, self.imre, reference)
        self.assertEqual(str(caught.exception), "The letters of this case do not go by post.")
