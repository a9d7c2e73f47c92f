"""Filing what the way in says is not needed, where the law lets one insist; and a signature that covers what was signed, no more."""

from __future__ import annotations

from jolly_clerk.office.desk import checking
from jolly_clerk.office.errors import Invalid, NotReady
from jolly_clerk.office.keeping.verifying import verify
from jolly_clerk.office.preparing import attaching, drafts, filing, signing
from jolly_clerk.office.rules.rulebooks import publish
from tests.helpers import EDITION, answers
from tests.office.test_journey import PLAN, SMALL_PLAN, Cases

WAY_IN = """way_in:
  - {id: small, when: works.area <= 10, then: not needed, insist: true, article: "3(2)",
     because: "A building of {works.area} m² needs no permit."}
  - {id: repair, when: 'works.use == "dwelling"', then: not needed, because: Repairs to a home need no permit., article: "3(3)"}
  - {id: needed, then: needed, because: It needs a permit., article: "2(1)"}
documents:
"""
WHY = "The bank asks for a permit."


class Insisting(Cases):
    def setUp(self) -> None:
        super().setUp()
        text = EDITION.read_text("utf-8").replace("in_force: 2026-07-01", "in_force: 2026-07-02", 1)
        file = self.folder / "BW" / "2026-07-02.yaml"
        file.parent.mkdir()
        file.write_text(text.replace("documents:\n", WAY_IN, 1), "utf-8")
        publish(self.office, file)

    def test_it_is_filed_with_a_reason_and_an_officer_looks(self) -> None:
        draft = self.draft(works_area="8.5")
        with self.assertRaises(NotReady) as caught:
            filing.file(self.office, self.odalys, draft, take_gaps=True)
        self.assertEqual(str(caught.exception), "A building of 8.5 m² needs no permit. (Works Order 2024 art. 3(2))")
        with self.assertRaises(Invalid) as short:
            signing.insist(self.office, self.odalys, draft, " I want ")
        self.assertEqual(short.exception.place, "insists")
        signing.insist(self.office, self.odalys, draft, "  The bank\nasks for a permit. ")
        reference = filing.file(self.office, self.odalys, draft, take_gaps=True)
        self.pay(reference)
        line = next(r for r in self.said(reference).requirements if r.id == "within-order")
        self.assertEqual((line.standing, line.asked, line.title), ("in doubt", True, "Within the order"))
        self.assertEqual((line.explanation.group, [p.ref for p in line.places]), ("works", ["works.area", "works.use"]))
        self.assertIn(f"A building of 8.5 m² needs no permit. The applicant insists: {WHY}", line.explanation.because)
        checking.begin_checking(self.office, self.imre, reference)
        with self.assertRaises(NotReady):
            checking.accept(self.office, self.imre, reference)
        self.judge_all(reference)
        checking.accept(self.office, self.imre, reference)
        self.assertEqual(self.said(reference).state, "Complete")
        self.assertEqual(list(verify(self.office)), [])

    def test_an_empty_reason_takes_it_back(self) -> None:
        draft = self.draft(works_area="8.5")
        signing.insist(self.office, self.odalys, draft, WHY)
        kept = signing.insist(self.office, self.odalys, draft, "")
        self.assertEqual(kept.dossier.insists, "")
        with self.assertRaises(NotReady):
            filing.file(self.office, self.odalys, draft, take_gaps=True)

    def test_where_the_law_does_not_let_one(self) -> None:
        for changes in ({"works_use": "dwelling"}, {"works_area": "20"}, {"works_area": None}):
            with self.subTest(changes):
                draft = self.draft(**changes)
                with self.assertRaises(Invalid) as caught:
                    signing.insist(self.office, self.odalys, draft, WHY)
                self.assertEqual(str(caught.exception), "Here one cannot insist: see what the way in says.")

    def test_a_reason_does_not_outlive_the_answer_that_asked_for_it(self) -> None:
        draft = self.draft(works_area="8.5")
        signing.insist(self.office, self.odalys, draft, WHY)
        drafts.keep(self.office, self.odalys, draft, None, answers=answers(works_use="dwelling", works_area="20"))
        with self.assertRaises(NotReady) as caught:  # another branch decides now, on which one may not insist
            filing.file(self.office, self.odalys, draft, take_gaps=True)
        self.assertIn("Repairs to a home need no permit.", str(caught.exception))
        drafts.keep(self.office, self.odalys, draft, None, answers=answers(works_area="20"))
        lines = drafts.open_draft(self.office, self.odalys, draft).assessment.requirements
        self.assertNotIn("within-order", [r.id for r in lines])


class Covered(Cases):
    def signature(self, draft: str) -> tuple[str, str]:
        line = next(r for r in drafts.open_draft(self.office, self.odalys, draft).assessment.requirements if r.id == "signature")
        return line.standing, line.explanation.because

    def test_what_is_changed_after_signing_is_named_and_signed_anew(self) -> None:
        draft = self.draft()
        self.assertEqual(self.signature(draft)[0], "met")
        drafts.keep(self.office, self.odalys, draft, None, answers=answers(works_area="96"))
        standing, told = self.signature(draft)
        self.assertEqual(standing, "wanting")
        self.assertIn("The works", told)
        self.assertNotIn("Site plan", told)
        with self.assertRaises(NotReady) as caught:  # a gap that no tick lets pass
            filing.file(self.office, self.odalys, draft, take_gaps=True)
        self.assertEqual([r.text for r in caught.exception.reasons], ["Signed before this was changed: “The works”. Sign again."])
        drafts.keep(self.office, self.odalys, draft, None, answers=answers())  # as it was signed
        self.assertEqual(self.signature(draft)[0], "met")

    def test_a_file_another_name_and_what_is_left_open(self) -> None:
        draft = self.draft(plan=SMALL_PLAN)
        old = next(a for a in drafts.open_draft(self.office, self.odalys, draft).dossier.attachments if a.slot == "site_plan")
        attaching.detach(self.office, self.odalys, draft, old.id)
        attaching.attach(self.office, self.odalys, draft, "site_plan", "plan.pdf", PLAN)
        standing, told = self.signature(draft)
        self.assertEqual(standing, "wanting")
        self.assertIn("Site plan", told)
        signing.sign(self.office, self.odalys, draft, "Odalys Renn")
        # an answer emptied that was never given, the office's own words, a note: nothing that was signed
        drafts.keep(self.office, self.odalys, draft, None, answers=answers(works_begun=""), own_reference="roof-5", note="Hello.")
        self.assertEqual(self.signature(draft)[0], "met")
