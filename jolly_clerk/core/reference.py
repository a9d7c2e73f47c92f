"""Case references: kind, year, running number and a check letter, e.g. ``BW-26-00418-K``.

The check letter is the weighted sum of the characters before it, modulo 23, over the letters that
cannot be taken for digits; it finds every single wrong digit and every swap of two neighbours.
"""

from __future__ import annotations

import re

LETTERS = "ABCDEFGHJKLMNPRSTUVWXYZ"
_SHAPE = re.compile(r"([A-Z]{2})-(\d{2})-(\d{5,7})-([A-Z])")


def check_letter(kind: str, year: int, number: int) -> str:
    """The check letter of a reference; ``year`` has two digits."""
    signs = [ord(c) - ord("A") for c in kind] + [int(d) for d in f"{year:02}{number:05}"]
    return LETTERS[sum(weight * sign for weight, sign in enumerate(signs, 2)) % len(LETTERS)]


def make_reference(kind: str, year: int, number: int) -> str:
    """The reference of case ``number`` of its kind in a year (four digits)."""
    short = year % 100
    return f"{kind}-{short:02}-{number:05}-{check_letter(kind, short, number)}"


def is_reference(text: str) -> bool:
    """True if ``text`` is a reference with the right check letter."""
    found = _SHAPE.fullmatch(text)
    return found is not None and check_letter(found[1], int(found[2]), int(found[3])) == found[4]


def number_in(text: str) -> tuple[str, int, int] | None:
    """The kind, the year (four digits) and the running number of a reference; None if it is none of ours."""
    found = _SHAPE.fullmatch(text)
    return (found[1], 2000 + int(found[2]), int(found[3])) if found and is_reference(text) else None


def counter_of(kind: str, year: int) -> str:
    """The name of the counter that numbers the cases of a kind in a year."""
    return f"case {kind} {year}"


#: what the numbers of dockets begin with, and the code that is printed on one
DOCKET, DOCKET_MARK = "D", "JC-DOCKET"
_DOCKET_SHAPE = re.compile(r"D-(\d{2})-(\d{5,7})-([A-Z])")


def make_docket(year: int, number: int) -> str:
    """The number of a docket, ``D-26-00017-K``: the sheet that travels with something that comes by post."""
    short = year % 100
    return f"{DOCKET}-{short:02}-{number:05}-{check_letter(DOCKET, short, number)}"


def docket_counter(year: int) -> str:
    """The name of the counter that numbers the dockets of a year."""
    return f"dockets-{year}"


def is_docket(text: str) -> bool:
    """True if ``text`` is the number of a docket with the right check letter."""
    found = _DOCKET_SHAPE.fullmatch(text)
    return found is not None and check_letter(DOCKET, int(found[1]), int(found[2])) == found[3]
