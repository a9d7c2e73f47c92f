"""What an applicant adds to a case without being asked: where the rules let it come later, signed again, a version that stops nothing."""

from __future__ import annotations

from collections.abc import Callable
from datetime import timedelta

from jolly_clerk.office.cases import endings
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.desk import checking
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady, OfficeError
from jolly_clerk.office.keeping.verifying import verify
from jolly_clerk.office.people.directory import add_person
from jolly_clerk.office.preparing import adding, answering, drafts, inviting
from jolly_clerk.office.rules import rulebooks
from jolly_clerk.office.views.case import case_view
from jolly_clerk.shelf.rulebooks import SHIPPED
from tests.helpers import EDITION
from tests.office.test_journey import SMALL_PLAN, Cases
from tests.reading.test_reading import pdf

PICTURE = pdf(text="Photographs of the yard as it is")


PHOTOS = """  - slot: photos
    title: Photographs
    says: The yard as it is.
    optional: true
    later: yes
    accepts: {formats: [pdf, jpeg], files: 1 to 5, size: 10 MB}
    article: "9(9)"
"""


class Adding(Cases):
    """The test edition, in which photographs may come later."""

    def setUp(self) -> None:
        super().setUp()
        text = EDITION.read_text("utf-8").replace("in_force: 2026-07-01", "in_force: 2026-08-01")
        text = text.replace("\ndocuments:\n", f"\ndocuments:\n{PHOTOS}")
        (self.folder / "BW").mkdir(exist_ok=True)
        file = self.folder / "BW" / "2026-08-01.yaml"
        file.write_text(text, "utf-8")
        rulebooks.publish(self.office, file, SHIPPED / "calendars" / "quillhaven.yaml")

    def add(
        self, reference: str, name: str = "Odalys Renn", slot: str = "photos", content: bytes = PICTURE, who: object = None
    ) -> str:
        return adding.add(self.office, who or self.odalys, reference, slot, "yard.pdf", content, name)  # type: ignore[arg-type]

    def refused(self, kind: type[OfficeError], act: Callable[[], object]) -> str:
        with self.assertRaises(kind) as raised:
            act()
        return raised.exception.detail

    def offered(self, reference: str) -> list[str]:
        view = case_view(self.office, self.odalys, load_case(self.office, self.odalys, reference))
        return [one.slot for one in view.to_add]

    def test_it_stops_nothing_and_is_judged_anew(self) -> None:
        reference = self.filed()
        self.assertEqual(self.offered(reference), ["photos"])
        checking.begin_checking(self.office, self.imre, reference)
        self.judge_all(reference)
        before = load_case(self.office, self.imre, reference)
        self.instant += timedelta(minutes=1)
        self.assertEqual(self.add(reference), "")
        after = load_case(self.office, self.imre, reference)
        self.assertEqual((after.assessment.state, after.assessment.version), ("Being checked", 2))
        self.assertEqual(after.assessment.account, before.assessment.account)
        self.assertEqual(after.assessment.clock.limit_day, before.assessment.clock.limit_day)  # type: ignore[union-attr]
        self.assertFalse(after.assessment.changed_since_signed)
        self.assertEqual(after.dossier.signature.at, self.instant.replace(microsecond=0))  # type: ignore[union-attr]
        photos = after.assessment.requirement("documents.photos")
        assert photos is not None
        self.assertFalse(photos.judged)
        seen = case_view(self.office, self.imre, after)
        self.assertIn("Odalys Renn added later: ", seen.story[-1].text)
        self.assertEqual(list(verify(self.office)), [])
        self.judge_all(reference)
        self.assertEqual(checking.accept(self.office, self.imre, reference).assessment.state, "Complete")
        self.assertEqual(self.offered(reference), ["photos"])
        self.add(reference, content=pdf(text="One more"))
        self.assertEqual(self.said(reference).state, "Complete")

    def test_while_answers_are_prepared_it_goes_into_them(self) -> None:
        reference = self.filed(plan=SMALL_PLAN)
        checking.begin_checking(self.office, self.imre, reference)
        self.judge_all(reference, site_plan="wanting")
        checking.send_letter(self.office, self.imre, reference)
        answer = answering.begin_answering(self.office, self.odalys, reference)
        self.assertEqual(self.add(reference), answer)
        self.assertEqual(self.said(reference).version, 1)
        files = drafts.open_draft(self.office, self.odalys, answer).dossier.attachments
        self.assertIn("photos", [a.slot for a in files])

    def test_what_is_refused(self) -> None:
        reference = self.filed()
        self.assertIn("full name", self.refused(Invalid, lambda: self.add(reference, name=" ")))
        self.refused(NotReady, lambda: self.add(reference, slot="site_plan"))
        self.refused(NotReady, lambda: self.add(reference, slot="nonsense"))
        self.refused(NotFound, lambda: self.add(reference, who=self.tamsin))
        self.refused(NotAllowed, lambda: self.add(reference, who=self.imre))
        ada = add_person(self.office, "ada", "Ada Marsh", "applicant", "ada@marsh.example")
        inviting.invite(
            self.office, self.odalys, reference, "ada@marsh.example", "Ada Marsh", ["fill", "attach", "sign", "answer"]
        )
        self.refused(NotAllowed, lambda: self.add(reference, who=ada))
        self.add(reference)
        self.refused(Invalid, lambda: self.add(reference))
        endings.withdraw(self.office, self.odalys, reference, "Not any more.")
        self.refused(NotReady, lambda: self.add(reference, content=pdf(text="Too late")))
        self.assertEqual(self.offered(reference), [])
