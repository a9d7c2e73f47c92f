"""Drawn files for the demo: plans on true sheet sizes, sections, consents, a blurred scan."""

from __future__ import annotations

import io
import random
from collections.abc import Sequence

from PIL import Image, ImageDraw
from reportlab.lib.pagesizes import A3, A4, landscape
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

SIZES = {"A3": landscape(A3), "A4": landscape(A4)}


def site_plan(
    place: str, what: str, width: float, depth: float, distance: float, sheet: str = "A3", scale_bar: bool = True
) -> bytes:
    """A site plan with plot bounds, the building with its sides, and the distance to high water, in metres."""
    page_width, page_height = SIZES[sheet]
    buffer = io.BytesIO()
    c = Canvas(buffer, pagesize=(page_width, page_height), invariant=True)
    c.setTitle(f"Site plan, {place}")
    unit = page_width / 420
    c.setLineWidth(0.8)
    c.setDash(6, 3)
    bounds = [(60, 270), (330, 282), (352, 70), (78, 52)]
    for (x1, y1), (x2, y2) in zip(bounds, bounds[1:] + bounds[:1], strict=True):
        c.line(x1 * unit, y1 * unit, x2 * unit, y2 * unit)
    c.setDash()
    c.setFillColorRGB(0.9, 0.93, 0.95)
    w, d = min(width * 8, 180), min(depth * 8, 110)
    left, bottom = 200 - w / 2, 150
    c.rect(left * unit, bottom * unit, w * unit, d * unit, fill=1)
    c.setFillColorRGB(0.1, 0.15, 0.17)
    c.setFont("Helvetica", 8 * unit)
    c.drawCentredString(200 * unit, (bottom + d + 5) * unit, f"{what} {width:g} x {depth:g} m")
    c.line(200 * unit, bottom * unit, 200 * unit, 42 * unit)
    c.drawString(206 * unit, 95 * unit, f"{distance:g} m")
    path = c.beginPath()
    path.moveTo(20 * unit, 40 * unit)
    for n in range(8):
        x = 20 + n * 47
        path.curveTo((x + 15) * unit, 52 * unit, (x + 30) * unit, 28 * unit, (x + 47) * unit, 40 * unit)
    c.drawPath(path)
    c.drawString(292 * unit, 54 * unit, "mean high water")
    if scale_bar:
        c.line(24 * unit, 18 * unit, 124 * unit, 18 * unit)
        for n in range(5):
            c.line((24 + 25 * n) * unit, 15 * unit, (24 + 25 * n) * unit, 21 * unit)
        c.drawString(24 * unit, 6 * unit, "Scale 1:200")
    _title_block(c, page_width, f"Site plan, {place}", unit)
    c.save()
    return buffer.getvalue()


def _title_block(c: Canvas, page_width: float, title: str, unit: float) -> None:
    c.rect(page_width - 130 * unit, 6 * unit, 122 * unit, 16 * unit)
    c.drawString(page_width - 126 * unit, 12 * unit, title[:40])


def sections(place: str, sheets: int = 2) -> bytes:
    """Roof sections at 1:50 on A3."""
    buffer = io.BytesIO()
    width, height = SIZES["A3"]
    c = Canvas(buffer, pagesize=(width, height), invariant=True)
    c.setTitle(f"Roof sections, {place}")
    for no in range(1, sheets + 1):
        c.setFont("Helvetica", 12)
        for a, b in (
            ((90, 80), (90, 170)),
            ((90, 170), (210, 230)),
            ((210, 230), (330, 170)),
            ((330, 170), (330, 80)),
            ((90, 80), (330, 80)),
        ):
            c.line(a[0] * mm, a[1] * mm, b[0] * mm, b[1] * mm)
        c.drawString(40 * mm, 30 * mm, f"Section {'AB'[no % 2]}-{'AB'[no % 2]}   {place}   Scale 1:50   sheet {no} of {sheets}")
        c.showPage()
    c.save()
    return buffer.getvalue()


def consent(owner: str, place: str, day: str, signed: bool = True) -> bytes:
    """A letter of consent on A4."""
    lines = (f"I, {owner}, own the plot at {place}.", "I agree to the works that are applied for.", "", f"Quillhaven, {day}")
    return statement("Consent of the owner", (*lines, f"(signed) {owner}" if signed else ""))


def statement(title: str, lines: Sequence[str]) -> bytes:
    """A written statement on A4."""
    buffer = io.BytesIO()
    c = Canvas(buffer, pagesize=A4, invariant=True)
    c.setTitle(title)
    text = c.beginText(30 * mm, 250 * mm)
    text.setFont("Helvetica", 12)
    for line in (title, "", *lines):
        text.textLine(line)
    c.drawText(text)
    c.save()
    return buffer.getvalue()


def scanned_consent(seed: int) -> bytes:
    """A consent as a crooked grey scan, JPEG at 150 dots an inch."""
    rnd = random.Random(seed)  # noqa: S311 - a drawing, not a secret
    page = Image.new("L", (1240, 1754), 238)
    pen = ImageDraw.Draw(page)
    for n in range(18):
        pen.line((160, 260 + 50 * n, 160 + rnd.randint(500, 900), 260 + 50 * n), fill=70, width=6)
    pen.line([(180 + 14 * n, 1300 + rnd.randint(-40, 40)) for n in range(30)], fill=40, width=5)
    for _ in range(2500):
        page.putpixel((rnd.randrange(1240), rnd.randrange(1754)), rnd.randrange(120, 255))
    buffer = io.BytesIO()
    page.rotate(1.4, fillcolor=225).save(buffer, "JPEG", dpi=(150, 150), quality=60)
    return buffer.getvalue()
