"""Numbers, amounts, hours and dates as people write them: ``31 000,00``, ``95,8 m²``, ``€ 31.000,50``, ``7:30``, ``5.1.2027``.

What can be read in two ways is asked about, never guessed.
"""

from __future__ import annotations

import re
from datetime import date

from jolly_clerk.core.in_words import MONTHS
from jolly_clerk.core.say import say

_PLAIN = re.compile(r"[+-]?\d+(\.\d+)?")
_SPACES = re.compile(r"[\s\N{NO-BREAK SPACE}\N{NARROW NO-BREAK SPACE}\N{THIN SPACE}'’]")
#: what may stand before or after a number, besides the unit of its question
_SIGNS = ("€", "eur", "euro", "euros")
_SAME = {"m²": ("m2", "sqm", "qm"), "m³": ("m3",), "h": ("o'clock", "uhr", "hours", "hour"), "%": ("percent",)}
_HOUR = re.compile(r"(\d{1,2})(?::|h|H)([0-5]\d)")
_DOTTED, _COMMAED = re.compile(r"[1-9]\d{0,2}(\.\d{3})+"), re.compile(r"[1-9]\d{0,2}(,\d{3})+")
_SLASHED = re.compile(r"(\d{1,2})[/-](\d{1,2})[/-](\d{4})")


class Ambiguous(ValueError):
    """What was written can be read in two ways; the message asks which."""


def number_text(text: str, unit: str, currency: str) -> str:
    """A number as it was written, in plain digits with a point; as it is where it cannot be read. ``unit`` and ``currency`` may stand
    with it. Raises :class:`Ambiguous`; a point alone is always one before decimals (see :func:`two_ways`).
    """
    if _PLAIN.fullmatch(text):
        return text
    bare = _bare(text, unit, currency)
    if unit == "h" and (found := _HOUR.fullmatch(bare)):
        minutes = int(found[2]) * 100 // 60 if int(found[2]) * 100 % 60 == 0 else None
        return f"{found[1]}.{minutes:02}" if minutes is not None else text
    sign, digits = (bare[0], bare[1:]) if bare[:1] in "+-" and bare[:1] else ("", bare)
    if _PLAIN.fullmatch(digits):
        return bare
    for thousands, point, pattern in ((".", ",", _DOTTED), (",", ".", _COMMAED)):
        whole, found_point, rest = digits.partition(point)
        if pattern.fullmatch(whole) and (rest.isdigit() if found_point else True):
            if not found_point and whole.count(thousands) == 1:
                raise Ambiguous(
                    say("“{text}” can be {many} or {few}. Write one of these.", **_both(text, whole.replace(",", ".")))
                )
            return sign + whole.replace(thousands, "") + (f".{rest}" if found_point else "")
    if re.fullmatch(r"\d+,\d+", digits):
        return sign + digits.replace(",", ".")
    return text


def two_ways(text: str, decimals: int) -> str:
    """What to say of a number with a point before three digits, which is read as decimals, where so many are never asked for."""
    bare = _SPACES.sub("", text)
    if decimals >= 3 or not _DOTTED.fullmatch(bare) or bare.count(".") != 1:
        return ""
    return say("Read as {few}. If you mean {many}, write it like that.", **_both(text, bare))


def _both(text: str, digits: str) -> dict[str, str]:
    return {"text": text[:40], "many": digits.replace(".", " "), "few": digits.rstrip("0").rstrip(".")}


def _bare(text: str, unit: str, currency: str) -> str:
    """The number alone, without blanks, sign of the currency, and unit."""
    bare = _SPACES.sub("", text).replace("−", "-")
    around = sorted({*_SIGNS, currency.casefold(), unit.casefold(), *_SAME.get(unit, ())} - {""}, key=len, reverse=True)
    for word in (w.replace(" ", "").replace("'", "") for w in around):
        low = bare.casefold()
        if low.endswith(word) and len(bare) > len(word):
            bare = bare[: -len(word)]
            break
    for word in around:
        if bare.casefold().startswith(word) and len(bare) > len(word):
            return bare[len(word) :]
    return bare


def slashed_date(text: str) -> date | None:
    """A day written with slashes or hyphens, ``25/12/2027``; None if it is none. Raises :class:`Ambiguous` for ``1/2/2027``."""
    found = _SLASHED.fullmatch(text)
    if found is None:
        return None
    one, two, year = int(found[1]), int(found[2]), int(found[3])
    if one <= 12 and two <= 12 and one != two:
        first, second = f"{one} {say(MONTHS[two - 1])} {year}", f"{two} {say(MONTHS[one - 1])} {year}"
        raise Ambiguous(say("“{text}” can be {first} or {second}. Write one of these.", text=text, first=first, second=second))
    day, month = (two, one) if one <= 12 < two else (one, two)
    try:
        return date(year, month, day)
    except ValueError:
        return None
