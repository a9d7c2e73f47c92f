"""What is noticed about the files of a slot: formats, numbers, sizes, sheets to the millimetre, names against content."""

from __future__ import annotations

import unittest
from typing import Any

from jolly_clerk.core.dossier.model import Attachment
from jolly_clerk.core.facts.file_findings import file_findings
from jolly_clerk.core.facts.findings import slot_findings
from jolly_clerk.core.facts.reading import Page, Reading, TextLine
from jolly_clerk.core.rulebook.model import Slot
from tests.helpers import reading


def slot(**accepts: Any) -> Slot:
    whole = {"formats": ["pdf"], "files": "1 to 3", "size": "2 MB", **accepts}
    return Slot.model_validate({"slot": "s", "title": "Plan", "says": "A plan.", "accepts": whole, "article": "9"})


def file(n: int = 1, name: str = "p.pdf", size: int = 1000) -> Attachment:
    return Attachment(id=f"a{n}", slot="s", name=name, sha256=f"{n:064x}", size=size)


def told(
    of: Slot,
    *files: Attachment,
    readings: dict[str, Reading] | None = None,
    sheets: tuple[tuple[float, float], ...] = ((297.0, 210.0),),
) -> list[str]:
    known = readings if readings is not None else {f.sha256: reading(f.sha256, *sheets) for f in files}
    return [f"{f.weight} {f.file} {f.page}: {f.text}" for f in slot_findings(of, files, known)]


class Numbers(unittest.TestCase):
    def test_how_many_files(self) -> None:
        for wanted, count, says in (
            ("1", 1, None),
            ("1", 2, "2 files here; at most 1 belongs in this slot."),
            ("1 to 3", 3, None),
            ("1 to 3", 4, "4 files here; at most 3 belong in this slot."),
            ("2 to 5", 1, "1 file here; at least 2 are asked."),
            ("2 to 5", 5, None),
        ):
            with self.subTest(wanted=wanted, count=count):
                found = told(slot(files=wanted), *(file(n) for n in range(1, count + 1)))
                self.assertEqual(found if says is None else [f.partition(": ")[2] for f in found], [] if says is None else [says])

    def test_how_large(self) -> None:
        for size, bound, well in (
            (2_000_000, "2 MB", True),
            (2_000_001, "2 MB", False),
            (500_000, "500 kB", True),
            (500_001, "500 kB", False),
        ):
            self.assertEqual(told(slot(size=bound), file(size=size)) == [], well)

    def test_how_many_pages(self) -> None:
        sheets = ((297.0, 210.0),) * 3
        self.assertEqual(told(slot(pages="1 to 3"), file(), sheets=sheets), [])
        self.assertEqual(told(slot(pages="1 to 2"), file(), sheets=sheets), ["fault a1 0: 3 pages; 1 to 2 are asked."])

    def test_wrong_wordings_are_refused(self) -> None:
        for wrong in (
            {"size": "2 TB"},
            {"size": "big"},
            {"files": "few"},
            {"pages": "x to y"},
            {"sheet": "A9"},
            {"formats": ["exe"]},
            {"formats": []},
        ):
            with self.subTest(wrong), self.assertRaises(ValueError):
                slot(**wrong)


class Sheets(unittest.TestCase):
    def test_to_three_millimetres(self) -> None:
        for size, well in (
            ((420.0, 297.0), True), ((297.0, 420.0), True), ((417.0, 294.0), True), ((416.9, 294.0), False), ((417.0, 293.9), False),
            ((1189.0, 841.0), True), ((900.0, 250.0), False),
        ):  # fmt: skip
            with self.subTest(size):
                self.assertEqual(told(slot(sheet="A3"), file(), sheets=(size,)) == [], well)

    def test_names_of_sheets(self) -> None:
        for width, height, said in (
            (841, 1189, "A0 portrait"), (841, 594, "A1 landscape"), (420, 594, "A2 portrait"), (422.9, 297, "A3 landscape"), (210, 297, "A4 portrait"),
            (210, 148, "A5 landscape"), (213.5, 297, "214 × 297 mm portrait"), (300, 300, "300 × 300 mm portrait"),
        ):  # fmt: skip
            self.assertEqual(Page(no=1, width_mm=width, height_mm=height, content="text").said(), said)

    def test_each_sheet_that_is_too_small_is_named(self) -> None:
        found = told(slot(sheet="A3"), file(), sheets=((420.0, 297.0), (297.0, 210.0), (100.0, 100.0)))
        self.assertEqual(
            found,
            ["fault a1 2: Sheet 2 is A4; A3 or larger is asked.", "fault a1 3: Sheet 3 is 100 × 100 mm; A3 or larger is asked."],
        )

    def test_landscape(self) -> None:
        found = told(slot(sheet="A4", landscape="true"), file(), sheets=((210.0, 297.0), (297.0, 210.0)))
        self.assertEqual(found, ["fault a1 1: Sheet 1 stands upright; landscape is asked."])


class Content(unittest.TestCase):
    def said(self, name: str, **read: Any) -> list[str]:
        one = file(name=name)
        whole = {"sha256": one.sha256, "reader": "1", "size": 1000, "type": "pdf", "opens": "yes", **read}
        return [f"{f.weight}: {f.text}" for f in file_findings(one, Reading(**whole))]

    def test_name_against_content(self) -> None:
        for name, kind, says in (
            ("p.pdf", "pdf", []),
            ("P.PDF", "pdf", []),
            ("p.jpg", "jpeg", []),
            ("p.tif", "tiff", []),
            ("p", "pdf", ["look: The name “p” does not say what it is; the file is a PDF."]),
            ("p.pdf", "zip", ["look: The name “p.pdf” says pdf, but the file is a ZIP archive."]),
            ("p.jfif", "jpeg", []),
            ("p.jpe", "jpeg", []),
            ("p.docx", "docx", []),
            ("p.pdf", "exe", ["look: The name “p.pdf” says pdf, but the file is a program."]),
            ("plan.pdf.exe", "pdf", ["look: The name “plan.pdf.exe” says exe, but the file is a PDF."]),
        ):
            with self.subTest(name):
                self.assertEqual(self.said(name, type=kind), says)

    def test_what_does_not_open(self) -> None:
        for opens, words in (
            ("damaged", "is damaged and cannot be opened"),
            ("password", "is locked by a password"),
            ("empty", "is empty (0 bytes)"),
        ):
            (found,) = self.said("p.pdf", opens=opens)
            self.assertTrue(found.startswith("fault: “p.pdf” "))
            self.assertIn(words, found)

    def test_what_could_not_be_read_is_left_to_a_person(self) -> None:
        (found,) = self.said("p.pdf", opens="not read", trouble="it took longer than 30 seconds")
        self.assertEqual(
            found, "look: “p.pdf” could not be read by the machine: it took longer than 30 seconds. A person must look."
        )
        self.assertEqual([f.weight for f in file_findings(file(), None)], ["look"])

    def test_blank_pages_are_only_worth_knowing(self) -> None:
        pages = tuple(Page(no=n, width_mm=210, height_mm=297, content=c) for n, c in ((1, "text"), (2, "blank")))  # type: ignore[arg-type]
        self.assertEqual(self.said("p.pdf", pages=pages), ["note: Page 2 is blank."])

    def test_one_bad_file_does_not_hide_the_others(self) -> None:
        good, bad = file(1), file(2, "q.pdf")
        readings = {good.sha256: reading(good.sha256, (297.0, 210.0)), bad.sha256: reading(bad.sha256, opens="damaged")}
        found = told(slot(sheet="A3"), good, bad, readings=readings)
        self.assertEqual([f.split(" ")[1] for f in found], ["a1", "a2"])

    def test_in_one_line(self) -> None:
        for read, said in (
            (reading("a" * 64, (297.0, 210.0), (420.0, 297.0)), "several sheet sizes, 2 sheets, text"),
            (reading("a" * 64, kind="zip"), "zip"),
            (reading("a" * 64, opens="damaged"), "cannot be opened"),
            (reading("a" * 64, opens="password"), "locked by a password"),
            (reading("a" * 64, opens="empty"), "empty"),
            (reading("a" * 64, opens="not read"), "not read"),
        ):
            self.assertEqual(read.said(), said)


class Drawings(unittest.TestCase):
    """What a drawing should bear, and what a file carries besides its pages."""

    def look(self, text: list[tuple[str, float, float]], **rule: Any) -> list[str]:
        of = slot().model_copy(update=rule)
        lines = tuple(TextLine(page=1, text=t, box=(x, y, x + 0.1, y + 0.02)) for t, x, y in text)
        return told(
            of, file(), readings={file().sha256: reading(file().sha256, (297.0, 210.0)).model_copy(update={"lines": lines})}
        )

    def test_scale_and_title_block(self) -> None:
        scales = {"scales": ["1:200", "1:500"]}
        self.assertEqual(self.look([("Scale 1:500", 0.1, 0.1)], **scales), [])
        self.assertEqual(
            self.look([("1:100", 0.1, 0.1)], **scales), ["look a1 1: It is drawn at 1:100; 1:200 or 1:500 is asked."]
        )
        self.assertEqual(self.look([("Plan", 0.1, 0.1)], **scales), ["look a1 1: No scale was found; 1:200 or 1:500 is asked."])
        self.assertIn("No text can be read in this drawing", self.look([], **scales)[0])
        self.assertEqual(self.look([("Drawing 4", 0.7, 0.9)], title_block=True), [])
        self.assertIn("No title block was found", self.look([("Drawing 4", 0.1, 0.1)], title_block=True)[0])

    def test_scripts_files_inside_and_signatures(self) -> None:
        whole = reading(file().sha256, (297.0, 210.0)).model_copy(
            update={"scripts": True, "embedded": ("a.xlsx", "b.exe", "c", "d"), "signatures": 2}
        )
        said = told(slot(), file(), readings={file().sha256: whole})
        self.assertEqual(said[0], "look a1 0: “p.pdf” can run a script when it is opened; here it never does.")
        self.assertIn("4 files inside this file: a.xlsx, b.exe, c and more.", said[1])
        self.assertIn("note a1 0: 2 embedded signatures; whose it is was not checked.", said)

    def test_the_same_content_elsewhere_and_a_newer_version(self) -> None:
        other = Attachment(id="a9", slot="t", name="old.pdf", sha256=file().sha256, size=1)
        known = {file().sha256: reading(file().sha256, (297.0, 210.0))}
        found = slot_findings(slot(), [file().model_copy(update={"version": 2})], known, [other])
        self.assertEqual([f.weight for f in found], ["note", "look"])
        self.assertIn("Version 2 of “p.pdf”", found[0].text)
        self.assertIn("elsewhere in this filing as “old.pdf”", found[1].text)
