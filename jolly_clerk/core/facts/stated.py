"""Facts that a file states: measures, dates, numbers and names beside a word, and what was counted in it."""

from __future__ import annotations

import re
from collections.abc import Iterator
from decimal import Decimal, InvalidOperation

from jolly_clerk.core.dossier.answers import AnswerFault, read_date
from jolly_clerk.core.facts.measures import Fact, find, label_of, part_of
from jolly_clerk.core.facts.reading import Reading, TextLine
from jolly_clerk.core.rulebook.model import FactRule
from jolly_clerk.core.values import Value

_DATE = re.compile(r"\d{4}-\d{2}-\d{2}|\d{1,2}[ .]+(?:[A-Za-z]{3,9}|\d{1,2})[ .]+\d{4}")
_NUMBER = re.compile(r"\d{1,3}(?:[ \u00a0\u202f]\d{3})+(?:\.\d+)?|\d+(?:\.\d+)?")
#: how far below its word, and how far beside it, a date, a number or a name may stand, in shares of the page
BELOW, ASIDE = 0.06, 0.5
WHOLE = (0.0, 0.0, 1.0, 1.0)


def stated(rule: FactRule, reading: Reading) -> Fact | None:
    """The fact of a rule in a reading with its place, or None where there is none. What was counted has the first page as its place."""
    found: Fact | None = reading.once((rule.type, *rule.near), lambda: _stated(rule, reading))
    return found


def _stated(rule: FactRule, reading: Reading) -> Fact | None:
    if rule.type in ("length", "area"):
        return find(rule, reading)
    if rule.type in ("date", "number", "name"):
        return _beside(rule, reading)
    counted = _counted(rule.type, reading)
    return None if counted is None else Fact(Decimal(counted), str(counted), 1, WHOLE)


def _counted(kind: str, reading: Reading) -> int | None:
    claims = reading.claims
    found = {
        "claims": claims.count if claims else None,
        "independent claims": claims.independent if claims else None,
        "multiple claims": claims.multiple if claims else None,
        "pages": len(reading.pages) or None,
        "words": reading.words or None,
    }
    return found[kind]


def _beside(rule: FactRule, reading: Reading) -> Fact | None:
    """What stands after the first of the words on its line, else on the line right below it."""
    for words in rule.near:
        label = label_of(words)
        for line in reading.lines:
            found = label.search(line.text)
            if not found:
                continue
            for other, start in ((line, found.end()), *((below, 0) for below in _right_or_below(line, reading))):
                fact = next(_read(rule.type, other, start), None)
                if fact:
                    return fact
    return None


def _right_or_below(line: TextLine, reading: Reading) -> Iterator[TextLine]:
    """The runs of text right of a line or just below it, the nearest first."""
    left, top, right, bottom = line.box
    near = []
    for other in reading.lines:
        if other is line or other.page != line.page:
            continue
        beside = abs(other.box[1] - top) < 0.01 and 0 <= other.box[0] - right < ASIDE
        below = 0 <= other.box[1] - bottom < BELOW and abs(other.box[0] - left) < 0.15
        if beside or below:
            near.append(((not beside, other.box[1], other.box[0]), other))
    yield from (other for _, other in sorted(near, key=lambda pair: pair[0]))


def _read(kind: str, line: TextLine, start: int) -> Iterator[Fact]:
    rest = line.text[start:]
    if kind == "name":
        said = rest.strip(" :.-–")
        if said and not said.isdigit():
            at = line.text.index(said, start)
            yield Fact(said, said, line.page, part_of(line, (at, at + len(said))))
        return
    for found in (_DATE if kind == "date" else _NUMBER).finditer(rest):
        value = _value(kind, found[0])
        if value is not None:
            yield Fact(value, found[0], line.page, part_of(line, (start + found.start(), start + found.end())))


def _value(kind: str, said: str) -> Value:
    try:
        return read_date(said) if kind == "date" else Decimal(re.sub(r"\s", "", said))
    except (AnswerFault, InvalidOperation):
        return None
