"""Whether a paper names somebody, as a clerk reads it: spelling, order and titles do not count."""

from __future__ import annotations

from rapidfuzz.distance import DamerauLevenshtein

from jolly_clerk.core.facts.names import spellings, words
from jolly_clerk.core.facts.reading import Reading

#: words of at least so many letters may have one wrong letter where they were read from a picture
LONG_ENOUGH = 5


def names(reading: Reading, name: str) -> bool:
    """True if the first and the last word of a name stand on one page of the paper, however they are spelled.

    >>> from jolly_clerk.core.facts.reading import Page, Reading, TextLine
    >>> line = TextLine(page=1, text="The company engages MARREK, Ada, as a player", box=(0, 0, 1, 1))
    >>> page = Page(no=1, width_mm=210, height_mm=297, content="text")
    >>> paper = Reading(sha256="0" * 64, reader="6", size=1, type="pdf", opens="yes", pages=(page,), lines=(line,))
    >>> names(paper, "Ada Lou Marrek"), names(paper, "Ada Marek")
    (True, False)
    """
    found: bool = reading.once(("names", name), lambda: _names(reading, name))
    return found


def _names(reading: Reading, name: str) -> bool:
    wanted = [spelled for spelled in spellings(name) if spelled]
    if not wanted:
        return True
    for page in reading.pages:
        text = " ".join([line.text for line in reading.lines if line.page == page.no])
        written = set(words(text))
        scanned = page.content == "scan"
        if any(all(_stands(word, written, scanned) for word in (spelled[0], spelled[-1])) for spelled in wanted):
            return True
    return False


def _stands(word: str, written: set[str], scanned: bool) -> bool:
    if word in written:
        return True
    if not scanned or len(word) < LONG_ENOUGH:
        return False
    return any(abs(len(w) - len(word)) <= 1 and DamerauLevenshtein.distance(word, w) == 1 for w in written)
