"""The types of the rule language, as the words that appear in messages to a rule-keeper.

``number``, ``text``, ``yes or no``, ``date``, ``span``, ``any``; ``list of T``; ``items of PART``
(the repeats of a part). Two types fit when they are the same or one of them is ``any``.
"""

from __future__ import annotations

NUMBER, TEXT, YES_NO, DATE, SPAN, ANY = "number", "text", "yes or no", "date", "span", "any"
LIST, ITEMS = "list of ", "items of "

#: the rule-language type of the answer to each type of question
ANSWER_TYPES = {
    "text": TEXT,
    "long text": TEXT,
    "number": NUMBER,
    "count": NUMBER,
    "money": NUMBER,
    "date": DATE,
    "yes or no": YES_NO,
    "one of": TEXT,
    "several of": LIST + TEXT,
}


def fits(given: str, wanted: str) -> bool:
    """True if a value of type ``given`` may stand where ``wanted`` is expected."""
    return given == wanted or ANY in (given, wanted) or (wanted == LIST + ANY and given.startswith((LIST, ITEMS)))


def element(of: str) -> str:
    """The type of one member of a list; ``any`` when it is not a list."""
    return of.removeprefix(LIST) if of.startswith(LIST) else ANY
