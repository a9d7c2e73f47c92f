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
    if isinstance(text, str) and _WHOLE.fullmatch(text):
        text = int(text)
    return text if type(text) is int and 0 <= text <= MOST_WHOLE else None
