"""What the machine noticed about a file whatever the slot it stands in, each finding with its place."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from jolly_clerk.core.dossier.model import Attachment
from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.in_words import all_of
from jolly_clerk.core.say import _, say
from jolly_clerk.core.things import things

ENDINGS = {
    "pdf": "pdf", "png": "png", "jpg": "jpeg", "jpeg": "jpeg", "jpe": "jpeg", "jfif": "jpeg", "tif": "tiff", "tiff": "tiff",
    "txt": "txt",
}  # fmt: skip
#: a type with its article, as sentences say what a file is
A_KIND = {
    "pdf": _("a PDF"), "png": _("a PNG picture"), "jpeg": _("a JPEG picture"), "tiff": _("a TIFF picture"), "txt": _("plain text"),
    "docx": _("a word processor's file (DOCX)"), "xlsx": _("a spreadsheet (XLSX)"), "zip": _("a ZIP archive"), "exe": _("a program"),
    "html": _("a web page"), "unknown type": _("of a type that is not known here"),
}  # fmt: skip
SAID = {"pdf": "PDF", "png": _("PNG picture"), "jpeg": _("JPEG picture"), "tiff": _("TIFF picture"), "txt": _("plain text")}
#: so many pages are named one by one; fewer dots an inch than these cannot be read, and less than those only with trouble
NAMED_PAGES, LEAST_DPI, GOOD_DPI, MOST_SKEW = 5, 100, 150, 3.0


def a_kind(kind: str) -> str:
    """``a PDF``, ``a program``, ``a file of type ODT``."""
    return say(A_KIND[kind]) if kind in A_KIND else say("a file of type {kind}", kind=kind.upper())


@dataclass(frozen=True, slots=True)
class Finding:
    """*fault* stops acceptance, *look* needs a person, *note* is worth knowing. ``page`` 0 means the whole file; ``box`` is around what
    it is about, in shares of the page, where that stands in one place."""

    weight: Literal["fault", "look", "note"]
    text: str
    file: str
    page: int = 0
    box: tuple[float, ...] = ()


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
    if reading.opens == "empty":
        yield Finding("fault", say("“{name}” is empty (0 bytes). Send the file again.", name=attachment.name), attachment.id)
        return
    for weight, text, page in _told(attachment, reading):
        yield Finding(weight, text, attachment.id, page)
    yield from _unseen(attachment, reading)


_Told = tuple[Literal["fault", "look", "note"], str, int]


def _told(attachment: Attachment, reading: Reading) -> Iterator[_Told]:
    yield from _opens(attachment, reading)
    yield from _inside(attachment, reading)
    yield from _signed(reading)
    if attachment.version > 1:
        said = say(
            "Version {version} of “{name}”; the one before was replaced.", version=attachment.version, name=attachment.name
        )
        yield "note", said, 0
    yield from (("look", text, 0) for text in reading.bounds)
    yield from _pages(reading)


def _opens(attachment: Attachment, reading: Reading) -> Iterator[_Told]:
    """Whether it opens, and whether its name says what it is."""
    name = attachment.name
    if reading.opens == "password":
        yield "fault", say("“{name}” is locked by a password. Send it without one.", name=name), 0
    elif reading.opens == "damaged":
        yield "fault", say("“{name}” is damaged and cannot be opened. Save it anew and send it again.", name=name), 0
    stem, dot, ending = name.rpartition(".")
    ending = ending.lower() if dot and stem and len(ending) <= 5 else ""
    if ENDINGS.get(ending, ending) == reading.type:
        return
    if ending:
        said = say(
            "The name “{name}” says {ending}, but the file is {kind}.", name=name, ending=ending, kind=a_kind(reading.type)
        )
    else:
        said = say("The name “{name}” does not say what it is; the file is {kind}.", name=name, kind=a_kind(reading.type))
    yield "look", said, 0


def _inside(attachment: Attachment, reading: Reading) -> Iterator[_Told]:
    """What it carries besides its pages."""
    name = attachment.name
    if reading.scripts:
        yield "look", say("“{name}” can run a script when it is opened; here it never does.", name=name), 0
    if reading.launches:
        yield "look", say("“{name}” can start a program when it is opened; here it never does.", name=name), 0
    if reading.xfa:
        only = say("“{name}” is a form that shows itself in one program only (XFA). Print it as a PDF and send that.", name=name)
        yield "look", only, 0
    elif reading.fields:
        said = things(len(reading.fields), "field")
        yield "note", say("It is a form with {said} filled in; they were read.", said=said), 0
    if reading.embedded:
        names = ", ".join(reading.embedded[:3]) + (say(" and more") if len(reading.embedded) > 3 else "")
        count = things(len(reading.embedded), "file")
        ask = say("Send it on its own.") if len(reading.embedded) == 1 else say("Send them on their own.")
        yield "look", say("{count} inside this file: {names}. {ask}", count=count, names=names, ask=ask), 0
    if reading.comments:
        first = reading.comments[0]
        count = things(len(reading.comments), "comment")
        text = first.text if len(first.text) <= 80 else f"{first.text[:80]}…"
        yield "note", say("{count} written onto the pages; the first: “{text}”.", count=count, text=text), first.page


def _signed(reading: Reading) -> Iterator[_Told]:
    """What embedded signatures cover, and whether the file was changed after the last of them."""
    if reading.signatures and not reading.signed:
        yield "note", say("{said}; whose it is was not checked.", said=things(reading.signatures, "embedded signature")), 0
    if not reading.signed:
        return
    last, said = reading.signed[-1], things(len(reading.signed), "embedded signature")
    who = say(" of {who}", who=last.who) if last.who else ""
    if last.covers:
        yield "note", say("{said}{who}, over the whole file; whose it is was not checked.", said=said, who=who), 0
    else:
        text = say("{said}{who}, but the file was changed after it, or it does not cover all of the file.", said=said, who=who)
        yield "look", text, 0


def numbers_said(numbers: Sequence[int]) -> str:
    """``2``, ``2, 4 and 7``, ``1 to 2000``: page numbers in words, stretches as such."""
    stretches = list[list[int]]()
    for no in numbers:
        if stretches and stretches[-1][1] == no - 1:
            stretches[-1][1] = no
        else:
            stretches.append([no, no])
    told = [str(a) if a == b else say("{first} to {last}", first=a, last=b) for a, b in stretches[:NAMED_PAGES]]
    return all_of(told) if len(stretches) <= NAMED_PAGES else say("{some} and others", some=", ".join(told))


def sheets_said(numbers: Sequence[int]) -> str:
    """``Sheet 2``, ``Sheets 2 to 7``."""
    if len(numbers) == 1:
        return say("Sheet {no}", no=numbers[0])
    return say("Sheets {numbers}", numbers=numbers_said(numbers))


def _pages(reading: Reading) -> Iterator[_Told]:
    """What is to be said of single pages: damaged, blank, poorly scanned, lying wrong, or not read."""
    pages = reading.pages
    broken = [p.no for p in pages if p.trouble]
    if broken:
        yield (
            "look",
            say("{sheets} cannot be read; the others can. Save the file anew and send it again.", sheets=sheets_said(broken)),
            broken[0],
        )
    yield from (("note", say("Page {no} is blank.", no=p.no), p.no) for p in pages if p.content == "blank" and not p.trouble)
    seen = [(p.no, p.look) for p in pages if p.look is not None]
    rough = [no for no, look in seen if 0 < look.dpi < LEAST_DPI]
    if rough:
        dpi = min(look.dpi for _, look in seen if look.dpi)
        which = sheets_said(rough)
        text = say(
            "{sheets}: scanned at {dpi} dots an inch only; small writing cannot be read. 200 are good.", sheets=which, dpi=dpi
        )
        yield "look", text, rough[0]
    poor = [no for no, look in seen if LEAST_DPI <= look.dpi < GOOD_DPI]
    if poor:
        yield "note", say("{sheets}: scanned at less than 150 dots an inch.", sheets=sheets_said(poor)), poor[0]
    blurred = [no for no, look in seen if not look.sharp]
    if blurred:
        yield (
            "look",
            say("{sheets}: not sharp. Scan or photograph it anew if it cannot be read.", sheets=sheets_said(blurred)),
            blurred[0],
        )
    askew = [no for no, look in seen if abs(look.skew) >= MOST_SKEW]
    if askew:
        yield "note", say("{sheets}: not straight on the page.", sheets=sheets_said(askew)), askew[0]
    turned = [(no, look.turn) for no, look in seen if look.turn]
    if turned:
        numbers = [no for no, _ in turned]
        how = say("on its head") if all(turn == 180 for _, turn in turned) else say("on its side")
        yield "note", say("{sheets}: scanned {how}; it was read all the same.", sheets=sheets_said(numbers), how=how), numbers[0]
    if reading.scans == "not installed":
        yield "look", say("No text could be read: this office’s reader for scans is not installed."), 0
    elif reading.scans == "waiting":
        yield "note", say("The text of its scanned pages is being read."), 0


def _unseen(attachment: Attachment, reading: Reading) -> Iterator[Finding]:
    """Words that nobody sees. Beneath a scan they are the scanner's own; anywhere else somebody should look."""
    scans = {p.no for p in reading.pages if p.content == "scan"}
    beneath = sorted({h.page for h in reading.hidden if h.page in scans and h.why == "not drawn"})
    if beneath:
        text = say(
            "{sheets}: a text that nobody sees lies beneath the scan; the picture was read, not that text.",
            sheets=sheets_said(beneath),
        )
        yield Finding("note", text, attachment.id, beneath[0])
    others = [h for h in reading.hidden if h.page not in beneath]
    if not others:
        return
    first = others[0]
    why = {
        "not drawn": say("it is hidden, covered or of the colour of the ground"),
        "off the sheet": say("it stands off the sheet"),
        "too small": say("it is too small to be read"),
    }[first.why]
    more = say(" (and {count} more)", count=things(len(others) - 1, "place")) if len(others) > 1 else ""
    said = first.text if len(first.text) <= 60 else f"{first.text[:60]}…"
    text = say(
        "“{said}” on sheet {page}{more} is seen by nobody: {why}. It was not counted.",
        said=said,
        page=first.page,
        more=more,
        why=why,
    )
    yield Finding("look", text, attachment.id, first.page, first.box)
