"""Where documents begin in a file: at a sheet that looks like a first one, or after a blank one."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from statistics import median

from jolly_clerk.core.facts.names import SHORT, words
from jolly_clerk.core.facts.reading import Page, Reading, TextLine
from jolly_clerk.core.say import say

#: what the code on a sheet says that is laid between papers before they are scanned
SEPARATOR = "JOLLY-CLERK-SEPARATOR"
#: a sheet begins a document from so many points on
BEGINS = 1.5
#: the upper and the lower edge of a sheet, in shares of it; a heading is so much higher than the other lines
EDGE, UPPER, HEADING, LARGE = 0.12, 0.38, 1.1, 1.12
_COUNTED = re.compile(r"(?<!\d)(\d{1,3})\s*(?:of|/|von|de|sur|di)\s*(\d{1,3})(?!\d)", re.IGNORECASE)
_ALONE = re.compile(r"^(?:page|sheet|p\.|-|–)?\s*(\d{1,3})\s*[-–.]?$", re.IGNORECASE)
_SCALE = re.compile(r"(?<!\d)1\s*:\s*\d{1,5}(?!\d)")
_GOES_ON = re.compile(r"\b(?:continued|cont\.|continuação|suite|fortsetzung|continuación)\b", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Part:
    """Sheets of a file that belong together, both counted, and why the first of them begins a document."""

    first: int
    last: int
    because: str = ""


@dataclass(frozen=True, slots=True)
class _Sheet:
    page: Page
    lines: list[TextLine]

    @property
    def heading(self) -> str:
        """The line in large type in the upper part of the sheet, if there is one."""
        upper = [line for line in self.lines if line.box[1] < UPPER and any(s.isalpha() for s in line.text)]
        if not upper or len(self.lines) < 3:
            return upper[0].text if upper else ""
        largest = max(upper, key=lambda line: line.box[3] - line.box[1])
        others = median(line.box[3] - line.box[1] for line in self.lines if line is not largest)
        return largest.text if largest.box[3] - largest.box[1] >= HEADING * others else ""

    @property
    def scale(self) -> str:
        """The scale that it is drawn at, as it says."""
        found = (_SCALE.search(line.text) for line in self.lines)
        return next((hit[0].replace(" ", "") for hit in found if hit), "")

    @property
    def large(self) -> bool:
        """True if the heading is much larger than the other lines."""
        heights = [(line.box[3] - line.box[1], line.text) for line in self.lines]
        own = next((high for high, text in heights if text == self.heading), 0.0)
        others = [high for high, text in heights if text != self.heading]
        return bool(others) and own >= LARGE * median(others)

    @property
    def top(self) -> str:
        """The uppermost line."""
        return min(self.lines, key=lambda line: line.box[1]).text if self.lines else ""

    @property
    def counted(self) -> tuple[int, int]:
        """Which sheet of how many it says it is (0 where it does not say)."""
        for line in self.lines:
            if line.box[1] > 1 - EDGE or line.box[3] < EDGE:
                if found := _COUNTED.search(line.text):
                    no, of = int(found[1]), int(found[2])
                    if 1 <= no <= of:
                        return no, of
                if found := _ALONE.match(line.text.strip()):
                    return int(found[1]), 0
        return 0, 0


def parts_of(reading: Reading) -> tuple[Part, ...]:
    """The documents in a file; blank sheets and those that are laid between papers belong to none."""
    by_page: dict[int, list[TextLine]] = {}
    for line in reading.lines:
        by_page.setdefault(line.page, []).append(line)
    found, start, why = list[Part](), 0, ""
    before: _Sheet | None = None
    for page in reading.pages:
        sheet = _Sheet(page, by_page.get(page.no, []))
        if page.content == "blank" or page.code == SEPARATOR:
            if start:
                found.append(Part(start, page.no - 1, why))
            start, before = 0, sheet
            continue
        begins = _begins(sheet, before, reading)
        if not start or begins:
            if start:
                found.append(Part(start, page.no - 1, why))
            start, why = page.no, begins
        before = sheet
    if start:
        found.append(Part(start, reading.pages[-1].no, why))
    return tuple(found)


def _begins(sheet: _Sheet, before: _Sheet | None, reading: Reading) -> str:
    """Why a sheet begins a document, empty if it likely goes on with the one before."""
    if before is None:
        return ""
    if before.page.code == SEPARATOR:
        return say("a separator sheet lies before it")
    if before.page.content == "blank":
        return say("a blank sheet lies before it")
    points, reasons = 0.0, list[str]()
    no, of = sheet.counted
    no_before, of_before = before.counted
    if no == 1 and (of or no_before > 1 or not no_before):
        points += 2
        reasons.append(say("it says that it is sheet 1"))
    elif no > 1 and (no == no_before + 1 or not no_before):
        points -= 3
    elif of_before and no_before == of_before:
        points += 2
        reasons.append(say("the sheet before says that it is the last"))
    heading = sheet.heading
    if _GOES_ON.search(heading) or (heading and heading == before.heading):
        points -= 2
    elif heading and sheet.lines and len(sheet.lines) > 2:
        points += 1.5 if sheet.large else 1.1
        reasons.append(say("“{heading}” stands at its head in large type", heading=heading[:60]))
    else:
        points -= 0.5
    sizes = [(p.page.width_mm, p.page.height_mm) for p in (sheet, before)]
    if all(side for size in sizes for side in size) and any(abs(a - b) > 8 for a, b in zip(*sizes, strict=True)):
        points += 2.2
        reasons.append(say("it is of another size"))
    if sheet.scale and before.scale and sheet.scale != before.scale:
        points += 1.5
        reasons.append(say("it is drawn at {scale}", scale=sheet.scale))
    if sheet.top and before.top and sheet.top != before.top and sheet.top != heading:
        points += 0.4
    if any(zone.page == sheet.page.no for zone in reading.zones):
        points += 3
        reasons.append(say("it bears the lines of a passport"))
    if any(zone.page == before.page.no for zone in reading.zones):
        points += 2
        reasons.append(say("the page of a passport lies before it"))
    if sheet.page.language and before.page.language and sheet.page.language != before.page.language:
        points += 0.3
    return "; ".join(reasons) if points >= BEGINS else ""


def of_part(reading: Reading, first: int, last: int) -> Reading:
    """The reading of some sheets alone, as if they were a file."""
    if first == 0 or (first == 1 and last == len(reading.pages)):
        return reading

    def there(things: Sequence[object]) -> tuple[object, ...]:
        return tuple(t for t in things if first <= t.page <= last)  # type: ignore[attr-defined]

    kept = {name: there(getattr(reading, name)) for name in ("lines", "hidden", "fields", "comments", "zones")}
    pages = tuple(p for p in reading.pages if first <= p.no <= last)
    return reading.model_copy(update={**kept, "pages": pages, "claims": None, "face": reading.face if first == 1 else None})


def heading_of(reading: Reading) -> str:
    """What stands at the head of a document in large type."""
    pages = [p for p in reading.pages if p.content != "blank"]
    if not pages:
        return ""
    return _Sheet(pages[0], [line for line in reading.lines if line.page == pages[0].no]).heading


def head_of(reading: Reading) -> str:
    """What stands at the head of a document: its heading and the short lines of its upper part, the largest first."""
    pages = [p for p in reading.pages if p.content != "blank"]
    if not pages:
        return ""
    upper = [line for line in reading.lines if line.page == pages[0].no and line.box[1] < UPPER and len(line.text.split()) <= 8]
    upper.sort(key=lambda line: line.box[1] - line.box[3])
    return " ".join([heading_of(reading), *(line.text for line in upper[:3])])


#: so many letters of the first lines of a document without a head are taken for it
MOST_OF_HEAD = 160


def begins_with(reading: Reading) -> frozenset[str]:
    """The words with which a document begins: those of its head, or of its first lines where it has none."""
    return roots(head_of(reading) or " ".join(line.text for line in reading.lines[:3])[:MOST_OF_HEAD])


def roots(text: str) -> frozenset[str]:
    """The beginnings of the words of a text that say something: six letters, without marks and capitals."""
    return _short_roots(text) if len(text) <= SHORT else _roots(text)


@lru_cache(maxsize=2048)
def _short_roots(text: str) -> frozenset[str]:
    return _roots(text)


def _roots(text: str) -> frozenset[str]:
    return frozenset(word[:6].rstrip("s") for word in words(text) if len(word) > 2 and word not in _PLAIN and not word.isdigit())


#: words that say nothing of what a paper is
_PLAIN = frozenset(
    """the and for from with that this each all any one two not are was has its his her their your who what how when where may more than
    before after into onto over under upon between without within such other same whole every file page pages sheet sheets pdf jpg png
    scan img image document documents das der die und les des une par pour que com para uma""".split()  # noqa: SIM905
)
