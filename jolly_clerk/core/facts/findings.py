"""What the machine noticed about the files of a slot, each finding with its place."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from jolly_clerk.core.dossier.model import Attachment
from jolly_clerk.core.facts.measures import any_scale, has_title_block, scale_words
from jolly_clerk.core.facts.reading import ClaimsRead, Page, Reading
from jolly_clerk.core.in_words import one_of
from jolly_clerk.core.rulebook.model import SHEETS, Accepts, Slot
from jolly_clerk.core.say import _, say
from jolly_clerk.core.things import things

ENDINGS = {"pdf": "pdf", "png": "png", "jpg": "jpeg", "jpeg": "jpeg", "tif": "tiff", "tiff": "tiff", "txt": "txt"}
SAID = {"pdf": "PDF", "png": _("PNG picture"), "jpeg": _("JPEG picture"), "tiff": _("TIFF picture"), "txt": _("plain text")}


@dataclass(frozen=True, slots=True)
class Finding:
    """*fault* stops acceptance, *look* needs a person, *note* is worth knowing. ``page`` 0 means the whole file."""

    weight: Literal["fault", "look", "note"]
    text: str
    file: str
    page: int = 0


def file_findings(attachment: Attachment, reading: Reading | None) -> Iterator[Finding]:
    """Findings that hold whatever the slot: type against name, opens or not, scans."""
    if reading is not None and reading.opens == "being read":
        yield Finding("note", say("“{name}” is being read.", name=attachment.name), attachment.id)
        return
    if reading is None or reading.opens == "not read":
        why = f": {reading.trouble}" if reading and reading.trouble else ""
        yield Finding(
            "look",
            say("“{name}” could not be read by the machine{why}. A person must look.", name=attachment.name, why=why),
            attachment.id,
        )
        return
    ending = attachment.name.rpartition(".")[2].lower()
    if reading.opens == "empty":
        yield Finding("fault", say("“{name}” is empty (0 bytes). Send the file again.", name=attachment.name), attachment.id)
        return
    if reading.opens == "password":
        yield Finding("fault", say("“{name}” is locked by a password. Send it without one.", name=attachment.name), attachment.id)
    elif reading.opens == "damaged":
        yield Finding(
            "fault",
            say("“{name}” is damaged and cannot be opened. Save it anew and send it again.", name=attachment.name),
            attachment.id,
        )
    if ENDINGS.get(ending) != reading.type:
        true = say(SAID.get(reading.type, reading.type))
        yield Finding(
            "look",
            say(
                "The name “{name}” says {ending}, but the file is a {true}.",
                name=attachment.name,
                ending=ending,
                true=true,
            )
            if ending
            else say("The name “{name}” does not say what it is; the file is a {true}.", name=attachment.name, true=true),
            attachment.id,
        )
    if reading.scripts:
        yield Finding(
            "look", say("“{name}” can run a script when it is opened; here it never does.", name=attachment.name), attachment.id
        )
    if reading.embedded:
        names = ", ".join(reading.embedded[:3]) + (say(" and more") if len(reading.embedded) > 3 else "")
        yield Finding(
            "look",
            say(
                "{count} inside this file: {names}. Send them on their own.",
                count=things(len(reading.embedded), "file"),
                names=names,
            ),
            attachment.id,
        )
    if reading.signatures:
        said = things(reading.signatures, "embedded signature")
        yield Finding("note", say("{said}; whose it is was not checked.", said=said), attachment.id)
    if attachment.version > 1:
        yield Finding(
            "note",
            say("Version {version} of “{name}”; the one before was replaced.", version=attachment.version, name=attachment.name),
            attachment.id,
        )
    yield from (
        Finding("note", say("Page {no} is blank.", no=p.no), attachment.id, p.no) for p in reading.pages if p.content == "blank"
    )


def slot_findings(
    slot: Slot, files: Sequence[Attachment], readings: Mapping[str, Reading], others: Sequence[Attachment] = ()
) -> list[Finding]:
    """All findings about the files of a slot, in the order of the files. ``others`` are the files of the other slots."""
    found: list[Finding] = []
    low, high = slot.accepts.file_range
    if len(files) > high:
        extra = files[high]
        found.append(
            Finding(
                "fault",
                say(
                    "{count} here; at most {high} belong{word} in this slot.",
                    count=things(len(files), "file"),
                    high=high,
                    word="s" if high == 1 else "",
                ),
                extra.id,
            )
        )
    elif files and len(files) < low:
        found.append(
            Finding(
                "fault", say("{count} here; at least {low} are asked.", count=things(len(files), "file"), low=low), files[0].id
            )
        )
    for attachment in files:
        reading = readings.get(attachment.sha256)
        found += file_findings(attachment, reading)
        found += _accepted(slot.accepts, attachment, reading)
        if slot.scales or slot.title_block:
            found += _drawn(slot, attachment, reading)
        if reading is not None and reading.claims is not None:
            found += _claims(slot, attachment, reading.claims)
        for other in others:
            if other.sha256 == attachment.sha256:
                text = say("The same content stands elsewhere in this filing as “{name}”.", name=other.name)
                found.append(Finding("look", text, attachment.id))
    return found


def _drawn(slot: Slot, attachment: Attachment, reading: Reading | None) -> Iterator[Finding]:
    """What a drawing should bear: one of the scales, a title block. A sheet without text cannot be searched, which is said."""
    if reading is None or reading.opens != "yes":
        return
    if not reading.lines:
        yield Finding("look", say("No text can be read in this drawing; scale and title block were not found."), attachment.id, 1)
        return
    if slot.scales and not scale_words(reading, slot.scales):
        wanted, there = " or ".join(slot.scales), any_scale(reading)
        said = (
            say("It is drawn at {there}; {wanted} is asked.", there=there, wanted=wanted)
            if there
            else say("No scale was found; {wanted} is asked.", wanted=wanted)
        )
        yield Finding("look", said, attachment.id, 1)
    if slot.title_block and not has_title_block(reading):
        yield Finding("look", say("No title block was found at the lower right or the lower edge."), attachment.id, 1)


def _claims(slot: Slot, attachment: Attachment, claims: ClaimsRead) -> Iterator[Finding]:
    """What is wrong with the numbering and the dependence of the claims, where a slot is read for claims."""
    if any(f.type == "claims" for f in slot.facts):
        yield from (Finding("fault", text, attachment.id) for text in claims.faults)


def _accepted(accepts: Accepts, attachment: Attachment, reading: Reading | None) -> Iterator[Finding]:
    if attachment.size > accepts.most_bytes:
        yield Finding(
            "fault",
            say("{size} MB; at most {most} is taken here.", size=f"{attachment.size / 1000000.0:.1f}", most=accepts.size),
            attachment.id,
        )
    if reading is None or reading.opens in ("not read", "being read", "empty"):
        return
    if reading.type not in accepts.formats:
        wanted = one_of([say(SAID[f]) for f in accepts.formats])
        yield Finding(
            "fault",
            say(
                "“{name}” is a {kind}; {wanted} is asked.",
                name=attachment.name,
                kind=say(SAID.get(reading.type, reading.type)),
                wanted=wanted,
            ),
            attachment.id,
        )
        return
    pages = accepts.page_range
    if pages and reading.pages and not pages[0] <= len(reading.pages) <= pages[1]:
        yield Finding(
            "fault",
            say("{count}; {pages} are asked.", count=things(len(reading.pages), "page"), pages=accepts.pages),
            attachment.id,
        )
    words = accepts.word_range
    if words and reading.words and not words[0] <= reading.words <= words[1]:
        yield Finding(
            "fault", say("{words}; {asked} are asked.", words=things(reading.words, "word"), asked=accepts.words), attachment.id
        )
    if reading.pages and (accepts.pixels or accepts.ratio):
        yield from _picture(accepts, attachment, reading.pages[0])
    if accepts.sheet and reading.pages:
        yield from _sheets(accepts, attachment, reading.pages)


def _picture(accepts: Accepts, attachment: Attachment, page: Page) -> Iterator[Finding]:
    """The dots and the sides of a picture."""
    across, down = page.pixels
    least, sides = accepts.least_pixels, accepts.sides
    if least and across and (across < least[0] or down < least[1]):
        yield Finding(
            "fault",
            say(
                "{across} × {down} dots; at least {least_across} × {least_down} are asked.",
                across=across,
                down=down,
                least_across=least[0],
                least_down=least[1],
            ),
            attachment.id,
        )
    if sides and across and abs(across * sides[1] - down * sides[0]) * 100 > across * sides[1]:
        said = say(
            "{across} × {down} dots, which is not {side_across} : {side_down} within 1 %.",
            across=across,
            down=down,
            side_across=sides[0],
            side_down=sides[1],
        )
        yield Finding(
            "fault",
            say("{said} Cut it to {rounded} × {down}.", said=said, rounded=round(down * sides[0] / sides[1]), down=down),
            attachment.id,
        )


def _sheets(accepts: Accepts, attachment: Attachment, pages: Sequence[Page]) -> Iterator[Finding]:
    assert accepts.sheet is not None
    short, long = SHEETS[accepts.sheet]
    for page in pages:
        a, b = sorted((page.width_mm, page.height_mm))
        if a < short - 3 or b < long - 3:
            size = page.sheet or say(
                "{width_mm} × {height_mm} mm", width_mm=f"{page.width_mm:.0f}", height_mm=f"{page.height_mm:.0f}"
            )
            yield Finding(
                "fault",
                say("Sheet {no} is {size}; {sheet} or larger is asked.", no=page.no, size=size, sheet=accepts.sheet),
                attachment.id,
                page.no,
            )
        elif accepts.landscape and not page.landscape:
            yield Finding("fault", say("Sheet {no} stands upright; landscape is asked.", no=page.no), attachment.id, page.no)
