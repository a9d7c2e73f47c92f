"""What comes by post has a docket: its number on the receipt, its code on the sheet; and what is told of files goes with them."""

from __future__ import annotations

from datetime import date

import pypdfium2
from PIL import Image

from jolly_clerk.core.dossier.model import FileTold
from jolly_clerk.core.reference import is_docket, make_docket
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.errors import Invalid, NotFound
from jolly_clerk.office.post.receipts import filing_receipt
from jolly_clerk.office.preparing import attaching, describing, dockets, drafts, filing, signing
from jolly_clerk.office.rules import rulebooks
from jolly_clerk.office.views.draft import draft_view
from jolly_clerk.reading.read import read_bytes
from jolly_clerk.shelf.rulebooks import SHIPPED
from tests.helpers import EDITION
from tests.office.test_journey import Cases, text_of


class Dockets(Cases):
    def setUp(self) -> None:
        super().setUp()
        text = EDITION.read_text("utf-8").replace("in_force: 2026-07-01", "in_force: 2026-08-01")
        text = text.replace("files: 1 to 5, size: 20 MB}", "files: 1 to 5, size: 20 MB}\n    by_post: yes", 1)
        (self.folder / "BW").mkdir(exist_ok=True)
        file = self.folder / "BW" / "2026-08-01.yaml"
        file.write_text(text, "utf-8")
        rulebooks.publish(self.office, file, SHIPPED / "calendars" / "quillhaven.yaml")

    def test_numbers(self) -> None:
        self.assertEqual(make_docket(2026, 17)[:10], "D-26-00017")
        self.assertTrue(is_docket(make_docket(2026, 17)))
        self.assertFalse(is_docket("D-26-00017-" + ("A" if make_docket(2026, 17)[-1] != "A" else "B")))
        self.assertEqual(len({make_docket(2026, n) for n in range(1000)}), 1000)

    def test_made_printed_filed(self) -> None:
        draft = self.draft(signed=False)
        sections = next(
            a.id for a in drafts.open_draft(self.office, self.odalys, draft).dossier.attachments if a.slot == "sections"
        )
        attaching.detach(self.office, self.odalys, draft, sections)
        before = drafts.open_draft(self.office, self.odalys, draft).assessment
        self.assertIn("documents.sections", [w.place.ref for w in before.left if w.place])
        made = dockets.add(self.office, self.odalys, draft, "sections", "  Sections,  drawn by hand on linen ")
        (docket,) = made.dossier.dockets
        self.assertTrue(is_docket(docket.no))
        line = made.assessment.requirement("documents.sections")
        assert line
        self.assertEqual((line.proposed, line.stops_filing), ("wanting", False))
        self.assertIn(f"It comes by post: docket {docket.no}, Sections, drawn by hand on linen.", line.because)
        sheet = dockets.sheet_of_draft(self.office, self.odalys, draft, docket.no)
        self.assertIn(docket.no, text_of(sheet))
        picture: Image.Image = pypdfium2.PdfDocument(sheet)[0].render(scale=2).to_pil()
        picture.save(self.folder / "docket.png")
        read = read_bytes((self.folder / "docket.png").read_bytes())
        self.assertEqual([page.code for page in read.pages], [f"JC-DOCKET {docket.no}"])
        signing.sign(self.office, self.odalys, draft, "Odalys Renn")
        reference = filing.file(self.office, self.odalys, draft, take_gaps=True)
        loaded = load_case(self.office, self.imre, reference)
        self.assertIn(docket.no, text_of(filing_receipt(self.office, loaded)))
        self.assertIn(docket.no, text_of(dockets.sheet_of_case(self.office, self.odalys, reference, docket.no)))
        with self.assertRaises(NotFound):
            dockets.sheet_of_case(self.office, self.tamsin, reference, docket.no)

    def test_what_is_refused(self) -> None:
        draft = self.draft()
        for slot, what in (("site_plan", "A plan"), ("nonsense", "A plan"), ("sections", " "), ("sections", "x" * 161)):
            with self.subTest(slot=slot, what=what), self.assertRaises(Invalid):
                dockets.add(self.office, self.odalys, draft, slot, what)
        (docket,) = dockets.add(self.office, self.odalys, draft, "sections", "Linen").dossier.dockets
        with self.assertRaises(NotFound):
            dockets.sheet_of_draft(self.office, self.odalys, draft, "D-26-99999-A")
        with self.assertRaises(NotFound):
            dockets.remove(self.office, self.odalys, draft, "D-26-99999-A")
        self.assertEqual(dockets.remove(self.office, self.odalys, draft, docket.no).dossier.dockets, ())
        (other,) = dockets.add(self.office, self.odalys, draft, "sections", "Linen").dossier.dockets
        self.assertNotEqual(docket.no, other.no, "a number is never given twice")

    def test_what_is_told_of_a_file(self) -> None:
        draft = self.draft()
        (plan, sections) = drafts.open_draft(self.office, self.odalys, draft).dossier.attachments
        told = FileTold(description=" The plan,  as drawn ", dated=date(2026, 11, 3), language="pt")
        now = describing.describe(self.office, self.odalys, draft, plan.id, told)
        said = next(f.said for f in draft_view(now).files if f.attachment.id == plan.id)
        self.assertTrue(said.endswith("dated Tue 3 Nov 2026, in Portuguese, “The plan, as drawn”"), said)
        with self.assertRaises(Invalid) as raised:
            describing.describe(self.office, self.odalys, draft, plan.id, FileTold(translates=sections.id))
        self.assertEqual(raised.exception.place, "translates")
        with self.assertRaises(NotFound):
            describing.describe(self.office, self.odalys, draft, "a99", FileTold(description="x"))
        self.assertEqual(now.assessment.changed_since_signed, (), "what is told of a file is not what was signed")
