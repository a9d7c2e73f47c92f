"""Real, odd and damaged files: read in a fenced worker, each with the exact finding, never a traceback."""

from __future__ import annotations

import io
import json
import os
import subprocess
import sys
import time
import unittest
import zipfile
from pathlib import Path
from unittest import mock

import pikepdf
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image
from reportlab.lib.pagesizes import A3, A4, landscape
from reportlab.pdfgen.canvas import Canvas

from jolly_clerk.core.dossier.model import Attachment
from jolly_clerk.core.facts.file_findings import file_findings
from jolly_clerk.demo.drawings import scanned_consent, sections, site_plan
from jolly_clerk.reading import fence
from jolly_clerk.reading.fence import Readers
from jolly_clerk.reading.read import read_bytes
from tests.folders import new_folder


def pdf(size: tuple[float, float] = A4, text: str = "some words on a page of this plan", pages: int = 1) -> bytes:
    buffer = io.BytesIO()
    canvas = Canvas(buffer, pagesize=size)
    for _ in range(pages):
        if text:
            canvas.drawString(50, 50, text)
        canvas.showPage()
    canvas.save()
    return buffer.getvalue()


def changed(content: bytes, **how: object) -> bytes:
    buffer = io.BytesIO()
    with pikepdf.open(io.BytesIO(content)) as opened:
        if "rotate" in how:
            opened.pages[0].Rotate = how.pop("rotate")
        if "unit" in how:
            opened.pages[0].UserUnit = how.pop("unit")
        opened.save(buffer, **how)  # type: ignore[arg-type]
    return buffer.getvalue()


def picture(kind: str, size: tuple[int, int] = (1200, 800), **more: object) -> bytes:
    buffer = io.BytesIO()
    Image.new("RGB", size, "white").save(buffer, kind, **more)
    return buffer.getvalue()


def foreign_pdfs() -> list[Path]:
    """PDFs that the project did not make: from Debian's documents and from inside a Python package."""
    import matplotlib

    found = sorted(Path("/usr/share/doc").glob("*/*.pdf")) if Path("/usr/share/doc").is_dir() else []
    return [*found, *sorted((Path(matplotlib.__file__).parent / "mpl-data" / "images").glob("*.pdf"))[:4]]


class TrueType(unittest.TestCase):
    def test_types_by_content(self) -> None:
        archive = io.BytesIO()
        with zipfile.ZipFile(archive, "w") as z:
            z.writestr("a.txt", "a")
        for content, kind, opens in (
            (pdf(), "pdf", "yes"),
            (b"junk before\n" + pdf(), "pdf", "yes"),
            (picture("PNG"), "png", "yes"),
            (picture("JPEG"), "jpeg", "yes"),
            (picture("TIFF"), "tiff", "yes"),
            (archive.getvalue(), "zip", "yes"),
            ("plain words, é\n".encode(), "txt", "yes"),
            (b"<!DOCTYPE html><script>1</script>", "html", "yes"),
            (b"\x00\x01\x02\x03" * 50, "unknown type", "yes"),
            (b"", "empty file", "empty"),
        ):
            found = read_bytes(content)
            self.assertEqual((found.type, found.opens), (kind, opens))

    def test_a_name_that_says_something_else_is_a_look(self) -> None:
        found = read_bytes(picture("PNG"))
        attachment = Attachment(id="a1", slot="s", name="plan.pdf", sha256=found.sha256, size=found.size)
        said = [f"{f.weight}: {f.text}" for f in file_findings(attachment, found)]
        self.assertEqual(said, ["look: The name “plan.pdf” says pdf, but the file is a PNG picture.", "note: Page 1 is blank."])


class Pdfs(unittest.TestCase):
    def test_sheets_and_how_they_lie(self) -> None:
        for content, said in (
            (pdf(A4), "A4 portrait, 1 sheet, text"),
            (pdf(landscape(A3), pages=2), "A3 landscape, 2 sheets, text"),
            (changed(pdf(A4), rotate=90), "A4 landscape, 1 sheet, text"),
            (pdf((300, 300)), "106 × 106 mm portrait, 1 sheet, text"),
            (site_plan("4 Saltern Slip", "workshop", 13.3, 7.2, 18), "A3 landscape, 1 sheet, text"),
            (sections("4 Saltern Slip"), "A3 landscape, 2 sheets, text"),
        ):
            self.assertEqual(read_bytes(content).said(), said)

    def test_text_scan_drawing_or_blank(self) -> None:
        buffer = io.BytesIO()
        canvas = Canvas(buffer, pagesize=A4)
        from reportlab.lib.utils import ImageReader

        scan = Image.new("L", (600, 800), 200)
        scan.paste(20, (100, 100, 400, 300))
        canvas.drawImage(ImageReader(scan), 0, 0, *A4)
        canvas.showPage()
        canvas.rect(100, 100, 200, 200)
        canvas.showPage()
        canvas.drawString(50, 50, "five words stand on this page")
        canvas.showPage()
        canvas.showPage()
        canvas.save()
        found = read_bytes(buffer.getvalue())
        self.assertEqual([p.content for p in found.pages], ["scan", "drawing", "text", "blank"])
        attachment = Attachment(id="a1", slot="s", name="x.pdf", sha256=found.sha256, size=found.size)
        said = [(f.weight, f.page) for f in file_findings(attachment, found)]
        self.assertEqual(said, [("note", 4), ("look", 1), ("note", 0)])  # blank, scanned too roughly, its text is to come

    def test_damaged_locked_and_cut_off(self) -> None:
        whole = pdf(pages=3)
        self.assertEqual(read_bytes(changed(whole, encryption=pikepdf.Encryption(owner="o", user="u"))).opens, "password")
        open_but_encrypted = read_bytes(changed(whole, encryption=pikepdf.Encryption(owner="o", user="")))
        self.assertEqual(
            (open_but_encrypted.opens, open_but_encrypted.encrypted, len(open_but_encrypted.pages)), ("yes", True, 3)
        )
        for broken in (b"%PDF-1.7\n" + b"\xff" * 200, whole[:400], b"%PDF-1.4"):
            self.assertEqual(read_bytes(broken).opens, "damaged")

    def test_foreign_pdfs_open(self) -> None:
        files = foreign_pdfs()
        self.assertGreaterEqual(len(files), 4)
        for file in files:
            found = read_bytes(file.read_bytes())
            self.assertEqual((found.type, found.opens), ("pdf", "yes"), file)
            self.assertGreaterEqual(len(found.pages), 1)

    @settings(max_examples=60)
    @given(st.integers(0, 5000), st.binary(min_size=1, max_size=40))
    def test_no_damage_makes_the_reader_stumble(self, where: int, noise: bytes) -> None:
        content = bytearray(sections("x"))
        content[where % len(content) : where % len(content) + len(noise)] = noise
        self.assertIn(read_bytes(bytes(content)).opens, ("yes", "damaged", "password", "not read"))


class Pictures(unittest.TestCase):
    def test_size_follows_resolution_and_turning(self) -> None:
        found = read_bytes(scanned_consent(3))
        self.assertEqual((found.type, found.pages[0].said(), found.pages[0].content), ("jpeg", "A4 portrait", "scan"))
        exif = Image.Exif()
        exif[0x0112] = 6
        turned = read_bytes(picture("JPEG", exif=exif, dpi=(96, 96))).pages[0]
        self.assertGreater(turned.height_mm, turned.width_mm)

    def test_a_cut_picture_is_damaged_and_a_bomb_is_not_unpacked(self) -> None:
        self.assertEqual(read_bytes(picture("PNG", (900, 900))[:300]).opens, "damaged")
        header = bytearray(picture("PNG", (10, 10)))
        header[16:24] = (60_000).to_bytes(4, "big") * 2
        self.assertEqual(read_bytes(bytes(header)).opens, "damaged")


class Fence(unittest.TestCase):
    def setUp(self) -> None:
        self.readers = Readers(count=2)
        self.addCleanup(self.readers.end)
        self.folder = new_folder()

    def file(self, name: str, content: bytes) -> Path:
        path = self.folder / name
        path.write_bytes(content)
        return path

    def test_a_reader_that_is_killed_is_replaced(self) -> None:
        path = self.file("a.pdf", pdf())
        self.assertEqual(self.readers.read(path).opens, "yes")
        worker = self.readers._free.get()
        assert worker
        worker.process.kill()
        worker.process.wait()
        self.readers._free.put(worker)
        self.assertEqual(self.readers.read(path).opens, "not read")
        self.assertEqual(self.readers.read(path).opens, "yes")

    def test_a_file_that_takes_too_long_is_left_to_a_person(self) -> None:
        self.readers.seconds = 0.0
        found = self.readers.read(self.file("b.pdf", pdf(pages=300)))
        self.assertEqual(found.opens, "not read")
        self.assertIn("took longer", found.trouble)

    def test_a_program_that_hangs_ends_with_its_reader(self) -> None:
        began = self.folder / "began"
        program = self.file(
            "tesseract", f'#!/bin/sh\n[ "$1" = --list-langs ] && echo eng && exit\necho $$ > {began}\nexec sleep 600\n'.encode()
        )
        program.chmod(0o755)
        hanging = Readers(count=1, wall=1, page_seconds=8.0)
        self.addCleanup(hanging.end)
        with (
            mock.patch.dict(os.environ, PATH=f"{self.folder}:{os.environ['PATH']}"),
            mock.patch.object(fence, "STEP_SECONDS", 600.0),
        ):
            hanging.warm()
            self.assertEqual(hanging.read_page(self.file("c.png", picture("PNG")), "png", 1).words, 0)
        number = int(began.read_text())
        until = time.monotonic() + 30
        while (running := Path(f"/proc/{number}/stat").exists()) and time.monotonic() < until:
            if Path(f"/proc/{number}/stat").read_text().rpartition(")")[2].split()[0] == "Z":
                break  # it has ended; nobody has fetched it yet
            time.sleep(0.05)
        else:
            self.assertFalse(running, "the program runs on after its reader was stopped")


class Command(unittest.TestCase):
    def test_one_json_object_a_file_and_never_a_traceback(self) -> None:
        folder = new_folder()
        files = {
            "good.pdf": pdf(landscape(A3)), "empty.pdf": b"", "broken.pdf": b"%PDF-1.7 nothing", "wrong.pdf": picture("PNG"),
            "locked.pdf": changed(pdf(), encryption=pikepdf.Encryption(owner="o", user="u")), "näme \u202e x.txt": b"words",
        }  # fmt: skip
        for name, content in files.items():
            (folder / name).write_bytes(content)
        asked = [*(str(folder / n) for n in files), str(folder), str(folder / "missing.pdf")]
        run = subprocess.run([sys.executable, "-m", "jolly_clerk.cli", "read", *asked, "--json"], capture_output=True, text=True)
        self.assertEqual((run.returncode, run.stderr), (0, ""))
        told = [json.loads(line) for line in run.stdout.splitlines()]
        self.assertEqual([t["file"] for t in told], asked)
        self.assertEqual(
            [t["opens"] for t in told], ["yes", "empty", "damaged", "yes", "password", "yes", "not read", "not read"]
        )
        self.assertEqual((told[0]["pages"][0]["sheet"], told[0]["pages"][0]["orientation"]), ("A3", "landscape"))
        self.assertIn("PNG picture", told[3]["findings"][0]["text"])


class Inside(unittest.TestCase):
    """What a PDF carries besides its pages, and where its text stands."""

    def made(self, *, script: bool = False, launch: bool = False, embedded: bool = False, signed: bool = False) -> bytes:
        pdf = pikepdf.new()
        pdf.add_blank_page(page_size=(595, 842))
        if script:
            pdf.Root.OpenAction = pikepdf.Dictionary(S=pikepdf.Name.JavaScript, JS="app.alert(1)")
        if launch:
            pdf.pages[0].obj["/AA"] = pikepdf.Dictionary(O=pikepdf.Dictionary(S=pikepdf.Name.Launch, F="x.exe"))
        if embedded:
            pdf.attachments["list.xlsx"] = b"PK"
        if signed:
            field = pdf.make_indirect(pikepdf.Dictionary(FT=pikepdf.Name.Sig, V=pikepdf.Dictionary(Type=pikepdf.Name.Sig), T="s"))
            pdf.Root.AcroForm = pikepdf.Dictionary(Fields=pikepdf.Array([field]))
        buffer = io.BytesIO()
        pdf.save(buffer)
        return buffer.getvalue()

    def test_scripts_files_and_signatures(self) -> None:
        plain = read_bytes(self.made())
        self.assertEqual((plain.scripts, plain.embedded, plain.signatures), (False, (), 0))
        self.assertTrue(read_bytes(self.made(script=True)).scripts)
        launched = read_bytes(self.made(launch=True))
        self.assertEqual((launched.scripts, launched.launches), (False, True))
        self.assertEqual(read_bytes(self.made(embedded=True)).embedded, ("list.xlsx",))
        self.assertEqual(read_bytes(self.made(signed=True)).signatures, 1)

    def test_text_stands_where_it_is_seen_whichever_way_the_sheet_lies(self) -> None:
        for turn, across, down in ((0, 0.2, 0.3), (90, 0.7, 0.2), (180, 0.8, 0.7), (270, 0.3, 0.8)):
            with self.subTest(turn=turn):
                buffer = io.BytesIO()
                canvas = Canvas(buffer, pagesize=(1000, 1000))
                canvas.setFont("Helvetica", 8)
                canvas.drawString(195, 697, "18 m")
                canvas.setPageRotation(turn)
                canvas.save()
                (line,) = read_bytes(buffer.getvalue()).lines
                left, top, right, bottom = line.box
                self.assertEqual(line.text, "18 m")
                self.assertAlmostEqual((left + right) / 2, across, delta=0.02)
                self.assertAlmostEqual((top + bottom) / 2, down, delta=0.02)

    def test_a_busy_page_keeps_all_its_lines(self) -> None:
        buffer = io.BytesIO()
        canvas = Canvas(buffer)
        for row in range(70):
            canvas.drawString(20, 830 - 11 * row, f"line {row}: the quick clerk stamps the lazy letter once more")
        canvas.save()
        lines = read_bytes(buffer.getvalue()).lines
        self.assertEqual((len(lines), lines[69].text[:8]), (70, "line 69:"))

    def test_a_document_without_pages_is_damaged(self) -> None:
        buffer = io.BytesIO()
        pikepdf.new().save(buffer)
        self.assertEqual(read_bytes(buffer.getvalue()).opens, "damaged")
