"""Files put into another shape: what is made opens, keeps its text and names what it was made from; the first files come back."""

from __future__ import annotations

import io
import shutil
import subprocess
import tempfile
import unittest
from pathlib import Path

import pikepdf
from PIL import Image
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.errors import Invalid, NotFound
from jolly_clerk.office.keeping import removing
from jolly_clerk.office.post import papers
from jolly_clerk.office.preparing import attaching, drafts, filing, remaking, signing
from jolly_clerk.reading.making import How
from tests.office.test_journey import Cases, text_of
from tests.reading.test_reading import pdf, picture

#: what a scan with words under it costs in dots
DOTS = (3200, 4400)


def scan(words: str = "some words on a page of this plan") -> bytes:
    """A sheet that is a large photograph with text on it."""
    noise = Image.effect_noise(DOTS, 60).convert("RGB")
    raw = io.BytesIO()
    noise.save(raw, "JPEG", quality=95)
    raw.seek(0)
    out = io.BytesIO()
    canvas = Canvas(out)
    canvas.drawImage(ImageReader(raw), 0, 0, 595, 842)
    canvas.drawString(60, 700, words)
    canvas.showPage()
    canvas.save()
    return out.getvalue()


class Remaking(Cases):
    SLOT = "consent"

    def setUp(self) -> None:
        super().setUp()
        self.filing = self.draft()

    def attach(self, name: str, content: bytes, slot: str = SLOT) -> str:
        there = attaching.attach(self.office, self.odalys, self.filing, slot, name, content)
        return next(a.id for a in there.dossier.attachments if a.name == name)

    def remake(self, how: How, *files: str, **more: int) -> drafts.OpenDraft:
        return remaking.remake(self.office, self.odalys, self.filing, how, files, **more)

    def there(self, draft: drafts.OpenDraft | None = None, slot: str = SLOT) -> list[tuple[str, list[str]]]:
        found = draft or drafts.open_draft(self.office, self.odalys, self.filing)
        return [(a.name, [s.name for s in a.made_from]) for a in found.dossier.attachments if a.slot == slot]

    def content(self, name: str) -> bytes:
        found = drafts.open_draft(self.office, self.odalys, self.filing).dossier.attachments
        return self.office.vault.get(next(a.sha256 for a in found if a.name == name))

    def text(self, content: bytes) -> str:
        """What poppler reads in it; it fails for a PDF that it cannot open."""
        with tempfile.NamedTemporaryFile(suffix=".pdf") as file:
            Path(file.name).write_bytes(content)
            return subprocess.run(["pdftotext", file.name, "-"], capture_output=True, text=True, check=True).stdout

    def test_several_become_one_pdf_in_their_order_and_come_back(self) -> None:
        ids = [
            self.attach("b.pdf", pdf(text="the second sheet")),
            self.attach("a.jpg", picture("JPEG")),
            self.attach("c.pdf", pdf(text="third")),
        ]
        made = self.remake("together", ids[1], ids[0], ids[2])
        self.assertEqual(self.there(made), [("a.pdf", ["b.pdf", "a.jpg", "c.pdf"])])
        with pikepdf.open(io.BytesIO(self.content("a.pdf"))) as whole:
            self.assertEqual(len(whole.pages), 3)
        self.check_poppler("a.pdf", "the second sheet", "third")
        (one,) = [a.id for a in made.dossier.attachments if a.slot == self.SLOT]
        back = remaking.put_back(self.office, self.odalys, self.filing, one)
        self.assertEqual(self.there(back), [("b.pdf", []), ("a.jpg", []), ("c.pdf", [])])
        self.assertEqual(len({a.id for a in back.dossier.attachments}), len(back.dossier.attachments))
        with self.assertRaises(NotFound):
            remaking.put_back(self.office, self.odalys, self.filing, one)

    def check_poppler(self, name: str, *words: str) -> None:
        if shutil.which("pdftotext") is None:  # the sheets still keep their text by our own reader
            sha256 = next(
                a.sha256 for a in drafts.open_draft(self.office, self.odalys, self.filing).dossier.attachments if a.name == name
            )
            said = " ".join(line.text for line in self.office.readers.read(self.office.vault.path(sha256)).lines)
        else:
            said = self.text(self.content(name))
        for word in words:
            self.assertIn(word, said)

    def test_a_picture_becomes_a_pdf_and_a_turned_one_stands_upright(self) -> None:
        one = self.attach("roof.jpg", picture("JPEG", (400, 300)))
        turned = self.remake("turned", one, degrees=90)
        self.assertEqual(self.there(turned), [("roof.jpg", ["roof.jpg"])])
        with Image.open(io.BytesIO(self.content("roof.jpg"))) as image:
            self.assertEqual(image.size, (300, 400))
        made = self.remake("together", turned.dossier.attachments[-1].id)
        self.assertEqual(self.there(made), [("roof.pdf", ["roof.jpg"])])  # what it came from is the first file, once
        with pikepdf.open(io.BytesIO(self.content("roof.pdf"))) as whole:
            self.assertEqual(len(whole.pages), 1)

    def test_a_pdf_is_turned_and_keeps_its_text(self) -> None:
        one = self.attach("shore.pdf", pdf(text="the shore is near"))
        self.remake("turned", one, degrees=270)
        with pikepdf.open(io.BytesIO(self.content("shore.pdf"))) as whole:
            self.assertEqual(int(whole.pages[0].obj["/Rotate"]) % 360, 270)
        self.check_poppler("shore.pdf", "the shore is near")

    def test_a_scan_is_made_smaller_and_keeps_its_words(self) -> None:
        one = self.attach("scan.pdf", scan())
        before = len(self.content("scan.pdf"))
        self.remake("smaller", one)
        after = len(self.content("scan.pdf"))
        self.assertLess(after, before / 2)
        self.check_poppler("scan.pdf", "some words on a page of this plan")
        again = next(
            a.id for a in drafts.open_draft(self.office, self.odalys, self.filing).dossier.attachments if a.name == "scan.pdf"
        )
        with self.assertRaises(Invalid) as raised:
            self.remake("smaller", again)
        self.assertIn("cannot be made noticeably smaller", raised.exception.detail)

    def test_one_is_cut_in_two_and_put_together_again(self) -> None:
        one = self.attach("both.pdf", pdf(pages=5))
        made = self.remake("apart", one, before=3)
        self.assertEqual(self.there(made), [("both, sheets 1-2.pdf", ["both.pdf"]), ("both, from sheet 3.pdf", ["both.pdf"])])
        counts = [len(made.known.readings[a.sha256].pages) for a in made.dossier.attachments if a.slot == self.SLOT]
        self.assertEqual(counts, [2, 3])
        back = remaking.put_back(self.office, self.odalys, self.filing, made.dossier.attachments[-1].id)
        self.assertEqual(self.there(back), [("both.pdf", [])])
        with self.assertRaises(Invalid) as raised:
            self.remake("apart", back.dossier.attachments[-1].id, before=6)
        self.assertEqual(raised.exception.detail, "It is cut between two of its sheets.")

    def test_what_cannot_be_changed_says_why(self) -> None:
        signed = pikepdf.new()
        signed.add_blank_page(page_size=(595, 842))
        field = signed.make_indirect(pikepdf.Dictionary(FT=pikepdf.Name.Sig, V=pikepdf.Dictionary(Type=pikepdf.Name.Sig), T="s"))
        signed.Root.AcroForm = pikepdf.Dictionary(Fields=pikepdf.Array([field]))
        out = io.BytesIO()
        signed.save(out)
        cases: dict[str, tuple[bytes, How]] = {
            "bears a signature, which a change would break": (out.getvalue(), "turned"),
            "only PDFs and pictures that open can": (b"%PDF-1.7 nothing", "smaller"),
            "“x2.pdf” cannot be changed here": (b"no picture at all", "turned"),
            "“x3.pdf” cannot be changed here: only": (picture("PNG"), "apart"),
        }
        for n, (said, (content, how)) in enumerate(cases.items()):
            one = self.attach(f"x{n}.pdf", content)
            with self.subTest(said), self.assertRaises(Invalid) as raised:
                self.remake(how, one)
            self.assertIn(said, raised.exception.detail)
        other = self.attach("elsewhere.pdf", pdf(text="of another slot"), "sections")
        with self.assertRaises(Invalid):
            self.remake("together", one, other)
        with self.assertRaises(NotFound):
            self.remake("turned", "a99")

    def test_what_it_was_made_from_stays_until_it_is_filed_and_both_stand_on_the_receipt(self) -> None:
        one = self.attach("shore.pdf", pdf(text="first of all"))
        source = next(
            a.sha256 for a in drafts.open_draft(self.office, self.odalys, self.filing).dossier.attachments if a.id == one
        )
        made = self.remake("turned", one)
        self.move_to(2026, 12, 1, 10)
        removing.tidy(self.office)
        self.assertTrue(self.office.vault.path(source).exists())
        signing.sign(self.office, self.odalys, self.filing, "Odalys Renn")
        reference = filing.file(self.office, self.odalys, self.filing, take_gaps=True)
        said = text_of(papers.paper(self.office, load_case(self.office, self.odalys, reference), 1)[1]).replace(" ", "")
        for sha256 in (source, made.dossier.attachments[-1].sha256):
            self.assertIn(sha256, said)
        self.move_to(2026, 12, 12, 10)
        removing.tidy(self.office)
        self.assertFalse(self.office.vault.path(source).exists())


if __name__ == "__main__":
    unittest.main()
