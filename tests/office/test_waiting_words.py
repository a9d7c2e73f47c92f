"""What waits for a word stands in the in-tray of whoever may give it, and is read only by those who may answer."""

from __future__ import annotations

from jolly_clerk.core.waiting_words import named_in
from jolly_clerk.office.cases import endings
from jolly_clerk.office.cases.leaving import before_it_leaves
from jolly_clerk.office.desk import checking, handwork, talking
from jolly_clerk.office.desk.waiting import words_for
from jolly_clerk.office.errors import NotAllowed
from jolly_clerk.office.office import Who
from jolly_clerk.office.people.directory import add_person
from jolly_clerk.office.views.case import look_at
from jolly_clerk.office.views.opened import opened
from jolly_clerk.store.database import read_session
from tests.office.test_journey import SMALL_PLAN, Cases


class WaitingWords(Cases):
    def setUp(self) -> None:
        super().setUp()
        self.brisa = add_person(self.office, "brisa", "Brisa Quay", "officer")
        self.reference = self.filed(plan=SMALL_PLAN)

    def waits(self, who: Who) -> list[tuple[str, str]]:
        with read_session(self.office.engine) as session:
            return [(w.what, w.who) for w in words_for(self.office, who, session) if w.reference == self.reference]

    def read(self) -> bool:
        return look_at(self.office, self.odalys, self.reference).messages[-1].read_at is not None

    def test_a_message_waits_for_whoever_has_the_case(self) -> None:
        talking.write(self.office, self.odalys, self.reference, "How long will it take?")
        self.assertEqual(self.waits(self.imre), [("message", "Odalys Renn")])  # nobody has it: everybody sees it
        self.assertEqual(self.waits(self.brisa), [("message", "Odalys Renn")])
        checking.begin_checking(self.office, self.imre, self.reference)
        self.assertEqual(self.waits(self.imre), [("message", "Odalys Renn")])
        self.assertEqual((self.waits(self.brisa), self.waits(self.anselm), self.waits(self.odalys)), ([], [], []))

    def test_it_is_read_when_talk_was_open_to_somebody_who_may_answer(self) -> None:
        checking.begin_checking(self.office, self.imre, self.reference)
        talking.write(self.office, self.odalys, self.reference, "How long will it take?")
        for who in (self.anselm, self.imre, self.maud):  # the desk alone is no reading, and an auditor never reads for others
            opened(self.office, who, self.reference)
            self.assertFalse(self.read())
        with self.assertRaises(NotAllowed):
            talking.read_talk(self.office, self.anselm, self.reference)
        self.assertFalse(self.read())
        talking.read_talk(self.office, self.imre, self.reference)
        self.assertTrue(self.read())
        self.assertEqual(self.waits(self.imre), [])

    def test_it_waits_until_the_office_answers(self) -> None:
        checking.begin_checking(self.office, self.imre, self.reference)
        talking.write(self.office, self.odalys, self.reference, "How long?")
        talking.write(self.office, self.odalys, self.reference, "And what does it cost?")
        self.assertEqual(len(self.waits(self.imre)), 2)
        talking.write(self.office, self.maud, self.reference, "Two weeks.")
        self.assertEqual(self.waits(self.imre), [])

    def test_a_colleague_named_in_a_note(self) -> None:
        checking.begin_checking(self.office, self.imre, self.reference)
        talking.note(self.office, self.imre, self.reference, "@Brisa Quay, is the pier yours? I, @imre holt, do not know.")
        self.assertEqual((self.waits(self.brisa), self.waits(self.imre)), ([("mention", "Imre Holt")], []))
        opened(self.office, self.maud, self.reference)
        self.assertEqual(len(self.waits(self.brisa)), 1)
        opened(self.office, self.brisa, self.reference)
        self.assertEqual(self.waits(self.brisa), [])

    def test_who_is_named(self) -> None:
        staff = {"b": "Brisa Quay", "o": "Brisa Holt", "m": "Maud Ferrier"}
        for text, found in (
            ("@Brisa Quay look", ["b"]),
            ("@brisa look", []),  # there are two
            ("ask @maud, please", ["m"]),
            ("@maudlin", []),
            ("maud", []),
            ("@Brisa Quay @Brisa Holt @Maud Ferrier", ["b", "o", "m"]),
        ):
            with self.subTest(text):
                self.assertEqual(named_in(text, staff), found)

    def test_a_fee_waits_for_its_second_person(self) -> None:
        checking.begin_checking(self.office, self.imre, self.reference)
        handwork.set_fee(self.office, self.imre, self.reference, "permit", None, "A hardship.")
        self.assertEqual((self.waits(self.maud), self.waits(self.imre)), ([("second person", "Imre Holt")], []))
        opened(self.office, self.maud, self.reference)
        self.assertEqual(len(self.waits(self.maud)), 1)  # looking settles nothing
        handwork.settle_fee(self.office, self.maud, self.reference, "permit", True)
        self.assertEqual(self.waits(self.maud), [])
        # a lead's own waits for an officer where there is no other lead; undone it waits no more
        handwork.set_fee(self.office, self.maud, self.reference, "permit", None, "Again.")
        self.assertEqual((self.waits(self.maud), self.waits(self.brisa)), ([], [("second person", "Maud Ferrier")]))
        handwork.undo(self.office, self.maud, self.reference)
        self.assertEqual(self.waits(self.brisa), [])

    def test_a_step_that_fell_is_told_to_whoever_made_it_ready(self) -> None:
        self.office.settings.letter_waits = 600
        checking.begin_checking(self.office, self.imre, self.reference)
        checking.judge(self.office, self.imre, self.reference, "documents.site_plan", "wanting")
        before_it_leaves(
            self.office, self.imre, self.reference, "send the letter", "",
            lambda then: checking.send_letter(then, self.imre, self.reference),
        )  # fmt: skip
        endings.withdraw(self.office, self.odalys, self.reference)
        self.assertEqual([what for what, _ in self.waits(self.imre)], ["fell"])
        opened(self.office, self.imre, self.reference)
        self.assertEqual(self.waits(self.imre), [])
