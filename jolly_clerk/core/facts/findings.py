"""What the machine noticed about the files of a slot, each finding with its place."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from jolly_clerk.core.dossier.model import Attachment
from jolly_clerk.core.facts.reading import Page, Reading
from jolly_clerk.core.rulebook.model import SHEETS, Accepts, Slot
from jolly_clerk.core.say import things

ENDINGS = {"pdf": "pdf", "png": "png", "jpg": "jpeg", "jpeg": "jpeg", "tif": "tiff", "tiff": "tiff", "txt": "txt"}
SAID = {"pdf": "PDF", "png": "PNG picture", "jpeg": "JPEG picture", "tiff": "TIFF picture", "txt": "plain text"}


@dataclass(frozen=True, slots=True)
class Finding:
    """*fault* stops acceptance, *look* needs a person, *note* is worth knowing. ``page`` 0 means the whole file."""

    weight: Literal["fault", "look", "note"]
    text: str
    file: str
    page: int = 0


def file_findings(attachment: Attachment, reading: Reading | None) -> Iterator[Finding]:
    """Findings that hold whatever the slot: type against name, opens or not, scans."""
    if reading is None or reading.opens == "not read":
        why = f": {reading.trouble}" if reading and reading.trouble else ""
        yield Finding("look", f"“{attachment.name}” could not be read by the machine{why}. A person must look.", attachment.id)
        return
    ending = attachment.name.rpartition(".")[2].lower()
    if reading.opens == "empty":
        yield Finding("fault", f"“{attachment.name}” is empty (0 bytes). Send the file again.", attachment.id)
        return
    if reading.opens == "password":
        yield Finding("fault", f"“{attachment.name}” is locked by a password. Send it without one.", attachment.id)
    elif reading.opens == "damaged":
        yield Finding(
            "fault", f"“{attachment.name}” is damaged and cannot be opened. Save it anew and send it again.", attachment.id
        )
    if ENDINGS.get(ending) != reading.type:
        true = SAID.get(reading.type, reading.type)
        yield Finding(
            "look", f"The name “{attachment.name}” says {ending or 'nothing'}, but the file is a {true}.", attachment.id
        )
    yield from (Finding("note", f"Page {p.no} is blank.", attachment.id, p.no) for p in reading.pages if p.content == "blank")


def slot_findings(slot: Slot, files: Sequence[Attachment], readings: Mapping[str, Reading]) -> list[Finding]:
    """All findings about the files of a slot, in the order of the files."""
    found: list[Finding] = []
    low, high = slot.accepts.file_range
    if len(files) > high:
        extra = files[high]
        found.append(
            Finding(
                "fault",
                f"{things(len(files), 'file')} here; at most {high} belong{'s' if high == 1 else ''} in this slot.",
                extra.id,
            )
        )
    elif files and len(files) < low:
        found.append(Finding("fault", f"{things(len(files), 'file')} here; at least {low} are asked.", files[0].id))
    for attachment in files:
        reading = readings.get(attachment.sha256)
        found += file_findings(attachment, reading)
        found += _accepted(slot.accepts, attachment, reading)
    return found


def _accepted(accepts: Accepts, attachment: Attachment, reading: Reading | None) -> Iterator[Finding]:
    if attachment.size > accepts.most_bytes:
        yield Finding("fault", f"{attachment.size / 1e6:.1f} MB; at most {accepts.size} is taken here.", attachment.id)
    if reading is None or reading.opens in ("not read", "empty"):
        return
    if reading.type not in accepts.formats:
        wanted = " or ".join(SAID[f] for f in accepts.formats)
        yield Finding(
            "fault", f"“{attachment.name}” is a {SAID.get(reading.type, reading.type)}; {wanted} is asked.", attachment.id
        )
        return
    pages = accepts.page_range
    if pages and reading.pages and not pages[0] <= len(reading.pages) <= pages[1]:
        yield Finding("fault", f"{things(len(reading.pages), 'page')}; {accepts.pages} are asked.", attachment.id)
    if accepts.sheet and reading.pages:
        yield from _sheets(accepts, attachment, reading.pages)


def _sheets(accepts: Accepts, attachment: Attachment, pages: Sequence[Page]) -> Iterator[Finding]:
    assert accepts.sheet is not None
    short, long = SHEETS[accepts.sheet]
    for page in pages:
        a, b = sorted((page.width_mm, page.height_mm))
        if a < short - 3 or b < long - 3:
            size = page.sheet or f"{page.width_mm:.0f} × {page.height_mm:.0f} mm"
            yield Finding("fault", f"Sheet {page.no} is {size}; {accepts.sheet} or larger is asked.", attachment.id, page.no)
        elif accepts.landscape and not page.landscape:
            yield Finding("fault", f"Sheet {page.no} stands upright; landscape is asked.", attachment.id, page.no)
