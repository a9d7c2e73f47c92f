"""References as payers write them: with other separators, in small letters, with one sign off."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator
from dataclasses import dataclass

from jolly_clerk.core.reference import check_letter, is_reference

#: signs between the parts of a reference, and a running number of four to eight digits with what is taken for a digit
_WRITTEN = re.compile(
    r"(?<![A-Z0-9])([A-Z]{2})[^A-Z0-9]{0,3}([0-9OIL]{2})[^A-Z0-9]{0,3}([0-9OIL]{4,8})[^A-Z0-9]{0,3}([A-Z])(?![A-Z0-9])"
)
_DIGITS = str.maketrans("OIL", "011")


@dataclass(frozen=True, slots=True)
class Written:
    """A reference in a text: as it stands there, and brought into its shape; ``fits`` if its check letter does."""

    text: str
    reference: str
    fits: bool


def references_in(text: str) -> list[Written]:
    """The references in what a payer wrote, each once."""
    found = dict[str, Written]()
    for match in _WRITTEN.finditer(text.upper()):
        kind, year, number, letter = match.groups()
        shaped = f"{kind}-{year.translate(_DIGITS)}-{number.translate(_DIGITS)}-{letter}"
        found.setdefault(shaped, Written(match[0], shaped, is_reference(shaped)))
    return list(found.values())


def one_sign_off(reference: str, kinds: Collection[str]) -> list[str]:
    """The references whose check letter fits and which differ from a written one by one sign: another sign, two neighbours
    exchanged, a digit too many or too few. ``kinds`` are the letters of the kinds that the office knows."""
    kind, year, number, letter = reference.split("-")
    found = dict[str, None]()
    for other in _numbers(year, number):
        found[f"{kind}-{other[0]}-{other[1]}-{letter}"] = None
    for other_kind in sorted(kinds):
        if sum(a != b for a, b in zip(kind, other_kind, strict=True)) == 1:
            found[f"{other_kind}-{year}-{number}-{letter}"] = None
    if len(number) >= 5:
        found[f"{kind}-{year}-{number}-{check_letter(kind, int(year), int(number))}"] = None
    return [each for each in found if each != reference and is_reference(each)]


def _numbers(year: str, number: str) -> Iterator[tuple[str, str]]:
    """The year and the running number with one digit other, exchanged with its neighbour, left out or put in."""
    both = year + number
    for at in range(len(both)):
        for digit in "0123456789":
            other = both[:at] + digit + both[at + 1 :]
            yield other[:2], other[2:]
    for at in range(len(both) - 1):
        swapped = both[:at] + both[at + 1] + both[at] + both[at + 2 :]
        yield swapped[:2], swapped[2:]
    for at in range(len(number)):
        yield year, number[:at] + number[at + 1 :]
    for at in range(len(number) + 1):
        for digit in "0123456789":
            yield year, number[:at] + digit + number[at:]


def differing(written: str, right: str) -> list[int]:
    """Which signs of a written reference differ from the right one, by their places; all of them where one has more signs."""
    if len(written) != len(right):
        return list(range(len(written)))
    return [at for at, (a, b) in enumerate(zip(written, right, strict=True)) if a != b]
