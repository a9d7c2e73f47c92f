"""The entries of what happens to a permit after it was issued: short filings that were granted, inspections; and what they come to."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from datetime import date, datetime
from decimal import Decimal
from typing import TYPE_CHECKING, Final, Literal

from pydantic import AwareDatetime, Field

from jolly_clerk.core.happened import Attached, Happened
from jolly_clerk.core.rulebook.steps import Does, Moved
from jolly_clerk.core.say import spoken_language

if TYPE_CHECKING:
    from jolly_clerk.core.lifecycle import CaseSoFar


class PermitStep(Happened):
    """A short filing on the permit was granted: its ``reference`` and title, what it ``does`` from the day ``starts``.

    A change for a time has ``until``, its last day; an extension the new ``days``; ``says`` are the words that stand on the permit from then
    on, by what they are called; ``title_in`` and ``says_in`` are the same by language, for each in which the edition says itself. What
    replaces the document has the ``code`` of the new one and the SHA-256 of its PDF.
    """

    what: Literal["permit step"] = "permit step"
    reference: str
    title: str
    does: Does
    starts: date
    until: date | None = None
    days: dict[Moved, date] = {}
    says: dict[str, str] = {}
    title_in: dict[str, str] = Field(default={}, exclude_if=lambda kept: not kept)
    says_in: dict[str, dict[str, str]] = Field(default={}, exclude_if=lambda kept: not kept)
    code: str = Field(default="", exclude_if=lambda kept: not kept)
    permit_sha256: str = Field(default="", exclude_if=lambda kept: not kept)

    @property
    def called(self) -> str:
        """Its title in the language that is spoken."""
        return self.title_in.get(spoken_language()) or self.title

    @property
    def said(self) -> dict[str, str]:
        """What the permit says, in the language that is spoken."""
        return self.says_in.get(spoken_language()) or self.says


class PermitTakenOver(Happened):
    """Whoever the permit was transferred to by the short filing ``reference`` accepted it and holds it from then on; ``who`` is the account."""

    what: Literal["permit taken over"] = "permit taken over"
    reference: str


class InspectionBooked(Happened):
    """An inspection is booked, or moved to another slot: its number ``no``, which ``visit``, and what it costs.

    It is ``on`` a day, at the ``hours`` that were told (``10:00 to 12:00``); ``begins`` is the instant.
    """

    what: Literal["inspection booked"] = "inspection booked"
    no: int
    visit: str
    title: str
    on: date
    hours: str
    begins: AwareDatetime
    fee: Decimal = Field(default=Decimal(0), ge=0)
    moved: bool = False


class InspectionDropped(Happened):
    """A booked inspection is given up; what it would have cost is not due."""

    what: Literal["inspection dropped"] = "inspection dropped"
    no: int


class InspectionHeld(Happened):
    """The result of an inspection, with photographs; one that was not ``passed`` is made again until the day ``again``."""

    what: Literal["inspection held"] = "inspection held"
    no: int
    passed: bool
    words: str
    again: date | None = None
    photographs: tuple[Attached, ...] = ()


#: everything that happens to a permit after it was issued, and what each entry of it is called
WHAT_HAPPENS_TO_IT: Final = ("permit step", "permit taken over", "inspection booked", "inspection dropped", "inspection held")
PermitEntry = PermitStep | PermitTakenOver | InspectionBooked | InspectionDropped | InspectionHeld


@dataclass(slots=True)
class InspectionSoFar:
    """An inspection as its entries leave it."""

    booked: InspectionBooked
    held: InspectionHeld | None = None
    dropped: bool = False


@dataclass(slots=True)
class PermitSoFar:
    """What happened to a permit: the steps in their order, its inspections by number, and the account of the ``holder`` who accepted it
    (nothing: whoever applied)."""

    steps: list[PermitStep] = field(default_factory=list)
    holder: str = ""
    inspections: dict[int, InspectionSoFar] = field(default_factory=dict)

    def did(self, does: Does) -> Iterator[PermitStep]:
        """The steps that did so."""
        return (step for step in self.steps if step.does == does)

    @property
    def fees(self) -> Decimal:
        """What the inspections cost that were booked and not given up."""
        return sum((one.booked.fee for one in self.inspections.values() if not one.dropped), Decimal("0.00"))

    @property
    def passed(self) -> frozenset[str]:
        """The visits that were passed."""
        return frozenset(one.booked.visit for one in self.inspections.values() if one.held and one.held.passed)

    @property
    def failed(self) -> dict[str, int]:
        """How often each visit was not passed."""
        found: dict[str, int] = {}
        for one in self.inspections.values():
            if one.held and not one.held.passed:
                found[one.booked.visit] = found.get(one.booked.visit, 0) + 1
        return found

    def waiting(self, visit: str) -> InspectionSoFar | None:
        """The inspection of a visit that is booked and not held yet."""
        return next(
            (one for one in self.inspections.values() if one.booked.visit == visit and not one.held and not one.dropped), None
        )


def fold_permit(case: CaseSoFar, entry: PermitEntry) -> None:
    """What happened to the permit of a case."""
    so_far = case.permit
    if isinstance(entry, PermitStep):
        so_far.steps.append(entry)
    elif isinstance(entry, PermitTakenOver):
        so_far.holder = entry.who
    elif isinstance(entry, InspectionBooked):
        so_far.inspections[entry.no] = InspectionSoFar(entry)
    elif isinstance(entry, InspectionDropped):
        so_far.inspections[entry.no].dropped = True
    else:
        so_far.inspections[entry.no].held = entry


def code_of(case: CaseSoFar) -> str:
    """The code of the document that counts now; nothing before one is issued."""
    issued = case.issued.code if case.issued else ""
    return next((step.code for step in reversed(case.permit.steps) if step.code), issued)


def replaced_codes(case: CaseSoFar) -> dict[str, date]:
    """The codes of documents that were replaced, with the day from which each counts no more."""
    steps = [step for step in case.permit.steps if step.code]
    codes = [case.issued.code if case.issued else "", *(step.code for step in steps)]
    return {code: step.starts for code, step in zip(codes, steps, strict=False)}


def paid_since_issue(case: CaseSoFar) -> Decimal:
    """What was paid after the permit was issued, less what was over then."""
    at: datetime | None = case.issued.at if case.issued else None
    return sum((p.amount for p in case.payments if at and p.at > at), Decimal(0))


def due_since_issue(case: CaseSoFar) -> Decimal:
    """What of what is due since the permit was issued is to be paid now."""
    return max(case.permit.fees - paid_since_issue(case), Decimal("0.00"))
