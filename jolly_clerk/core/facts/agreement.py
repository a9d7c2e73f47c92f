"""One fact beside every place that states it, the odd one out marked.

Source: the scenario, *Agreement*: lengths within 0.5 m, areas within 1 %, money and dates exact, names as a clerk would.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal, InvalidOperation
from typing import Any, Literal, NamedTuple

from jolly_clerk.core.absence import NONE, is_absent
from jolly_clerk.core.dossier.answers import AnswerFault, read_date
from jolly_clerk.core.dossier.model import Attachment
from jolly_clerk.core.facts.measures import Fact
from jolly_clerk.core.facts.names import compared, same_name
from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.facts.stated import stated
from jolly_clerk.core.form import Sheet
from jolly_clerk.core.history import RegisterAsked
from jolly_clerk.core.in_words import in_words, number
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
class AgreementView:
    """The agreement table of one fact. ``holds`` is None while fewer than two places state it."""

    id: str
    title: str
    holds: bool | None
    tolerance: str
    statements: tuple[Statement, ...]


@dataclass(frozen=True, slots=True)
class Agreement:
    """What all places of one fact say, compared. ``holds`` is None while fewer than two state it; ``look`` is why names that are not
    plainly the same may still be one person's."""

    holds: bool | None
    found: tuple[_Found, ...]
    groups: tuple[tuple[int, ...], ...]
    looker: _Looker
    look: str = ""

    def view(self) -> AgreementView:
        """The table in words, the odd one out marked: the largest group is taken for right; of equal ones none is."""
        agree = self.looker.agree
        odd: set[int] = set()
        if self.holds is False:
            sizes = [len(g) for g in self.groups]
            largest = max(sizes)
            odd = {n for g in self.groups if len(g) < largest or sizes.count(largest) > 1 for n in g}
        statements = tuple(self.looker.statement(f, n in odd) for n, f in enumerate(self.found))
        return AgreementView(agree.id, agree.title, self.holds, tolerance(agree), statements)


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
    stated = [(n, f.value) for n, f in enumerate(found) if f.state == "stated"]
    if len(stated) < 2:
        return Agreement(None, found, (), looker)
    if len(stated) == 2 and same(agree, stated[0][1], stated[1][1]):
        return Agreement(True, found, (), looker)
    groups = _groups(agree, stated)
    return Agreement(len(groups) == 1, found, groups, looker, _look(agree, stated))


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
    return say("as a clerk would") if agree.as_ == "name" else "exactly"


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

    def look(self, place: str) -> _Found:
        """What one place states; its words are left for :meth:`statement`."""
        rulebook = self.sheet.rulebook
        if place in rulebook.questions:
            value = self.own[place]
            if is_absent(value):
                return _Found(place, "not stated", why="not asked" if value is NONE else say("not answered"))
            return _Found(place, "stated", value)
        head, _, rest = place.partition(".")
        if head in rulebook.slots:
            return self.fact(place, rulebook.slots[head].slot, rest)
        return self.register(place, head, rest)

    def fact(self, place: str, slot: Slot, fact_id: str) -> _Found:
        own = self.files.get(f"{slot.slot}.{self.number}" if slot.for_each and self.number else slot.slot, ())
        if not own:
            return _Found(place, "not stated", why=say("nothing attached"))
        rule = next(f for f in slot.facts if f.id == fact_id)
        for a in own:
            reading = self.readings.get(a.sha256)
            fact = stated(rule, reading) if reading else None
            if fact:
                return _Found(place, "stated", fact.value, "", fact, a.id)
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

    def statement(self, found: _Found, odd: bool) -> Statement:
        """What was found at a place, in words."""
        place, head, unit = found.place, found.place.partition(".")[0], _UNITS.get(self.agree.as_, "")
        rulebook = self.sheet.rulebook
        said = found.why
        if place in rulebook.questions:
            label = say("Form, {title}", title=rulebook.parts[head].title)
            if found.state == "stated":
                said = f"{in_words(found.value)} {unit}".strip()
                if self.number and head == self.agree.each:
                    place = f"{head}.{self.number}.{place.partition('.')[2]}"
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
