"""Lengths and areas stated in the text of a drawing, each with the place where it stands.

A fact is the measure that stands nearest to one of the words that the rulebook gives (``high water``),
on the same sheet. Nothing is guessed: where no measure stands near, it is not found.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from decimal import Decimal
from functools import lru_cache, partial
from typing import Any

from jolly_clerk.core.facts.reading import Box, Reading, TextLine
from jolly_clerk.core.rulebook.model import FactRule

_NUMBER = r"(\d{1,3}(?:[ \u00a0\u202f]\d{3})+(?:[.,]\d{1,3})?|\d{1,7}(?:[.,]\d{1,3})?)"
_AREA_UNIT = r"(m\s?²|m\s?2|sq\.?\s?m|sqm|square met(?:re|er)s?|ha)"
_LENGTH_UNIT = r"(mm|cm|dm|km|met(?:re|er)s?|m|feet|foot|ft\.?|inch(?:es)?|yards?|yd)"
_AREA = re.compile(rf"(?<![\d.,:]){_NUMBER}\s*{_AREA_UNIT}(?![a-z0-9])", re.IGNORECASE)
_SQUARE_FEET = re.compile(rf"(?<![\d.,:]){_NUMBER}\s*(?:sq\.?\s?ft\.?|square f(?:ee|oo)t|ft²)(?![a-z0-9])", re.IGNORECASE)
_SIDES = re.compile(rf"(?<![\d.,:]){_NUMBER}\s*{_LENGTH_UNIT}?\s*[x×]\s*{_NUMBER}\s*{_LENGTH_UNIT}(?![a-z0-9²])", re.IGNORECASE)
_LENGTH = re.compile(rf"(?<![\d.,:]){_NUMBER}\s*{_LENGTH_UNIT}(?![a-z0-9²])", re.IGNORECASE)
_FEET = re.compile(
    r"(?<![\d.,:])(\d{1,6}(?:[.,]\d{1,2})?)\s*['′’](?:\s*-?\s*(\d{1,2})\s*(?:\"|″|”|''))?(?![a-z0-9])", re.IGNORECASE
)
_METRES = {
    "mm": Decimal("0.001"), "cm": Decimal("0.01"), "dm": Decimal("0.1"), "km": Decimal(1000),
    **dict.fromkeys(("feet", "foot", "ft", "ft."), Decimal("0.3048")),
    **dict.fromkeys(("inch", "inches"), Decimal("0.0254")), **dict.fromkeys(("yard", "yards", "yd"), Decimal("0.9144")),
}  # fmt: skip
#: how far a measure may stand from its word, as a share of the sheet's diagonal
NEAR = 0.35


@dataclass(frozen=True, slots=True)
class Fact:
    """A measure in metres or square metres, or another value, as it is written and where: page and box in shares of the page."""

    value: Any
    text: str
    page: int
    box: Box


def find_all(rule: FactRule, reading: Reading) -> tuple[Fact, ...]:
    """What a reading states of a rule's fact: for each place of one of its words the measure that stands nearest, on the same sheet, the
    nearest first; without those that say the same once more. Empty where there is none."""
    labels = [label_of(words) for words in rule.near]
    found: list[tuple[float, Fact]] = []
    for page in sorted({line.page for line in reading.lines}):
        own = [line for line in reading.lines if line.page == page]
        places = [(line, at.span()) for line in own for label in labels if (at := label.search(line.text))]
        if not places:
            continue
        there = [(fact, line, span) for line in own for fact, span in measures(line, rule.type)]
        for label, spot in places:
            near = [(_distance(line, span, label, spot), n) for n, (_, line, span) in enumerate(there)]
            far, n = min(near, default=(NEAR + 1, 0))
            if far <= NEAR:
                found.append((far, there[n][0]))
    return told_once(fact for _, fact in sorted(found, key=lambda pair: pair[0]))


def told_once(facts: Iterable[Fact]) -> tuple[Fact, ...]:
    """Facts in their order, each value once."""
    told: dict[Any, Fact] = {}
    for fact in facts:
        told.setdefault(fact.value, fact)
    return tuple(told.values())


@lru_cache(maxsize=500)
def label_of(words: str) -> re.Pattern[str]:
    """The words of a rule, whatever their capitals, with a hyphen or a blank between them."""
    return re.compile(r"\b" + r"[\s-]+".join(map(re.escape, words.split())) + r"\b", re.IGNORECASE)


def measures(line: TextLine, kind: str) -> Iterator[tuple[Fact, tuple[int, int]]]:
    """Every length (in metres) or area (in square metres) in a line, with its span in the text."""
    if kind == "area":
        for found in _AREA.finditer(line.text):
            hectare = 10_000 if found[2].lower() == "ha" else 1
            yield Fact(_number(found[1]) * hectare, found[0], line.page, part_of(line, found.span())), found.span()
        for found in _SQUARE_FEET.finditer(line.text):
            yield Fact(_number(found[1]) * _METRES["ft"] ** 2, found[0], line.page, part_of(line, found.span())), found.span()
        for found in _SIDES.finditer(line.text):
            one, other = _number(found[1]) * _metres(found[2] or found[4]), _number(found[3]) * _metres(found[4])
            yield Fact(one * other, found[0], line.page, part_of(line, found.span())), found.span()
        return
    taken = [found.span() for found in _SIDES.finditer(line.text)]
    for found in _LENGTH.finditer(line.text):
        if not any(a <= found.start() < b for a, b in taken):
            fact = Fact(_number(found[1]) * _metres(found[2]), found[0], line.page, part_of(line, found.span()))
            yield fact, found.span()
    for found in _FEET.finditer(line.text):
        value = _number(found[1]) * _METRES["ft"] + Decimal(found[2] or 0) * _METRES["inch"]
        yield Fact(value, found[0], line.page, part_of(line, found.span())), found.span()


def _number(text: str) -> Decimal:
    return Decimal(re.sub(r"[ \u00a0\u202f]", "", text).replace(",", "."))


def _metres(unit: str) -> Decimal:
    return _METRES.get(unit.lower(), Decimal(1))


def part_of(line: TextLine, span: tuple[int, int]) -> Box:
    """The box of a piece of a line, taking its letters as equally wide."""
    left, top, right, bottom = line.box
    wide = (right - left) / max(1, len(line.text))
    return (round(left + wide * span[0], 4), top, round(left + wide * span[1], 4), bottom)


def _distance(line: TextLine, span: tuple[int, int], label: TextLine, at: tuple[int, int]) -> float:
    """How far apart two pieces of text stand; within one line they count as next to each other."""
    if line is label:
        gap = max(at[0] - span[1], span[0] - at[1], 0)
        return gap * 0.0001
    a, b = part_of(line, span), part_of(label, at)
    across = max(a[0] - b[2], b[0] - a[2], 0.0)
    down = max(a[1] - b[3], b[1] - a[3], 0.0)
    return 0.001 + float((across**2 + down**2) ** 0.5)


_BLOCK = ("scale", "date", "drawn", "drawing", "sheet", "rev", "revision", "project", "title", "plan", "section", "sections")


def scale_words(reading: Reading, wanted: Sequence[str]) -> tuple[str, ...]:
    """Which of the wanted scales (``1:200``) the text bears, in the order wanted."""
    said: str = reading.once("all its text", lambda: " ".join(line.text for line in reading.lines))
    return tuple(s for s in wanted if reading.once(("scale", s), partial(_bears_scale, said, s)))


def _bears_scale(said: str, scale: str) -> bool:
    return bool(re.search(r"(?<!\d)" + re.sub(r"\s*:\s*", r"\\s*:\\s*", re.escape(scale)) + r"(?!\d)", said))


def any_scale(reading: Reading) -> str:
    """The first scale that the text bears at all, or nothing."""
    for line in reading.lines:
        found = re.search(r"(?<!\d)1\s*:\s*\d{1,5}(?!\d)", line.text)
        if found:
            return re.sub(r"\s", "", found[0])
    return ""


_NORTH = re.compile(r"^N\.?$|\b(?:north|norte|nord|norden)\b", re.IGNORECASE)


def has_north_mark(reading: Reading) -> bool:
    """True if a sheet says where north is: the letter N by itself, or the word."""
    found: bool = reading.once("north", lambda: any(_NORTH.search(line.text.strip()) for line in reading.lines))
    return found


def has_title_block(reading: Reading) -> bool:
    """True if words of a title block stand in the lower right of a sheet, or along its lower edge."""
    found: bool = reading.once("title block", lambda: _title_block(reading))
    return found


def _title_block(reading: Reading) -> bool:
    for line in reading.lines:
        left, top, right, _ = line.box
        low = top > 0.85 or (top > 0.6 and right > 0.6 and left > 0.4)
        if low and set(re.findall(r"[a-z]+", line.text.lower())) & set(_BLOCK):
            return True
    return False
