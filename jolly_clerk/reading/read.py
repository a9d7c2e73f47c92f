"""Bytes -> a :class:`Reading`. Runs inside the fenced worker; never raises for any content."""

from __future__ import annotations

import gc
import hashlib
import re
import shutil
from pathlib import Path
from typing import Any

from jolly_clerk.core.facts.claims import read_claims
from jolly_clerk.core.facts.reading import ClaimsRead, Page, PageText, Reading, TextLine
from jolly_clerk.core.facts.zone_signs import zones_in_text
from jolly_clerk.core.say import say
from jolly_clerk.reading.language import language_of

READER = "7"
MOST_CLAIM_LETTERS = 400_000
#: the text of scans is read of so many pages of a file
MOST_SCANS = 300


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
    collecting = gc.isenabled()
    gc.disable()  # a reading is many small things that all stay; looking for rubbish among them takes longer than making them
    try:
        if kind == "pdf":
            return _pdf(content, base)
        if kind in ("png", "jpeg", "tiff"):
            from jolly_clerk.reading.picture import read_picture

            return _to_be_read(Reading(**base, opens="yes", **read_picture(content, base)))
    except MemoryError:
        return Reading(**base, opens="not read", trouble=say("it needs more memory than a file may"))
    except Exception as error:
        return Reading(**base, opens="damaged", trouble=f"{type(error).__name__}: {error}"[:200])
    finally:
        if collecting:
            gc.enable()
    return Reading(**base, opens="yes")


def true_type(content: bytes) -> str:
    """The type by content, as a short word: pdf, png, jpeg, tiff, zip, txt ... or ``unknown type``."""
    import filetype

    head = content[:8192]
    if not content:
        return say("empty file")
    if b"%PDF-" in head[:1024] and not head.startswith(b"PK\x03\x04"):
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

    from jolly_clerk.reading.inside import look_inside
    from jolly_clerk.reading.pdf import Text, opened, outline, pages_of
    from jolly_clerk.reading.scans import look_at_scans

    try:
        with opened(content) as pdf:
            encrypted, count, known = pdf.is_encrypted, len(pdf.pages), outline(pdf)
            inside = look_inside(pdf, len(content))
    except pikepdf.PasswordError:
        return Reading(**base, opens="password", encrypted=True)
    except pikepdf.PdfError as error:
        if "encrypt" in str(error).lower() or "security handler" in str(error).lower():
            return Reading(**base, opens="password", encrypted=True, trouble=str(error)[:200])
        return Reading(**base, opens="damaged", trouble=str(error)[:200])
    if count == 0:
        return Reading(**base, opens="damaged", trouble=say("it has no pages"), encrypted=encrypted)
    text = Text()
    pages = list(pages_of(content, known, text))
    zones = list(zones_in_text(text.lines))
    seen, pictured, face = look_at_scans(content, pages, text.pictured, bool(zones))
    written = [TextLine(page=f.page, text=f.text, box=f.box) for f in inside.fields if f.kind != "tick"]
    return _to_be_read(
        Reading(
            **base,
            opens="yes",
            encrypted=encrypted,
            pages=seen,
            lines=(*text.lines, *written),
            claims=claims_in("\n".join(text.texts)),
            hidden=tuple(text.hidden),
            bounds=tuple(text.bounds),
            zones=(*zones, *pictured),
            face=face,
            **inside.told(),
        )
    )


def _to_be_read(found: Reading) -> Reading:
    """The reading with what is to come of the text of its scans, and what is left out of it."""
    scans = [p.no for p in found.pages if p.content == "scan"]
    bounds = found.bounds
    if len(scans) > MOST_SCANS:
        told = say("The text of scans is read of {most} pages; {left} are left.", most=MOST_SCANS, left=len(scans) - MOST_SCANS)
        bounds = (*bounds, told)
    if not scans:
        return found.model_copy(update={"bounds": bounds})
    from jolly_clerk.reading import glyphs  # with a scan all that it needs is loaded already

    return found.model_copy(update={"scans": "waiting", "bounds": bounds, "zones_unread": glyphs.font_path() is None})


def scans_can_be_read() -> bool:
    """True if a reader for the text of scans is installed here."""
    return shutil.which("tesseract") is not None


def scans_of(found: Reading) -> list[int]:
    """The pages whose text is to be read."""
    return [p.no for p in found.pages if p.content == "scan"][:MOST_SCANS]


def with_page_text(found: Reading, no: int, text: PageText) -> Reading:
    """The reading with the text of one scanned page; with the last one it is read."""

    def told(page: Page) -> Page:
        look = page.look.model_copy(update={"turn": text.turn}) if page.look else None
        return page.model_copy(update={"words": text.words, "language": text.language, "look": look})

    pages = tuple(told(p) if p.no == no else p for p in found.pages)
    every = (*found.lines, *text.lines)
    last = no == scans_of(found)[-1]
    claims = found.claims or (claims_in("\n".join(line.text for line in every)) if last else None)
    zones = found.zones or (tuple(zones_in_text(every)) if last else ())
    scans = "read" if last else "waiting"
    return found.model_copy(update={"pages": pages, "lines": every, "claims": claims, "zones": zones, "scans": scans})


def claims_in(text: str) -> ClaimsRead | None:
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
