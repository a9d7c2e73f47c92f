"""Only what somebody sees is a statement: hidden, covered, off-sheet, tiny and switched-off words are told and not counted."""

from __future__ import annotations

import io
import unittest
from decimal import Decimal

import pikepdf
from PIL import Image, ImageDraw
from reportlab.lib.pagesizes import A3, A4, landscape
from reportlab.lib.utils import ImageReader
from reportlab.pdfbase.pdfmetrics import stringWidth
from reportlab.pdfgen.canvas import Canvas

from jolly_clerk.core.dossier.model import Attachment
from jolly_clerk.core.facts.file_findings import file_findings
from jolly_clerk.core.facts.measures import find_all
from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.rulebook.model import FactRule
from jolly_clerk.reading.read import read_bytes

DISTANCE = FactRule.model_validate({"id": "distance", "title": "Distance", "type": "length", "near": ["high water"]})
SAID = "18 m to high water"


def page(draw, size=landscape(A3), **how: object) -> bytes:
    buffer = io.BytesIO()
    canvas = Canvas(buffer, pagesize=size)
    canvas.setFont("Helvetica", 12)
    canvas.drawString(60, 60, "Site plan of the workshop, drawn by hand")
    draw(canvas)
    canvas.save()
    return buffer.getvalue()


def white(c: Canvas) -> None:
    c.setFillColorRGB(1, 1, 1)
    c.drawString(200, 400, SAID)


def covered(c: Canvas) -> None:
    c.drawString(200, 400, SAID)
    c.setFillColorRGB(1, 1, 1)
    c.rect(180, 380, 300, 60, stroke=0, fill=1)


def barred(c: Canvas) -> None:
    c.drawString(200, 400, SAID)
    c.rect(190, 390, 300, 40, stroke=0, fill=1)


def invisible(c: Canvas) -> None:
    text = c.beginText(200, 400)
    text.setTextRenderMode(3)
    text.textLine(SAID)
    c.drawText(text)


def off(c: Canvas) -> None:
    c.drawString(-400, 400, SAID)


def tiny(c: Canvas) -> None:
    c.setFont("Helvetica", 0.5)
    c.drawString(200, 400, SAID)


def under_a_picture(c: Canvas) -> None:
    c.drawString(200, 400, SAID)
    picture = Image.new("RGB", (300, 60), "white")
    ImageDraw.Draw(picture).text((10, 20), "A picture of something else", fill="black")
    c.drawImage(ImageReader(picture), 180, 380, 300, 60)


def plainly(c: Canvas) -> None:
    c.setFillColorRGB(0.5, 0.2, 0.1)
    c.drawString(200, 400, SAID)


def on_colour(c: Canvas) -> None:
    c.setFillColorRGB(0.1, 0.2, 0.5)
    c.rect(180, 380, 300, 60, stroke=0, fill=1)
    c.setFillColorRGB(1, 1, 1)
    c.drawString(200, 400, SAID)


def beside_a_box(c: Canvas) -> None:
    c.drawString(200, 400, SAID)
    c.setFillColorRGB(0.8, 0.8, 0.8)
    c.rect(180, 200, 300, 60, stroke=0, fill=1)


def switched_off(content: bytes) -> bytes:
    """The page with all its writing on a layer that is switched off, but for the heading."""
    with pikepdf.open(io.BytesIO(content)) as pdf:
        layer = pdf.make_indirect(pikepdf.Dictionary(Type=pikepdf.Name.OCG, Name="old"))
        pdf.Root.OCProperties = pikepdf.Dictionary(
            OCGs=pikepdf.Array([layer]), D=pikepdf.Dictionary(OFF=pikepdf.Array([layer]), Order=pikepdf.Array([layer]))
        )
        first = pdf.pages[0]
        first.obj.Resources.Properties = pikepdf.Dictionary(L1=layer)
        drawing = first.obj.Contents.read_bytes()
        start, end = drawing.rindex(b"BT"), drawing.rindex(b"ET") + 2
        first.obj.Contents = pdf.make_stream(drawing[:start] + b"/OC /L1 BDC\n" + drawing[start:end] + b"\nEMC\n" + drawing[end:])
        buffer = io.BytesIO()
        pdf.save(buffer)
    return buffer.getvalue()


def told(found: Reading) -> list[str]:
    file = Attachment(id="a1", slot="s", name="plan.pdf", sha256=found.sha256, size=found.size)
    return [f"{f.weight}: {f.text}" for f in file_findings(file, found)]


class Seen(unittest.TestCase):
    def test_words_that_nobody_sees_are_told_and_state_nothing(self) -> None:
        for draw, why in (
            (white, "hidden, covered or of the colour of the ground"),
            (covered, "hidden, covered"),
            (barred, "hidden, covered"),
            (invisible, "hidden, covered"),
            (off, "stands off the sheet"),
            (tiny, "too small to be read"),
            (under_a_picture, "hidden, covered"),
        ):
            with self.subTest(draw.__name__):
                found = read_bytes(page(draw))
                self.assertEqual(find_all(DISTANCE, found), ())
                self.assertEqual([h.text for h in found.hidden], [SAID])
                (said,) = told(found)
                self.assertIn(f"look: “{SAID}” on sheet 1 is seen by nobody: it", said)
                self.assertIn(why, said)
                self.assertIn("Site plan of the workshop", found.lines[0].text)

    def test_a_layer_that_is_switched_off_is_not_seen(self) -> None:
        plain = page(plainly)
        self.assertEqual([f.value for f in find_all(DISTANCE, read_bytes(plain))], [Decimal(18)])
        found = read_bytes(switched_off(plain))
        self.assertEqual(find_all(DISTANCE, found), ())
        self.assertEqual([h.text for h in found.hidden], [SAID])

    def test_words_that_somebody_sees_are_counted(self) -> None:
        for draw in (plainly, on_colour, beside_a_box):
            with self.subTest(draw.__name__):
                found = read_bytes(page(draw))
                self.assertEqual(
                    ([f.value for f in find_all(DISTANCE, found)], found.hidden, told(found)), ([Decimal(18)], (), [])
                )

    def test_a_word_under_a_bar_goes_and_its_line_stays(self) -> None:
        def one_word(c: Canvas) -> None:
            c.drawString(200, 400, "The fence is 18 m to high water")
            start, end = (200 + stringWidth(f"The fence is {said}", "Helvetica", 12) for said in ("", "18 m"))
            c.rect(start - 1, 394, end - start + 2, 16, stroke=0, fill=1)

        found = read_bytes(page(one_word))
        self.assertIn("18 m", " ".join(h.text for h in found.hidden))
        self.assertIn("The fence is", [line.text for line in found.lines])

    def test_a_text_beneath_a_scan_is_the_scanners_own(self) -> None:
        picture = Image.new("L", (1240, 1754), 255)
        ImageDraw.Draw(picture).rectangle((200, 200, 900, 600), outline=0, width=5)

        def scan(c: Canvas) -> None:
            c.drawImage(ImageReader(picture), 0, 0, *A4)
            invisible(c)

        buffer = io.BytesIO()
        canvas = Canvas(buffer, pagesize=A4)
        scan(canvas)
        canvas.save()
        found = read_bytes(buffer.getvalue())
        self.assertEqual((found.pages[0].content, found.lines), ("scan", ()))
        self.assertIn("note: Sheet 1: a text that nobody sees lies beneath the scan", " ".join(told(found)))

    def test_feet_yards_and_two_statements(self) -> None:
        for said, metres in (
            ("59 ft", "17.9832"),
            ("59' 1\"", "18.0086"),
            ("20 yd", "18.288"),
            ("180 dm", "18.0"),
            ("18 m", "18"),
        ):
            with self.subTest(said):
                found = read_bytes(page(lambda c, said=said: c.drawString(200, 400, f"{said} to high water")))
                self.assertEqual([f.value for f in find_all(DISTANCE, found)], [Decimal(metres)])

        def two(c: Canvas) -> None:
            c.drawString(200, 400, SAID)
            c.drawString(700, 700, "high water at 14 m")

        self.assertEqual([f.value for f in find_all(DISTANCE, read_bytes(page(two)))], [Decimal(18), Decimal(14)])


if __name__ == "__main__":
    unittest.main()
