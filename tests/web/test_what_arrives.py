"""Papers that were made to trip the reader, filed by an applicant over HTTP and looked at as an officer sees them.

Each row names what is wrong with a paper, and which requirement must not be proposed *met* (or has to be), with which words.
"""

from __future__ import annotations

import io
import random
import re
import unittest
import zipfile
from collections.abc import Callable
from copy import deepcopy
from datetime import date, timedelta

import pikepdf
from pikepdf import Dictionary, Name
from PIL import Image
from reportlab.lib.pagesizes import A3, A4, landscape
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from bench.made.piles import portrait as drawn_portrait
from jolly_clerk.demo import drawings, papers
from jolly_clerk.reading.read import scans_can_be_read
from tests.reading.test_inside import saved, sheet, widget
from tests.reading.test_reading import changed
from tests.reading.test_seen import barred, covered, invisible, off, switched_off, tiny, under_a_picture, white
from tests.web.arriving import (
    DISTANCE,
    Arriving,
    Kind,
    drawing,
    in_strips,
    patent,
    photographed,
    scan,
    stall,
    surveyor,
    tour,
    with_file,
    works,
)


class Tripping(Arriving):
    """The rows of what the machine missed on files made to trip it."""

    def test_plans(self) -> None:
        far = (300, 100, "22 m to mean high water")
        feet = (300, 200, "59 ft to mean high water")
        blank = Canvas(empty := io.BytesIO(), pagesize=landscape(A3))
        blank.showPage()
        blank.save()
        rows: dict[str, tuple[Kind, str, str, str]] = {
            "right": (works(drawing(DISTANCE), place_plot=""), "distance-agrees", "met", "They agree"),
            "a second distance": (works(drawing(DISTANCE, far), place_plot=""), "distance-agrees", "in doubt", "“18 m.*22 m"),
            "in feet": (works(drawing(feet), place_plot=""), "distance-agrees", "met", "59 ft"),
            "other feet": (works(drawing((300, 200, "70 ft to mean high water")), place_plot=""), "distance-agrees", "in doubt", "70 ft"),
            "no distance": (works(drawing()), "distance-agrees", "in doubt", "does not state it"),
            "no area": (works(drawings.statement("Site plan", ["Scale 1:200, 18 m to high water"])), "area-agrees", "in doubt", "does not state it"),
            "an empty sheet": (with_file(works(drawing(DISTANCE)), "sections", "s.pdf", empty.getvalue()), "documents.sections", "wanting", "Nothing stands on it"),
            "an unknown plot": (works(drawing(DISTANCE), place_plot="Q-9999"), "owner-agrees", "in doubt", "no entry Q-9999"),
        }  # fmt: skip
        for name, row in rows.items():
            with self.subTest(name):
                self.check(*row)
        unknown = self.on_the_desk(rows["an unknown plot"][0])["owner-agrees"]
        self.assertIn("place.plot", [p["ref"] for p in unknown["places"]], "it is told at the plot")

    def test_persons(self) -> None:
        right = tour()
        page, face = right[2]["passport.1"][1], right[2]["portrait.1"][1]
        given = deepcopy(right[1])
        given["persons"][0]["valid_until"] = (date.today() + timedelta(days=3000)).isoformat()
        swapped = with_file(
            with_file(right, "passport.1", "a.jpg", face), "portrait.1", "b.jpg", photographed("Basil Rook", "M7654320")
        )
        nobody = drawn_portrait(random.Random(5), "nobody")
        ended = papers.paper(
            "Health cover", "2 persons, every day.", f"In force until {date.today() + timedelta(days=20):%-d %B %Y}"
        )
        rows: dict[str, tuple[Kind, str, str, str]] = {
            "right": (right, "expiry-agrees.1", "met", "They agree"),
            "an expired passport": ((right[0], given, right[2]), "expiry-agrees.1", "in doubt", "differs"),
            "a broken check digit": (with_file(right, "passport.1", "p.jpg", photographed("Basil Rook", "M7654320", True)), "documents.passport.1", "in doubt", "machine-readable lines"),
            "nobody in the portrait": (with_file(right, "portrait.1", "p.jpg", nobody), "documents.portrait.1", "in doubt", "No face"),
            "swapped, the passport": (swapped, "documents.passport.1", "wanting", "exchange them"),
            "swapped, the portrait": (swapped, "documents.portrait.1", "wanting", "exchange them"),
            "a contract for another": (with_file(right, "contract.1", "c.pdf", papers.contract("The Tide Players", "Wim Sark")), "documents.contract.1", "in doubt", "does not name Basil Rook"),
            "a letter of 2020": (with_file(right, "venue_letters", "v.pdf", papers.paper("Old Hall", "Dated 3 May 2020", "Three days.")), "documents.venue_letters", "wanting", "3 May 2020"),
            "cover that ended": (with_file(right, "health_cover", "h.pdf", ended), "documents.health_cover", "wanting", "It is valid until"),
            "another's passport": (with_file(right, "passport.2", "p.pdf", page), "holder-agrees.2", "in doubt", "Rook|ROOK"),
        }  # fmt: skip
        for name, row in rows.items():
            with self.subTest(name):
                self.check(*row)

    def test_exchanged_by_a_step(self) -> None:
        right = tour()
        face = right[2]["portrait.1"][1]
        kind = with_file(
            with_file(right, "passport.1", "a.jpg", face), "portrait.1", "b.jpg", photographed("Basil Rook", "M7654320")
        )
        draft = self.prepared(kind)
        view = self.asked(self.odalys, "GET", f"/api/drafts/{draft}")
        (pair,) = view["swapped"]
        self.asked(self.odalys, "POST", f"/api/drafts/{draft}/exchanged", json=pair)
        after = self.asked(self.odalys, "GET", f"/api/drafts/{draft}")
        slots = {a["name"]: a["slot"] for a in after["dossier"]["attachments"]}
        self.assertEqual((slots["a.jpg"], slots["b.jpg"], after["swapped"]), ("portrait.1", "passport.1", []))

    def test_certificates(self) -> None:
        soon = f"In force until: {date.today() + timedelta(days=2):%-d %B %Y}"
        own, cover = surveyor(), ["Insured: Odalys Renn", f"In force until {date.today() + timedelta(days=900):%-d %B %Y}"]
        rows: dict[str, tuple[Kind, str, str, str]] = {
            "right": (own, "amount-agrees", "met", "300 000.00"),
            "does not span": (with_file(stall(), "insurance", "i.pdf", papers.paper("Cover", "Insured: Odalys Renn", soon)), "documents.insurance", "wanting", "It is valid until"),
            "another amount": (with_file(own, "cover", "c.pdf", papers.paper("Cover", *cover, "Sum insured: 30 000.00")), "amount-agrees", "in doubt", "30 000.00"),
            "points of another": (with_file(own, "credit_list", "l.pdf", papers.paper("List", "Wim Sark", "Points in surveying: 240")), "documents.credit_list", "in doubt", "does not name Odalys Renn"),
            "other points": (with_file(own, "credit_list", "l.pdf", papers.paper("List", "Odalys Renn", "Points in surveying: 120")), "points-agree", "in doubt", "120"),
            "a course of another": (with_file(own, "qualification.1", "q.pdf", papers.paper("Course", "Wim Sark")), "documents.qualification.1", "in doubt", "does not name"),
            "cover of another": (with_file(own, "cover", "c.pdf", papers.paper("Cover", "Insured: Wim Sark", *cover[1:])), "name-agrees", "in doubt", "Wim Sark"),
        }  # fmt: skip
        for name, row in rows.items():
            with self.subTest(name):
                self.check(*row)

    def test_inventions(self) -> None:
        own, words = patent(), " ".join(["word"] * 30)
        fits = papers.paper("Abstract", *[words] * 5)
        rows: dict[str, tuple[Kind, str, str, str]] = {
            "figures where there are none": (with_file(own, "description", "d.pdf", papers.paper("Description", "Figures 1 and 2 show it.", pages=12)), "figures-none", "in doubt", "2"),
            "no figures": (own, "figures-none", "met", "agree"),
            "figures not shown": (with_file(patent(figures=2), "description", "d.pdf", papers.paper("Description", "Figures 1 to 3 show it.", pages=12)), "figures-shown", "in doubt", "3"),
            "150 words with a heading": (with_file(own, "abstract", "a.pdf", fits), "documents.abstract", "to read", "without findings"),
            "one word too many": (with_file(own, "abstract", "a.pdf", papers.paper("Abstract", *[words] * 5, "more")), "documents.abstract", "wanting", "151 words"),
        }  # fmt: skip
        for name, row in rows.items():
            with self.subTest(name):
                self.check(*row)


class Numbered(Arriving):
    """The numbered lines of what feeding the reader found."""

    def told(self, slot: str, name: str, content: bytes, kind: str = "BW") -> list[str]:
        """What is told under a file in a draft that has nothing but it."""
        draft = self.prepared((kind, {}, {slot: (name, content)}))
        view = self.asked(self.odalys, "GET", f"/api/drafts/{draft}")
        (own,) = view["assessment"] and [r for r in view["assessment"]["requirements"] if r["id"] == f"documents.{slot}"]
        return [f["text"] for f in own["findings"]]

    def test_1_empty_damaged_and_locked_are_told_where_the_slot_is_not_known_yet(self) -> None:
        locked = changed(drawing(DISTANCE), encryption=pikepdf.Encryption(user="x", owner="y", R=6))
        for name, content, words in (
            ("e.pdf", b"", "empty"),
            ("d.pdf", b"%PDF-1.7\nnothing", "damaged"),
            ("l.pdf", locked, "password"),
        ):
            for slot in ("consent", "structure"):
                with self.subTest(name, slot=slot):
                    self.assertRegex(" ".join(self.told(slot, name, content)), words)

    def test_2_text_that_nobody_sees_makes_nothing_agree(self) -> None:
        def said(draw: Callable[[Canvas], None]) -> bytes:
            from tests.reading import test_seen

            was, test_seen.SAID = test_seen.SAID, DISTANCE[2]
            try:
                return drawing(draw=draw)
            finally:
                test_seen.SAID = was

        for draw in (white, covered, barred, invisible, off, tiny, under_a_picture):
            with self.subTest(draw.__name__):
                seen = self.on_the_desk(works(said(draw)))
                self.assertNotEqual(seen["distance-agrees"]["proposed"], "met")
                self.assertRegex(" ".join(f["text"] for f in seen["documents.site_plan"]["findings"]), "is seen by nobody")
        off_layer = switched_off(drawing(DISTANCE))
        self.assertNotEqual(self.on_the_desk(works(off_layer))["distance-agrees"]["proposed"], "met")

    def test_3_fields_of_a_form_are_read_and_xfa_is_told(self) -> None:
        pdf = sheet()
        widget(pdf, FT=Name.Tx, T="insured", TU="Insured", V="Odalys Renn")
        widget(pdf, FT=Name.Tx, T="until", TU="In force until", V=f"{date.today() + timedelta(days=500):%-d %B %Y}")
        seen = self.on_the_desk(with_file(stall(), "insurance", "form.pdf", saved(pdf)))
        self.assertEqual(seen["insured-agrees"]["proposed"], "met")
        own = next(s for s in seen["insured-agrees"]["table"]["statements"] if s["place"].startswith("insurance."))
        self.assertEqual((own["said"], len(own["box"])), ("Odalys Renn", 4))
        self.assertRegex(" ".join(f["text"] for f in seen["documents.insurance"]["findings"]), "form with 2 fields")
        pdf.Root.AcroForm.XFA = pdf.make_stream(b"<xdp/>")
        self.assertRegex(" ".join(self.told("insurance", "form.pdf", saved(pdf), "TL")), "one program only")

    def test_4_a_busy_page_keeps_its_lines(self) -> None:
        many = [(40.0 + 60 * (n % 17), 400.0 + 10 * (n // 17), f"part {n} of it") for n in range(400)]
        self.check(works(drawing(DISTANCE, *many), place_plot=""), "distance-agrees", "met", "18 m")

    def test_5_three_photographs_of_one_name_stay_three(self) -> None:
        draft = self.prepared(("BW", {}, {}))
        for seed in range(3):
            made = papers.scanned(papers.paper(f"Consent {seed}", "I agree."), seed)
            path = f"/api/drafts/{draft}/files"
            self.asked(self.odalys, "POST", path, data={"slot": "consent"}, files={"file": ("image.jpg", made)})
        there = self.asked(self.odalys, "GET", f"/api/drafts/{draft}")["dossier"]["attachments"]
        self.assertEqual(len({a["name"] for a in there}), 3)

    def test_10_words_for_types(self) -> None:
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as archive:
            archive.writestr("word/document.xml", "<w/>")
            archive.writestr("[Content_Types].xml", "<Types/>")
        rows = (
            ("a.pdf", out.getvalue(), "the file is a word processor’s file|a ZIP archive"), ("a.pdf", b"MZ" + bytes(200), "a program"),
            ("a.pdf", b"<html><body>x</body></html>", "a web page"), ("paper", papers.paper("Consent"), "does not say what it is"),
        )  # fmt: skip
        for name, content, words in rows:
            with self.subTest(words):
                text = " ".join(self.told("consent", name, content))
                self.assertRegex(text.replace("'", "’"), words)
                self.assertNotRegex(text, r"a exe|a html|a unknown|says docx, but the file is a docx")
        for name in ("a.jfif", "a.jpe"):
            self.assertNotRegex(" ".join(self.told("consent", name, papers.portrait(1))), "but the file is")

    def test_11_and_12_many_sheets_are_one_finding_and_bounds_are_said(self) -> None:
        with pikepdf.open(io.BytesIO(drawing(DISTANCE, size=landscape(A4)))) as pdf:
            for _ in range(2099):
                pdf.pages.append(pdf.pages[0])
            content = saved(pdf)
        told = [t for t in self.told("site_plan", "plan.pdf", content) if "A3" in t or "2000" in t]
        self.assertTrue(any("Sheets 1 to 2000 are A4" in t for t in told), told)
        self.assertTrue(any("2100" in t or "first 2000" in t.lower() for t in told), told)

    def test_13_sizes_are_not_made_up(self) -> None:
        image = Image.new("RGB", (1600, 1200), "white")
        image.save(out := io.BytesIO(), "PNG")
        draft = self.prepared(("BW", {}, {"consent": ("p.png", out.getvalue())}))
        self.assertIn("1600 × 1200 pixels", self.asked(self.odalys, "GET", f"/api/drafts/{draft}")["files"][0]["said"])
        with pikepdf.open(io.BytesIO(drawing(DISTANCE, size=(421, 298)))) as pdf:
            pdf.pages[0].obj.UserUnit = 4
            self.assertFalse([t for t in self.told("site_plan", "u.pdf", saved(pdf)) if "or larger" in t])
        long = drawing(DISTANCE, size=(8000, 842))
        with pikepdf.open(io.BytesIO(long)) as pdf:
            pdf.pages[0].obj.UserUnit = 1000
            self.assertRegex(" ".join(self.told("site_plan", "km.pdf", saved(pdf))), "which no sheet is")

    def test_14_scripts_and_programs(self) -> None:
        pdf = sheet()
        action = Dictionary(S=Name.JavaScript, JS="app.alert(1)")
        pdf.pages[0].obj.Annots = pdf.make_indirect(
            pikepdf.Array([Dictionary(Type=Name.Annot, Subtype=Name.Link, Rect=[0, 0, 9, 9], A=action)])
        )
        self.assertRegex(" ".join(self.told("consent", "s.pdf", saved(pdf))), "can run a script")
        pdf.pages[0].obj.AA = Dictionary(O=Dictionary(S=Name.Launch, F="x.exe"))
        self.assertRegex(" ".join(self.told("consent", "s.pdf", saved(pdf))), "can start a program")

    def test_15_scans_however_they_are_made(self) -> None:
        made = papers.paper("Consent of the owner", "I agree that the roof is made new.")
        draft = self.prepared(("BW", {}, {"consent": ("s.pdf", in_strips(made))}))
        self.assertIn("scan", self.asked(self.odalys, "GET", f"/api/drafts/{draft}")["files"][0]["said"])
        for shade in ("white", "black"):
            canvas = Canvas(out := io.BytesIO(), pagesize=A4)
            canvas.drawImage(ImageReader(Image.new("L", (1240, 1754), shade)), 0, 0, *A4)
            canvas.save()
            with self.subTest(shade):
                self.assertRegex(" ".join(self.told("consent", "b.pdf", out.getvalue())), "Nothing stands on it")

    def test_16_one_bad_page_and_a_zip_that_holds_a_pdf(self) -> None:
        pdf = sheet(3)
        pdf.pages[1].obj.MediaBox = Name.Broken
        text = " ".join(self.told("consent", "c.pdf", saved(pdf)))
        self.assertNotRegex(text, "is damaged")
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as archive:
            archive.writestr("a.pdf", papers.paper("Consent"))
        self.assertRegex(" ".join(self.told("consent", "c.pdf", out.getvalue())), "a ZIP archive")

    def test_19_the_same_bytes_in_another_case_are_told_to_the_office_alone(self) -> None:
        kind = works(drawing(DISTANCE, (500, 500, f"plan of {random.random()}")))
        first, second = (self.filed(kind) for _ in range(2))
        seen = self.asked(self.imre, "GET", f"/api/cases/{second}")
        self.assertIn([first], list(seen["same_elsewhere"].values()))
        self.assertEqual(self.asked(self.odalys, "GET", f"/api/cases/{second}")["same_elsewhere"], {})

    def filed(self, kind: Kind) -> str:
        draft = self.prepared(kind)
        self.asked(self.odalys, "POST", f"/api/drafts/{draft}/signature", json={"name": "Odalys Renn"})
        return str(self.asked(self.odalys, "POST", f"/api/drafts/{draft}/filing", json={"take_gaps": True})["reference"])

    @unittest.skipUnless(scans_can_be_read(), "the reader for scans is not installed")
    def test_20_scans_state_facts_with_their_places(self) -> None:
        until = f"In force until: {date.today() + timedelta(days=500):%-d %B %Y}"
        cover = scan(papers.paper("Certificate of cover", "Insured: Odalys Renn", until, letterhead="Harbour Mutual"))
        seen = self.on_the_desk(with_file(stall(), "insurance", "scan.pdf", cover))
        own = next(s for s in seen["insured-agrees"]["table"]["statements"] if s["place"].startswith("insurance."))
        self.assertEqual(seen["insured-agrees"]["proposed"], "met", seen["insured-agrees"]["because"])
        self.assertTrue(re.search("Odalys Renn", own["said"]) and len(own["box"]) == 4, own)
        self.assertEqual(seen["documents.insurance"]["proposed"], "to read", seen["documents.insurance"]["because"])
