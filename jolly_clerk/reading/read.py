"""Bytes -> a :class:`Reading`. Runs inside the fenced worker; never raises for any content."""

from __future__ import annotations

import hashlib
import io
import re
from pathlib import Path
from typing import Any

from jolly_clerk.core.facts.reading import Page, Reading

READER = "1"
MM_PER_POINT = 25.4 / 72
MOST_PAGES, MOST_PIXELS = 2000, 300_000_000
#: a page with fewer words than this and one picture over most of it is a scan
SCAN_WORDS, SCAN_SHARE = 5, 0.6


def read_file(path: Path) -> Reading:
    """Read one file from disk."""
    return read_bytes(path.read_bytes())


def read_bytes(content: bytes) -> Reading:
    """Read a file's content: true type, whether it opens, pages with their sheets and what is on them."""
    sha256, size = hashlib.sha256(content).hexdigest(), len(content)
    kind = true_type(content)
    base: dict[str, Any] = {"sha256": sha256, "reader": READER, "size": size, "type": kind}
    if not content:
        return Reading(**base, opens="empty")
    try:
        if kind == "pdf":
            return _pdf(content, base)
        if kind in ("png", "jpeg", "tiff"):
            return _image(content, base)
    except MemoryError:
        return Reading(**base, opens="not read", trouble="it needs more memory than a file may")
    except Exception as error:
        return Reading(**base, opens="damaged", trouble=f"{type(error).__name__}: {error}"[:200])
    return Reading(**base, opens="yes")


def true_type(content: bytes) -> str:
    """The type by content, as a short word: pdf, png, jpeg, tiff, zip, txt ... or ``unknown type``."""
    import filetype

    head = content[:8192]
    if not content:
        return "empty file"
    if b"%PDF-" in head[:1024]:
        return "pdf"
    guess = filetype.guess(head)
    if guess:
        return {"jpg": "jpeg", "tif": "tiff"}.get(guess.extension, str(guess.extension))
    try:
        text = head.decode("utf-8", errors="strict" if len(content) <= 8192 else "ignore")
    except UnicodeDecodeError:
        return "unknown type"
    if "\x00" in text:
        return "unknown type"
    return "html" if re.match(r"\s*(<!doctype html|<html)", text, re.IGNORECASE) else "txt"


def _pdf(content: bytes, base: dict[str, Any]) -> Reading:
    import pikepdf

    try:
        with pikepdf.open(io.BytesIO(content)) as pdf:
            encrypted, count = pdf.is_encrypted, len(pdf.pages)
    except pikepdf.PasswordError:
        return Reading(**base, opens="password", encrypted=True)
    except pikepdf.PdfError as error:
        return Reading(**base, opens="damaged", trouble=str(error)[:200])
    if count == 0:
        return Reading(**base, opens="damaged", trouble="it has no pages", encrypted=encrypted)
    return Reading(**base, opens="yes", encrypted=encrypted, pages=tuple(_pdf_pages(content)))


def _pdf_pages(content: bytes) -> list[Page]:
    import pypdfium2

    document = pypdfium2.PdfDocument(content)
    try:
        return [_pdf_page(document[n], n + 1) for n in range(min(len(document), MOST_PAGES))]
    finally:
        document.close()


def _pdf_page(page: Any, no: int) -> Page:
    """One page; pdfium applies rotation and user units to the size it gives, in points."""
    width, height = page.get_size()
    text_page = page.get_textpage()
    words = len(text_page.get_text_bounded().split())
    text_page.close()
    content: Any = "text" if words >= SCAN_WORDS else _wordless(page, width * height, words)
    page.close()
    return Page(
        no=no, width_mm=round(width * MM_PER_POINT, 1), height_mm=round(height * MM_PER_POINT, 1), content=content, words=words
    )


def _wordless(page: Any, area: float, words: int) -> Any:
    """What is on a page with next to no words: a scan if a picture covers most of it, else a drawing, else nothing."""
    import pypdfium2.raw as raw

    objects = list(page.get_objects(max_depth=3))
    covered = 0.0
    for item in objects:
        if item.type == raw.FPDF_PAGEOBJ_IMAGE:
            left, bottom, right, top = item.get_bounds()
            covered = max(covered, abs((right - left) * (top - bottom)))
    if area and covered / area >= SCAN_SHARE:
        return "scan"
    return "drawing" if objects else ("text" if words else "blank")


def _image(content: bytes, base: dict[str, Any]) -> Reading:
    from PIL import Image

    Image.MAX_IMAGE_PIXELS = MOST_PIXELS
    with Image.open(io.BytesIO(content)) as image:
        count = min(getattr(image, "n_frames", 1), MOST_PAGES)
        pages = []
        for n in range(count):
            image.seek(n)
            if n == 0:
                image.load()
            width, height = image.size
            if image.getexif().get(0x0112) in (5, 6, 7, 8):
                width, height = height, width
            dpi = float((image.info.get("dpi") or (96, 96))[0]) or 96.0
            mm = [round(side / dpi * 25.4, 1) for side in (width, height)]
            pages.append(Page(no=n + 1, width_mm=mm[0], height_mm=mm[1], content="scan"))
    return Reading(**base, opens="yes", pages=tuple(pages))
