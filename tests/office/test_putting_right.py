"""A plain clerical error is put right by an officer alone and told; what would change anything else is no clerical error."""

from __future__ import annotations

from jolly_clerk.core.dossier.changing import put_right as with_it_right
from jolly_clerk.core.dossier.model import Dossier, Signing
from jolly_clerk.core.dossier.places import answer_at
from jolly_clerk.core.dossier.signing import changed_since_signed, covered, signed
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.desk import checking
from jolly_clerk.office.desk.correcting import put_right
from jolly_clerk.office.errors import Invalid, NotReady
from jolly_clerk.office.keeping.verifying import rebuild, verify
from jolly_clerk.office.post import papers
from jolly_clerk.office.preparing import answering, attaching, drafts, signing
from jolly_clerk.office.views.case import look_at
from tests.office.test_journey import PLAN, SMALL_PLAN, Cases, text_of

MISTYPED = "Two letters stand in the wrong order."


class PuttingRight(Cases):
    def setUp(self) -> None:
        super().setUp()
        self.reference = self.filed(plan=SMALL_PLAN, works_what="New wokrshop roof")
        self.move_to(2026, 11, 9, 9)
        checking.begin_checking(self.office, self.imre, self.reference)

    def right(self, place: str, value: str, reason: str = MISTYPED) -> None:
        put_right(self.office, self.imre, self.reference, place, value, reason)

    def test_it_is_a_version_that_is_told_and_signed_as_before(self) -> None:
        checking.judge(self.office, self.imre, self.reference, "signature", "met")
        self.right("works.what", "New workshop roof")
        now = self.said(self.reference)
        self.assertEqual((now.state, now.version, now.title), ("Being checked", 2, "New workshop roof, 4 Saltern Slip"))
        signature = now.requirement("signature")
        assert signature
        self.assertEqual((signature.standing, signature.proposed, signature.judged), ("met", "met", True))
        loaded = load_case(self.office, self.odalys, self.reference)
        self.assertEqual([c.was for c in loaded.dossier.corrected], ["New wokrshop roof"])
        told = look_at(self.office, self.odalys, self.reference).story[-1]
        self.assertIn("put a clerical error right: “The works, What will you build or change?”", told.text)
        letter = text_of(papers.paper(self.office, loaded, told.no)[1])
        for words in ("A clerical error was put right", "said New wokrshop roof; it says New workshop roof now", MISTYPED[:-1]):
            self.assertIn(words, letter)
        self.assertEqual((list(verify(self.office)), rebuild(self.office)), ([], 0))

    def test_what_is_no_clerical_error(self) -> None:
        for place, value, why in (
            ("works.area", "120", "what is due would be EUR .* instead of EUR"),
            ("works.area", "many", "number"),
            ("works.what", "New wokrshop roof", "says that already"),
            ("place.role", "tenant", "Name an answer that was typed"),
            ("works.nothing", "x", "Name an answer that was typed"),
            ("documents.site_plan", "x", "Name an answer that was typed"),
        ):
            with self.subTest(place=place, value=value), self.assertRaisesRegex(Invalid, why):
                self.right(place, value)
        with self.assertRaises(Invalid):
            self.right("works.what", "New workshop roof", " ")
        self.assertEqual(self.said(self.reference).version, 1)

    def test_only_while_the_office_checks(self) -> None:
        checking.judge(self.office, self.imre, self.reference, "documents.site_plan", "wanting")
        checking.send_letter(self.office, self.imre, self.reference)
        with self.assertRaises(NotReady):
            self.right("works.what", "New workshop roof")

    def test_whoever_signs_anew_signs_what_was_put_right(self) -> None:
        self.right("works.what", "New workshop roof")
        checking.judge(self.office, self.imre, self.reference, "documents.site_plan", "wanting")
        checking.send_letter(self.office, self.imre, self.reference)
        answer = answering.begin_answering(self.office, self.odalys, self.reference)
        attaching.attach(self.office, self.odalys, answer, "site_plan", "plan.pdf", PLAN)
        self.assertEqual(
            changed_since_signed(drafts.open_draft(self.office, self.odalys, answer).dossier), ("documents.site_plan",)
        )
        signing.sign(self.office, self.odalys, answer, self.odalys.name)
        answering.send_answers(self.office, self.odalys, answer)
        latest = load_case(self.office, self.imre, self.reference).dossier
        self.assertEqual((latest.corrected, answer_at(latest.answers, "works.what")), ((), "New workshop roof"))


class Signatures(Cases):
    def test_what_is_put_right_twice_is_covered_as_it_was_first_and_a_change_besides_is_seen(self) -> None:
        first = Dossier(answers={"persons": [{"id": "2", "name": "Odo Fen", "age": "30"}], "works": {"what": "A roof"}})
        text = Signing(name="O", at=self.office.now(), text="True.", covers=covered(first))
        dossier = signed(first, text)
        for name in ("Odo Fenn", "Odo Fennn"):
            dossier = with_it_right(dossier, "persons.2.name", name)
        self.assertEqual(answer_at(dossier.answers, "persons.2.name"), "Odo Fennn")
        self.assertEqual((changed_since_signed(dossier), len(dossier.corrected)), ((), 1))
        other = dossier.model_copy(update={"answers": {**dossier.answers, "works": {"what": "A wall"}}})
        self.assertEqual(changed_since_signed(other), ("works",))
        self.assertEqual(changed_since_signed(signed(dossier, text.model_copy(update={"covers": covered(dossier)}))), ())
