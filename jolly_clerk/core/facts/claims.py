"""Patent claims counted from their text: numbering, dependence, multiple dependence, gaps, references forward.

Source: the scenario, patent: claims are counted from the text; a multiple dependent claim counts as one.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

_START = re.compile(r"^[^\S\n]{0,8}(?:claim\s+)?(\d{1,3})\s*[.):][^\S\n]*(?=[^\W\d]|\s\S)", re.IGNORECASE | re.MULTILINE)
_JOINS = r"(?:[,;]?\s*(?:and/or|and|or|to|through|&|/|-|–)|[,;])"
_NUMBERS = rf"\d{{1,3}}(?:\s*{_JOINS}\s*(?:claims?\s+)?\d{{1,3}}(?!\d|\.\d))*"
_REFERENCE = re.compile(rf"\b(?P<word>claims?)\s+(?P<numbers>{_NUMBERS})", re.IGNORECASE)
#: after one claim a bare comma and a number are the next thing that is said: *of claim 1, 2 metres long*
_TRAILING = re.compile(r"\s*[,;]\s*\d{1,3}$")
_PRECEDING = re.compile(
    r"\b(?:any|one|either|each|all)?\s*(?:one\s+)?(?:of\s+)?(?:the\s+)?(?:preceding|previous|foregoing|prior|above)\s+claims?\b"
    r"|\bclaims?\s+(?:above|before)\b",
    re.IGNORECASE,
)
_RANGE = re.compile(r"(\d{1,3})\s*(?:-|–|to|through)\s*(?:claims?\s+)?(\d{1,3})", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Claim:
    """One claim: what it refers to (in order, each once), and whether that is more than one claim."""

    no: int
    text: str
    words: int
    refers_to: tuple[int, ...]
    multiple: bool

    @property
    def independent(self) -> bool:
        """True if it refers to no other claim."""
        return not self.refers_to


@dataclass(frozen=True, slots=True)
class ClaimSet:
    """The claims of a text and what is wrong with them. ``forward`` refer to themselves or a later one, ``missing`` to one that is not there."""

    claims: tuple[Claim, ...]
    gaps: tuple[int, ...]
    repeated: tuple[int, ...]
    forward: tuple[int, ...]
    missing: tuple[int, ...]
    multiple_on_multiple: tuple[int, ...]

    @property
    def count(self) -> int:
        """How many claims there are."""
        return len(self.claims)

    @property
    def independent(self) -> tuple[int, ...]:
        """The numbers of the independent ones."""
        return tuple(c.no for c in self.claims if c.independent)

    @property
    def multiple(self) -> tuple[int, ...]:
        """The numbers of the multiple dependent ones."""
        return tuple(c.no for c in self.claims if c.multiple)


def read_claims(text: str) -> ClaimSet:
    """Read claims. A claim begins on a line with a number higher than the one before; all paragraphs up to the next belong to it."""
    pieces: list[tuple[int, str]] = []
    repeated: list[int] = []
    starts: list[tuple[int, int, int]] = []
    for found in _START.finditer(text):
        no, last = int(found[1]), starts[-1][0] if starts else 0
        if no == last:
            repeated.append(no)
        if no > last or no == last:
            starts.append((no, found.start(), found.end()))
    for n, (no, _, begin) in enumerate(starts):
        end = starts[n + 1][1] if n + 1 < len(starts) else len(text)
        pieces.append((no, " ".join(text[begin:end].split())))
    there = {no for no, _ in pieces}
    claims = tuple(_claim(no, said, there) for no, said in pieces)
    highest = max(there, default=0)
    by_no = {c.no: c for c in claims}
    return ClaimSet(
        claims,
        tuple(no for no in range(1, highest) if no not in there),
        tuple(dict.fromkeys(repeated)),
        tuple(c.no for c in claims if any(r >= c.no for r in c.refers_to)),
        tuple(c.no for c in claims if any(r not in there for r in c.refers_to)),
        tuple(c.no for c in claims if c.multiple and any(r in by_no and by_no[r].multiple for r in c.refers_to)),
    )


def _claim(no: int, text: str, there: set[int]) -> Claim:
    found: dict[int, None] = {}
    for reference in _REFERENCE.finditer(text):
        said = reference["numbers"]
        if reference["word"].lower() == "claim":
            said = _TRAILING.sub("", said)
        found.update(dict.fromkeys(_numbers(said)))
    if _PRECEDING.search(text):
        found.update(dict.fromkeys(sorted(n for n in there if n < no)))
    refers = tuple(found)
    return Claim(no, text, len(text.split()), refers, len(refers) > 1)


def _numbers(said: str) -> list[int]:
    found: list[int] = []
    at = 0
    for stretch in _RANGE.finditer(said):
        found += [int(n) for n in re.findall(r"\d+", said[at : stretch.start()])]
        first, last = int(stretch[1]), int(stretch[2])
        found += range(first, last + 1) if first <= last else (first, last)
        at = stretch.end()
    return found + [int(n) for n in re.findall(r"\d+", said[at:])]
