"""Whole numbers that come as text from outside, and how large one may be."""

from __future__ import annotations

import re

#: the largest whole number that a row of either database holds (32 bits)
MOST_WHOLE = 2**31 - 1
_WHOLE = re.compile(r"[0-9]{1,10}")


def whole_number(text: object) -> int | None:
    """The whole number from 0 to :data:`MOST_WHOLE` that a text writes in plain digits, or that stands in JSON; None for anything else.

    >>> whole_number("17"), whole_number("²"), whole_number("9" * 5000), whole_number(True)
    (17, None, None, None)
    """
    found = _WHOLE.fullmatch(
        text if isinstance(text, str) else str(text) if type(text) is int and abs(text) <= MOST_WHOLE else ""
    )
    number = int(found[0]) if found else MOST_WHOLE + 1
    return number if number <= MOST_WHOLE else None
