"""Facts that a file states: measures, dates, numbers and names beside a word, and what was counted in it."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import replace
from datetime import date
from decimal import Decimal, InvalidOperation

from jolly_clerk.core.dossier.answers import AnswerFault, read_date
from jolly_clerk.core.facts.measures import Fact, find_all, label_of, part_of, told_once
from jolly_clerk.core.facts.names import compared
from jolly_clerk.core.facts.reading import Reading, TextLine
from jolly_clerk.core.facts.writing import figures_named
from jolly_clerk.core.facts.zone_signs import read_zone, seen_on
from jolly_clerk.core.in_words import day as day_said
from jolly_clerk.core.rulebook.model import FactRule
from jolly_clerk.core.values import Value

_DATE = re.compile(r"\d{4}-\d{2}-\d{2}|\d{1,2}[ .]+(?:[A-Za-z]{3,9}|\d{1,2})[ .]+\d{4}")
_NUMBER = re.compile(r"\d{1,3}(?:[ \u00a0\u202f]\d{3})+(?:\.\d+)?|\d+(?:\.\d+)?")
_MONEY = re.compile(
    r"(?<![\d.,])\d{1,3}(?:[ \u00a0\u202f,]\d{3})+(?:\.\d{1,3})?(?![\d])|(?<![\d.,])\d+(?:\.\d{1,3})?(?![\d.,]*\d)"
)
#: how far below its word, and how far beside it, a date, a number or a name may stand, in shares of the page
BELOW, ASIDE = 0.06, 0.5
WHOLE = (0.0, 0.0, 1.0, 1.0)


def stated(rule: FactRule, reading: Reading) -> Fact | None:
    """The fact of a rule in a reading with its place, or None where there is none. What was counted has the first page as its place."""
    found = stated_all(rule, reading)
    return found[0] if found else None


def stated_all(rule: FactRule, reading: Reading) -> tuple[Fact, ...]:
    """All that a reading states of a fact, the likeliest first: more than one if the paper contradicts itself."""
    found: tuple[Fact, ...] = reading.once((rule.type, *rule.near), lambda: _stated(rule, reading))
    return found


def _stated(rule: FactRule, reading: Reading) -> tuple[Fact, ...]:
    if rule.type in ("length", "area"):
        return find_all(rule, reading)
    if rule.type in ("date", "number", "name", "money"):
        return _beside(rule, reading)
    if rule.type.startswith("passport "):
        return _passport(rule, reading)
    counted = _counted(rule.type, reading)
    return () if counted is None else (Fact(Decimal(counted), str(counted), 1, WHOLE),)


#: what is printed on the page of a passport, by its kind in the text
_PRINTED = {"holder": "name", "number": "name", "nationality": "name", "birth": "date", "expiry": "date"}


def _passport(rule: FactRule, reading: Reading) -> tuple[Fact, ...]:
    """What the machine-readable lines say where their check digits are right, and what is printed if it is another thing."""
    part = rule.type.removeprefix("passport ")
    found = [fact for fact in (_in_lines(part, reading),) if fact]
    for fact in _beside(rule.model_copy(update={"type": _PRINTED[part]}), reading) if rule.near else ():
        if part == "number":
            fact = replace(fact, value=re.sub(r"[^A-Z0-9]", "", str(fact.value).upper()))
        if part == "nationality" and found:
            continue  # the lines say a code, the page a name
        found.append(fact)
    return _apart(_PRINTED[part] if part != "number" else "number", found)


def _in_lines(part: str, reading: Reading) -> Fact | None:
    found = read_zone(reading, seen_on(reading))
    if found is None:
        return None
    zone, mrz = found
    value: Value = None
    if part == "holder" and mrz.surname:
        value = mrz.holder
    elif part == "nationality":
        value = mrz.nationality or None
    elif part == "number" and mrz.sound("number"):
        value = mrz.number or None
    elif part in ("birth", "expiry") and mrz.sound(part):
        day = mrz.born if part == "birth" else mrz.expires
        value = read_date(day) if day and "?" not in day else None
    if value is None:
        return None
    said = day_said(value) if isinstance(value, date) else str(value)
    return Fact(value, said, zone.page, zone.box)


def _counted(kind: str, reading: Reading) -> int | None:
    claims = reading.claims
    found = {
        "claims": claims.count if claims else None,
        "independent claims": claims.independent if claims else None,
        "multiple claims": claims.multiple if claims else None,
        "pages": len(reading.pages) or None,
        "words": reading.words or None,
        "figures": len(figures_named(reading)) if reading.lines else None,
    }
    return found[kind]


def _beside(rule: FactRule, reading: Reading) -> tuple[Fact, ...]:
    """What stands after each place of the first of the words that leads to anything: on its line, else on the line right below it.
    A field of a form whose name or hint has the words says it, too."""
    for words in rule.near:
        label = label_of(words)
        found = [
            fact
            for field in reading.fields
            if label.search(f"{field.name} {field.says}".replace("_", " "))
            for fact in _read(rule.type, field, 0)
        ]
        for line in reading.lines:
            at = label.search(line.text)
            if not at:
                continue
            # later places of the word count only where it leads the line: within a sentence it is a word like others
            if found and at.start() > 3:
                continue
            for other, start in ((line, at.end()), *((below, 0) for below in _right_or_below(line, reading))):
                fact = next(_read(rule.type, other, start), None)
                if fact:
                    found.append(fact)
                    break
        if found:
            return _apart(rule.type, found)
    return ()


def _apart(kind: str, facts: Sequence[Fact]) -> tuple[Fact, ...]:
    """The facts that differ; names that a clerk would take for the same are one."""
    if kind != "name":
        return told_once(facts)
    told = list[Fact]()
    for fact in facts:
        if not any(compared(fact.value, other.value).verdict != "other" for other in told):
            told.append(fact)
    return tuple(told)


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
    for found in (_DATE if kind == "date" else _MONEY if kind == "money" else _NUMBER).finditer(rest):
        value = _value(kind, found[0])
        if value is not None:
            yield Fact(value, found[0], line.page, part_of(line, (start + found.start(), start + found.end())))


def _value(kind: str, said: str) -> Value:
    try:
        return read_date(said) if kind == "date" else Decimal(re.sub(r"[\s,]", "", said))
    except (AnswerFault, InvalidOperation):
        return None
