"""THE one door: everything that the rules say about a case, for every role, at one instant.

``assess(rulebook, dossier, history, known, now)`` is pure: the same values give the same assessment.
"""

from __future__ import annotations

from datetime import date, datetime
from decimal import Decimal
from functools import cached_property, partial

from jolly_clerk.core.case_sheet import read_case
from jolly_clerk.core.checklist import CaseAtHand, Requirement, checklist
from jolly_clerk.core.clock import ClockView, clock
from jolly_clerk.core.closing import opened_over
from jolly_clerk.core.corrections import PointToAsk, RoundView
from jolly_clerk.core.dossier.adding import fresh_items, is_added, places_that_stay
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.dossier.signing import changed_since_signed
from jolly_clerk.core.fees.account import ENDING_EARLY, Account, Refund, account_of, refund
from jolly_clerk.core.fees.debts import Debt, debts_of, may_wait, planned
from jolly_clerk.core.fees.lines import FeeSheet
from jolly_clerk.core.fees.sheet import fee_sheet, reckon
from jolly_clerk.core.form import Sheet
from jolly_clerk.core.form_views import (
    Altered,
    ComputedView,
    PartView,
    PathwayView,
    SectionView,
    WayIn,
    altered,
    case_title,
    computed_views,
    part_views,
    pathway,
    section_views,
    way_in,
)
from jolly_clerk.core.history import NO_HISTORY, History
from jolly_clerk.core.known import Known
from jolly_clerk.core.lanes import LaneAtHand, LaneView, lanes_of
from jolly_clerk.core.lifecycle import CaseSoFar, fold, in_lane, joined
from jolly_clerk.core.locking import locked_places
from jolly_clerk.core.moves import Move, WhyNot, judging
from jolly_clerk.core.next_step import next_step
from jolly_clerk.core.permit import PermitView, permit_view
from jolly_clerk.core.roles import OFFICERS, Role
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.rulebook.model import Clock
from jolly_clerk.core.rulebook.said import Stage
from jolly_clerk.core.say import say
from jolly_clerk.core.states import State


class Assessment:
    """All that can be said about a case at one instant.

    Each section is computed when it is first looked at, from the same values, and kept. In a case with lanes ``points``,
    ``rounds`` and what is done lane by lane among ``moves`` are those of the common lane; ``clock`` is then the one that runs out
    first, and ``clock_of`` the title of its lane.

    >>> found = assess(rulebook, dossier, known=known, now=now)
    >>> found.state, found.fees.total("at filing").amount
    ('Draft', Decimal('438.18'))
    """

    def __init__(
        self,
        rulebook: Rulebook,
        dossier: Dossier,
        history: History,
        known: Known,
        now: datetime,
        words: dict[int, str],
        words_in: str,
        adds: str = "",
    ) -> None:
        self.rulebook, self.dossier, self.history, self.now = rulebook, dossier, history, now
        self.known = opened_over(known, history.entries)
        self.words, self.words_in, self.adds = words, words_in, adds

    @cached_property
    def common(self) -> CaseSoFar:
        """The history, folded; of a case with lanes as its common lane sees it."""
        return fold(self.history.entries)

    @cached_property
    def case(self) -> CaseSoFar:
        """The history, folded; of a case with lanes over all of them."""
        return joined(self.common, self.lane_ids)

    @cached_property
    def sheet(self) -> Sheet:
        """The answers, read, and the computed answers over fees, reckoned."""
        found = read_case(self.rulebook, self.dossier, self.common, self.known, self.now)
        if self.rulebook.late:
            found.values.update(reckon(found, self.common.fees_set)[1])
        return found

    @cached_property
    def lane_ids(self) -> tuple[str, ...]:
        """The lanes besides the common one, as ``sites.2``."""
        return lanes_of(self.sheet)

    @cached_property
    def lanes_at_hand(self) -> dict[str, LaneAtHand]:
        """What is worked out lane by lane, the common lane (``""``) first."""
        return {id_: LaneAtHand(self, id_) for id_ in ("", *self.lane_ids)}

    @property
    def edition(self) -> str:
        """The edition that decides, as ``BW 2026-07-01``."""
        return self.rulebook.edition.id

    @property
    def state(self) -> State:
        """The stamp."""
        return self.case.state

    @cached_property
    def title(self) -> str:
        """What the case is called, from its answers."""
        return case_title(self.rulebook, self.sheet)

    @property
    def version(self) -> int:
        """How often it was filed or answered."""
        return self.case.version

    @property
    def filing_day(self) -> date:
        """The day of filing by the office's calendar; today in a draft."""
        day: date = self.sheet.values["case.filed"]
        return day

    @property
    def filing_day_assumed(self) -> bool:
        """True in a draft, where the filing day is today."""
        return self.case.filed is None

    @cached_property
    def parts(self) -> tuple[PartView, ...]:
        """The form as it stands: parts with their questions."""
        return part_views(self.sheet, self.left)

    @cached_property
    def sections(self) -> tuple[SectionView, ...]:
        """The pages of a filing: the parts, then the documents and the signature, each with what is left in it."""
        return section_views(self.parts, self.left)

    @cached_property
    def computed(self) -> tuple[ComputedView, ...]:
        """The computed answers with their workings."""
        return computed_views(self.sheet)

    @cached_property
    def changed_since_signed(self) -> tuple[str, ...]:
        """The parts, slots and ticks that are not what was signed."""
        return changed_since_signed(self.dossier)

    @cached_property
    def requirements(self) -> tuple[Requirement, ...]:
        """The checklist."""
        registers = {**self.known.registers, **self.case.registers}
        return checklist(
            CaseAtHand(
                self.rulebook,
                self.dossier,
                self.sheet,
                self.fees,
                self.case,
                self.known.readings,
                registers,
                may_wait(self.debts),
                self.changed_since_signed,
            )
        )

    @cached_property
    def left(self) -> tuple[WhyNot, ...]:
        """Everything the applicant has still to do before filing, each with its very place."""
        return tuple(
            WhyNot(_left_words(r, self.sheet), r.places[0], r.title)
            for r in self.requirements
            if r.kind in _LEFT and r.proposed == "wanting" and r.stops_filing and self._is_of_it(r)
        )

    @cached_property
    def _added(self) -> frozenset[int]:
        """The repeats that a draft adds to the case."""
        return fresh_items(self.history.versions[-1].dossier, self.dossier, self.adds)

    def _is_of_it(self, r: Requirement) -> bool:
        """True for what is left of what a draft adds to a case; for everything where it adds nothing."""
        if not self.adds or r.kind == "signature":
            return True
        return any(is_added(place.ref, self.adds, self._added, self.rulebook) for place in r.places)

    @cached_property
    def fees(self) -> FeeSheet:
        """The fee sheet."""
        return fee_sheet(self.sheet, self.case.fees_set)

    @cached_property
    def account(self) -> Account:
        """What is owed and paid."""
        return account_of(self.rulebook, self.case, self.fees, self.debts)

    def debts_in(self, stage: Stage, amount: Decimal, began: datetime) -> tuple[Debt, ...]:
        """How so much would be owed in a stage that began at this instant; nothing where nothing is due."""
        calendar = self.known.calendar
        return planned(self.rulebook, self.sheet, stage, amount, calendar.local_day(began), calendar)

    @cached_property
    def debts(self) -> tuple[Debt, ...]:
        """What is owed, by whom and when, where the edition says more than that it is owed at once by the applicant."""
        return debts_of(self.rulebook, self.sheet, self.case, self.fees, self.known.calendar, self.now)

    @cached_property
    def refunds(self) -> tuple[Refund, ...]:
        """What would come back, for each way in which the case could end now."""
        if self.case.first_filed is None or self.case.ended:
            return ()
        ends = partial(refund, self.rulebook, self.case, self.fees, calendar=self.known.calendar, now=self.now)
        return tuple(ends(ending) for ending in ENDING_EARLY)

    @cached_property
    def way_in(self) -> WayIn | None:
        """What the way in says."""
        return way_in(self.sheet)

    @cached_property
    def pathway(self) -> PathwayView | None:
        """The route that the answers choose."""
        return pathway(self.sheet)

    @cached_property
    def altered(self) -> tuple[Altered, ...]:
        """Answers that differ from what a register or the profile gave."""
        return altered(self.rulebook, self.dossier)

    @cached_property
    def permit(self) -> PermitView | None:
        """How what was granted stands, and its days; None before it is issued."""
        return permit_view(self.sheet, self.case, self.known.calendar, self.known.calendar.local_day(self.now))

    @cached_property
    def clock_rules(self) -> Clock:
        """The periods of this case, by its pathway and answers."""
        return self.rulebook.clock_for(self.sheet.values)

    @cached_property
    def _running(self) -> tuple[ClockView | None, str]:
        """The clock of the case, and whose lane it is: the limit that comes first while lanes are open, else that of the decision."""
        if not self.lane_ids:
            return self.lanes_at_hand[""].clock, ""
        case, running = self.case, [lane for lane in self.lanes_at_hand.values() if lane.limit_at]
        if case.filed is None or case.covered_at is None or case.accepted or case.ended or not running:
            return clock(case, self.clock_rules, self.known.calendar, self.now, self.rulebook.edition.grants), ""
        nearest = min(running, key=lambda lane: lane.limit_at or self.now)
        return nearest.clock, nearest.title

    @property
    def clock(self) -> ClockView | None:
        """The running period, and who held the case each day; None in a draft."""
        return self._running[0]

    @property
    def clock_of(self) -> str:
        """The title of the lane whose clock :attr:`clock` is; empty in a case without lanes."""
        return self._running[1]

    @property
    def points(self) -> tuple[PointToAsk, ...]:
        """The points that the next letter would ask."""
        return self.lanes_at_hand[""].points

    @property
    def rounds(self) -> tuple[RoundView, ...]:
        """The letters and what came back."""
        return self.lanes_at_hand[""].rounds

    @cached_property
    def locked(self) -> tuple[str, ...]:
        """The places that stay as they were filed while the letter of the lane that is answered is answered, or something is added."""
        if self.adds:
            places = [q.place for part in self.parts for q in part.questions]
            places += [place.ref for r in self.requirements if r.kind in ("document", "declaration") for place in r.places]
            return tuple(places_that_stay(self.rulebook, places, self.adds, self._added))
        latest = in_lane(self.common, self.words_in).round
        return locked_places(self.rulebook, self.history.versions[-1].dossier, latest) if self.history.versions else ()

    @property
    def moves(self) -> tuple[Move, ...]:
        """What each role can do next, and why not."""
        return self.lanes_at_hand[""].moves

    @cached_property
    def next_officer(self) -> str:
        """The next thing to do for the office, in words."""
        return next_step(self, "officer")

    @cached_property
    def next_applicant(self) -> str:
        """The next thing to do for the applicant, in words."""
        return next_step(self, "applicant")

    @cached_property
    def apart(self) -> tuple[str, ...]:
        """Places of answers that no question asks for."""
        return tuple(self.sheet.apart)

    @cached_property
    def lanes(self) -> tuple[LaneView, ...]:
        """The lanes of the case, the common one first; none in a case without lanes."""
        return tuple(lane.view for lane in self.lanes_at_hand.values()) if self.lane_ids else ()

    def lane(self, id_: str) -> LaneView:
        """The lane called ``id_``; KeyError if there is none."""
        for lane in self.lanes:
            if lane.id == id_:
                return lane
        raise KeyError(id_)

    def points_in(self, lane: str) -> tuple[PointToAsk, ...]:
        """The points that the next letter of a lane would ask."""
        return self.lane(lane).points if lane else self.points

    def rounds_in(self, lane: str) -> tuple[RoundView, ...]:
        """The rounds of a lane."""
        return self.lane(lane).rounds if lane else self.rounds

    def move(self, role: Role, name: str, lane: str = "") -> Move:
        """The move of a role by name, in a lane; KeyError if there is no such move."""
        found = self.lanes_at_hand[lane]
        if name == "judge" and role in OFFICERS:
            return judging(role, found.case)
        for move in found.moves:
            if move.role == role and move.move == name:
                return move
        raise KeyError((role, name))

    def requirement(self, id_: str) -> Requirement | None:
        """The requirement called ``id_``, if it is on the list."""
        return next((r for r in self.requirements if r.id == id_), None)


_LEFT = ("answer", "document", "rule", "declaration", "signature")


def _left_words(r: Requirement, sheet: Sheet) -> str:
    if r.kind == "signature":
        return r.because
    return r.title if r.kind == "answer" and r.places[0].ref not in sheet.faults else f"{r.title}: {r.because}"


def assess(
    rulebook: Rulebook,
    dossier: Dossier,
    history: History = NO_HISTORY,
    known: Known | None = None,
    now: datetime | None = None,
    words: dict[int, str] | None = None,
    words_in: str = "",
    adds: str = "",
) -> Assessment:
    """Assess a dossier over its history.

    Args:
        rulebook: a compiled edition.
        dossier: the answers, files and signature of the latest version, or of a draft.
        history: what happened to the case; empty for a draft.
        known: the calendar, and readings of files by their hash. It defaults only so that a partial call fails loudly.
        now: an instant with its zone.
        words: the applicant's words of an answer that is still a draft, by the number of the point.
        words_in: the lane of that answer; empty for the common one.
        adds: what a draft adds to a filed case: a part, or the place of a question; empty for any other draft.

    Raises:
        ValueError: ``known`` or ``now`` is missing, or ``now`` has no zone.
    """
    if known is None or now is None or now.tzinfo is None:
        raise ValueError(say("assess needs what is known and an instant with its zone"))
    return Assessment(rulebook, dossier, history, known, now, words or {}, words_in, adds)


def outcome(assessment: Assessment) -> dict[str, str]:
    """What an edition makes of a case, by name: each stage's total, each requirement's proposed standing, the pathway."""
    told = {f"due {total.stage}": str(total.amount) for total in assessment.fees.totals}
    told |= {r.title: r.proposed for r in assessment.requirements if r.kind not in ("answer", "fee", "added")}
    told["pathway"] = assessment.pathway.title if assessment.pathway else ""
    return told
