"""Letters and receipts as PDFs: every word in its place, any text only as text, tagged, any length."""

from __future__ import annotations

import io
import re
import unittest
from typing import Any

import pikepdf
import pypdfium2
from hypothesis import given, settings
from hypothesis import strategies as st

from jolly_clerk.core.ports import SAID, Item
from jolly_clerk.letters.render import render
from jolly_clerk.reading.read import read_bytes
from jolly_clerk.standins.post_room import PostFolder
from tests.folders import new_folder

BASE = {
    "office": "Quillhaven One-Door Office", "address": "1 Harbour Stairs, Quillhaven", "date": "Thu 12 Nov 2026", "reference": "BW-26-00418-K",
    "title": "New workshop roof, 4 Saltern Slip", "to": "Odalys Renn", "subject": "We need 2 things from you", "opening": "Thank you.",
    "closing": "Please answer.", "officer": "Imre Holt", "points": [], "rows": [], "files": [], "total": {},
}  # fmt: skip


def point(no: int, text: str = "Send it again.") -> dict[str, Any]:
    return {"no": no, "title": f"Point {no}", "article": "9(2)", "text": text, "places": "Documents, Site plan"}


def words(pdf: bytes) -> str:
    document = pypdfium2.PdfDocument(pdf)
    return re.sub(r"\s+", " ", " ".join(page.get_textpage().get_text_bounded() for page in document))


class Letters(unittest.TestCase):
    def test_everything_stands_in_it(self) -> None:
        made = words(render("letter", {**BASE, "points": [point(1), point(2, "State which is right: 18 m or 11 m²?")]}))
        for word in ("Quillhaven One-Door Office", "Thu 12 Nov 2026", "BW-26-00418-K", "Odalys Renn", "We need 2 things from you", "Thank you.",
                     "1 Point 1", "Send it again.", "State which is right: 18 m or 11 m²?", "Documents, Site plan · art. 9(2)", "Please answer.", "Imre Holt",
                     "page 1 of 1"):  # fmt: skip
            self.assertIn(word, made)

    def test_it_is_a_tagged_a4_with_title_and_language(self) -> None:
        made = render("letter", {**BASE, "points": [point(1)]})
        self.assertEqual(read_bytes(made).said(), "A4 portrait, 1 sheet, text")
        with pikepdf.open(io.BytesIO(made)) as opened:
            self.assertTrue(opened.Root.MarkInfo.Marked)
            self.assertEqual(str(opened.Root.Lang), "en")
            self.assertEqual(str(opened.docinfo["/Title"]), "We need 2 things from you")
            fonts = {str(f) for page in opened.pages for f in page.resources.get("/Font", {})}
            self.assertTrue(fonts)

    def test_many_points_run_over_pages(self) -> None:
        made = render("letter", {**BASE, "points": [point(n, "Please send this again. " * 20) for n in range(1, 26)]})
        self.assertGreater(len(read_bytes(made).pages), 3)
        self.assertIn("25 Point 25", words(made))

    def test_letters_of_other_tongues(self) -> None:
        made = words(
            render(
                "letter",
                {
                    **BASE,
                    "to": "Łukasz Ødegård-Șerban",
                    "title": "Čajovna „U přístavu“",
                    "points": [point(1, "São João, Žižkov")],
                },
            )
        )
        for word in ("Łukasz Ødegård-Șerban", "Čajovna", "São João, Žižkov"):
            self.assertIn(word, made)

    @settings(max_examples=25)
    @given(st.text(alphabet="#[]{}*_$\\/<>@`~=-+'\"()ab1 ", min_size=1, max_size=40))
    def test_no_text_is_ever_read_as_markup(self, text: str) -> None:
        made = render("letter", {**BASE, "title": f"x {text} y", "points": [point(1, text)]})
        self.assertEqual(read_bytes(made).opens, "yes")

    def test_the_same_values_give_the_same_words(self) -> None:
        values = {**BASE, "points": [point(1)]}
        self.assertEqual(words(render("letter", values)), words(render("letter", values)))


class Receipts(unittest.TestCase):
    ROWS = [
        {"label": "Plan examination", "amount": "318.18", "note": "65 % of 489.50"},
        {"label": "Shoreline surcharge", "amount": "120.00", "note": ""},
    ]

    def test_lines_and_total(self) -> None:
        made = words(render("receipt", {**BASE, "rows": self.ROWS, "total": {"label": "Paid", "amount": "EUR 438.18"}}))
        for word in ("Plan examination", "65 % of 489.50", "318.18", "Shoreline surcharge", "120.00", "Paid EUR 438.18"):
            self.assertIn(word, made)

    def test_every_file_with_its_whole_checksum(self) -> None:
        files = [{"name": f"plan-{n}.pdf", "slot": "Site plan", "size": "12 kB", "sha256": f"{n:064x}"} for n in range(40)]
        made = words(render("receipt", {**BASE, "files": files, "files_title": "Files received: 40"}))
        self.assertIn("Files received: 40", made)
        for f in files:
            self.assertIn(f["sha256"], made.replace(" ", ""))
            self.assertIn(f["name"], made)

    def test_neither_lines_nor_files(self) -> None:
        self.assertNotIn("Files received", words(render("receipt", BASE)))


class StandIns(unittest.TestCase):
    def test_the_post_room_keeps_names_out_of_paths(self) -> None:

        room = PostFolder(new_folder() / "post-room")
        item = Item("../../etc/passwd letter 1", "BW-26-00418-K", "o@post.example", "Subject", "2026-11-12T10:00:00+00:00")
        path = room.deliver(item, b"%PDF-")
        self.assertEqual(path.parent, room.folder)
        room.deliver(item, b"%PDF-")
        self.assertEqual(room.items(), [item])

    def test_the_terminal_has_a_word_for_each_outcome(self) -> None:
        self.assertEqual(set(SAID), {"approved", "declined", "abandoned"})
        for outcome in ("declined", "abandoned"):
            self.assertIn("Nothing was charged.", SAID[outcome])  # type: ignore[index]
