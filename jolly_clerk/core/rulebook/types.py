"""The types of the rule language, as the words that appear in messages to a rule-keeper.

``number``, ``text``, ``yes or no``, ``date``, ``moment`` (a day with an hour), ``period`` (two days), ``span`` (days,
months), ``duration`` (hours), ``any``; ``list of T``; ``items of PART`` (the repeats of a part, or the rows of a
question). Two types fit when they are the same or one of them is ``any``.
"""

from __future__ import annotations

from jolly_clerk.core.say import _, say

NUMBER, TEXT, YES_NO, DATE, SPAN, ANY = "number", "text", "yes or no", "date", "span", "any"
MOMENT, PERIOD, DURATION = "moment", "period", "duration"
LIST, ITEMS = "list of ", "items of "

#: the rule-language type of the answer to each type of question; ``rows`` are items of the question
ANSWER_TYPES = {
    "text": TEXT,
    "long text": TEXT,
    "person": TEXT,
    "place": TEXT,
    "mail address": TEXT,
    "number": NUMBER,
    "count": NUMBER,
    "money": NUMBER,
    "date": DATE,
    "date and time": MOMENT,
    "hour": TEXT,
    "period": PERIOD,
    "yes or no": YES_NO,
    "one of": TEXT,
    "several of": LIST + TEXT,
}


def answer_type(kind: str, key: str) -> str:
    """The rule-language type of a question of type ``kind`` whose key is ``key``."""
    return ITEMS + key if kind == "rows" else ANSWER_TYPES[kind]


def fits(given: str, wanted: str) -> bool:
    """True if a value of type ``given`` may stand where ``wanted`` is expected."""
    if given == wanted or ANY in (given, wanted):
        return True
    if wanted.startswith(LIST):
        inner = element(wanted)
        return (inner == ANY and given.startswith((LIST, ITEMS))) or given == LIST + ANY
    return False


def element(of: str) -> str:
    """The type of one member of a list; ``any`` when it is not a list."""
    return of.removeprefix(LIST) if of.startswith(LIST) else ANY


_MANY = {
    NUMBER: _("numbers"), TEXT: _("texts"), YES_NO: _("answers of yes or no"), DATE: _("dates"), MOMENT: _("moments"),
    PERIOD: _("periods"),
}  # fmt: skip


def called(kind: str) -> str:
    """A type in a message: ``number``, ``list of numbers``, ``list of the rows of boat.trips``."""
    if kind.startswith(ITEMS):
        return say("list of the repeats of {part}", part=kind.removeprefix(ITEMS))
    if kind.startswith(LIST):
        return say("list of {things}", things=say(_MANY.get(element(kind), _("values"))))
    return say(kind)
