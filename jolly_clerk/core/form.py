"""Which questions are asked, what was answered, and what is left, each with its place."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from datetime import date
from typing import Any

from jolly_clerk.core.absence import NONE, UNKNOWN
from jolly_clerk.core.dossier.answers import AnswerFault, is_open, typed
from jolly_clerk.core.dossier.model import Answers
from jolly_clerk.core.rulebook.compiled import AskedQuestion, ComputedValue, Rulebook
from jolly_clerk.core.rulebook.expressions import Expression
from jolly_clerk.core.rulebook.model import Part


@dataclass(slots=True)
class Sheet:
    """The answers read over one rulebook.

    ``values`` maps every name of the rulebook to its value, NONE or UNKNOWN; ``asked`` maps a
    question's place to True, False or UNKNOWN; ``faults`` maps a place to its complaint. The place of
    a question in a part that repeats is ``part.n.question`` with the item's lasting number.
    """

    rulebook: Rulebook
    values: dict[str, Any]
    asked: dict[str, Any] = field(default_factory=dict)
    faults: dict[str, str] = field(default_factory=dict)
    raw: dict[str, Any] = field(default_factory=dict)
    apart: list[str] = field(default_factory=list)

    def deciding(self, rule: Expression | None) -> list[str]:
        """The open questions that decide a rule whose value is unknown, each once, as places."""
        found: dict[str, None] = {}
        self._decide(rule.reads if rule else (), found, set())
        return list(found)

    def _decide(self, names: Any, found: dict[str, None], seen: set[str]) -> None:
        for name in sorted(names):
            if name in seen:
                continue
            seen.add(name)
            node = self.rulebook.questions.get(name)
            value = next((o for o in self.rulebook.order if isinstance(o, ComputedValue) and o.key == name), None)
            if value is not None:
                if self.values[name] is UNKNOWN:
                    self._decide(value.rule.reads, found, seen)
            elif node is None and name in self.rulebook.parts:
                self._decide([f"{name}.{q.id}" for q in self.rulebook.parts[name].questions], found, seen)
            elif node is not None:
                self._decide_question(node, found, seen)

    def _decide_question(self, node: AskedQuestion, found: dict[str, None], seen: set[str]) -> None:
        for place in self.places_of(node):
            asked = self.asked.get(place)
            if asked is True and (is_open(self.raw.get(place)) or place in self.faults):
                found[place] = None
            elif asked is UNKNOWN:
                outer = self.rulebook.part_when[node.part.id]
                self._decide({*(outer.reads if outer else ()), *(node.when.reads if node.when else ())}, found, seen)

    def places_of(self, node: AskedQuestion) -> list[str]:
        """The places at which a question stands: one, or one for each item of a part that repeats."""
        if not node.part.each:
            return [node.key]
        head, tail = node.part.id + ".", "." + node.question.id
        return [p for p in self.asked if p.startswith(head) and p.endswith(tail)]


def read_answers(rulebook: Rulebook, answers: Answers, filed: date, today: date) -> Sheet:
    """Read raw answers over a rulebook. In a draft ``filed`` is today."""
    values: dict[str, Any] = {"case.filed": filed, "case.today": today}
    sheet = Sheet(rulebook, values)
    repeated: set[str] = set()
    for node in rulebook.order:
        if isinstance(node, ComputedValue):
            values[node.key] = node.rule.value(values)
        elif node.part.each:
            if node.part.id not in repeated:
                repeated.add(node.part.id)
                _read_items(sheet, node.part, answers.get(node.part.id), filed)
        else:
            given = answers.get(node.part.id)
            raw = given.get(node.question.id) if isinstance(given, dict) else None
            values[node.key] = _read(sheet, node, node.key, raw, values, filed)
    sheet.apart = list(_not_asked_for(sheet, answers))
    return sheet


def _read(sheet: Sheet, node: AskedQuestion, place: str, raw: Any, values: Mapping[str, Any], filed: date) -> Any:
    outer = sheet.rulebook.part_when[node.part.id]
    asked: Any = True if outer is None else outer.holds(values)
    if node.when is not None and asked is not False:
        inner = node.when.holds(values)
        asked = inner if asked is True or inner is False else UNKNOWN
    sheet.asked[place] = asked
    if not is_open(raw):
        sheet.raw[place] = raw
    if asked is False:
        return NONE
    if place not in sheet.raw:
        return NONE if asked is True and node.question.optional else UNKNOWN
    try:
        value = typed(node, raw, filed)
    except AnswerFault as fault:
        sheet.faults[place] = str(fault)
        return UNKNOWN
    return value if asked is True else UNKNOWN


def _read_items(sheet: Sheet, part: Part, given: Any, filed: date) -> None:
    items = [i for i in given if isinstance(i, dict)] if isinstance(given, list) else []
    nodes = [n for n in sheet.rulebook.questions.values() if n.part is part]
    read: list[dict[str, Any]] = []
    for position, item in enumerate(items, 1):
        number = item.get("id", position)
        own = dict(sheet.values)
        for node in nodes:
            own[node.key] = _read(sheet, node, f"{part.id}.{number}.{node.question.id}", item.get(node.question.id), own, filed)
        read.append({n.question.id: own[n.key] for n in nodes} | {"id": str(number)})
    outer = sheet.rulebook.part_when[part.id]
    asked = True if outer is None else outer.holds(sheet.values)
    absent = NONE if asked is False else UNKNOWN if asked is UNKNOWN else None
    sheet.values[part.id] = read if absent is None else absent
    for node in nodes:
        sheet.values[node.key] = tuple(i[node.question.id] for i in read) if absent is None else absent


def _not_asked_for(sheet: Sheet, answers: Answers) -> Iterator[str]:
    """The places of answers that no question asks for: kept apart, and said."""
    for part_id, given in answers.items():
        part = sheet.rulebook.parts.get(part_id)
        names = {q.id for q in part.questions} if part else set()
        for position, item in enumerate(given if isinstance(given, list) else [given], 1):
            if not isinstance(item, dict):
                yield part_id
                continue
            middle = f".{item.get('id', position)}" if isinstance(given, list) else ""
            yield from (f"{part_id}{middle}.{q}" for q in item if q not in names and not (q == "id" and middle))


def read_part(rulebook: Rulebook, place: str) -> str:
    """The part to which a question's place belongs."""
    return place.partition(".")[0]


def question_at(rulebook: Rulebook, place: str) -> AskedQuestion | None:
    """The question at a place, for single questions and for those that repeat."""
    head, _, rest = place.partition(".")
    return rulebook.questions.get(f"{head}.{rest.rpartition('.')[2]}")
