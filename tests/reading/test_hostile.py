"""Files that were made to hurt whoever opens them: each is answered in words, within its bounds, and never by a traceback."""

from __future__ import annotations

import io
import json
import subprocess
import sys
import time
import unittest
import zipfile
import zlib
from email.message import EmailMessage
from pathlib import Path
from struct import pack
from typing import Any

from pikepdf import Array, Dictionary, Name

from jolly_clerk.demo import papers
from jolly_clerk.reading.fence import SECONDS, Readers
from tests.folders import new_folder
from tests.helpers import ROOT
from tests.reading.test_inside import saved, sheet


def loop_of_pages() -> bytes:
    """A page tree whose branch is its own child."""
    pdf = sheet()
    pdf.Root.Pages.Kids = Array([pdf.Root.Pages.obj if hasattr(pdf.Root.Pages, "obj") else pdf.Root.Pages, pdf.pages[0].obj])
    pdf.Root.Pages.Count = 100_000
    return saved(pdf)


def drawing_that_draws_itself() -> bytes:
    """A form that draws itself, a thousand times each."""
    pdf = sheet()
    form = pdf.make_stream(b"/F Do " * 1000, Type=Name.XObject, Subtype=Name.Form, BBox=[0, 0, 600, 800])
    form.Resources = Dictionary(XObject=Dictionary(F=form))
    page = pdf.pages[0]
    page.obj.Resources.XObject = Dictionary(F=form)
    page.obj.Contents = pdf.make_stream(b"/F Do")
    return saved(pdf)


def ten_thousand_pages() -> bytes:
    pdf = sheet()
    first = pdf.pages[0].obj
    pages = [first, *(pdf.make_indirect(Dictionary(first)) for _ in range(9_999))]
    pdf.Root.Pages.Kids, pdf.Root.Pages.Count = Array(pages), len(pages)
    return saved(pdf)


def bomb_of_a_picture(side: int = 30_000) -> bytes:
    """A PNG of nine hundred million dots in a few hundred kilobytes."""

    def chunk(name: bytes, data: bytes) -> bytes:
        return pack(">I", len(data)) + name + data + pack(">I", zlib.crc32(name + data))

    rows = zlib.compressobj(9)
    packed = b"".join(rows.compress(bytes(1 + side // 8)) for _ in range(side)) + rows.flush()
    head = pack(">IIBBBBB", side, side, 1, 0, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", packed) + chunk(b"IEND", b"")


def bomb_of_a_page() -> bytes:
    """A page whose drawing unpacks to half a gigabyte."""
    pdf = sheet()
    packed = zlib.compress(b"0 0 m 1 1 l S\n" * 36_000_000, 9)
    stream = pdf.make_stream(b"")
    stream.write(packed, filter=Name.FlateDecode)
    pdf.pages[0].obj.Contents = stream
    return saved(pdf)


def polyglot() -> bytes:
    """A ZIP that is a PDF as well."""
    out = io.BytesIO()
    out.write(papers.paper("Consent", "I agree."))
    with zipfile.ZipFile(out, "a") as archive:
        archive.writestr("run.exe", b"MZ" + bytes(500))
    return out.getvalue()


def mail_of_five_hundred() -> bytes:
    made = EmailMessage()
    made["From"], made["Subject"] = "somebody@post.example", "All of it"
    made.set_content("Here it is.")
    for n in range(500):
        made.add_attachment(b"%PDF-1.4 " + bytes([n % 251]) * 400, maintype="application", subtype="pdf", filename=f"{n}.pdf")
    return made.as_bytes()


HOSTILE = {
    "loop.pdf": loop_of_pages, "itself.pdf": drawing_that_draws_itself, "long.pdf": ten_thousand_pages, "dots.png": bomb_of_a_picture,
    "bomb.pdf": bomb_of_a_page, "both.pdf": polyglot, "all.eml": mail_of_five_hundred,
}  # fmt: skip
#: the one that nothing but the clock ends
ENDLESS = "itself.pdf"
#: what only our own code says
OURS = r"Error|None|0x|\bexcept"
#: seconds of the wall for one of them on a machine that does other things besides
MOST = 130.0


class Hostile(unittest.TestCase):
    def test_seven_files_are_answered_within_bounds(self) -> None:
        folder = new_folder()
        for name, make in HOSTILE.items():
            (folder / name).write_bytes(make())
        told = self.read([folder / name for name in HOSTILE if name != ENDLESS])
        self.assertEqual(set(told), set(HOSTILE) - {ENDLESS})
        for name, found in told.items():
            with self.subTest(name):
                self.assertTrue(found["opens"] != "yes" or found["findings"] or found["pages"] or found["type"] == "txt", found)
                texts = " ".join(f["text"] for f in found["findings"])
                self.assertNotRegex(texts, OURS)
        self.assertIn("2000", json.dumps(told["long.pdf"]["findings"]), "the bound is said")
        self.assertNotEqual(told["dots.png"]["opens"], "not read")

    def read(self, paths: list[Path]) -> dict[str, dict[str, Any]]:
        """What the command tells of files, by name."""
        command = [sys.executable, "-m", "jolly_clerk.cli", "read", "--json", *map(str, paths)]
        answer = subprocess.run(command, capture_output=True, text=True, cwd=ROOT, timeout=MOST * len(paths))
        self.assertNotIn("Traceback", answer.stderr)
        return {Path(line["file"]).name: line for line in map(json.loads, answer.stdout.splitlines())}

    def test_one_that_never_ends_is_ended_by_the_clock(self) -> None:
        """In a fifth of the time that an office gives it, since it takes all that it is given."""
        path = new_folder() / ENDLESS
        path.write_bytes(HOSTILE[ENDLESS]())
        readers = Readers(1, seconds=SECONDS / 5)
        self.addCleanup(readers.end)
        began = time.monotonic()
        found = readers.read(path)
        self.assertLess(time.monotonic() - began, MOST)
        self.assertEqual("not read", found.opens)
        self.assertIn("longer than 6 seconds", found.trouble)
        self.assertNotRegex(found.trouble, OURS)
