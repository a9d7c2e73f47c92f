"""Names compared as a clerk would: order, initials, capitals and marks do not make another person."""

from __future__ import annotations

import re
import unicodedata
from functools import lru_cache

_LETTERS = {"ß": "ss", "æ": "ae", "ø": "o", "ł": "l", "đ": "d", "þ": "th", "ð": "d", "œ": "oe"}
_TITLES = {"mr", "mrs", "ms", "dr", "prof"}


def words(name: str) -> list[str]:
    """The words of a name without marks, capitals and titles; a hyphen parts two words."""
    plain = unicodedata.normalize("NFKD", "".join(_LETTERS.get(c, c) for c in name.casefold()))
    found = re.findall(r"[a-z0-9]+", "".join(c for c in plain if not unicodedata.combining(c)))
    return [word for word in found if word not in _TITLES]


@lru_cache(maxsize=4096)
def same_name(one: str, other: str) -> bool:
    """True if a clerk would take both for the same person or firm.

    Every word of the shorter name stands in the longer one, an initial for a word that begins with it;
    at least one whole word is shared.
    """
    short, long = sorted((words(one), words(other)), key=len)
    if not short:
        return False
    left, whole = list(long), 0
    for word in sorted(short, key=len, reverse=True):
        match = next((w for w in left if w == word), None)
        if match is None:
            match = next((w for w in left if len(word) == 1 and w.startswith(word)), None)
            match = match or next((w for w in left if len(w) == 1 and word.startswith(w)), None)
        else:
            whole += len(match) > 1
        if match is None:
            return False
        left.remove(match)
    return whole > 0
