"""What is counted in a text apart from its words: the figures it names, and its words without heading and page numbers."""

from __future__ import annotations

import re
from collections.abc import Collection

from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.searching import folded, words_in

_NUMBERS = r"\d{1,3}[a-z]?(?:\s*(?:,|to|and|or|bis|und|oder|et|ou|à|a|e|y|-|–|&)\s*\d{1,3}[a-z]?\b)*"
_FIGURE = re.compile(rf"\b(?:fig(?:ure|ur|ura)?s?|figuren|abb(?:ildung(?:en)?)?)\b\.?\s*(?P<numbers>{_NUMBERS})", re.IGNORECASE)
_RANGE = re.compile(r"(\d{1,3})[a-z]?\s*(?:to|bis|à|a|-|–)\s*(\d{1,3})", re.IGNORECASE)
_PAGE_NUMBER = re.compile(
    r"^[\s\-–—]*(?:(?:page|sheet|seite|blatt|página|feuille)\s*)?\d{1,4}(?:\s*(?:/|of|von|de|sur)\s*\d{1,4})?[\s\-–—.]*$",
    re.IGNORECASE,
)
#: what such texts are headed with, beside what the slot is called
_HEADINGS = ("abstract", "summary", "zusammenfassung", "abrégé", "résumé", "resumo", "resumen")
#: a range of more figures than these is a misprint
MOST_FIGURES = 200


def figures_named(reading: Reading) -> frozenset[int]:
    """The numbers of the figures that a text names, or that a drawing bears.

    >>> from jolly_clerk.core.facts.reading import Reading, TextLine
    >>> line = TextLine(page=1, text="Fig. 1 shows the winch, figures 2a and 4 to 6 its parts, part 12 the drum", box=(0, 0, 1, 1))
    >>> reading = Reading(sha256="0" * 64, reader="6", size=1, type="pdf", opens="yes", lines=(line,))
    >>> sorted(figures_named(reading))
    [1, 2, 4, 5, 6]
    """
    found: frozenset[int] = reading.once("figures", lambda: _figures(reading))
    return found


def _figures(reading: Reading) -> frozenset[int]:
    named = set[int]()
    for line in reading.lines:
        for place in _FIGURE.finditer(line.text):
            numbers = place["numbers"]
            named |= {int(no) for no in re.findall(r"\d{1,3}", numbers)}
            for first, last in _RANGE.findall(numbers):
                if int(first) < int(last) <= int(first) + MOST_FIGURES:
                    named |= set(range(int(first), int(last) + 1))
    return frozenset(named)


def words_of_text(reading: Reading, headings: Collection[str]) -> int:
    """How many words a text has without page numbers, and without its heading if it stands on a line of its own.

    >>> from jolly_clerk.core.facts.reading import Page, Reading, TextLine
    >>> lines = [TextLine(page=1, text=t, box=(0, 0, 1, 1)) for t in ("Abstract", "A winch with a drum.", "- 1 / 1 -")]
    >>> pages = (Page(no=1, width_mm=210, height_mm=297, content="text", words=11),)
    >>> reading = Reading(sha256="0" * 64, reader="6", size=1, type="pdf", opens="yes", lines=lines, pages=pages)
    >>> words_of_text(reading, ["Summary of it"])
    5
    """
    heads = {" ".join(words_in(said)) for said in (*headings, *_HEADINGS)}
    without = 0
    for line in reading.lines:
        if _PAGE_NUMBER.match(line.text) or " ".join(words_in(folded(line.text))) in heads:
            without += len(line.text.split())
    return max(0, reading.words - without)
