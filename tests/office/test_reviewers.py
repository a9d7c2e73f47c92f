"""Several reviewers of one case: one decides when the others have signed off; each may ask the applicant or hand it back."""

from __future__ import annotations

from jolly_clerk.office.cases import lists
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.desk import reviewing, talking
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady
from jolly_clerk.office.people.directory import add_person
from jolly_clerk.office.post import mailing, papers
from jolly_clerk.office.views.case import look_at
from tests.office.test_endings import Endings
from tests.office.test_journey import text_of


class Reviewers(Endings):
    def setUp(self) -> None:
        super().setUp()
        self.third = add_person(self.office, "thea", "Thea Lind", "reviewer")

    def together(self) -> str:
        """Under review: Silas decides, Rowan signs off."""
        reference = self.paid()
        self.complete(reference)
        reviewing.hand_over(self.office, self.imre, reference, "silas", beside=["rowan", "silas", "rowan"])
        return reference

    def mine(self, who: object) -> list[str]:
        tray = lists.tray(self.office, who, "mine")  # type: ignore[arg-type]
        return [row.reference for group in tray.groups for row in group.rows]

    def test_it_is_decided_when_the_others_have_signed_off(self) -> None:
        reference = self.together()
        self.assertEqual(([reference], [reference], []), (self.mine(self.silas), self.mine(self.other), self.mine(self.third)))
        with self.assertRaises(NotReady) as early:
            reviewing.grant(self.office, self.silas, reference)
        self.assertIn("1 reviewer has not signed off yet", early.exception.detail)
        with self.assertRaises(NotReady):
            reviewing.refuse(self.office, self.silas, reference, "It cannot be.")
        with self.assertRaisesRegex(NotAllowed, "The leading reviewer decides"):
            reviewing.grant(self.office, self.other, reference)
        with self.assertRaisesRegex(NotAllowed, "You lead the review"):
            reviewing.sign_off(self.office, self.silas, reference)
        with self.assertRaisesRegex(NotAllowed, "handed to another reviewer"):
            reviewing.sign_off(self.office, self.third, reference)
        reviewing.sign_off(self.office, self.other, reference, "Mind the flood line.")
        with self.assertRaisesRegex(NotAllowed, "signed off already"):
            reviewing.sign_off(self.office, self.other, reference)
        self.assertEqual([], self.mine(self.other))
        (beside,) = look_at(self.office, self.silas, reference).beside
        self.assertEqual(("Rowan Sedge", True, "Mind the flood line."), (beside.name, beside.signed, beside.words))
        self.assertEqual((), look_at(self.office, self.odalys, reference).beside)
        told = [m.text for m in look_at(self.office, self.odalys, reference).story]
        self.assertFalse([t for t in told if "flood line" in t])
        self.assertTrue([t for t in told if "handed the case over to 2 reviewers" in t])
        reviewing.grant(self.office, self.silas, reference, "Above the flood line.")
        self.assertEqual("Granted", load_case(self.office, self.imre, reference).assessment.state)

    def test_it_is_handed_back_and_over_once_more(self) -> None:
        reference = self.together()
        reviewing.sign_off(self.office, self.other, reference)
        with self.assertRaises(Invalid):
            reviewing.hand_back(self.office, self.silas, reference, "  ")
        reviewing.hand_back(self.office, self.silas, reference, "The plan is not of this plot.")
        loaded = load_case(self.office, self.imre, reference)
        self.assertEqual(("Complete", None), (loaded.assessment.state, loaded.case.reviewer_id))
        self.assertEqual([], self.mine(self.silas))
        with self.assertRaises(NotFound):
            load_case(self.office, self.silas, reference)
        inner = [m for m in look_at(self.office, self.imre, reference).story if "The plan is not of this plot" in m.text]
        self.assertEqual([True], [m.inner for m in inner])
        reviewing.hand_over(self.office, self.imre, reference, "thea", beside=["rowan"])
        with self.assertRaises(NotReady):  # what was signed off before counts no more
            reviewing.grant(self.office, self.third, reference)

    def test_the_applicant_is_asked_by_letter_and_answers_by_message(self) -> None:
        reference = self.together()
        before = load_case(self.office, self.imre, reference).assessment.clock
        reviewing.ask_applicant(self.office, self.other, reference, "Is the north wall of brick?")
        loaded = load_case(self.office, self.imre, reference)
        self.assertEqual(before and before.limit_at, loaded.assessment.clock and loaded.assessment.clock.limit_at)
        name, content = papers.paper(self.office, loaded, len(loaded.history.entries))
        self.assertEqual(f"{reference}-review-asked.pdf", name)
        self.assertIn("Is the north wall of brick?", text_of(content))
        (mail,) = [out for out, _ in mailing.outbox(self.office) if out.key == f"{reference}-question-1"]
        self.assertIsNotNone(mail.delivered_at)
        talking.write(self.office, self.odalys, reference, "It is, two bricks thick.")
        reviewing.ask_applicant(self.office, self.silas, reference, "And the south wall?")
        self.assertEqual(2, sum("asked by letter" in m.text for m in look_at(self.office, self.odalys, reference).story))
        with self.assertRaises(NotAllowed):
            reviewing.ask_applicant(self.office, self.third, reference, "And me?")

    def test_one_alone_decides_as_before(self) -> None:
        reference = self.under_review()
        move = load_case(self.office, self.imre, reference).assessment.move("reviewer", "sign off")
        self.assertEqual(["It was handed to one reviewer alone."], [why.text for why in move.why_not])
        with self.assertRaisesRegex(NotAllowed, "You lead the review"):
            reviewing.sign_off(self.office, self.silas, reference)
        reviewing.grant(self.office, self.silas, reference)

    def test_only_reviewers_are_chosen(self) -> None:
        reference = self.paid()
        self.complete(reference)
        with self.assertRaises(NotFound):
            reviewing.hand_over(self.office, self.imre, reference, "silas", beside=["maud"])
