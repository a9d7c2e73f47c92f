"""Things that are counted: ``1 file``, ``3 working days``, by the rule of the language for one and for many."""

from __future__ import annotations

from typing import Final

from jolly_clerk.core.say import _n, say_n

#: everything that the program counts, by its English name for one
THINGS: Final = {
    "answer": _n("{n} answer", "{n} answers"),
    "comment": _n("{n} comment", "{n} comments"),
    "day": _n("{n} day", "{n} days"),
    "document": _n("{n} document", "{n} documents"),
    "entry": _n("{n} entry", "{n} entries"),
    "embedded signature": _n("{n} embedded signature", "{n} embedded signatures"),
    "fault": _n("{n} fault", "{n} faults"),
    "field": _n("{n} field", "{n} fields"),
    "file": _n("{n} file", "{n} files"),
    "hour": _n("{n} hour", "{n} hours"),
    "mail": _n("{n} mail", "{n} mails"),
    "minute": _n("{n} minute", "{n} minutes"),
    "month": _n("{n} month", "{n} months"),
    "new file": _n("{n} new file", "{n} new files"),
    "office hour": _n("{n} office hour", "{n} office hours"),
    "page": _n("{n} page", "{n} pages"),
    "paper": _n("{n} paper", "{n} papers"),
    "place": _n("{n} place", "{n} places"),
    "plot": _n("{n} plot", "{n} plots"),
    "point": _n("{n} point", "{n} points"),
    "reviewer": _n("{n} reviewer", "{n} reviewers"),
    "row": _n("{n} row", "{n} rows"),
    "sheet": _n("{n} sheet", "{n} sheets"),
    "thing": _n("{n} thing", "{n} things"),
    "value": _n("{n} value", "{n} values"),
    "week": _n("{n} week", "{n} weeks"),
    "word": _n("{n} word", "{n} words"),
    "working day": _n("{n} working day", "{n} working days"),
    "year": _n("{n} year", "{n} years"),
}


def things(count: int, what: str) -> str:
    """So many of something, in words.

    Raises:
        KeyError: ``what`` is not in :data:`THINGS`.
    """
    return say_n(*THINGS[what], count)
