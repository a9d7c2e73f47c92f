"""How much answers may hold before anything looks at them: how deep, how many rows, which characters.

Answers are kept as they were typed, also faulty ones; only what no form can hold and what would hurt every later look is refused.
"""

from __future__ import annotations

import math
from typing import NamedTuple

from jolly_clerk.core.dossier.model import Answers
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.say import say

#: answers within answers: part, item, question, row, field and two more
MOST_DEPTH = 7
#: rows of one list that nobody bounds otherwise, and values in all
MOST_ROWS, MOST_VALUES = 400, 20_000
#: characters of a name within answers
MOST_NAME = 80


class Beyond(NamedTuple):
    """What cannot be kept: its place (``works.extra``), and why in words."""

    place: str
    why: str


def beyond(answers: Answers, rulebook: Rulebook | None = None) -> Beyond | None:
    """The first thing in raw answers that cannot be kept; None if all can.

    A part that repeats holds at most twice as many items as the rulebook allows, so that one too many is still kept and told.
    Takes time in proportion to the answers, however they are nested.
    """
    values = 0
    waiting: list[tuple[str, object, int]] = [("", answers, 0)]
    while waiting:
        place, value, depth = waiting.pop()
        values += 1
        if values > MOST_VALUES:
            return Beyond(place, say("These are more answers than a filing can hold."))
        if depth > MOST_DEPTH:
            return Beyond(place, say("This answer is nested more deeply than any question asks."))
        if isinstance(value, str):
            if _unkept(value):
                return Beyond(place, say("This text holds a character that cannot be kept; type it again."))
        elif isinstance(value, float) and not math.isfinite(value):
            return Beyond(place, say("This is no number."))
        elif isinstance(value, dict):
            for name, inner in value.items():
                if len(name) > MOST_NAME or _unkept(name):
                    return Beyond(place, say("An answer here has a name that no question has."))
                waiting.append((f"{place}.{name}" if place else name, inner, depth + 1))
        elif isinstance(value, list):
            part = rulebook.parts.get(place) if rulebook else None
            most = 2 * part.at_most if part and part.each else MOST_ROWS
            if len(value) > most:
                return Beyond(
                    place, say("There are {count} rows here; no more than {most} can be kept.", count=len(value), most=most)
                )
            waiting += [(f"{place}.{n}", inner, depth + 1) for n, inner in enumerate(value, 1)]
    return None


def _unkept(text: str) -> bool:
    """True if a text holds half a character (a lone surrogate) or a NUL."""
    return "\x00" in text or any("\ud800" <= c <= "\udfff" for c in text)
