"""What a PDF carries besides its words: filled forms, signatures, scripts wherever they stand, files by whatever way, comments, dates."""

from __future__ import annotations

import io
import unittest
from typing import Any

import pikepdf
from pikepdf import Array, Dictionary, Name
from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from jolly_clerk.core.dossier.model import Attachment
from jolly_clerk.core.facts.findings import slot_findings
from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.facts.stated import stated
from jolly_clerk.core.rulebook.model import FactRule, Slot
from jolly_clerk.demo import papers
from jolly_clerk.reading.read import read_bytes
from tests.reading.test_seen import told


def sheet(pages: int = 1) -> pikepdf.Pdf:
    buffer = io.BytesIO()
    canvas = Canvas(buffer)
    for no in range(pages):
        canvas.drawString(60, 700, f"Consent of the owner, page {no + 1} of the form")
        canvas.showPage()
    canvas.save()
    return pikepdf.open(io.BytesIO(buffer.getvalue()))


def saved(pdf: pikepdf.Pdf, **how: Any) -> bytes:
    buffer = io.BytesIO()
    pdf.save(buffer, **how)
    return buffer.getvalue()


def widget(pdf: pikepdf.Pdf, **told: Any) -> Any:
    annot = pdf.make_indirect(Dictionary(Type=Name.Annot, Subtype=Name.Widget, Rect=[200, 690, 400, 712], F=4, **told))
    first = pdf.pages[0].obj
    first.Annots = Array([*first.get("/Annots", []), annot])
    form = pdf.Root.get("/AcroForm") or Dictionary(Fields=Array())
    form.Fields = Array([*form.Fields, annot])
    pdf.Root.AcroForm = form
    return annot


class Forms(unittest.TestCase):
    def test_values_of_fields_are_facts_with_their_boxes(self) -> None:
        pdf = sheet()
        widget(pdf, FT=Name.Tx, T="owner_name", TU="Name of the owner", V="Ada Ash")
        widget(pdf, FT=Name.Tx, T="nothing", V="")
        widget(pdf, FT=Name.Btn, T="agrees", V=Name.Yes, AS=Name.Yes)
        widget(pdf, FT=Name.Btn, T="refuses", V=Name.Off, AS=Name.Off)
        widget(pdf, FT=Name.Ch, T="plot", V="4 Saltern Slip")
        hidden = widget(pdf, FT=Name.Tx, T="secret", V="18 m to high water")
        hidden.F = 2
        found = read_bytes(saved(pdf))
        self.assertEqual(
            [(f.name, f.text, f.kind) for f in found.fields],
            [("owner_name", "Ada Ash", "text"), ("agrees", "ticked", "tick"), ("plot", "4 Saltern Slip", "choice")],
        )
        rule = FactRule.model_validate({"id": "owner", "title": "Owner", "type": "name", "near": ["name of the owner"]})
        fact = stated(rule, found)
        assert fact
        self.assertEqual((fact.value, fact.page), ("Ada Ash", 1))
        self.assertAlmostEqual(fact.box[0], 200 / 595, places=2)
        self.assertIn("note: It is a form with 3 fields filled in; they were read.", told(found))

    def test_a_form_that_one_program_shows_is_told(self) -> None:
        pdf = sheet()
        pdf.Root.AcroForm = Dictionary(Fields=Array(), XFA=pdf.make_stream(b"<xdp/>"))
        found = read_bytes(saved(pdf))
        self.assertTrue(found.xfa)
        self.assertIn("look: “plan.pdf” is a form that shows itself in one program only (XFA)", " ".join(told(found)))


class Hidden(unittest.TestCase):
    def test_scripts_and_programs_wherever_they_stand(self) -> None:
        script, launch = Dictionary(S=Name.JavaScript, JS="1"), Dictionary(S=Name.Launch, F="x.exe")

        def link(pdf: pikepdf.Pdf, act: Any) -> None:
            pdf.pages[0].obj.Annots = Array([Dictionary(Type=Name.Annot, Subtype=Name.Link, Rect=[0, 0, 9, 9], A=act)])

        def page(pdf: pikepdf.Pdf, act: Any) -> None:
            pdf.pages[0].obj.AA = Dictionary(O=act)

        def field(pdf: pikepdf.Pdf, act: Any) -> None:
            widget(pdf, FT=Name.Tx, T="a", V="b", AA=Dictionary(K=act))

        def catalogue(pdf: pikepdf.Pdf, act: Any) -> None:
            pdf.Root.OpenAction = Dictionary(S=Name.GoTo, Next=act)

        for put in (link, page, field, catalogue):
            with self.subTest(put.__name__):
                one, other = sheet(), sheet()
                put(one, script)
                put(other, launch)
                a, b = read_bytes(saved(one)), read_bytes(saved(other))
                self.assertEqual((a.scripts, a.launches, b.scripts, b.launches), (True, False, False, True))
                self.assertIn("can start a program", " ".join(told(b)))

    def test_files_by_whatever_way_they_hang_on(self) -> None:
        pdf = sheet()
        spec = Dictionary(Type=Name.Filespec, F="setup.exe", UF="setup.exe")
        pdf.pages[0].obj.Annots = Array([Dictionary(Type=Name.Annot, Subtype=Name.FileAttachment, Rect=[0, 0, 9, 9], FS=spec)])
        pdf.Root.AF = Array([Dictionary(Type=Name.Filespec, F="data.xml")])
        pdf.attachments["list.xlsx"] = b"PK"
        found = read_bytes(saved(pdf))
        self.assertEqual(set(found.embedded), {"setup.exe", "data.xml", "list.xlsx"})
        self.assertIn("look: 3 files inside this file", " ".join(told(found)))

    def test_comments_dates_and_program(self) -> None:
        pdf = sheet()
        pdf.pages[0].obj.Annots = Array(
            [Dictionary(Type=Name.Annot, Subtype=Name.Text, Rect=[0, 0, 9, 9], Contents="Not final!")]
        )
        pdf.docinfo["/CreationDate"], pdf.docinfo["/Producer"] = "D:20200503101500+02'00'", "Drawing Desk 3"
        found = read_bytes(saved(pdf))
        self.assertEqual([(c.page, c.text) for c in found.comments], [(1, "Not final!")])
        self.assertEqual((found.made, found.program), ("2020-05-03 10:15", "Drawing Desk 3"))


class Signatures(unittest.TestCase):
    def signed(self, after: bytes = b"") -> Reading:
        """A file whose signature covers it up to its end; ``after`` is added later."""
        pdf = sheet()
        value = pdf.make_indirect(
            Dictionary(
                Type=Name.Sig,
                Filter=Name("/Adobe.PPKLite"),
                Name="Ada Ash",
                M="D:20261101",
                ByteRange=[0, 10, 20, 999999],
                Contents=b"x" * 8,
            )
        )
        widget(pdf, FT=Name.Sig, T="s", V=value)
        content = saved(pdf)
        told = f"{len(content) - 20:6}".encode()
        return read_bytes(content.replace(b"999999", told) + after)

    def test_what_it_covers_and_changes_after_it(self) -> None:
        whole, changed = self.signed(), self.signed(b"\n% something was added later\n%%EOF\n")
        self.assertEqual([(s.who, s.covers) for s in whole.signed + changed.signed], [("Ada Ash", True), ("Ada Ash", False)])
        self.assertIn("note: 1 embedded signature of Ada Ash, over the whole file", " ".join(told(whole)))
        self.assertIn("look: 1 embedded signature of Ada Ash, but the file was changed after it", " ".join(told(changed)))


class Odd(unittest.TestCase):
    def test_user_units_are_applied(self) -> None:
        pdf = sheet()
        pdf.pages[0].obj.UserUnit = 2
        self.assertAlmostEqual(read_bytes(saved(pdf)).pages[0].width_mm, 420, delta=0.5)

    def test_one_bad_page_is_one_finding(self) -> None:
        pdf = sheet(3)
        pdf.pages[1].obj.Contents = pikepdf.Dictionary(X=1)
        pdf.pages[1].obj.MediaBox = pikepdf.Name("/Nonsense")
        found = read_bytes(saved(pdf))
        self.assertEqual((found.opens, len(found.pages)), ("yes", 3))
        self.assertEqual([p.words > 0 for p in found.pages], [True, False, True])

    def test_a_zip_that_holds_a_pdf_is_a_zip(self) -> None:
        import zipfile

        buffer = io.BytesIO()
        with zipfile.ZipFile(buffer, "w", zipfile.ZIP_STORED) as z:
            z.writestr("a.pdf", saved(sheet()))
        self.assertEqual(read_bytes(buffer.getvalue()).type, "zip")

    def test_many_wrong_sheets_are_one_finding(self) -> None:
        from jolly_clerk.core.dossier.model import Attachment
        from jolly_clerk.core.facts.findings import slot_findings
        from jolly_clerk.core.rulebook.model import Slot

        slot = Slot.model_validate(
            {"slot": "plan", "title": "Plan", "says": "A plan.", "accepts": {"formats": ["pdf"], "sheet": "A3"}, "article": "1"}
        )
        found = read_bytes(saved(sheet(40)))
        file = Attachment(id="a1", slot="plan", name="plan.pdf", sha256=found.sha256, size=found.size)
        said = [f.text for f in slot_findings(slot, [file], {found.sha256: found})]
        self.assertEqual(said, ["Sheets 1 to 40 are A4; A3 or larger is asked."])


if __name__ == "__main__":
    unittest.main()


class Drawn(unittest.TestCase):
    """Margins and the north mark of a drawing."""

    def told(self, content: bytes) -> list[str]:
        accepts = {"formats": ["pdf"]}
        margins = {"top": 20, "left": 20, "right": 10, "bottom": 10}
        told = {"slot": "d", "title": "Drawings", "says": "x", "article": "1", "accepts": accepts, "margins": margins}
        slot = Slot.model_validate({**told, "north_mark": True})
        found = read_bytes(content)
        file = Attachment(id="a1", slot="d", name="d.pdf", sha256=found.sha256, size=found.size)
        return [f.text for f in slot_findings(slot, [file], {found.sha256: found})]

    def drawn(self, left: float, bottom: float, right: float, top: float, mark: str = "N", turn: int = 0) -> bytes:
        """A frame so many millimetres from each edge of an A4 sheet, and a mark in it."""
        canvas = Canvas(out := io.BytesIO(), pagesize=A4)
        canvas.setFillColorRGB(1, 1, 1)
        canvas.rect(0, 0, *A4, stroke=0, fill=1)  # a white ground is no drawing
        canvas.setFillColorRGB(0, 0, 0)
        canvas.rect(left * mm, bottom * mm, A4[0] - (left + right) * mm, A4[1] - (bottom + top) * mm)
        canvas.drawString(60 * mm, 60 * mm, mark)
        canvas.save()
        with pikepdf.open(io.BytesIO(out.getvalue())) as pdf:
            pdf.pages[0].rotate(turn, relative=False)
            return saved(pdf)

    def test_what_is_drawn_in_the_margin_is_told_by_its_edge(self) -> None:
        self.assertEqual(self.told(self.drawn(20, 10, 10, 20)), [])
        wrong = "Sheet 1: something is drawn 5 mm from the {} edge; {} mm are to stay free."
        self.assertEqual(self.told(self.drawn(5, 10, 10, 20)), [wrong.format("left", 20)])
        self.assertEqual(self.told(self.drawn(20, 5, 10, 20)), [wrong.format("lower", 10)])
        self.assertEqual(self.told(self.drawn(20, 10, 5, 5)), [wrong.format("upper", 20), wrong.format("right", 10)])

    def test_margins_are_those_of_the_sheet_as_it_is_seen(self) -> None:
        # turned by a quarter clockwise, what was left is above
        self.assertEqual(
            self.told(self.drawn(5, 25, 25, 25, turn=90)),
            ["Sheet 1: something is drawn 5 mm from the upper edge; 20 mm are to stay free."],
        )

    def test_margins_of_a_scan(self) -> None:
        def scanned(content: bytes) -> bytes:
            canvas = Canvas(out := io.BytesIO(), pagesize=A4)
            canvas.drawImage(ImageReader(io.BytesIO(papers.scanned(content, 1, 0.0))), 0, 0, *A4)
            canvas.save()
            return out.getvalue()

        told = [t for t in self.told(scanned(self.drawn(6, 25, 25, 25))) if "drawn" in t]
        self.assertRegex(" ".join(told), r"^Sheet 1: something is drawn [5-7] mm from the left edge")
        self.assertFalse([t for t in self.told(scanned(self.drawn(25, 25, 25, 25))) if "drawn" in t])

    def test_a_sheet_without_a_north_mark_is_looked_at(self) -> None:
        for mark, missing in (("N", False), ("North", False), ("Norte", False), ("Nothing", True), ("Note", True)):
            with self.subTest(mark):
                self.assertEqual("No north mark was found." in self.told(self.drawn(25, 25, 25, 25, mark)), missing)
