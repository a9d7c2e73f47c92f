"""What all lines of the checklist share: the case at hand, its places, items and files, and why something is not asked."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from decimal import Decimal
from typing import Any

from jolly_clerk.core.absence import UNKNOWN
from jolly_clerk.core.checklist.evidence import Evidence
from jolly_clerk.core.checklist.requirement import Given, Kind, Line, Place
from jolly_clerk.core.dossier.model import Attachment, Dossier
from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.fees.lines import ZERO, FeeSheet
from jolly_clerk.core.form import Sheet
from jolly_clerk.core.history import RegisterAsked
from jolly_clerk.core.in_words import depends_on, moment
from jolly_clerk.core.lifecycle import CaseSoFar
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.rulebook.dates import CALENDAR
from jolly_clerk.core.rulebook.expressions import Expression
from jolly_clerk.core.rulebook.reasons import reason
from jolly_clerk.core.say import say, spoken
from jolly_clerk.core.values import Value

#: so many places are remembered with each rulebook
MOST_PLACES = 5000


@dataclass(frozen=True, slots=True)
class Item:
    """What a line is asked for: the whole filing, or one item of a part that repeats."""

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


class CaseAtHand:
    """One case as the lines of its checklist look at it: read answers, files, readings, registers, fees and history."""

    def __init__(
        self,
        rulebook: Rulebook,
        dossier: Dossier,
        sheet: Sheet,
        fees: FeeSheet,
        case: CaseSoFar,
        readings: Mapping[str, Reading],
        registers: Mapping[str, RegisterAsked],
        may_wait: Decimal = ZERO,
        changed_since_signed: Sequence[str] = (),
    ) -> None:
        self.rulebook, self.dossier, self.sheet = rulebook, dossier, sheet
        self.fees, self.case, self.readings, self.registers = fees, case, readings, registers
        self.may_wait, self.changed_since_signed = may_wait, changed_since_signed
        self.evidence = Evidence(dossier, case, fees)
        self.in_slot = self.evidence.in_slot
        self.lane_part = rulebook.edition.lanes.each if rulebook.edition.lanes else None
        self._items_of: dict[str | None, tuple[Item, ...]] = {}
        self.same: dict[str, list[Attachment]] = {}
        for a in dossier.attachments:
            self.same.setdefault(a.sha256, []).append(a)
        self.pointed = {p.asked.requirement for r in case.all_rounds for p in r.points.values()}

    def place(self, ref: str) -> Place:
        key = (spoken(), ref)
        found = self.rulebook.kept.get(key)
        if found is None:
            found = Place(ref, self.rulebook.label(ref))
            if len(self.rulebook.kept) < MOST_PLACES:
                self.rulebook.kept[key] = found
        return found

    def where(self, places: Sequence[str]) -> tuple[Place, ...]:
        return tuple(self.place(p) for p in places)

    def each(self, part: str | None) -> tuple[Item, ...]:
        """The whole filing, or every item of a part."""
        found = self._items_of.get(part)
        if found is None:
            found = self._items_of[part] = tuple(self._items(part)) if part else (Item(self.sheet.values),)
        return found

    def _items(self, part: str) -> Iterator[Item]:
        for own in self.sheet.items.get(part, []) if isinstance(self.sheet.values[part], list) else ():
            number = own.item["id"]
            yield Item(own, part, number, self.sheet.called(part, number))

    def at(self, refs: Sequence[str], item: Item) -> Sequence[str]:
        """Places of the rulebook as the places of one item."""
        return [self.place_in(ref, item) for ref in refs] if item.number else refs

    def place_in(self, ref: str, item: Item) -> str:
        head, _, rest = ref.partition(".")
        if head == "documents":
            compiled = self.rulebook.slots.get(rest)
            return f"{ref}.{item.number}" if compiled and item.part and compiled.slot.for_each == item.part else ref
        return f"{head}.{item.number}.{rest}" if rest and item.part == head else ref

    def files_in(self, slot: str) -> tuple[Attachment, ...]:
        return tuple(self.in_slot.get(slot, ()))

    def files_at(self, places: Sequence[str]) -> tuple[Attachment, ...]:
        """The files in those of the places that are slots."""
        return tuple(a for ref in places if ref.startswith("documents.") for a in self.files_in(ref.removeprefix("documents.")))

    def given(self, line: Line) -> Given | None:
        """The standing that an officer gave a line, and whether what was looked at is still the same; None if there is none."""
        judged = self.case.given.get(line.id)
        if judged is None or judged.standing is None:
            return None
        holds = judged.evidence in ("", self.evidence.at(line.at))
        against = judged.because if judged.overrules else ""
        return Given(judged.standing, judged.who, judged.at, judged.reason, holds, against)

    def lane_of(self, places: Sequence[str]) -> str:
        """The lane of a line, by its first place."""
        return "" if self.lane_part is None else self.rulebook.lane_of(places[0])

    def asked(self, when: Expression | None, item: Item) -> Value:
        """Whether something with a condition is asked: True, False or UNKNOWN."""
        return True if when is None else when.holds(item.values)

    def why(self, rule: Expression, item: Item) -> str:
        """Why a rule holds, in the words of the form."""
        return f"{reason(rule.tree, item.values, rule.functions, True, self.rulebook.words)}."

    def not_asked(self, when: Value, asked: Value, item: Item) -> str:
        """Why something is not asked, or hangs on an open question."""
        if asked is UNKNOWN:
            return self.hangs_on(self.sheet.deciding(when, item.own))
        return say("Not asked: {why_not}.", why_not=self.why_not(when, item))

    def why_not(self, when: Value, item: Item) -> str:
        """Why a condition does not hold."""
        return reason(when.tree, item.values, when.functions, False, self.rulebook.words)

    def moment(self, instant: datetime) -> str:
        """An instant in words, by the office's clock."""
        calendar = self.sheet.values[CALENDAR]
        return moment(instant, calendar.zone if calendar else UTC)

    def hangs_on(self, places: list[str]) -> str:
        return depends_on([self.rulebook.label(p) for p in places]) or say("Depends on an open question.")


class CaseLine(Line):
    """A line over one case. ``lane`` is that of its first place unless it is given."""

    def __init__(
        self,
        case: CaseAtHand,
        item: Item,
        id_: str,
        kind: Kind,
        plain_title: str,
        at: Sequence[str],
        stops_filing: bool = True,
        lane: str | None = None,
    ) -> None:
        self.case, self.of = case, item
        self.id, self.kind, self.plain_title, self.item_label = id_, kind, plain_title, item.label
        self.at, self.stops_filing = at, stops_filing
        self.lane = case.lane_of(at) if lane is None else lane
