"""What a case is found by: its texts folded for comparing, and the words that somebody looks for."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from itertools import chain

from jolly_clerk.core.values import Raw

#: a text of an answer up to so many characters is a field (found by any part of it), a longer one is read word by word
SHORT = 120
#: so many characters of one file, and of a whole case, are searched
MOST_OF_FILE, MOST_OF_CASE = 20_000, 200_000
#: words of fewer characters find only what begins with them
LEAST = 3
_WORD = re.compile(r"[^\W_]+")
_LONG_WORD = re.compile(rf"[^\W_]{{{LEAST},}}")


def folded(text: str) -> str:
    """A text for comparing: lower case, without accents, *ß* as *ss*.

    >>> folded("Straße São Brás")
    'strasse sao bras'
    """
    if text.isascii():  # as most words are
        return text.lower()
    plain = unicodedata.normalize("NFKD", text.casefold())
    return unicodedata.normalize("NFC", "".join(c for c in plain if not unicodedata.combining(c)))


def words_in(text: str) -> list[str]:
    """The folded words of a text: runs of letters and digits."""
    return _WORD.findall(folded(text))


def compact(text: str) -> str:
    """A text as one word: ``BW-26-00415-G`` is ``bw2600415g``."""
    return "".join(words_in(text))


@dataclass(frozen=True, slots=True)
class Searched:
    """What one case is found by, folded: its reference as one word, its applicant with the first and with the last name in front,
    its short texts, and the words of its long ones."""

    reference: str
    person: str
    person_last: str
    fields: str
    words: str


def searched(reference: str, person: str, fields: Iterable[str], texts: Iterable[str]) -> Searched:
    """What a case is found by. ``fields`` are short texts, found by any part; ``texts`` are long ones, found by their words."""
    names = words_in(person)
    short = dict.fromkeys((compact(reference), *names, *(w for text in fields for w in words_in(text))))
    long = dict.fromkeys(chain.from_iterable(_LONG_WORD.findall(folded(text[:MOST_OF_FILE])) for text in texts))
    return Searched(
        compact(reference),
        " ".join(names),
        " ".join((*names[-1:], *names[:-1])),
        " ".join(short)[:MOST_OF_CASE],
        " ".join(long)[:MOST_OF_CASE],
    )


def texts_of(raw: Raw) -> Iterator[str]:
    """Every text and number within an answer."""
    if isinstance(raw, dict):
        for inner in raw.values():
            yield from texts_of(inner)
    elif isinstance(raw, (list, tuple)):
        for inner in raw:
            yield from texts_of(inner)
    elif raw is not None and not isinstance(raw, bool):
        yield str(raw)


@dataclass(frozen=True, slots=True)
class Sought:
    """What somebody looks for: ``long`` words are found anywhere, ``short`` ones at the beginning of a word; ``whole`` is all as
    one word where that could be a reference or a number, else empty."""

    long: tuple[str, ...]
    short: tuple[str, ...]
    whole: str


def sought(words: str) -> Sought | None:
    """What the words ask for; None if they hold no letter and no digit, or less than two in all."""
    found = list(dict.fromkeys(words_in(words[:200])))[:8]
    whole = "".join(found)
    if len(whole) < 2:
        return None
    number = whole if any(c.isdigit() for c in whole) and len(whole) >= LEAST else ""
    return Sought(tuple(w for w in found if len(w) >= LEAST), tuple(w for w in found if len(w) < LEAST), number)
