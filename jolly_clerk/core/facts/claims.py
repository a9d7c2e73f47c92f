"""Patent claims counted from their text: numbering, dependence, multiple dependence, gaps, references forward.

Source: the scenario, patent: claims are counted from the text; a multiple dependent claim counts as one.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from itertools import pairwise

_WORD = r"(?:claim|anspruch|patentanspruch|revendication)"
_START = re.compile(
    rf"^(?P<indent>[^\S\n]*)(?:{_WORD}\s+)?(?P<no>\d{{1,3}})\s*(?P<sign>[.):])[^\S\n]*(?=[^\W\d]|[\[(„«\"]|\s\S)",
    re.IGNORECASE | re.MULTILINE,
)
_JOINS = r"(?:[,;]?\s*(?:and/or|and|or|to|through|und/oder|und|oder|bis|et/ou|et|ou|à|&|/|-|–)|[,;])"
_REFERS = r"claims?|patentanspr(?:uch(?:e?s)?|üchen?)|anspr(?:uch(?:e?s)?|üchen?)|revendications?"
_NUMBERS = rf"\d{{1,3}}(?:\s*{_JOINS}\s*(?:(?:{_REFERS})\s+)?\d{{1,3}}(?!\d|\.\d))*"
_REFERENCE = re.compile(rf"\b(?P<word>{_REFERS})\s+(?P<numbers>{_NUMBERS})", re.IGNORECASE)
#: after one claim a bare comma and a number are the next thing that is said: *of claim 1, 2 metres long*
_TRAILING = re.compile(r"\s*[,;]\s*\d{1,3}$")
_ONE = ("claim", "anspruch", "anspruchs", "anspruches", "patentanspruch", "patentanspruchs", "revendication")
_PRECEDING = re.compile(
    r"\b(?:any|one|either|each|all)?\s*(?:one\s+)?(?:of\s+)?(?:the\s+)?(?:preceding|previous|foregoing|prior|above)\s+claims?\b"
    r"|\bclaims?\s+(?:above|before)\b"
    r"|\b(?:vorhergehende[nrms]?|vorstehende[nrms]?|vorangehende[nrms]?|vorgenannte[nrms]?)\s+(?:patent)?anspr(?:uch|üche[n]?)\b"
    r"|\brevendications?\s+(?:précédentes?|qui\s+précèdent)\b",
    re.IGNORECASE,
)
_RANGE = re.compile(rf"(\d{{1,3}})\s*(?:-|–|to|through|bis|à)\s*(?:(?:{_REFERS})\s+)?(\d{{1,3}})", re.IGNORECASE)
_CANCELLED = re.compile(
    r"^[\[(]?\s*(?:cancell?ed|deleted|withdrawn|gestrichen|entfallen|supprimée?|annulée?)\s*[\])]?\s*\.?\s*$", re.IGNORECASE
)
_BARE = re.compile(r"^\s*(?:-\s*)?\d{1,3}(?:\s*/\s*\d{1,3})?(?:\s*-)?\s*$")
_MARGIN = re.compile(r"^\s{0,4}(\d{1,3})\s{1,}(?=\S)(?!\s*[.):])")
#: common words by which the languages are told apart in which references are read
_LANGUAGES = {
    "en": {"the", "of", "and", "a", "wherein", "according", "with", "which", "is"},
    "de": {"der", "die", "das", "und", "nach", "dadurch", "mit", "ein", "eine", "gekennzeichnet", "wobei", "ist"},
    "fr": {"le", "la", "les", "et", "selon", "une", "un", "des", "dans", "caractérisé", "laquelle", "lequel", "est"},
}
_ARTICLE = re.compile(r"\s*(?:an?|the|ein|eine|der|die|das|un|une|le|la)\b", re.IGNORECASE)
#: so many words a text has at least before its language is judged
_ENOUGH = 12


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
    cancelled: tuple[int, ...] = ()
    unread: bool = False

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
    """Read claims in English, German or French; ``unread`` tells that the text is in another language, so that references are not read.

    A claim begins on a line with its number. Numbered steps inside a claim, line numbers in the margin and page numbers between do not
    count; a number that goes back begins a claim as well, and is told. Cancelled claims keep their number and are not counted.
    """
    text = _without_numbers(text)
    repeated: list[int] = []
    starts: list[tuple[int, int, int]] = []
    for found in _starts(text):
        no = int(found["no"])
        if any(no == other for other, _b, _e in starts):
            repeated.append(no)
        starts.append((no, found.start(), found.end()))
    pieces: list[tuple[int, str]] = []
    for n, (no, _, begin) in enumerate(starts):
        end = starts[n + 1][1] if n + 1 < len(starts) else len(text)
        pieces.append((no, " ".join(text[begin:end].split())))
    numbers = {no for no, _ in pieces}
    cancelled = {no for no, said in pieces if _CANCELLED.match(said)}
    there = numbers - cancelled
    claims = tuple(_claim(no, said, there) for no, said in pieces if not (no in cancelled and _CANCELLED.match(said)))
    by_no = {c.no: c for c in claims}
    return ClaimSet(
        claims,
        tuple(no for no in range(1, max(numbers, default=0)) if no not in numbers),
        tuple(dict.fromkeys(repeated)),
        tuple(c.no for c in claims if any(r >= c.no for r in c.refers_to)),
        tuple(c.no for c in claims if any(r not in there for r in c.refers_to)),
        tuple(c.no for c in claims if c.multiple and any(r in by_no and by_no[r].multiple for r in c.refers_to)),
        tuple(sorted(cancelled)),
        not _is_read(text),
    )


def _is_read(text: str) -> bool:
    """True if the text is in a language in which references are read, or too short to tell."""
    said = re.findall(r"[^\W\d_]+", text.casefold())
    return len(said) < _ENOUGH or any(sum(w in common for w in said) * 6 >= len(said) for common in _LANGUAGES.values())


def _without_numbers(text: str) -> str:
    """The text without line numbers in the margin and without page numbers, also where they part a reference."""
    lines = text.splitlines()
    margin = [(n, int(found[1])) for n, line in enumerate(lines) if (found := _MARGIN.match(line)) and int(found[1]) % 5 == 0]
    runs = [pair for pair, after in pairwise(margin) if after[1] - pair[1] == 5 or after[1] == 5]
    if len(runs) >= 2:
        for n, _ in margin:
            lines[n] = _MARGIN.sub("", lines[n], count=1)
    kept: list[str] = []
    for n, line in enumerate(lines):
        if _BARE.match(line):
            before = next((k for k in reversed(kept) if k.strip()), "")
            after = next((k for k in lines[n + 1 :] if k.strip()), "")
            goes_on = re.search(rf"(?:{_REFERS}|\band|\bor|\bto|\bund|\boder|\bbis|\bet|\bou|,)\s*$", before, re.IGNORECASE)
            if not goes_on or re.match(r"\s*\d", after):
                continue
        kept.append(line)
    return "\n".join(kept)


def _starts(text: str) -> list[re.Match[str]]:
    """Where claims begin: numbers of the one writing, not further in than the first, that do not count steps inside a claim."""
    found = list(_START.finditer(text))
    if not found:
        return []
    first = found[0]
    own = [m for m in found if m["sign"] == first["sign"] and len(m["indent"]) <= len(first["indent"]) + 1]
    starts: list[re.Match[str]] = []
    steps = 0
    for at, candidate in enumerate(own):
        no, last = int(candidate["no"]), int(starts[-1]["no"]) if starts else 0
        following = text[candidate.end() :].lstrip()[:1]
        small = following.islower() and not text[first.end() :].lstrip()[:1].islower()
        if small or (steps and no == steps + 1 and no != last + 1):
            steps = no
            continue
        if no <= last and no == 1 and text[starts[-1].end() : candidate.start()].rstrip().endswith(":"):
            steps = 1  # the claim before ends with a colon: its steps begin
            continue
        if steps and no == steps + 1 and no == last + 1 and not _reads_like_a_claim(text, candidate, own[at + 1 :]):
            steps = no
            continue
        steps = 0
        starts.append(candidate)
    return starts


def _reads_like_a_claim(text: str, candidate: re.Match[str], after: list[re.Match[str]]) -> bool:
    """True if what begins here refers to a claim, or begins like one: with an article."""
    end = after[0].start() if after else len(text)
    said = text[candidate.end() : end]
    return bool(
        _REFERENCE.search(said)
        or _PRECEDING.search(said)
        or re.match(r"\s*(?:an?|the|ein|eine|der|die|das|un|une|le|la)\b", said, re.IGNORECASE)
    )


def _claim(no: int, text: str, there: set[int]) -> Claim:
    found: dict[int, None] = {}
    for reference in _REFERENCE.finditer(text):
        said = reference["numbers"]
        if reference["word"].lower() in _ONE:
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
