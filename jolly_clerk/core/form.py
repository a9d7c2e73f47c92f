"""Which questions are asked, what was answered, and what is left, each with its place."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime, tzinfo
from decimal import Decimal
from typing import Any

from jolly_clerk.core.absence import NONE, UNKNOWN
from jolly_clerk.core.dossier.answers import ANSWER_TYPES, AnswerFault, RowsOpen, in_zone, is_open, typed
from jolly_clerk.core.dossier.model import Answers
from jolly_clerk.core.rulebook.checked import STEPS
from jolly_clerk.core.rulebook.compiled import AskedQuestion, CompiledBranch, ComputedValue, PartItems, Rulebook
from jolly_clerk.core.rulebook.dates import CALENDAR, PAYMENTS
from jolly_clerk.core.rulebook.expressions import Expression
from jolly_clerk.core.rulebook.model import Part
from jolly_clerk.core.say import say
from jolly_clerk.core.time.calendar import Calendar
from jolly_clerk.core.values import Raw, Value


class Own(dict[str, Any]):
    """The names within one item of a part that repeats: its own values, and all others from the whole.

    ``given`` are its raw answers; ``item`` is it as a loop over the part sees it.
    """

    __slots__ = ("given", "item", "outer")

    def __init__(self, outer: Mapping[str, Any], given: Mapping[str, Any], item: dict[str, Any]) -> None:
        super().__init__()
        self.outer, self.given, self.item = outer, given, item

    def __missing__(self, key: str) -> Value:
        return self.outer[key]

    def __contains__(self, key: object) -> bool:
        return dict.__contains__(self, key) or key in self.outer


@dataclass(slots=True)
class Sheet:
    """The answers read over one rulebook.

    ``values`` maps every name of the rulebook to its value, NONE or UNKNOWN; ``asked`` maps a
    question's place to True, False or UNKNOWN; ``faults`` maps a place to its complaint; ``may_stay_open`` are the places
    that need no answer, ``wanting`` those that are asked and open or wrong, ``begun`` those of
    them whose rows are only not filled in to the end. The place of a question in a part that repeats is
    ``part.n.question`` with the item's lasting number; ``items`` are the names within each item, by part, ``by_number`` the same by
    number.
    """

    rulebook: Rulebook
    values: dict[str, Any]
    asked: dict[str, Any] = field(default_factory=dict)
    faults: dict[str, str] = field(default_factory=dict)
    raw: dict[str, Any] = field(default_factory=dict)
    apart: list[str] = field(default_factory=list)
    may_stay_open: set[str] = field(default_factory=set)
    items: dict[str, list[Own]] = field(default_factory=dict)
    by_number: dict[str, dict[str, Own]] = field(default_factory=dict)
    part_asked: dict[str, Any] = field(default_factory=dict)
    wanting: set[str] = field(default_factory=set)
    begun: set[str] = field(default_factory=set)

    def called(self, part: str, number: str) -> str:
        """What an item is called: the part, its number, and the first person or text that names it: ``Person 2, Tom Ashby``."""
        title = f"{self.rulebook.one(part)} {number}"
        said = self.raw.get(f"{part}.{number}.{self._naming(part)}")
        return f"{title}, {said}" if said else title

    def _naming(self, part: str) -> str:
        """The question whose answer names an item of a part; nothing if none does."""
        return next((q.id for q in self.rulebook.parts[part].questions if ANSWER_TYPES[q.type].names), "")

    def own(self, item: str) -> Mapping[str, Any]:
        """The names within an item (``persons.2``); without one, or for one that is gone, the names of the whole."""
        part, _, number = item.partition(".")
        return self.by_number.get(part, {}).get(number, self.values)

    def told(self, item: str) -> Mapping[str, Any]:
        """The names within an item (``persons.2``) as a text tells them: while it has no name of its own it is called *Person 2*."""
        own = self.own(item)
        part, _, number = item.partition(".")
        named = f"{part}.{self._naming(part)}" if number else ""
        if not isinstance(own, Own) or named not in own or own[named] is not UNKNOWN:
            return own
        told = Own(own, own.given, own.item)
        told[named] = self.called(part, number)
        return told

    def numbers(self, part: str) -> list[str]:
        """The lasting numbers of the items of a part that repeats."""
        return [own.item["id"] for own in self.items.get(part, [])]

    def deciding(self, rule: Expression | None, own: str = "") -> list[str]:
        """The open questions that decide a rule whose value is unknown, each once, as places.

        ``own`` (``part.n``) are the names of one item; the questions of its part are looked at for it alone.
        """
        found: dict[str, None] = {}
        self._decide(rule.reads if rule else (), found, set())
        part, _, number = own.partition(".")
        return [p for p in found if not number or not p.startswith(part + ".") or p.startswith(own + ".")]

    def _decide(self, names: Value, found: dict[str, None], seen: set[str]) -> None:
        for name in sorted(names):
            if name in seen:
                continue
            seen.add(name)
            node = self.rulebook.questions.get(name)
            value = self.rulebook.computed.get(name)
            if value is not None:
                if value.value.each or self.values[name] is UNKNOWN:
                    self._decide(value.rule.reads, found, seen)
            elif node is None and name in self.rulebook.parts:
                if isinstance(self.values[name], list):
                    continue  # how many there are is known; what is read of each has a name of its own
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

    def places_in(self, part: str) -> list[str]:
        """The places of a part, in the order in which they are asked, item by item."""
        questions = self.rulebook.parts[part].questions
        if self.rulebook.parts[part].each:
            return [f"{part}.{no}.{q.id}" for no in self.numbers(part) for q in questions]
        return [f"{part}.{q.id}" for q in questions]

    def places_of(self, node: AskedQuestion) -> list[str]:
        """The places at which a question stands: one, or one for each item of a part that repeats."""
        if not node.part.each:
            return [node.key]
        return [f"{node.part.id}.{no}.{node.question.id}" for no in self.numbers(node.part.id)]


def read_answers(
    rulebook: Rulebook,
    answers: Answers,
    filed: date,
    today: date,
    calendar: Calendar | None = None,
    payments: Sequence[tuple[date, Decimal]] = (),
    issued: date | None = None,
    extensions: int = 0,
    steps: Mapping[str, date] | None = None,
) -> Sheet:
    """Read raw answers over a rulebook. In a draft ``filed`` is today.

    ``calendar`` serves the functions that count working days; ``payments`` are the days and amounts paid towards the stage
    at filing; ``issued`` is the day of the grant, today as long as there is none; ``extensions`` counts how often more time was given;
    ``steps`` are the days of the case's own steps (`case.checked`, `letter.sent` …).
    """
    values: dict[str, Any] = {CALENDAR: calendar, PAYMENTS: tuple(payments), "case.filed": filed, "case.today": today}
    values["case.issued"], values["case.extensions"] = issued or today, Decimal(extensions)
    values |= dict.fromkeys(STEPS, NONE) | (dict(steps) if steps else {})
    values |= dict.fromkeys((node.key for _, node in rulebook.late), UNKNOWN)
    sheet = Sheet(rulebook, values)
    for node in rulebook.order:
        if type(node) is AskedQuestion:
            part = node.part
            if part.each:
                _read_column(sheet, node, filed)
                continue
            given, key = answers.get(part.id), node.key
            raw = given.get(node.question.id) if type(given) is dict else None
            values[key] = _read(sheet, node, key, raw, values, filed)
        elif isinstance(node, PartItems):
            _begin_items(sheet, node.part, answers.get(node.key))
        elif isinstance(node, ComputedValue):
            _compute(sheet, node)
    sheet.apart = list(_not_asked_for(sheet, answers))
    return sheet


#: no rule of the job reaches a number with more digits than this before its point
_MOST_DIGITS = 30


def compute(values: dict[str, Any], node: ComputedValue) -> None:
    """Work out a computed answer that stands once, into ``values``."""
    values[node.key] = _bounded(node.value_in(values))


def _compute(sheet: Sheet, node: ComputedValue) -> None:
    part = node.value.each
    if part is None:
        compute(sheet.values, node)
        return
    found = []
    for item, own in zip(_listed(sheet, part), sheet.items[part], strict=False):
        own[node.key] = item[node.value.id] = _bounded(node.value_in(own))
        found.append(own[node.key])
    sheet.values[node.key] = _column(sheet, part, found)


def _bounded(value: Value) -> Value:
    return UNKNOWN if isinstance(value, Decimal) and value.adjusted() > _MOST_DIGITS else value


def _listed(sheet: Sheet, part: str) -> list[dict[str, Any]]:
    return [own.item for own in sheet.items[part]]


def _column(sheet: Sheet, part: str, found: list[Any]) -> Value:
    items = sheet.values[part]
    return tuple(found) if isinstance(items, list) else items


def _begin_items(sheet: Sheet, part: Part, given: Raw) -> None:
    """The repeats of a part, with their numbers; what is asked of each is read column by column."""
    asked = _part_asked(sheet, part.id)
    made = []
    for position, item in enumerate([i for i in given if isinstance(i, dict)] if isinstance(given, list) else [], 1):
        own = Own(sheet.values, item, {"id": str(item.get("id", position)), "position": Decimal(position)})
        own[f"{part.id}.id"], own[f"{part.id}.position"] = own.item["id"], own.item["position"]
        made.append(own)
    sheet.items[part.id] = made
    sheet.by_number[part.id] = {own.item["id"]: own for own in reversed(made)}
    sheet.values[part.id] = NONE if asked is False else UNKNOWN if asked is UNKNOWN else _listed(sheet, part.id)
    sheet.values[f"{part.id}.position"] = _column(sheet, part.id, [own.item["position"] for own in made])


def _read_column(sheet: Sheet, node: AskedQuestion, filed: date) -> None:
    part, question = node.part.id, node.question.id
    found = []
    for own in sheet.items[part]:
        place = f"{part}.{own.item['id']}.{question}"
        own[node.key] = own.item[question] = _read(sheet, node, place, own.given.get(question), own, filed)
        found.append(own[node.key])
    sheet.values[node.key] = _column(sheet, part, found)


def _part_asked(sheet: Sheet, part: str) -> Value:
    """Whether a part is asked at all; its condition looks at nothing of the part itself."""
    found = sheet.part_asked.get(part)
    if found is None:
        outer = sheet.rulebook.part_when[part]
        found = sheet.part_asked[part] = True if outer is None else outer.holds(sheet.values)
    return found


def _read(sheet: Sheet, node: AskedQuestion, place: str, raw: Raw, values: Mapping[str, Any], filed: date) -> Value:
    question, asked = node.question, sheet.part_asked.get(node.part.id)
    if asked is None:
        asked = _part_asked(sheet, node.part.id)
    if node.when is not None and asked is not False:
        inner = node.when.holds(values)
        asked = inner if asked is True or inner is False else UNKNOWN
    sheet.asked[place] = asked
    left = is_open(raw)
    if left and question.default is not None:
        raw, left = question.default, is_open(question.default)
    if not left:
        sheet.raw[place] = raw
    if asked is False:
        return NONE
    optional = question.optional and (node.needed_when is None or node.needed_when.holds(values) is not True)
    if optional:
        sheet.may_stay_open.add(place)
    if left:
        if asked is True and not optional:
            sheet.wanting.add(place)
        return NONE if asked is True and optional else UNKNOWN
    try:
        value = typed(node, raw, filed, node.offered(values) if node.option_when else None)
        if values[CALENDAR] is not None and ANSWER_TYPES[question.type].of_the_zone:
            value = _in_zone(value, raw, values[CALENDAR].zone)
    except AnswerFault as fault:
        sheet.faults[place] = str(fault)
        if isinstance(fault, RowsOpen):
            sheet.begun.add(place)
        if asked is True:
            sheet.wanting.add(place)
        return UNKNOWN
    return value if asked is True else UNKNOWN


def _in_zone(value: Value, raw: Raw, zone: tzinfo) -> Value:
    """A moment that was typed without a zone is one of the authority's; so is each in a row. Raises AnswerFault."""
    if isinstance(value, datetime):
        return in_zone(value, raw, zone)
    if not (isinstance(value, tuple) and value and isinstance(value[0], dict)):
        return value
    rows = []
    given = [row for row in raw if isinstance(row, dict)]
    for n, (row, own) in enumerate(zip(value, given, strict=True), 1):
        try:
            rows.append({key: _in_zone(inner, own.get(key), zone) for key, inner in row.items()})
        except AnswerFault as fault:
            raise AnswerFault(say("Row {no}: {fault}", no=n, fault=fault)) from None
    return tuple(rows)


def _not_asked_for(sheet: Sheet, answers: Answers) -> Iterator[str]:
    """The places of answers that no question asks for: kept apart, and said."""
    for part_id, given in answers.items():
        names = sheet.rulebook.asked_in.get(part_id, frozenset())
        for position, item in enumerate(given if isinstance(given, list) else [given], 1):
            if not isinstance(item, dict):
                yield part_id
                continue
            if item.keys() <= names:
                continue
            middle = f".{item.get('id', position)}" if isinstance(given, list) else ""
            yield from (f"{part_id}{middle}.{q}" for q in item if q not in names and not (q == "id" and middle))


def count_fault(sheet: Sheet, part: Part) -> str:
    """What is wrong with the number of repeats of a part; empty if nothing is, or if it is not asked."""
    items = sheet.values.get(part.id)
    if not part.each or not isinstance(items, list):
        return ""
    if len(items) < part.at_least:
        return say("{title}: name at least {at_least}.", title=part.title, at_least=part.at_least)
    return (
        say("{title}: at most {at_most} can be named.", title=part.title, at_most=part.at_most)
        if len(items) > part.at_most
        else ""
    )


def question_at(rulebook: Rulebook, place: str) -> AskedQuestion | None:
    """The question at a place, for single questions and for those that repeat."""
    head, _, rest = place.partition(".")
    return rulebook.questions.get(f"{head}.{rest.rpartition('.')[2]}")


def decided_by(sheet: Sheet) -> tuple[CompiledBranch | None, tuple[str, ...]]:
    """The first branch of the way in that holds; None, with the open questions that it hangs on, at the first that is not known."""
    for compiled in sheet.rulebook.branches:
        holds = True if compiled.when is None else compiled.when.holds(sheet.values)
        if holds is UNKNOWN:
            return None, tuple(sheet.deciding(compiled.when))
        if holds:
            return compiled, ()
    return None, ()


def _given(answers: Answers, place: str) -> Raw:
    part, _, question = place.partition(".")
    given = answers.get(part)
    return given.get(question) if type(given) is dict else None


def asked_in_turn(rulebook: Rulebook, answers: Answers, filed: date, calendar: Calendar | None = None) -> tuple[str, ...]:
    """The questions of the way in that were answered and lead to what it says, each asked because of those before it.

    What was answered besides (to see a closer price) is not among them.
    """
    found: list[str] = []
    while len(found) < len(rulebook.way_in_asks):
        known = {part: {q: raw for q, raw in given.items() if f"{part}.{q}" in found} if type(given) is dict else given
                 for part, given in answers.items()}  # fmt: skip
        _, open_ = decided_by(read_answers(rulebook, known, filed, filed, calendar))
        told = (p for p in rulebook.way_in_asks if p in open_ and p not in found and not is_open(_given(answers, p)))
        turn = next(told, None)
        if turn is None:
            break
        found.append(turn)
    return tuple(found)
