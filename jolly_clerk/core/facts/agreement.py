"""One fact beside every place that states it, the odd one out marked.

Source: the scenario, *Agreement*: lengths within 0.5 m, areas within 1 %, money and dates exact, names as a clerk would.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal, InvalidOperation
from typing import Any, Literal, NamedTuple

from jolly_clerk.core.absence import NONE, is_absent
from jolly_clerk.core.dossier.answers import AnswerFault, read_date
from jolly_clerk.core.dossier.model import Attachment
from jolly_clerk.core.facts.measures import Fact
from jolly_clerk.core.facts.names import compared, same_name
from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.facts.stated import stated_all
from jolly_clerk.core.form import Sheet
from jolly_clerk.core.history import RegisterAsked
from jolly_clerk.core.in_words import all_of, in_words, number
from jolly_clerk.core.rulebook.model import Agree, Slot
from jolly_clerk.core.say import say
from jolly_clerk.core.values import Value

LENGTH_WITHIN, AREA_WITHIN = Decimal("0.5"), Decimal(1)
_UNITS = {"length": "m", "area": "m²"}


State = Literal["stated", "not found", "not stated", "no answer"]


@dataclass(frozen=True, slots=True)
class Statement:
    """What one place says. ``state`` is *stated*, *not found*, *not stated* (nothing is there to look in) or *no answer*.

    ``file`` is an attachment's id; ``box`` is left, top, right, bottom in shares of ``page``.
    """

    place: str
    label: str
    state: State
    said: str
    odd: bool = False
    file: str = ""
    page: int = 0
    box: tuple[float, ...] = ()


@dataclass(frozen=True, slots=True)
class TakeOver:
    """An answer that all the other places state: ``raw`` is what can be written at ``place``, ``said`` is it in words, ``source`` who
    states it."""

    place: str
    raw: str
    said: str
    source: str


@dataclass(frozen=True, slots=True)
class AgreementView:
    """The agreement table of one fact. ``holds`` is None while fewer than two places state it; ``offers`` are the answers that would
    make it hold."""

    id: str
    title: str
    holds: bool | None
    tolerance: str
    statements: tuple[Statement, ...]
    offers: tuple[TakeOver, ...] = ()


@dataclass(frozen=True, slots=True)
class Agreement:
    """What all places of one fact say, compared. ``holds`` is None while fewer than two state it; ``look`` is why names that are not
    plainly the same may still be one person's; ``wants`` are the papers that want a look of their own, with why: they do not state it, or
    state it in two ways."""

    holds: bool | None
    found: tuple[_Found, ...]
    groups: tuple[tuple[int, ...], ...]
    looker: _Looker
    look: str = ""
    wants: tuple[tuple[_Found, str], ...] = ()

    def view(self) -> AgreementView:
        """The table in words, the odd one out marked: the largest group is taken for right; of equal ones none is."""
        agree = self.looker.agree
        odd: set[int] = set()
        if self.holds is False:
            sizes = [len(g) for g in self.groups]
            largest = max(sizes)
            odd = {n for g in self.groups if len(g) < largest or sizes.count(largest) > 1 for n in g}
        statements = tuple(self.looker.statement(f, n in odd) for n, f in enumerate(self.found))
        return AgreementView(agree.id, agree.title, self.holds, tolerance(agree), statements, tuple(self._offers()))

    def _offers(self) -> Iterator[TakeOver]:
        """What is read or on a register, for a question that is open or states otherwise; a name that is stated stays a person's word."""
        agree = self.looker.agree
        for own in self.found:
            if not self.looker.can_take(own) or (agree.as_ == "name" and own.state == "stated"):
                continue
            others = [f for f in self.found if f.state == "stated" and f is not own and not self.looker.is_inner(f.place)]
            if not others or not all(same(agree, others[0].value, o.value) for o in others):
                continue
            if own.state != "stated" or not same(agree, own.value, others[0].value):
                yield self.looker.take_over(own, others[0])


def agreement(
    agree: Agree,
    sheet: Sheet,
    files: Mapping[str, Sequence[Attachment]],
    readings: Mapping[str, Reading],
    registers: Mapping[str, RegisterAsked],
    number: str = "",
) -> Agreement:
    """Look at every place of an agreement and compare what they say.

    ``files`` are the attachments by slot, ``number`` is the repeat of the part that it is made for.
    """
    looker = _Looker(agree, sheet, files, readings, registers, number)
    found = tuple(looker.look(place) for place in agree.places)
    wants = tuple(looker.wanting(found))
    stated = [(n, f.value) for n, f in enumerate(found) if f.state == "stated"]
    if len(stated) < 2:
        return Agreement(None, found, (), looker, wants=wants)
    if len(stated) == 2 and same(agree, stated[0][1], stated[1][1]):
        return Agreement(True, found, (), looker, wants=wants)
    groups = _groups(agree, stated)
    return Agreement(len(groups) == 1, found, groups, looker, _look(agree, stated), wants)


def _look(agree: Agree, stated: Sequence[tuple[int, Any]]) -> str:
    """Why names want a look, if none of them is plainly another's; nothing for other facts."""
    if agree.as_ != "name":
        return ""
    pairs = [compared(str(a), str(b)) for n, (_, a) in enumerate(stated) for _, b in stated[n + 1 :]]
    if any(pair.verdict == "other" for pair in pairs):
        return ""
    return next((pair.why for pair in pairs if pair.verdict == "look"), "")


def tolerance(agree: Agree) -> str:
    """The tolerance in words."""
    if agree.as_ == "length":
        return say("within {within} m", within=number(agree.within if agree.within is not None else LENGTH_WITHIN))
    if agree.as_ == "area":
        return say("within {within} %", within=number(agree.within if agree.within is not None else AREA_WITHIN))
    return say("but for how the name is written") if agree.as_ == "name" else say("exactly")


def same(agree: Agree, one: Value, other: Value) -> bool:
    """True if two values agree within the tolerance."""
    if agree.as_ == "length":
        return bool(abs(one - other) <= (agree.within if agree.within is not None else LENGTH_WITHIN))
    if agree.as_ == "area":
        share = agree.within if agree.within is not None else AREA_WITHIN
        return bool(abs(one - other) * 100 <= share * max(abs(one), abs(other)))
    if agree.as_ == "name":
        return same_name(str(one), str(other))
    if agree.as_ == "text":
        return _plain(str(one)) == _plain(str(other))
    return bool(one == other)


def written(value: Value) -> str:
    """A value as somebody would type it as an answer; a name in capitals, as passports have it, with small letters."""
    if isinstance(value, Decimal):
        return f"{value.normalize():f}"
    if isinstance(value, date):
        return value.isoformat()
    said = in_words(value)
    return said.title() if said.isupper() and " " in said and not any(sign.isdigit() for sign in said) else said


def _plain(text: str) -> str:
    return re.sub(r"[\s.,]+", " ", text).strip().casefold()


def _groups(agree: Agree, stated: Sequence[tuple[int, Any]]) -> tuple[tuple[int, ...], ...]:
    groups: list[list[tuple[int, Any]]] = []
    for n, value in stated:
        home = next((g for g in groups if all(same(agree, value, other) for _, other in g)), None)
        if home is None:
            groups.append([(n, value)])
        else:
            home.append((n, value))
    return tuple(tuple(n for n, _ in g) for g in groups)


class _Found(NamedTuple):
    """What was found at one place: its value where it states one, and what it was found in."""

    place: str
    state: State
    value: Any = None
    why: str = ""
    fact: Fact | None = None
    file: str = ""
    others: tuple[Fact, ...] = ()


class _Looker:
    def __init__(
        self,
        agree: Agree,
        sheet: Sheet,
        files: Mapping[str, Sequence[Attachment]],
        readings: Mapping[str, Reading],
        registers: Mapping[str, RegisterAsked],
        number: str,
    ) -> None:
        self.number = number
        self.own = sheet.own(f"{agree.each}.{number}") if number else sheet.values
        self.agree, self.sheet, self.files, self.readings, self.registers = agree, sheet, files, readings, registers

    def can_take(self, found: _Found) -> bool:
        """True if a place is a question that is asked."""
        if found.place not in self.sheet.rulebook.questions:
            return False
        return self.sheet.asked.get(self.exactly(found.place)) is True

    def is_inner(self, place: str) -> bool:
        """True for a column of a register that is the office's alone."""
        head, _, column = place.partition(".")
        register = self.sheet.rulebook.edition.registers.get(head)
        return register is not None and column in register.inner

    def exactly(self, place: str) -> str:
        """A question of the rulebook as the place of the repeat that is compared."""
        head, _, rest = place.partition(".")
        return f"{head}.{self.number}.{rest}" if self.number and head == self.agree.each else place

    def take_over(self, own: _Found, other: _Found) -> TakeOver:
        """What another place states as an answer to a question."""
        value, question = other.value, self.sheet.rulebook.questions[own.place].question
        if isinstance(value, Decimal):
            value = round(value, 0 if question.type == "count" else question.decimals)
        raw = written(value)
        said = f"{raw if isinstance(value, str) else in_words(value)} {_UNITS.get(self.agree.as_, '')}".strip()
        return TakeOver(self.exactly(own.place), raw, said, self.statement(other, False).label)

    def look(self, place: str) -> _Found:
        """What one place states; its words are left for :meth:`statement`."""
        rulebook = self.sheet.rulebook
        if place in rulebook.questions or place in rulebook.computed:
            value = self.own[place]
            if is_absent(value):
                return _Found(place, "not stated", why="not asked" if value is NONE else say("not answered"))
            return _Found(place, "stated", value)
        head, _, rest = place.partition(".")
        if head in rulebook.slots:
            return self.fact(place, rulebook.slots[head].slot, rest)
        return self.register(place, head, rest)

    def fact(self, place: str, slot: Slot, fact_id: str) -> _Found:
        own = self.files_of(slot)
        if not own:
            return _Found(place, "not stated", why=say("nothing attached"))
        rule = next(f for f in slot.facts if f.id == fact_id)
        for a in own:
            reading = self.readings.get(a.sha256)
            facts = stated_all(rule, reading) if reading else ()
            if facts:
                others = tuple(f for f in facts[1:] if not same(self.agree, facts[0].value, f.value))
                return _Found(place, "stated", facts[0].value, "", facts[0], a.id, others)
        return _Found(place, "not found", None, "not found", None, own[0].id)

    def register(self, place: str, name: str, column: str) -> _Found:
        asked = self.registers.get(name)
        if asked is None:
            return _Found(place, "not stated", why=say("not asked yet"))
        if asked.trouble:
            return _Found(place, "no answer", why=say("it does not answer"))
        if asked.row is None:
            return _Found(place, "not found", why=say("no entry {key}", key=asked.key))
        said = asked.row.get(column, "")
        value = self.typed(said)
        return _Found(place, "not found", why=say("it does not say")) if value is None else _Found(place, "stated", value, said)

    def wanting(self, found: Sequence[_Found]) -> Iterator[tuple[_Found, str]]:
        """The papers that do not state what is asked of them though they were read, or state it in two ways."""
        for one in found:
            slot = self.sheet.rulebook.slots.get(one.place.partition(".")[0])
            if slot is None or not one.file:
                continue
            title = slot.slot.title
            if one.others:
                pages = sorted({one.fact.page, *(f.page for f in one.others)}) if one.fact else []
                said = all_of([f"“{f.text}”" for f in ((one.fact,) if one.fact else ()) + one.others])
                where = (
                    say("sheet {page}", page=pages[0])
                    if len(pages) == 1
                    else say("sheets {pages}", pages=all_of([str(p) for p in pages]))
                )
                yield one, say("{title}, {where}, states it in more than one way: {said}.", title=title, where=where, said=said)
            elif one.state == "not found":
                readings = [self.readings.get(a.sha256) for a in self.files_of(slot.slot)]
                if any(r is not None and r.thorough for r in readings):
                    yield one, say("{title} does not state it where it was looked for.", title=title)

    def files_of(self, slot: Slot) -> Sequence[Attachment]:
        return self.files.get(f"{slot.slot}.{self.number}" if slot.for_each and self.number else slot.slot, ())

    def statement(self, found: _Found, odd: bool) -> Statement:
        """What was found at a place, in words."""
        place, head, unit = found.place, found.place.partition(".")[0], _UNITS.get(self.agree.as_, "")
        rulebook = self.sheet.rulebook
        said = found.why
        if place in rulebook.questions or place in rulebook.computed:
            called = rulebook.parts[head] if place in rulebook.questions else rulebook.computed[place].value
            label = say("Form, {title}", title=called.title)
            if found.state == "stated":
                said, place = f"{in_words(found.value)} {unit}".strip(), self.exactly(place)
            return Statement(place, label, found.state, said, odd)
        if head not in rulebook.slots:
            said = f"{said} {unit}".strip() if found.state == "stated" else said
            return Statement(place, rulebook.edition.registers[head].title, found.state, said, odd)
        title, fact = rulebook.slots[head].slot.title, found.fact
        if fact is None:
            return Statement(place, title, found.state, said, odd, found.file)
        return Statement(
            place,
            say("{title}, sheet {page}", title=title, page=fact.page),
            found.state,
            fact.text,
            odd,
            found.file,
            fact.page,
            fact.box,
        )

    def typed(self, said: str) -> Value:
        if not said.strip():
            return None
        try:
            if self.agree.as_ in ("length", "area", "money", "count"):
                return Decimal(said.strip())
            return read_date(said) if self.agree.as_ == "date" else said
        except (InvalidOperation, AnswerFault):
            return None
