"""One fact beside every place that states it, the odd one out marked.

Source: the scenario, *Agreement*: lengths within 0.5 m, areas within 1 %, money and dates exact, names as a clerk would.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal, InvalidOperation
from typing import Any, Literal

from jolly_clerk.core.absence import NONE, is_absent
from jolly_clerk.core.dossier.answers import AnswerFault, read_date
from jolly_clerk.core.dossier.model import Attachment
from jolly_clerk.core.facts.names import same_name
from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.facts.stated import stated
from jolly_clerk.core.form import Sheet
from jolly_clerk.core.history import RegisterAsked
from jolly_clerk.core.rulebook.model import Agree, FactRule
from jolly_clerk.core.say import number, say

LENGTH_WITHIN, AREA_WITHIN = Decimal("0.5"), Decimal(1)
_UNITS = {"length": "m", "area": "m²"}


@dataclass(frozen=True, slots=True)
class Statement:
    """What one place says. ``state`` is *stated*, *not found*, *not stated* (nothing is there to look in) or *no answer*.

    ``file`` is an attachment's id; ``box`` is left, top, right, bottom in shares of ``page``.
    """

    place: str
    label: str
    state: Literal["stated", "not found", "not stated", "no answer"]
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


def agreement(
    agree: Agree,
    sheet: Sheet,
    files: Mapping[str, Sequence[Attachment]],
    readings: Mapping[str, Reading],
    registers: Mapping[str, RegisterAsked],
    number: str = "",
) -> AgreementView:
    """Look at every place of an agreement and compare what they say.

    ``files`` are the attachments by slot, ``number`` is the repeat of the part that it is made for.
    """
    looker = _Looker(agree, sheet, files, readings, registers, number)
    found = [looker.look(place) for place in agree.places]
    stated = [(n, value) for n, (_, value) in enumerate(found) if value is not None]
    holds: bool | None = None
    odd: set[int] = set()
    if len(stated) > 1:
        groups = _groups(agree, stated)
        holds = len(groups) == 1
        # the largest group is taken for right; of equal ones none is
        largest = max(len(g) for g in groups)
        if not holds:
            odd = {n for g in groups if len(g) < largest or sum(len(x) == largest for x in groups) > 1 for n in g}
    statements = tuple(
        Statement(s.place, s.label, s.state, s.said, n in odd, s.file, s.page, s.box) for n, (s, _) in enumerate(found)
    )
    return AgreementView(agree.id, agree.title, holds, tolerance(agree), statements)


def tolerance(agree: Agree) -> str:
    """The tolerance in words."""
    if agree.as_ == "length":
        return f"within {number(agree.within if agree.within is not None else LENGTH_WITHIN)} m"
    if agree.as_ == "area":
        return f"within {number(agree.within if agree.within is not None else AREA_WITHIN)} %"
    return "as a clerk would" if agree.as_ == "name" else "exactly"


def same(agree: Agree, one: Any, other: Any) -> bool:
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


def _groups(agree: Agree, stated: Sequence[tuple[int, Any]]) -> list[list[int]]:
    groups: list[list[tuple[int, Any]]] = []
    for n, value in stated:
        home = next((g for g in groups if all(same(agree, value, other) for _, other in g)), None)
        if home is None:
            groups.append([(n, value)])
        else:
            home.append((n, value))
    return [[n for n, _ in g] for g in groups]


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
        self.own = sheet.own(f"{agree.each}.{number}")
        self.agree, self.sheet, self.files, self.readings, self.registers = agree, sheet, files, readings, registers

    def look(self, place: str) -> tuple[Statement, Any]:
        head, _, rest = place.partition(".")
        if place in self.sheet.rulebook.questions:
            return self.answer(place)
        if head in self.sheet.rulebook.slots:
            slot = self.sheet.rulebook.slots[head].slot
            name = f"{slot.slot}.{self.number}" if slot.for_each and self.number else slot.slot
            return self.fact(place, name, slot.title, next(f for f in slot.facts if f.id == rest))
        return self.register(place, head, rest)

    def answer(self, place: str) -> tuple[Statement, Any]:
        label, value = f"Form, {self.sheet.rulebook.parts[place.partition('.')[0]].title}", self.own[place]
        if is_absent(value):
            said = "not asked" if value is NONE else "not answered"
            return Statement(place, label, "not stated", said), None
        if self.number and place.partition(".")[0] == self.agree.each:
            place = f"{place.partition('.')[0]}.{self.number}.{place.partition('.')[2]}"
        return Statement(place, label, "stated", f"{say(value)} {_UNITS.get(self.agree.as_, '')}".strip()), value

    def fact(self, place: str, slot: str, title: str, rule: FactRule) -> tuple[Statement, Any]:
        own = self.files.get(slot, ())
        if not own:
            return Statement(place, title, "not stated", "nothing attached"), None
        for a in own:
            reading = self.readings.get(a.sha256)
            fact = stated(rule, reading) if reading else None
            if fact:
                label = f"{title}, sheet {fact.page}"
                return Statement(place, label, "stated", fact.text, False, a.id, fact.page, fact.box), fact.value
        return Statement(place, title, "not found", "not found", False, own[0].id), None

    def register(self, place: str, name: str, column: str) -> tuple[Statement, Any]:
        title = self.sheet.rulebook.edition.registers[name].title
        asked = self.registers.get(name)
        if asked is None:
            return Statement(place, title, "not stated", "not asked yet"), None
        if asked.trouble:
            return Statement(place, title, "no answer", "it does not answer"), None
        if asked.row is None:
            return Statement(place, title, "not found", f"no entry {asked.key}"), None
        said = asked.row.get(column, "")
        value = self.typed(said)
        if value is None:
            return Statement(place, title, "not found", "it does not say"), None
        return Statement(place, title, "stated", f"{said} {_UNITS.get(self.agree.as_, '')}".strip()), value

    def typed(self, said: str) -> Any:
        if not said.strip():
            return None
        try:
            if self.agree.as_ in ("length", "area", "money", "count"):
                return Decimal(said.strip())
            return read_date(said) if self.agree.as_ == "date" else said
        except (InvalidOperation, AnswerFault):
            return None
