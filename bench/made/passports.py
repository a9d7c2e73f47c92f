"""Pages of passports of countries that are not, with what stands on them."""

from __future__ import annotations

import random
from dataclasses import dataclass
from datetime import date, timedelta
from pathlib import Path

from PIL import Image, ImageDraw, ImageFont

GLYPHS = Path("/usr/share/fonts/opentype/ocr-b/OCRB.otf")
PLAIN = Path("/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf")
_SURNAMES = (
    "OKONJO",
    "MAREK",
    "DELACROIX",
    "VAN DER MEER",
    "SILVA COSTA",
    "THORNE",
    "ISHIKAWA",
    "QUAY",
    "BRANDT",
    "NOWAK",
    "OZAL",
    "BIBO",
)
_GIVEN = ("ADA", "IVO LOUIS", "MARTA", "JONAS BO", "ZOE", "IRIS ILSE", "OTTO", "LEILA", "BRIS", "SILAS GIO", "QUIN")
_COUNTRIES = ("UTO", "QHV", "ZZL", "BOR", "OIS")
_WEIGHTS = (7, 3, 1)


def digit(text: str) -> str:
    """A check digit, reckoned here once more and not by the code that is measured."""
    return str(sum((0 if s == "<" else int(s, 36)) * _WEIGHTS[n % 3] for n, s in enumerate(text)) % 10)


@dataclass(frozen=True, slots=True)
class Passport:
    """What a passport says; ``broken`` tells that one of its check digits is wrong on the paper."""

    lines: tuple[str, ...]
    number: str
    born: date
    expires: date
    surname: str
    given: str
    country: str
    broken: bool


def passport(dice: random.Random, broken: bool = False) -> Passport:
    """A passport with two lines of 44 signs."""
    surname, given, country = dice.choice(_SURNAMES), dice.choice(_GIVEN), dice.choice(_COUNTRIES)
    number = "".join(dice.choice("0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ") for _ in range(2)) + "".join(
        dice.choice("0123456789") for _ in range(7)
    )
    born = date(1945, 1, 1) + timedelta(days=dice.randrange(25_000))
    expires = date(2025, 1, 1) + timedelta(days=dice.randrange(3_600))
    sex = dice.choice("MF<")
    names = f"{surname}<<{given}".replace(" ", "<")
    optional = "".join(dice.choice("0123456789ABCXYZ") for _ in range(dice.choice((0, 0, 8, 14)))).ljust(14, "<")
    fields = [
        number + digit(number),
        f"{born:%y%m%d}" + digit(f"{born:%y%m%d}"),
        f"{expires:%y%m%d}" + digit(f"{expires:%y%m%d}"),
    ]
    last = optional + ("<" if not optional.strip("<") else digit(optional))
    whole = digit("".join(fields) + last)
    if broken:
        n = dice.randrange(3)
        fields[n] = fields[n][:-1] + str((int(fields[n][-1]) + dice.randrange(1, 10)) % 10)
    first = f"P<{country}{names}"[:44].ljust(44, "<")
    second = f"{fields[0]}{country}{fields[1]}{sex}{fields[2]}{last}{whole}"
    return Passport((first, second), number, born, expires, surname, given, country, broken)


def drawn(told: Passport, dpi: int, dice: random.Random) -> Image.Image:
    """Its page of 125 by 88 mm at so many dots an inch, with a portrait and the printed fields, somewhere on a sheet."""

    def dots(mm: float) -> int:
        return round(mm * dpi / 25.4)

    page = Image.new("L", (dots(125), dots(88)), dice.randint(215, 250))
    pen = ImageDraw.Draw(page)
    for _ in range(60):  # a guilloche of sorts
        y = dice.randrange(dots(66))
        pen.line([(0, y), (dots(125), y + dice.randrange(-dots(9), dots(9)))], fill=dice.randint(190, 235), width=1)
    pen.rectangle([dots(5), dots(18), dots(36), dots(60)], fill=170)
    pen.ellipse([dots(11), dots(24), dots(30), dots(48)], fill=110)
    small, plain = ImageFont.truetype(str(PLAIN), dots(1.8)), ImageFont.truetype(str(PLAIN), dots(2.9))
    fields = (
        ("Surname", told.surname), ("Given names", told.given), ("Passport No", told.number), ("Nationality", told.country),
        ("Date of birth", f"{told.born:%d %b %Y}".upper()), ("Date of expiry", f"{told.expires:%d %b %Y}".upper()),
    )  # fmt: skip
    pen.text((dots(40), dots(6)), "PASSPORT", font=plain, fill=40)
    for n, (label, value) in enumerate(fields):
        pen.text((dots(40), dots(14 + 8 * n)), label, font=small, fill=90)
        pen.text((dots(40), dots(16.5 + 8 * n)), value, font=plain, fill=30)
    set_lines(pen, told.lines, dots(5.5), dots(68), dpi, dice.randint(10, 60))
    ground = dice.choice((245, 250, 225))
    margin = dots(dice.uniform(4, 30))
    sheet = Image.new("L", (page.width + 2 * margin, page.height + 2 * margin), ground)
    sheet.paste(page, (margin, margin))
    return sheet


def set_lines(pen: ImageDraw.ImageDraw, lines: tuple[str, ...], left: int, top: int, dpi: int, ink: int) -> None:
    """Lines of OCR-B at 10 signs an inch."""
    pitch = dpi / 10
    font = ImageFont.truetype(str(GLYPHS), 100)
    font = ImageFont.truetype(str(GLYPHS), round(100 * pitch / font.getlength("0")))
    for n, line in enumerate(lines):
        for at, sign in enumerate(line):
            pen.text((left + pitch * at, top + n * dpi * 0.25), sign, font=font, fill=ink)
