"""An assessment as it is printed, sent and described by a JSON Schema: every section worked out, plain values only."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields
from datetime import date

from pydantic import TypeAdapter

from jolly_clerk.core.assessment import Assessment
from jolly_clerk.core.checklist import Given, Kind, Place, Requirement, Standing
from jolly_clerk.core.checklist.looking_over import confirmable, rests_on
from jolly_clerk.core.clock import ClockView
from jolly_clerk.core.corrections import PointToAsk, RoundView
from jolly_clerk.core.dossier.model import Attachment
from jolly_clerk.core.facts.agreement import AgreementView
from jolly_clerk.core.facts.file_findings import Finding
from jolly_clerk.core.fees.account import Account, Refund
from jolly_clerk.core.fees.lines import FeeSheet
from jolly_clerk.core.form_views import Altered, ComputedView, PartView, PathwayView, SectionView, WayIn
from jolly_clerk.core.lanes import LaneView
from jolly_clerk.core.moves import Move, WhyNot
from jolly_clerk.core.permit import PermitView
from jolly_clerk.core.states import State
from jolly_clerk.core.values import Json


@dataclass(frozen=True, slots=True)
class RequirementView:
    """One line of the checklist. ``standing`` is the given one if it holds, else the proposed one.

    One that does not stop filing is what a third party delivers, or what has a time of its own after filing. ``item``
    (``persons.2``) is the repeat that it is about and ``item_label`` what that is called; ``plain_title`` is the title without it.
    ``asked`` tells that it counts, ``judged`` that an officer gave a standing that still holds, ``overruled`` that it holds against what
    the machine proposed then; ``met_needs_reason`` that *met* would now be against what it proposes; ``lane`` is where it is judged, ``named``
    the office's name for the file of a document. ``open`` tells that the applicant can do something here now: put a file in, or
    tick. ``tables`` are the requirements whose agreement tables bear on it. ``cell`` is the value that is looked at, for a table of
    items; ``confirmable`` tells that it may be confirmed with the rest once the evidence in ``rests_on`` was on the screen.
    """

    id: str
    kind: Kind
    title: str
    plain_title: str
    item_label: str
    proposed: Standing
    given: Given | None
    standing: Standing
    asked: bool
    judged: bool
    overruled: bool
    met_needs_reason: bool
    stops_filing: bool
    lane: str
    group: str
    says: str
    article: str
    because: str
    put_right: str
    places: tuple[Place, ...]
    findings: tuple[Finding, ...]
    files: tuple[Attachment, ...]
    table: AgreementView | None
    item: str
    named: str
    open: bool
    tables: tuple[str, ...]
    cell: str
    confirmable: bool
    rests_on: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class AssessmentView:
    """All that can be said about a case at one instant. ``filing_day_assumed`` is True in a draft.

    In a case with lanes ``points``, ``rounds`` and what is done lane by lane among ``moves`` are those of the common lane;
    ``clock`` is then the one that runs out first, and ``clock_of`` the title of its lane. ``locked`` are the places that stay as they were
    filed while a letter is answered.
    """

    edition: str
    state: State
    title: str
    version: int
    filing_day: date
    filing_day_assumed: bool
    parts: tuple[PartView, ...]
    sections: tuple[SectionView, ...]
    computed: tuple[ComputedView, ...]
    left: tuple[WhyNot, ...]
    requirements: tuple[RequirementView, ...]
    fees: FeeSheet
    account: Account
    refunds: tuple[Refund, ...]
    way_in: WayIn | None
    pathway: PathwayView | None
    altered: tuple[Altered, ...]
    clock: ClockView | None
    points: tuple[PointToAsk, ...]
    rounds: tuple[RoundView, ...]
    moves: tuple[Move, ...]
    next_officer: str
    next_applicant: str
    apart: tuple[str, ...]
    lanes: tuple[LaneView, ...]
    clock_of: str
    permit: PermitView | None
    locked: tuple[str, ...]

    def requirement(self, id_: str) -> RequirementView | None:
        """The requirement called ``id_``, if it is on the list."""
        return next((r for r in self.requirements if r.id == id_), None)


_HERE = ("open", "tables", "confirmable", "rests_on")
_OF_REQUIREMENT = tuple(field.name for field in fields(RequirementView) if field.name not in _HERE)
_OF_ASSESSMENT = tuple(field.name for field in fields(AssessmentView) if field.name != "requirements")
ASSESSMENT: TypeAdapter[AssessmentView] = TypeAdapter(AssessmentView)


class Together:
    """What the requirements of a case tell of one another, gathered once: which files each table looks into, and to which document
    others that are asked for lead."""

    def __init__(self, requirements: Sequence[Requirement]) -> None:
        self.tables = [(r.id, {statement.file for statement in r.table.statements}) for r in requirements if r.table]
        asked = [r for r in requirements if r.kind == "document" and r.proposed != "not asked"]
        self.led_to = {place.ref for r in asked for place in r.places if place.ref != r.id}

    def tables_for(self, r: Requirement) -> tuple[str, ...]:
        """The requirements whose tables bear on this one: its own, or those that look into its files."""
        if r.table:
            return (r.id,)
        files = {f.id for f in r.files}
        return tuple(id_ for id_, looked_into in self.tables if files & looked_into)

    def is_open(self, r: Requirement) -> bool:
        """True if a file can be put in here, or something ticked: also where it is optional, or one of several that are enough."""
        if r.kind == "declaration":
            return r.proposed != "not known yet" and (r.proposed != "not asked" or r.put_right != "")
        return r.kind == "document" and (r.proposed != "not asked" or bool(r.files) or r.id in self.led_to)


ALONE = Together(())


def requirement_view(requirement: Requirement, together: Together = ALONE) -> RequirementView:
    """A requirement with its words worked out, among those of the same case."""
    values = {name: getattr(requirement, name) for name in _OF_REQUIREMENT}
    return RequirementView(
        **values,
        open=together.is_open(requirement),
        tables=together.tables_for(requirement),
        confirmable=confirmable(requirement),
        rests_on=rests_on(requirement),
    )


def assessment_view(assessment: Assessment) -> AssessmentView:
    """An assessment with every section worked out."""
    sections = {name: getattr(assessment, name) for name in _OF_ASSESSMENT}
    together = Together(assessment.requirements)
    return AssessmentView(**sections, requirements=tuple(requirement_view(r, together) for r in assessment.requirements))


def as_json(assessment: Assessment) -> Json:
    """An assessment as values that JSON has: amounts and dates as texts."""
    return ASSESSMENT.dump_python(assessment_view(assessment), mode="json")
