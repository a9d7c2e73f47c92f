"""The checklist of a case: one class for each kind of line, and the order in which they stand."""

from __future__ import annotations

from collections.abc import Iterator

from jolly_clerk.core.checklist.agreements import AgreementLine
from jolly_clerk.core.checklist.answers import AnswerLine, CountLine, answers_looked_at
from jolly_clerk.core.checklist.by_hand import AddedLine
from jolly_clerk.core.checklist.case_at_hand import CaseAtHand
from jolly_clerk.core.checklist.declarations import DeclarationLine, SignatureLine
from jolly_clerk.core.checklist.documents import EitherLine, SlotLine
from jolly_clerk.core.checklist.evidence import Evidence
from jolly_clerk.core.checklist.fee import FeeLine
from jolly_clerk.core.checklist.prerequisites import PrerequisiteLine
from jolly_clerk.core.checklist.requirement import Given, Kind, Line, Offer, Place, Requirement, Standing
from jolly_clerk.core.checklist.rules import RuleLine
from jolly_clerk.core.checklist.within_order import WithinOrderLine
from jolly_clerk.core.form import count_fault, decided_by

__all__ = ["CaseAtHand", "Evidence", "Given", "Kind", "Line", "Offer", "Place", "Requirement", "Standing", "checklist"]


def checklist(case: CaseAtHand) -> tuple[Requirement, ...]:
    """Every requirement in the rulebook's order: parts, documents, declarations, signature, fee, what was asked by hand."""
    return tuple(Requirement(line, case.given(line)) for line in _lines(case))


def _lines(case: CaseAtHand) -> Iterator[Line]:
    rulebook, whole = case.rulebook, case.each(None)[0]
    looked_at = answers_looked_at(case)
    decided, _open = decided_by(case.sheet) if case.dossier.insists else (None, ())
    if decided is not None and decided.branch.insist:
        yield WithinOrderLine(case, whole, decided)
    for part in rulebook.parts:
        if fault := count_fault(case.sheet, rulebook.parts[part]):
            yield CountLine(case, part, fault)
        if own := looked_at.get(part):
            yield from (AnswerLine(case, part, place) for place in case.sheet.places_in(part) if place in own)
        rules, agreements, prerequisites = rulebook.rules_of[part]
        yield from (RuleLine(case, rule, item) for rule in rules for item in case.each(rule.must.each))
        yield from (AgreementLine(case, agree, item) for agree in agreements for item in case.each(agree.agree.each))
        yield from (PrerequisiteLine(case, prerequisite) for prerequisite in prerequisites)
    yield from (SlotLine(case, slot, item) for slot in rulebook.slots.values() for item in case.each(slot.slot.for_each))
    yield from (EitherLine(case, group) for group in rulebook.eithers)
    yield from (DeclarationLine(case, said) for said in rulebook.declarations)
    yield SignatureLine(case, whole)
    if case.case.filed is not None:
        yield FeeLine(case, whole)
        yield from (AddedLine(case, whole, entry) for entry in case.case.added)
