"""Lanes: what is worked out for each portion of a case that is judged on its own, and when the whole is complete."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from functools import cached_property
from typing import TYPE_CHECKING

from jolly_clerk.core.checklist import Requirement
from jolly_clerk.core.checklist.declarations import signed_before
from jolly_clerk.core.clock import ClockView, clock
from jolly_clerk.core.corrections import PointToAsk, RoundView, points_to_ask, round_view
from jolly_clerk.core.form import Sheet
from jolly_clerk.core.lifecycle import CaseSoFar, in_lane
from jolly_clerk.core.moves import Move, moves
from jolly_clerk.core.next_step import next_applicant, next_officer
from jolly_clerk.core.permit_moves import inspecting
from jolly_clerk.core.say import say
from jolly_clerk.core.states import State

if TYPE_CHECKING:
    from jolly_clerk.core.assessment import Assessment


@dataclass(frozen=True, slots=True)
class LaneView:
    """One lane of a case: its stamp, how often it was filed or answered, its points, rounds, clock and moves.

    ``id`` is empty for the common lane and ``part.n`` for the others. ``clock`` is None while nothing of it runs.
    """

    id: str
    title: str
    state: State
    version: int
    clock: ClockView | None
    points: tuple[PointToAsk, ...]
    rounds: tuple[RoundView, ...]
    moves: tuple[Move, ...]
    asked: int
    judged: int
    next_officer: str
    next_applicant: str


def lanes_of(sheet: Sheet) -> tuple[str, ...]:
    """The lanes besides the common one: one for each repeat of the part that the edition names."""
    lanes = sheet.rulebook.edition.lanes
    if lanes is None or not isinstance(sheet.values.get(lanes.each), list):
        return ()
    return tuple(f"{lanes.each}.{no}" for no in sheet.numbers(lanes.each))


def completes(assessment: Assessment, lane: str) -> bool:
    """True if the whole case is complete as soon as this lane is."""
    if not assessment.lane_ids:
        return True
    if lane:
        return assessment.common.accepted is not None and assessment.case.accepted is None
    return any(own.accepted and not own.ended for own in assessment.common.lanes.values())


def their_lane(assessment: Assessment) -> LaneAtHand | None:
    """The lane with the applicant's nearest limit, where in another lane the office has something to do; else None."""
    lanes = assessment.lanes_at_hand.values() if assessment.lane_ids else ()
    running = [lane for lane in lanes if lane.clock and lane.clock.limit_day]
    theirs = [lane for lane in running if lane.clock and lane.clock.holder == "theirs"]
    if not theirs or len(theirs) == len(running):
        return None
    return min(theirs, key=lambda lane: (lane.clock and lane.clock.limit_day, lane.title))


def _not_here(whole: Assessment) -> str:
    """Why nothing is to be filed here by what was answered, unless somebody insists who may."""
    decided = whole.way_in
    if decided is None or not decided.stops or (decided.insist and whole.dossier.insists):
        return ""
    told = {"because": decided.because, "law": whole.rulebook.edition.law, "article": decided.article}
    return say("{because} ({law} art. {article})", **told)


class LaneAtHand:
    """What is worked out for one lane; the common lane of a kind without lanes is the whole case."""

    def __init__(self, whole: Assessment, id_: str) -> None:
        self.whole, self.id = whole, id_

    @cached_property
    def case(self) -> CaseSoFar:
        """The case as this lane sees it."""
        return in_lane(self.whole.common, self.id)

    @cached_property
    def requirements(self) -> tuple[Requirement, ...]:
        """The checklist of this lane."""
        split = self.whole.rulebook.edition.lanes is not None
        return tuple(r for r in self.whole.requirements if r.lane == self.id) if split else self.whole.requirements

    @cached_property
    def points(self) -> tuple[PointToAsk, ...]:
        """The points of its next letter."""
        if not self.case.filed:
            return ()
        return points_to_ask(self.whole.rulebook, self.requirements, self.case, self.whole.sheet)

    @cached_property
    def rounds(self) -> tuple[RoundView, ...]:
        """Its letters and what came back."""
        w = self.whole
        words = w.words if self.id == w.words_in else {}
        return tuple(
            round_view(w.rulebook, r, w.history.versions, w.dossier, self.case, words, self.id) for r in self.case.rounds
        )

    @cached_property
    def moves(self) -> tuple[Move, ...]:
        """What each role can do in it."""
        w, latest = self.whole, self.rounds[-1] if self.rounds else None
        by_post = w.clock_rules.answers.posted
        changed = w.changed_since_signed if self.case.open_round else ()
        again = signed_before(w.rulebook, changed) if changed else ""
        seen = (self.requirements, w.left, w.fees, w.account, self.points, latest, self.id)
        made = moves(w.rulebook, w.case, self.case, *seen, by_post, again, _not_here(w))
        return made if self.id else (*made, *inspecting(w.rulebook, w.case))

    @cached_property
    def clock(self) -> ClockView | None:
        """Its running period; None while nothing of it runs."""
        rules = self.whole.rulebook
        if rules.edition.lanes is not None and (self.case.accepted or self.case.ended):
            return None
        own = rules.lane_clock(self.whole.clock_rules) if self.id else self.whole.clock_rules
        return clock(self.case, own, self.whole.known.calendar, self.whole.now, self.whole.rulebook.edition.grants)

    @property
    def limit_at(self) -> datetime | None:
        """The last instant of the running period."""
        return self.clock.limit_at if self.clock else None

    @property
    def title(self) -> str:
        """What it is called."""
        part, _, number = self.id.partition(".")
        lanes = self.whole.rulebook.edition.lanes
        return self.whole.sheet.called(part, number) if self.id else lanes.common if lanes else ""

    @cached_property
    def view(self) -> LaneView:
        """It as people see it."""
        counted = [r for r in self.requirements if r.asked]
        return LaneView(
            self.id,
            self.title,
            self.case.state,
            (1 if self.case.first_filed else 0) + sum(r.answered_at is not None for r in self.case.rounds),
            self.clock,
            self.points,
            self.rounds,
            self.moves,
            len(counted),
            sum(r.judged for r in counted),
            next_officer(self.case, self),
            next_applicant(self.case, self),
        )
