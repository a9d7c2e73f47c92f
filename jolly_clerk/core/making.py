"""What every maker of requirements needs: the case it looks at, places, repeats, files, and why something is not asked."""

from __future__ import annotations

import ast
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from jolly_clerk.core.absence import UNKNOWN
from jolly_clerk.core.dossier.differences import said_answer
from jolly_clerk.core.dossier.model import Attachment, Dossier
from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.fees.sheet import FeeSheet
from jolly_clerk.core.form import Sheet
from jolly_clerk.core.history import RegisterAsked
from jolly_clerk.core.lifecycle import CaseSoFar
from jolly_clerk.core.requirements import MOST_PLACES, Evidence, Given, Kind, Place, Requirement, Standing, Words
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.rulebook.evaluate import working
from jolly_clerk.core.rulebook.expressions import Expression
from jolly_clerk.core.say import say


@dataclass(frozen=True, slots=True)
class One:
    """What a requirement is made for: the whole filing, or one item of a part that repeats."""

    values: Mapping[str, Any]
    part: str = ""
    number: str = ""
    label: str = ""

    @property
    def own(self) -> str:
        """``persons.2``, or nothing for the whole."""
        return f"{self.part}.{self.number}" if self.number else ""

    def id(self, base: str) -> str:
        """The id of a requirement: with the item's lasting number."""
        return f"{base}.{self.number}" if self.number else base

    def title(self, base: str) -> str:
        """The title of a requirement: with what the item is called."""
        return f"{base}: {self.label}" if self.label else base


class Maker:
    """Makes requirements over one case. Each kind of them has a function for its standing and one for its words."""

    def __init__(
        self,
        rulebook: Rulebook,
        dossier: Dossier,
        sheet: Sheet,
        fees: FeeSheet,
        case: CaseSoFar,
        readings: Mapping[str, Reading],
        registers: Mapping[str, RegisterAsked],
    ) -> None:
        self.rulebook, self.dossier, self.sheet = rulebook, dossier, sheet
        self.fees, self.case, self.readings, self.registers = fees, case, readings, registers
        self.evidence = Evidence(dossier, case, fees)
        self.in_slot = self.evidence.in_slot
        self.lane_part = rulebook.edition.lanes.each if rulebook.edition.lanes else None
        self.ones: dict[str | None, tuple[One, ...]] = {}
        self.same: dict[str, list[Attachment]] = {}
        for a in dossier.attachments:
            self.same.setdefault(a.sha256, []).append(a)
        rounds = (*case.rounds, *(r for lane in case.lanes.values() for r in lane.rounds))
        self.pointed = {p.asked.requirement for r in rounds for p in r.points.values()}

    def place(self, ref: str) -> Place:
        found = self.rulebook.kept.get(ref)
        if found is None:
            found = Place(ref, self.rulebook.label(ref))
            if len(self.rulebook.kept) < MOST_PLACES:
                self.rulebook.kept[ref] = found
        return found

    def where(self, places: Sequence[str]) -> tuple[Place, ...]:
        return tuple(self.place(p) for p in places)

    def each(self, part: str | None) -> tuple[One, ...]:
        """The whole filing, or every item of a part."""
        found = self.ones.get(part)
        if found is None:
            found = self.ones[part] = tuple(self._items(part)) if part else (One(self.sheet.values),)
        return found

    def _items(self, part: str) -> Iterator[One]:
        for own in self.sheet.items.get(part, []) if isinstance(self.sheet.values[part], list) else ():
            number = own.item["id"]
            yield One(own, part, number, self.sheet.called(part, number))

    def at(self, refs: Sequence[str], one: One) -> Sequence[str]:
        """Places of the rulebook as the places of one item."""
        return [self.at_one(ref, one) for ref in refs] if one.number else refs

    def at_one(self, ref: str, one: One) -> str:
        head, _, rest = ref.partition(".")
        if head == "documents":
            compiled = self.rulebook.slots.get(rest)
            return f"{ref}.{one.number}" if compiled and one.part and compiled.slot.for_each == one.part else ref
        return f"{head}.{one.number}.{rest}" if rest and one.part == head else ref

    def files(self, slot: str) -> tuple[Attachment, ...]:
        return tuple(self.in_slot.get(slot, ()))

    def files_at(self, places: Sequence[str]) -> tuple[Attachment, ...]:
        """The files in those of the places that are slots."""
        return tuple(a for ref in places if ref.startswith("documents.") for a in self.files(ref.removeprefix("documents.")))

    def made(
        self,
        id_: str,
        kind: Kind,
        title: str,
        places: Sequence[str],
        propose: Callable[..., Standing],
        words: Callable[..., Words],
        of: tuple[Any, ...],
        stops_filing: bool = True,
        lane: str | None = None,
    ) -> Requirement:
        """A requirement at some places. Its standing is the given one while that holds, else ``propose(*of)``; its words are
        ``words(proposed, *of)`` when somebody looks at them."""
        judged = self.case.given.get(id_)
        given = None
        if judged:
            assert judged.standing is not None
            holds = judged.evidence in ("", self.evidence.at(places))
            given = Given(judged.standing, judged.who, judged.at, judged.reason, holds)
        if lane is None:
            lane = "" if self.lane_part is None else self.rulebook.lane_of(places[0])
        return Requirement.at_first(id_, kind, title, given, stops_filing, lane, propose, words, of)

    def asked(self, when: Expression | None, one: One) -> Any:
        """Whether something with a condition is asked: True, False or UNKNOWN."""
        return True if when is None else when.holds(one.values)

    def why(self, rule: Expression, one: One) -> str:
        """Why a rule holds: its working, or for a bare yes or no what was answered."""
        bare = rule.tree.operand if isinstance(rule.tree, ast.UnaryOp) else rule.tree
        if isinstance(bare, (ast.Name, ast.Attribute)):
            return f"{self.why_not(rule, one)}."
        return f"{working(rule.tree, one.values, rule.functions)} holds."

    def not_asked(self, when: Any, asked: Any, one: One) -> str:
        """Why something is not asked, or hangs on an open question."""
        if asked is UNKNOWN:
            return self.hangs_on(self.sheet.deciding(when, one.own))
        return f"Not asked: {self.why_not(when, one)}."

    def why_not(self, when: Any, one: One) -> str:
        told = []
        for name in sorted(when.reads):
            if name in self.rulebook.questions:
                answer = said_answer(self.rulebook, name, self.sheet.raw.get(self.at_one(name, one))) or "not asked"
                told.append(f"{self.rulebook.questions[name].question.ask.rstrip('?')}: {answer}")
            elif name in self.rulebook.value_titles:
                told.append(f"{self.rulebook.value_titles[name]}: {say(one.values[name])}")
        return "; ".join(told) or working(when.tree, one.values, when.functions)

    def hangs_on(self, places: list[str]) -> str:
        return "Depends on " + (" and ".join(f"“{self.rulebook.label(p)}”" for p in places) or "an open question") + "."
