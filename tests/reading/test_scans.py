"""Scans and photographs: how they look, passports and faces in them, their text page by page on whichever side the sheet lies."""

from __future__ import annotations

import io
import random
import unittest
from datetime import date
from decimal import Decimal
from unittest.mock import patch

import numpy as np
from PIL import Image, ImageDraw, ImageFilter, ImageFont
from reportlab.lib.pagesizes import A4
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from bench.made.disturbed import disturbed
from bench.made.passports import GLYPHS, PLAIN, digit, drawn, passport, set_lines
from jolly_clerk.core.dossier.model import Attachment
from jolly_clerk.core.facts.findings import slot_findings
from jolly_clerk.core.facts.measures import find_all
from jolly_clerk.core.facts.mrz import read_mrz
from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.facts.stated import stated, stated_all
from jolly_clerk.core.facts.zone_signs import repaired, settled
from jolly_clerk.core.rulebook.model import FactRule, Slot
from jolly_clerk.demo import papers
from jolly_clerk.reading.ocr import installed, read_page
from jolly_clerk.reading.read import read_bytes, scans_of, with_page_text
from jolly_clerk.reading.zone import read_zone
from tests.folders import new_folder
from tests.reading.test_seen import DISTANCE, told

PASSPORT = Slot.model_validate(
    {
        "slot": "passport", "title": "Passport", "says": "The page.", "article": "1", "accepts": {"formats": ["pdf", "png", "jpeg"]},
        "facts": [
            {"id": "holder", "title": "Holder", "type": "passport holder", "near": ["surname and given names"]},
            {"id": "number", "title": "Number", "type": "passport number", "near": ["passport no"]},
            {"id": "expires", "title": "Until", "type": "passport expiry", "near": ["date of expiry"]},
        ],
    }
)  # fmt: skip
PORTRAIT = Slot.model_validate(
    {
        "slot": "portrait", "title": "Portrait", "says": "A portrait.", "article": "1", "portrait": {"head": "50 to 85"},
        "accepts": {"formats": ["png", "jpeg"]},
    }
)  # fmt: skip


def jpeg(image: Image.Image, dpi: int = 200, **more: object) -> bytes:
    buffer = io.BytesIO()
    image.convert("L").save(buffer, "JPEG", quality=85, dpi=(dpi, dpi), **more)
    return buffer.getvalue()


def sheet(dpi: int = 200, *lines: str) -> Image.Image:
    """A typed page as a scanner sees it."""
    image = Image.new("L", (round(8.27 * dpi), round(11.69 * dpi)), 250)
    pen, font = ImageDraw.Draw(image), ImageFont.truetype(str(PLAIN), round(dpi * 0.16))
    for n, line in enumerate(
        lines
        or ("Certificate of the surveyor", "The new wall is drawn 18 m to high water", "Signed in Quill on the fifth of May")
    ):
        pen.text((dpi, dpi * (1.5 + 0.5 * n)), line, font=font, fill=20)
    return image


def findings(slot: Slot, content: bytes, name: str = "p.jpg") -> list[str]:
    found = read_bytes(content)
    file = Attachment(id="a1", slot=slot.slot, name=name, sha256=found.sha256, size=found.size)
    return [
        f"{f.weight}: {f.text}" for f in slot_findings(slot, [file], {found.sha256: found.model_copy(update={"scans": "read"})})
    ]


class Looks(unittest.TestCase):
    def test_blank_scans_white_and_black_are_blank(self) -> None:
        noise = np.random.default_rng(1).normal(0, 3, (1754, 1240))
        for ground in (245, 8):
            image = Image.fromarray(np.clip(ground + noise, 0, 255).astype(np.uint8))
            self.assertEqual(read_bytes(jpeg(image)).pages[0].content, "blank")
        self.assertEqual(read_bytes(jpeg(sheet())).pages[0].content, "scan")

    def test_blur_roughness_and_skew_are_told(self) -> None:
        good = sheet()
        for image, dpi, words in (
            (good.filter(ImageFilter.GaussianBlur(5)), 200, "look: Sheet 1: not sharp"),
            (sheet(72), 72, "look: Sheet 1: scanned at 72 dots an inch only"),
            (good.rotate(5, fillcolor=250), 200, "note: Sheet 1: not straight on the page"),
        ):
            with self.subTest(words):
                self.assertIn(words, " ".join(told(read_bytes(jpeg(image, dpi)))))
        self.assertEqual([t for t in told(read_bytes(jpeg(good))) if "Sheet" in t], [])

    def test_sizes_are_never_made_up(self) -> None:
        buffer = io.BytesIO()
        sheet().save(buffer, "JPEG")
        page = read_bytes(buffer.getvalue()).pages[0]
        self.assertEqual((page.width_mm, page.said()), (0, "1654 × 2338 pixels"))
        exif = Image.Exif()
        exif[0x010F] = "Telephone"
        phone = read_bytes(jpeg(sheet(), 72, exif=exif)).pages[0]
        self.assertEqual(phone.width_mm, 0)
        self.assertAlmostEqual(read_bytes(jpeg(sheet(), 200)).pages[0].width_mm, 210, delta=1)

    def test_pictures_in_strips_and_in_turned_frames_are_scans(self) -> None:
        buffer = io.BytesIO()
        canvas = Canvas(buffer, pagesize=A4)
        image = sheet(100)
        strip = image.height // 5
        for n in range(5):
            part = image.crop((0, n * strip, image.width, (n + 1) * strip))
            canvas.drawImage(ImageReader(part), 0, A4[1] * (4 - n) / 5, A4[0], A4[1] / 5)
        canvas.showPage()
        canvas.translate(A4[0], 0)
        canvas.rotate(90)
        canvas.drawImage(ImageReader(image.rotate(90, expand=True)), 0, 0, A4[1], A4[0])
        canvas.showPage()
        canvas.save()
        self.assertEqual([p.content for p in read_bytes(buffer.getvalue()).pages], ["scan", "scan"])


@unittest.skipUnless(GLYPHS.exists(), "Debian's fonts-ocr-b is not installed")
class Passports(unittest.TestCase):
    def test_lines_are_read_turned_skewed_and_noisy(self) -> None:
        whole = 0
        for seed in range(12):
            dice = random.Random(5000 + seed)
            paper = passport(dice)
            found = read_zone(np.asarray(disturbed(drawn(paper, dice.choice((150, 200, 300)), dice), dice)))
            assert found, seed
            whole += found.lines == paper.lines
            self.assertEqual(found.lines[1], paper.lines[1], seed)
        self.assertGreaterEqual(whole, 11)

    def test_a_broken_check_digit_is_told_and_states_nothing(self) -> None:
        dice = random.Random(3)
        paper = passport(dice, broken=True)
        found = read_bytes(jpeg(drawn(paper, 300, dice), 300))
        self.assertEqual(found.zones[0].lines, paper.lines)
        said = [f for f in findings(PASSPORT, jpeg(drawn(paper, 300, random.Random(3)), 300)) if "check digit" in f]
        self.assertTrue(said and said[0].startswith("look: In the machine-readable lines: The check digit"), said)

    def test_facts_rest_on_the_lines_and_on_what_is_printed(self) -> None:
        dice = random.Random(8)
        paper = passport(dice)
        found = read_bytes(jpeg(drawn(paper, 300, dice), 300))
        facts = {f.id: stated(f, found) for f in PASSPORT.facts}
        assert facts["number"] and facts["expires"]
        self.assertEqual((facts["number"].value, facts["expires"].value), (paper.number, paper.expires))
        from datetime import date

        pdf = papers.passport("Ada Marek", "M7654321", date(1990, 2, 11), date(2029, 1, 1))
        self.assertEqual([f.value for f in stated_all(PASSPORT.facts[1], read_bytes(pdf))], ["M7654321"])
        other = pdf.replace(b"M7654321<", b"M7654321<")
        self.assertEqual(len(read_bytes(other).zones), 1)

    def test_three_lines_of_a_card_are_read(self) -> None:
        image = Image.new("L", (round(85.6 / 25.4 * 300), round(54 / 25.4 * 300)), 240)
        number, born, expires = "D12345678", "900211", "290101"
        first = f"I<UTO{number}{digit(number)}".ljust(30, "<")
        second = f"{born}{digit(born)}F{expires}{digit(expires)}UTO".ljust(29, "<")
        second += digit(first[5:30] + second[0:7] + second[8:15] + second[18:29])
        lines = (first, second, "MAREK<<ADA".ljust(30, "<"))
        set_lines(ImageDraw.Draw(image), lines, 80, 380, 300, 30)
        found = read_zone(np.asarray(image))
        assert found
        self.assertEqual(found.lines, lines)

    def test_check_digits_decide_only_where_one_way_is_left(self) -> None:
        dice = random.Random(11)
        paper = passport(dice)
        at = next(n for n, sign in enumerate(paper.lines[1][:9]) if sign.isdigit())
        right = paper.lines[1][at]
        wrong = [paper.lines[0], paper.lines[1][:at] + "X" + paper.lines[1][at + 1 :]]
        near = [[{} for _ in range(44)] for _ in range(2)]
        self.assertEqual(repaired(wrong, near), (wrong, []))
        near[1][at] = {right: 0.02}
        lines, said = repaired(wrong, near)
        self.assertEqual((tuple(lines), len(said)), (paper.lines, 1))

    def test_what_the_lines_are_settles_signs_that_look_alike(self) -> None:
        told = passport(random.Random(3))
        first, second = told.lines
        state = second[10:13]
        end = first.index("<<", first.index("<<") + 2)
        wrong = f"{first[:2]}O{first[3:]}" if state[0] != "O" else f"{first[:2]}Q{first[3:]}"
        wrong = f"{wrong[: end + 3]}K{wrong[end + 4 :]}"
        near: list[list[dict[str, float]]] = [[{} for _ in first], [{} for _ in second]]
        self.assertEqual(settled((wrong, second), near), [wrong, second], "nothing that does not look alike is touched")
        near[0][2], near[0][end + 3] = {state[0]: 0.02}, {"<": 0.09}
        self.assertEqual(settled((wrong, second), near), [first, second])

    def test_where_the_digit_of_the_whole_alone_is_wrong_nothing_is_sure(self) -> None:
        told = passport(random.Random(3))
        read = read_mrz(list(told.lines), date(2026, 1, 1))
        assert not isinstance(read, str)
        self.assertTrue(read.sound("number") and read.sound("birth"))
        last = str((int(told.lines[1][43]) + 1) % 10)
        spoiled = read_mrz([told.lines[0], told.lines[1][:43] + last], date(2026, 1, 1))
        assert not isinstance(spoiled, str)
        self.assertEqual([spoiled.sound(name) for name in ("number", "birth", "expiry")], [False] * 3)
        # where another digit is wrong it is known why the whole is
        birth = told.lines[1][:19] + str((int(told.lines[1][19]) + 1) % 10) + told.lines[1][20:]
        partly = read_mrz([told.lines[0], birth], date(2026, 1, 1))
        assert not isinstance(partly, str)
        self.assertEqual([partly.sound(name) for name in ("number", "birth", "expiry")], [True, False, True])

    def test_passport_and_portrait_exchanged_are_told(self) -> None:
        dice = random.Random(8)
        page = jpeg(drawn(passport(dice), 300, dice), 300)
        self.assertIn("fault: This is the page of a passport; a portrait is asked.", " ".join(findings(PORTRAIT, page)))
        said = " ".join(findings(PASSPORT, papers.portrait(3)))
        self.assertIn("fault: This is a portrait; the page of the passport is asked.", said)


class WithoutGlyphs(unittest.TestCase):
    def test_an_office_without_the_glyphs_says_so(self) -> None:
        glyphs, zone = (patch(f"jolly_clerk.reading.{module}.font_path", return_value=None) for module in ("glyphs", "zone"))
        with glyphs, zone:
            told = findings(PASSPORT, jpeg(sheet()))
        self.assertIn("look: No machine-readable lines could be read: this office’s reader for them is not installed.", told)


class Faces(unittest.TestCase):
    def test_good_portraits_have_no_finding(self) -> None:
        for seed in range(6):
            self.assertEqual([f for f in findings(PORTRAIT, papers.portrait(seed)) if not f.startswith("note")], [])

    def test_bad_ones_are_told(self) -> None:
        good = Image.open(io.BytesIO(papers.portrait(2))).convert("RGB")
        nobody = Image.new("RGB", good.size, "#c8d4dc")
        ImageDraw.Draw(nobody).rectangle((100, 300, 600, 800), fill="#446644")
        dark = Image.composite(
            good, Image.new("RGB", good.size, "#303030"), good.convert("L").point(lambda v: 0 if v > 225 else 255)
        )
        two = Image.new("RGB", (1400, 900), "#eceae4")
        two.paste(good, (0, 0))
        two.paste(good, (700, 0))
        far = Image.new("RGB", (1400, 1800), "#eceae4")
        far.paste(good.resize((500, 643)), (450, 600))
        for image, words in (
            (nobody, "No face was found"),
            (dark, "is dark"),
            (two, "2 faces are in the picture"),
            (far, "The head is about"),
            (good.filter(ImageFilter.GaussianBlur(14)), "not sharp"),
        ):
            with self.subTest(words):
                buffer = io.BytesIO()
                image.save(buffer, "JPEG", quality=90, dpi=(300, 300))
                self.assertIn(words, " ".join(findings(PORTRAIT, buffer.getvalue())))


@unittest.skipUnless(installed(), "Tesseract is not installed")
class Texts(unittest.TestCase):
    def read(self, content: bytes) -> Reading:
        found = read_bytes(content)
        path = new_folder() / "file"
        path.write_bytes(content)
        for no in scans_of(found):
            found = with_page_text(found, no, read_page(path, found.type, no, 120.0))
        return found

    def test_facts_are_read_on_a_scan_on_whichever_side_it_lies(self) -> None:
        for turn in (0, 90, 180):
            with self.subTest(turn=turn):
                found = self.read(jpeg(sheet(200).rotate(turn, expand=True)))
                self.assertEqual(found.scans, "read")
                (fact,) = find_all(DISTANCE, found)
                self.assertEqual(fact.value, Decimal(18))
                middle = ((fact.box[0] + fact.box[2]) / 2, (fact.box[1] + fact.box[3]) / 2)
                upright = {0: middle, 90: (1 - middle[1], middle[0]), 180: (1 - middle[0], 1 - middle[1])}[turn]
                self.assertAlmostEqual(upright[1], 2.08 / 11.69, delta=0.03)

    def test_another_language_is_read_as_such(self) -> None:
        lines = (
            "Certificado de seguro da companhia",
            "A presente apólice cobre os três músicos",
            "durante toda a digressão pelas ilhas",
        )
        found = self.read(jpeg(sheet(200, *lines)))
        self.assertEqual(found.pages[0].language, "pt")
        self.assertIn("apólice", " ".join(line.text for line in found.lines))

    def test_a_named_field_of_a_photographed_certificate(self) -> None:
        dice = random.Random(4)
        lines = ("Training certificate", "Holder: Ada Marek", "Valid until: 5 May 2027", "Tide School of Surveying")
        photo = disturbed(sheet(200, *lines), dice, skew=2, quarter=False)
        rule = FactRule.model_validate({"id": "until", "title": "Until", "type": "date", "near": ["valid until"]})
        fact = stated(rule, self.read(jpeg(photo)))
        assert fact
        self.assertEqual(str(fact.value), "2027-05-05")


if __name__ == "__main__":
    unittest.main()
