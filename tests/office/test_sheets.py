"""A filing signed by hand: the printed sheet is known again by its code, in a scan too, and says what is wrong with any other; the payment slip."""

from __future__ import annotations

import io
from unittest.mock import patch

import numpy as np
import pypdfium2
from PIL import Image

from jolly_clerk.core.dossier.model import SIGNED
from jolly_clerk.demo import papers as demo
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.errors import Invalid, NotAllowed, NotReady
from jolly_clerk.office.keeping.verifying import verify
from jolly_clerk.office.people.directory import add_person
from jolly_clerk.office.post import papers
from jolly_clerk.office.post.slips import payment_slip
from jolly_clerk.office.preparing import drafts, filing, inviting, signing, signing_sheet
from jolly_clerk.office.views.case import case_view, file_of_case
from jolly_clerk.reading.picture import code_on
from tests.office.test_journey import Cases, answers, text_of
from tests.reading.test_reading import pdf


def scanned(sheet: bytes, turn: float = 0.0, noise: int = 6) -> bytes:
    """A sheet as a scanner gives it back: a picture, a little crooked, with noise."""
    page = pypdfium2.PdfDocument(sheet)[0].render(scale=150 / 72).to_pil().convert("L")
    page = page.rotate(turn, Image.Resampling.BICUBIC, fillcolor=255)
    rough = np.random.default_rng(5).normal(0, noise, (page.height, page.width))
    page = Image.fromarray(np.clip(np.asarray(page, dtype=float) + rough, 0, 255).astype(np.uint8))
    out = io.BytesIO()
    page.save(out, "JPEG", quality=80, dpi=(150, 150))
    return out.getvalue()


class SigningSheet(Cases):
    def setUp(self) -> None:
        super().setUp()
        self.filing = self.draft(signed=False)

    def sheet(self) -> bytes:
        return signing_sheet.sheet(self.office, self.odalys, self.filing)

    def sign(self, content: bytes, name: str = "Odalys Renn") -> drafts.OpenDraft:
        return signing_sheet.sign_by_sheet(self.office, self.odalys, self.filing, name, "sheet.jpg", content)

    def refused(self, content: bytes) -> str:
        with self.assertRaises(Invalid) as raised:
            self.sign(content)
        self.assertEqual(raised.exception.place, "signature")
        return raised.exception.detail

    def test_the_sheet_says_what_is_signed(self) -> None:
        now = drafts.open_draft(self.office, self.odalys, self.filing)
        said = text_of(self.sheet())
        for words in ("To be signed by hand", "plan.pdf", now.dossier.attachments[0].sha256[:16], "Place and day"):
            self.assertIn(words, said)
        self.assertIn(" ".join(now.rulebook.edition.signature.text.split()), said)

    def test_a_code_that_one_detector_overlooks_is_found(self) -> None:
        """One code in some hundreds was not found on a crooked scan at any of the sizes that were tried."""
        with patch.object(signing_sheet, "code_of", lambda *_: "JC-SIGN 2958F5290A 246B9609AA65"):
            page = self.sheet()
        for turn in (-2.0, 1.2, 3.5):
            grey = np.asarray(Image.open(io.BytesIO(scanned(page, turn))))
            self.assertEqual(code_on(grey), "JC-SIGN 2958F5290A 246B9609AA65", turn)

    def test_a_crooked_scan_signs_and_a_person_looks(self) -> None:
        done = self.sign(scanned(self.sheet(), turn=1.2))
        assert done.dossier.signature and done.dossier.signature.sheet
        self.assertEqual(done.dossier.signature.name, "Odalys Renn")
        line = next(r for r in done.assessment.requirements if r.id == "signature")
        self.assertEqual(line.proposed, "to read")
        self.assertIn("Signed by hand by Odalys Renn; “sheet.jpg” came", line.because)
        self.assertNotIn("signature", [gap.place.ref for gap in done.assessment.left if gap.place])
        reference = filing.file(self.office, self.odalys, self.filing, take_gaps=True)
        seen = case_view(self.office, self.imre, load_case(self.office, self.imre, reference))
        shown = next(r for r in seen.assessment.requirements if r.id == "signature")
        self.assertEqual([a.id for a in shown.files], [SIGNED])
        self.assertIn(("sheet.jpg", "Declaration signed"), [(f.attachment.name, f.slot_title) for f in seen.versions[-1].files])
        sha256 = done.dossier.signature.sheet.sha256
        self.assertEqual(file_of_case(self.office, self.imre, reference, sha256).name, "sheet.jpg")
        receipt = text_of(papers.paper(self.office, load_case(self.office, self.odalys, reference), 1)[1]).replace(" ", "")
        self.assertIn(sha256, receipt)
        self.assertEqual(list(verify(self.office)), [])

    def test_what_is_wrong_is_said(self) -> None:
        sheet = self.sheet()
        self.assertIn(
            "No code of a sheet that was printed here", self.refused(demo.scanned(demo.paper("Letter", "Some words"), 3))
        )
        self.assertIn("No code of a sheet that was printed here", self.refused(pdf(text="typed")))
        self.assertIn("could not be read", self.refused(b"%PDF-1.7 nothing"))
        other = self.draft(signed=False)
        self.assertIn("printed for another filing", self.refused(scanned(signing_sheet.sheet(self.office, self.odalys, other))))
        drafts.keep(self.office, self.odalys, self.filing, None, answers=answers(works_area="82.1"))
        self.assertIn("Something was changed since this sheet was printed", self.refused(scanned(sheet)))
        self.assertIsNone(drafts.open_draft(self.office, self.odalys, self.filing).dossier.signature)
        self.sign(scanned(self.sheet()))
        drafts.keep(self.office, self.odalys, self.filing, None, answers=answers(works_area="83"))
        line = next(
            r for r in drafts.open_draft(self.office, self.odalys, self.filing).assessment.requirements if r.id == "signature"
        )
        self.assertEqual(line.proposed, "wanting")  # a change after it is signed anew, by hand as well
        signing.unsign(self.office, self.odalys, self.filing)

    def test_somebody_invited_to_sign_may_do_it_by_hand(self) -> None:
        ada = add_person(self.office, "ada", "Ada Marsh", "applicant", "ada@marsh.example")
        inviting.invite(self.office, self.odalys, self.filing, "ada@marsh.example", "Ada Marsh", ["look"])
        scan = scanned(signing_sheet.sheet(self.office, ada, self.filing))
        with self.assertRaises(NotAllowed):
            signing_sheet.sign_by_sheet(self.office, ada, self.filing, "Ada Marsh", "sheet.jpg", scan)
        inviting.invite(self.office, self.odalys, self.filing, "ada@marsh.example", "Ada Marsh", ["sign"])
        done = signing_sheet.sign_by_sheet(self.office, ada, self.filing, "Ada Marsh", "sheet.jpg", scan)
        assert done.dossier.signature
        self.assertEqual(done.dossier.signature.name, "Ada Marsh")


class PaymentSlip(Cases):
    def test_it_names_amount_account_reference_and_last_day(self) -> None:
        self.office.settings.account = "QH07 0001 2345"
        reference = filing.file(self.office, self.odalys, self.draft(), take_gaps=True)
        said = text_of(payment_slip(self.office, load_case(self.office, self.odalys, reference)))
        for words in ("Payment slip", reference, "EUR 438.18", "QH07 0001 2345", "Thu 19 Nov 2026"):
            self.assertIn(words, said)
        self.pay(reference)
        with self.assertRaises(NotReady):
            payment_slip(self.office, load_case(self.office, self.odalys, reference))
