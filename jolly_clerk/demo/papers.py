"""Papers for the other kinds: passports with right and with broken lines, portraits, certificates, a patent's text, scans."""

from __future__ import annotations

import functools
import io
import random
import textwrap
from datetime import date

import pypdfium2
from PIL import Image, ImageDraw, ImageFilter
from reportlab import rl_config
from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from jolly_clerk.core.facts.mrz import check_digit

rl_config.useA85 = 0  # streams as they are: writing them as text takes longer than all else about a paper


def paper(title: str, *lines: str, pages: int = 1, letterhead: str = "") -> bytes:
    """A typed paper on A4, of as many pages; long lines are broken."""
    more = [(title, (f"{title}, continued.",))] * (pages - 1)
    return sheets((title, lines), *more, letterhead=letterhead)


def sheets(*written: tuple[str, tuple[str, ...]], letterhead: str = "") -> bytes:
    """Typed sheets of A4, each with its heading and its lines."""
    buffer = io.BytesIO()
    c = Canvas(buffer, pagesize=A4, invariant=True)
    c.setTitle(written[0][0])
    for no, (heading, lines) in enumerate(written, 1):
        if letterhead:
            c.setFont("Times-Italic", 13)
            c.drawString(25 * mm, 275 * mm, letterhead)
            c.line(25 * mm, 272 * mm, 185 * mm, 272 * mm)
        text = c.beginText(25 * mm, 255 * mm)
        text.setFont("Times-Bold", 15)
        text.textLine(heading)
        text.setFont("Times-Roman", 11.5)
        text.textLine("")
        for line in lines:
            for broken in textwrap.wrap(line, 84) or [""]:
                text.textLine(broken)
        c.drawText(text)
        c.setFont("Times-Roman", 9)
        c.drawCentredString(105 * mm, 12 * mm, f"{no} of {len(written)}")
        c.showPage()
    c.save()
    return buffer.getvalue()


def contract(company: str, name: str, spanish: bool = False, translated: bool = False) -> bytes:
    """The contract of a performer; one in Spanish alone, or with its certified translation behind it."""
    english = f"{company} engages {name} for the whole tour of the islands and pays each evening after the play."
    if not spanish:
        return paper("Contract", english, letterhead=company)
    own = f"{company} contrata a {name} para toda la gira por las islas y le paga cada noche después de la función."
    behind = ("Contract", (english, "Certified translation from the Spanish, Ada Marrow, sworn translator of Quill."))
    return sheets(("Contrato", (own,)), *((behind,) if translated else ()), letterhead=company)


def passport_lines(name: str, number: str, born: date, expires: date, broken: bool = False) -> tuple[str, str]:
    """The two machine-readable lines of a passport of Merrow; with ``broken`` one check digit is wrong."""
    given, _, surname = name.upper().rpartition(" ")
    first = f"P<MRW{surname}<<{given.replace(' ', '<')}".ljust(44, "<")[:44]
    serial = number.ljust(9, "<")
    birth, end = f"{born:%y%m%d}", f"{expires:%y%m%d}"
    own = "<" * 14
    parts = [f"{serial}{check_digit(serial)}", "MRW", f"{birth}{check_digit(birth)}", "F", f"{end}{check_digit(end)}", f"{own}0"]
    whole = check_digit("".join((parts[0], parts[2], parts[4], parts[5])))
    second = "".join(parts) + str((whole + broken) % 10)
    return first, second


def passport(name: str, number: str, born: date, expires: date, broken: bool = False) -> bytes:
    """The page of a passport with portrait, names and lines."""
    buffer = io.BytesIO()
    c = Canvas(buffer, pagesize=(125 * mm, 88 * mm), invariant=True)
    c.setTitle("Passport")
    c.setFillColorRGB(0.93, 0.95, 0.97)
    c.rect(0, 0, 125 * mm, 88 * mm, fill=1, stroke=0)
    c.setFillColorRGB(0.1, 0.12, 0.15)
    c.drawImage(ImageReader(io.BytesIO(portrait(sum(map(ord, name))))), 6 * mm, 32 * mm, 31 * mm, 40 * mm)
    c.setFont("Helvetica-Bold", 9)
    c.drawString(42 * mm, 78 * mm, "PASSPORT")
    c.setFont("Helvetica", 8)
    given, _, surname = name.rpartition(" ")
    told = (
        f"Surname and given names: {surname.upper()} {given.upper()}",
        f"Passport no: {number}",
        f"Date of birth: {born:%d %m %Y}",
        f"Date of expiry: {expires:%d %m %Y}",
    )
    for n, line in enumerate(told):
        c.drawString(42 * mm, (70 - 8 * n) * mm, line)
    c.setFont("Courier-Bold", 10.4)
    for n, line in enumerate(passport_lines(name, number, born, expires, broken)):
        c.drawString(4 * mm, (14 - 7 * n) * mm, line)
    c.save()
    return buffer.getvalue()


@functools.lru_cache(maxsize=64)
def portrait(seed: int = 0, wide: int = 700, high: int = 900) -> bytes:
    """A plainly drawn face before a light background, 35 to 45."""
    rnd = random.Random(seed)  # noqa: S311 - a drawing, not a secret
    skin = rnd.choice(["#e8c39e", "#d09a70", "#b07a52", "#f0d2b4", "#c08a60"])
    hair = rnd.choice(["#2b1d14", "#3a2414", "#4a3218", "#3b3b3b", "#1a1a1a"])
    coat = rnd.choice(["#274c5e", "#6b2f2b", "#3f5b3a", "#554a6b"])
    ground = rnd.choice(["#eceae4", "#e4e8ec", "#efefef", "#e6e2da"])
    image = Image.new("RGB", (wide, high), ground)
    pen = ImageDraw.Draw(image)
    broad, full, brow, wide_eyed = rnd.uniform(0.9, 1.1), rnd.uniform(0.9, 1.12), rnd.uniform(-6, 10), rnd.uniform(0.9, 1.12)
    mid, u = wide / 2 + rnd.uniform(-0.03, 0.03) * wide, high / 900
    shoulders = rnd.uniform(250, 345) * u
    pen.ellipse((mid - shoulders, rnd.uniform(670, 730) * u, mid + shoulders, 1250 * u), fill=coat)
    pen.rectangle((mid - 70 * broad * u, 600 * u, mid + 70 * broad * u, 740 * u), fill=skin)
    hair_down = rnd.choice([480, 560, 640, 740])  # from short to long
    pen.ellipse((mid - 215 * full * u, 90 * u, mid + 215 * full * u, hair_down * u), fill=hair)
    pen.ellipse((mid - 185 * broad * u, 150 * u, mid + 185 * broad * u, 680 * u), fill=skin)
    for side in (-1, 1):
        eye = mid + side * 78 * wide_eyed * u
        pen.ellipse((eye - 40 * u, 350 * u, eye + 40 * u, 392 * u), fill="#fafafa")
        pen.ellipse((eye - 19 * u, 352 * u, eye + 19 * u, 390 * u), fill="#33271e")
        pen.line((eye - 52 * u, (318 - brow) * u, eye + 52 * u, 312 * u), fill=hair, width=round(15 * u))
    pen.line([(mid - 6 * u, 390 * u), (mid - 30 * u, 490 * u), (mid + 26 * u, 494 * u)], fill="#7d5238", width=round(9 * u))
    mouth = rnd.uniform(66, 94)
    pen.ellipse((mid - mouth * u, 545 * u, mid + mouth * u, 590 * u), fill="#a5524c")
    if rnd.random() < 0.3:  # a beard
        pen.arc((mid - 150 * broad * u, 420 * u, mid + 150 * broad * u, 690 * u), 20, 160, fill=hair, width=round(34 * u))
    image = image.filter(ImageFilter.GaussianBlur(1.6 * u))
    buffer = io.BytesIO()
    image.save(buffer, "JPEG", quality=88, dpi=(300, 300))
    return buffer.getvalue()


def claims(dependent: int, independent: int = 1, multiple: bool = False, skip: int = 0) -> bytes:
    """A set of claims: independent ones first, then dependent ones, the last perhaps on several; ``skip`` leaves a number out."""
    things = ("A winch with a pawl that falls back by its own weight", "A method of holding a rope", "A boat with such a winch")
    numbers = [no for no in range(1, independent + dependent + 1 + bool(skip)) if no != skip]
    lines = []
    for place, no in enumerate(numbers):
        if place < independent:
            lines.append(f"{no}. {things[place % 3]}, in which the tooth is longer than the gap behind it.")
        elif multiple and no == numbers[-1]:
            lines.append(f"{no}. A winch as claimed in claim 1 or 2, in which the tooth is of bronze.")
        else:
            lines.append(f"{no}. A winch as claimed in claim 1, in which the spring number {no} is left out.")
    return paper("Claims", *lines)


def scanned(pdf: bytes, seed: int, turned: float = 1.2) -> bytes:
    """A paper as a scanner gives it: grey, turned a little, with specks, JPEG at 150 dots an inch."""
    rnd = random.Random(seed)  # noqa: S311 - a drawing, not a secret
    document = pypdfium2.PdfDocument(pdf)
    page = document[0].render(scale=150 / 72).to_pil().convert("L")
    document.close()
    page = page.rotate(turned, fillcolor=236, expand=False)
    for _ in range(page.width * page.height // 900):
        page.putpixel((rnd.randrange(page.width), rnd.randrange(page.height)), rnd.randrange(110, 255))
    buffer = io.BytesIO()
    page.save(buffer, "JPEG", dpi=(150, 150), quality=62)
    return buffer.getvalue()
