"""Pages that are the same or nearly the same: the signs by which candidates are found, and how alike two pages are.

A page of words is known by them, whatever file it stands in; a picture by a perceptual hash, nearly the same for pictures that look
nearly the same (saved anew, made smaller). Pages of one form differ in a few words only, so the words that differ are told.
"""

from __future__ import annotations

import zlib
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

from jolly_clerk.core.facts.reading import Page, Reading
from jolly_clerk.core.searching import words_in

#: pages of fewer words are known by their look, if they are scanned, and have to look alike; so many pages of a file have signs
LEAST_WORDS, MOST_PAGES = 20, 20
#: pages that share so much of their words are told, and pictures whose hashes differ in at most so many of their 256 bits and whose
#: fields differ by at most so many levels of grey in the middle
SHARED, BITS, LEVELS = 0.93, 14, 7
_HASH = 64
#: so many of the smallest hashes of its pairs of words are signs of a page; of the 64 bits that say most, four pieces
SMALLEST, PIECES = 3, 4
_SIDE, _TELLING = 16, 8
#: so many of the words that differ are told
MOST_TOLD = 6


@dataclass(frozen=True, slots=True)
class Alike:
    """How alike two pages are: of the share of their words (1 if all), or of their look; the words that only one of them has."""

    by: str
    share: float
    only_here: tuple[str, ...] = ()
    only_there: tuple[str, ...] = ()


def words_of(reading: Reading, page: int) -> list[str]:
    """The folded words of a page in their order."""
    return [word for line in reading.lines if line.page == page for word in words_in(line.text)]


def signs_of(reading: Reading) -> tuple[tuple[int, str], ...]:
    """The signs of the pages of a reading, each with its page: two pages that are alike nearly always share one."""
    return reading.once("signs", lambda: tuple(_signs(reading)))


def _signs(reading: Reading) -> Iterator[tuple[int, str]]:
    for page in reading.pages[:MOST_PAGES]:
        words = words_of(reading, page.no)
        if len(words) >= LEAST_WORDS:
            pairs = {zlib.crc32(f"{a} {b}".encode()) for a, b in pairwise(words)}
            yield from ((page.no, f"w{sign:08x}") for sign in sorted(pairs)[:SMALLEST])
        elif page.bits and page.content != "blank":
            telling = _most_telling(page.bits[:_HASH])
            size = len(telling) // PIECES
            yield from ((page.no, f"p{n}{telling[n * size : (n + 1) * size]}") for n in range(PIECES))


def _most_telling(bits: str) -> str:
    """The coarsest 64 of the 256 bits, as hexadecimal digits: the first eight of the first eight rows."""
    rows = [bits[n : n + _SIDE // 4] for n in range(0, len(bits), _SIDE // 4)]
    return "".join(row[: _TELLING // 4] for row in rows[:_TELLING])


def alike(here: Reading, page: int, there: Reading, other: int) -> Alike | None:
    """How alike two pages are, or None if they are not."""
    mine, theirs = words_of(here, page), words_of(there, other)
    by_words = _by_words(mine, theirs) if mine or theirs else None
    if min(len(mine), len(theirs)) >= LEAST_WORDS:
        return by_words
    if (mine or theirs) and by_words is None:
        return None  # papers of one form that say another thing
    return _by_look(_page(here, page).bits, _page(there, other).bits)


def _by_look(one: str, other: str) -> Alike | None:
    if len(one) <= _HASH or len(one) != len(other):
        return None
    differ = (int(one[:_HASH], 16) ^ int(other[:_HASH], 16)).bit_count()
    light = [abs(a - b) for a, b in zip(bytes.fromhex(one[_HASH:]), bytes.fromhex(other[_HASH:]), strict=True)]
    if differ > BITS or sum(light) > LEVELS * len(light):
        return None
    return Alike("look", 1 - differ / (4 * _HASH))


def _by_words(mine: Sequence[str], theirs: Sequence[str]) -> Alike | None:
    if list(mine) == list(theirs):
        return Alike("words", 1.0)
    a, b = Counter(mine), Counter(theirs)
    share = (a & b).total() / (a | b).total()
    if share < SHARED:
        return None
    return Alike("words", share, tuple(a - b)[:MOST_TOLD], tuple(b - a)[:MOST_TOLD])


def _page(reading: Reading, no: int) -> Page:
    return next(page for page in reading.pages if page.no == no)
