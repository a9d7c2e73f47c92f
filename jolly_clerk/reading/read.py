"""Bytes -> a :class:`Reading`. Runs inside the fenced worker; never raises for any content."""

from __future__ import annotations

import hashlib
import io
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from jolly_clerk.core.facts.claims import read_claims
from jolly_clerk.core.facts.reading import ClaimsRead, Page, Reading, TextLine
from jolly_clerk.core.say import say
from jolly_clerk.reading.language import language_of

READER = "4"
MM_PER_POINT = 25.4 / 72
MOST_PAGES, MOST_PIXELS = 2000, 300_000_000
#: a page with fewer words than this and one picture over most of it is a scan
SCAN_WORDS, SCAN_SHARE = 5, 0.6
#: text is kept with its places for drawings and forms, not for books
MOST_CLAIM_PAGES, MOST_CLAIM_LETTERS = 80, 400_000
MOST_PLACED_PAGES, MOST_PLACED_WORDS, MOST_LINES, MOST_LETTERS = 60, 300, 2000, 240


def warm() -> None:
    """Load what reading needs, so that the first file need not wait for it."""
    import pikepdf  # noqa: F401
    import pypdfium2  # noqa: F401

    language_of("the quick clerk stamps the lazy letter once more before the office closes")


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
        return Reading(**base, opens="not read", trouble=say("it needs more memory than a file may"))
    except Exception as error:
        return Reading(**base, opens="damaged", trouble=f"{type(error).__name__}: {error}"[:200])
    return Reading(**base, opens="yes")


def true_type(content: bytes) -> str:
    """The type by content, as a short word: pdf, png, jpeg, tiff, zip, txt ... or ``unknown type``."""
    import filetype

    head = content[:8192]
    if not content:
        return say("empty file")
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
            inside = _inside(pdf)
    except pikepdf.PasswordError:
        return Reading(**base, opens="password", encrypted=True)
    except pikepdf.PdfError as error:
        return Reading(**base, opens="damaged", trouble=str(error)[:200])
    if count == 0:
        return Reading(**base, opens="damaged", trouble=say("it has no pages"), encrypted=encrypted)
    lines: list[TextLine] = []
    texts: list[str] = []
    pages = tuple(_pdf_pages(content, lines, texts))
    claims = _claims("\n".join(texts))
    return Reading(
        **base, opens="yes", encrypted=encrypted, pages=pages, lines=tuple(lines[:MOST_LINES]), claims=claims, **inside
    )


def _claims(text: str) -> ClaimsRead | None:
    """The claims of a text whose paragraphs are numbered from 1, None for any other."""
    if not re.search(r"^\s{0,8}(?:claim\s+)?1\s*[.)]\s+\S", text[:MOST_CLAIM_LETTERS], re.IGNORECASE | re.MULTILINE):
        return None
    found = read_claims(text[:MOST_CLAIM_LETTERS])
    told = (
        (found.gaps, say("is missing between the others")),
        (found.repeated, say("stands twice")),
        (found.forward, say("depends on itself or on a later one")),
        (found.missing, say("depends on one that is not there")),
    )
    faults = tuple(say("Claim {no} {what}.", no=no, what=what) for numbers, what in told for no in numbers[:5])
    return ClaimsRead(count=found.count, independent=len(found.independent), multiple=len(found.multiple), faults=faults)


def _inside(pdf: Any) -> dict[str, Any]:
    """What a PDF carries besides its pages: embedded signatures, scripts, files."""
    import pikepdf

    root = pdf.Root
    signatures = 0
    fields = list(root.AcroForm.Fields) if "/AcroForm" in root and "/Fields" in root.AcroForm else []
    while fields and signatures < 100:
        field = fields.pop()
        fields += list(field.Kids)[:500] if "/Kids" in field else []
        signatures += str(field.get("/FT", "")) == "/Sig" and "/V" in field
    names = root.get("/Names", pikepdf.Dictionary())
    acts = [root.get("/OpenAction"), *(page.obj.get("/AA") for page in list(pdf.pages)[:200]), root.get("/AA")]
    scripts = "/JavaScript" in names or any(_runs(act) for act in acts if act is not None)
    try:
        embedded = tuple(str(name)[:120] for name in list(pdf.attachments)[:50])
    except (ValueError, RuntimeError):
        embedded = (say("a file whose name cannot be read"),)
    return {"signatures": signatures, "scripts": scripts, "embedded": embedded}


def _runs(act: Any, depth: int = 0) -> bool:
    """True if an action, or one below it, is a script or starts a program."""
    import pikepdf

    if depth > 3 or not isinstance(act, pikepdf.Dictionary):
        return False
    if str(act.get("/S", "")) in ("/JavaScript", "/Launch"):
        return True
    return any(_runs(value, depth + 1) for value in list(act.values())[:50])


def _pdf_pages(content: bytes, lines: list[TextLine], texts: list[str]) -> Iterator[Page]:
    import pypdfium2

    document = pypdfium2.PdfDocument(content)
    try:
        for n in range(min(len(document), MOST_PAGES)):
            yield _pdf_page(document[n], n + 1, lines, texts)
    finally:
        document.close()


def _placed(page: Any, text_page: Any, no: int) -> Iterator[TextLine]:
    """The runs of text of a page with their boxes as it is seen."""
    import pypdfium2.raw as raw

    turn = raw.FPDFPage_GetRotation(page.raw)
    left, bottom, right, top = page.get_cropbox()
    across, up = right - left or 1.0, top - bottom or 1.0
    for n in range(min(text_page.count_rects(), MOST_LINES)):
        rect = text_page.get_rect(n)
        text = " ".join(text_page.get_text_bounded(*rect).split())[:MOST_LETTERS]
        if not text:
            continue
        corners = [((x - left) / across, (top - y) / up) for x, y in ((rect[0], rect[3]), (rect[2], rect[1]))]
        for _ in range(turn):  # a quarter turn clockwise moves the top edge to the right
            corners = [(1 - y, x) for x, y in corners]
        (x1, y1), (x2, y2) = corners
        box = [round(min(1.0, max(0.0, v)), 4) for v in (min(x1, x2), min(y1, y2), max(x1, x2), max(y1, y2))]
        yield TextLine(page=no, text=text, box=(box[0], box[1], box[2], box[3]))


def _pdf_page(page: Any, no: int, lines: list[TextLine], texts: list[str]) -> Page:
    """One page; pdfium applies rotation and user units to the size it gives, in points."""
    width, height = page.get_size()
    text_page = page.get_textpage()
    text = text_page.get_text_bounded()
    words = len(text.split())
    if no <= MOST_CLAIM_PAGES:
        texts.append(text.replace("\r", ""))
    if words and words <= MOST_PLACED_WORDS and no <= MOST_PLACED_PAGES and len(lines) < MOST_LINES:
        lines += _placed(page, text_page, no)
    text_page.close()
    language = language_of(text) if no <= MOST_CLAIM_PAGES else ""
    content: Any = "text" if words >= SCAN_WORDS else _wordless(page, width * height, words)
    page.close()
    return Page(
        no=no,
        width_mm=round(width * MM_PER_POINT, 1),
        height_mm=round(height * MM_PER_POINT, 1),
        content=content,
        words=words,
        language=language,
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
            pages.append(Page(no=n + 1, width_mm=mm[0], height_mm=mm[1], content="scan", pixels=(width, height)))
    return Reading(**base, opens="yes", pages=tuple(pages))
