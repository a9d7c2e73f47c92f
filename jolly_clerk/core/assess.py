"""THE one door: everything that the rules say about a case, for every role, at one instant.

``assess(rulebook, dossier, history, known, now)`` is pure: the same values give the same assessment.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, fields
from datetime import date, datetime
from functools import cached_property
from typing import TYPE_CHECKING, Any, Literal

from pydantic import TypeAdapter

from jolly_clerk.core.checklist import Checklist
from jolly_clerk.core.clock import ClockView, clock
from jolly_clerk.core.corrections import PointToAsk, RoundView, points_to_ask, round_view
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.fees.account import Account, Ending, Refund, account_of, open_amount, refund
from jolly_clerk.core.fees.sheet import FeeSheet, fee_sheet
from jolly_clerk.core.form import Sheet, read_answers
from jolly_clerk.core.form_views import (
    Altered,
    ComputedView,
    PartView,
    PathwayView,
    WayIn,
    altered,
    case_title,
    computed_views,
    part_views,
    pathway,
    way_in,
)
from jolly_clerk.core.history import NO_HISTORY, History
from jolly_clerk.core.known import Known
from jolly_clerk.core.lifecycle import CaseSoFar, State, fold, in_lane, joined
from jolly_clerk.core.moves import Move, WhyNot, moves
from jolly_clerk.core.requirements import Requirement
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.say import money, things


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


@dataclass(frozen=True)
class Assessment:
    """All that can be said about a case at one instant. ``filing_day_assumed`` is True in a draft.

    Each section is worked out when it is first asked for, from the same values; :meth:`whole` works out all of them.

    In a case with lanes ``points``, ``rounds`` and what is done lane by lane among ``moves`` are those of the common lane;
    ``clock`` is then the one that runs out first, and ``clock_of`` the title of its lane.
    """

    edition: str
    state: State
    title: str
    version: int
    filing_day: date
    filing_day_assumed: bool
    parts: tuple[PartView, ...]
    computed: tuple[ComputedView, ...]
    left: tuple[WhyNot, ...]
    requirements: tuple[Requirement, ...]
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

    if not TYPE_CHECKING:

        def __getattr__(self, name: str) -> Any:
            look, section = self.__dict__.get("_look"), _SECTIONS.get(name)
            if look is None or section is None:
                raise AttributeError(name)
            value = self.__dict__[name] = section(look)
            return value

    def whole(self) -> Assessment:
        """Itself, with every section worked out: for printing, or for handing over."""
        for section in fields(self):
            getattr(self, section.name)
        for requirement in self.requirements:
            requirement.whole()
        return self

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

    def move(self, role: str, name: str, lane: str = "") -> Move:
        """The move of a role by name, in a lane; KeyError if there is no such move."""
        for move in self.lane(lane).moves if lane else self.moves:
            if move.role == role and move.move == name:
                return move
        raise KeyError((role, name))

    def requirement(self, id_: str) -> Requirement | None:
        """The requirement called ``id_``, if it is on the list."""
        return next((r for r in self.requirements if r.id == id_), None)


ASSESSMENT: TypeAdapter[Assessment] = TypeAdapter(Assessment)


def assess(
    rulebook: Rulebook,
    dossier: Dossier,
    history: History = NO_HISTORY,
    known: Known | None = None,
    now: datetime | None = None,
    words: dict[int, str] | None = None,
    words_in: str = "",
) -> Assessment:
    """Assess a dossier over its history.

    ``known`` gives the calendar and the readings, ``now`` an instant with its zone; both must be
    given (they default only so that partial calls fail loudly here). ``words`` are the applicant's
    words of an answer in the lane ``words_in`` that is still a draft, by the number of the point. Raises ValueError for a
    ``now`` without a zone.
    """
    if known is None or now is None or now.tzinfo is None:
        raise ValueError("assess needs what is known and an instant with its zone")
    made = object.__new__(Assessment)
    made.__dict__["_look"] = _Looking(rulebook, dossier, history, known, now, words or {}, words_in)
    return made


def _lanes_of(sheet: Sheet) -> tuple[str, ...]:
    """The lanes besides the common one: one for each repeat of the part that the edition names."""
    lanes = sheet.rulebook.edition.lanes
    if lanes is None or not isinstance(sheet.values.get(lanes.each), list):
        return ()
    return tuple(f"{lanes.each}.{no}" for no in sheet.numbers(lanes.each))


@dataclass(frozen=True)
class _Looking:
    """What every section is worked out from, each piece once."""

    rulebook: Rulebook
    dossier: Dossier
    history: History
    known: Known
    now: datetime
    words: dict[int, str]
    words_in: str

    @cached_property
    def common(self) -> CaseSoFar:
        return fold(self.history.entries)

    @cached_property
    def sheet(self) -> Sheet:
        return read_case(self.rulebook, self.dossier, self.common, self.known, self.now)

    @cached_property
    def sites(self) -> tuple[str, ...]:
        return _lanes_of(self.sheet)

    @cached_property
    def case(self) -> CaseSoFar:
        return joined(self.common, self.sites)

    @cached_property
    def fees(self) -> FeeSheet:
        return fee_sheet(self.sheet, self.case.fees_set)

    @cached_property
    def found(self) -> tuple[Requirement, ...]:
        registers = {**self.known.registers, **self.case.registers}
        return Checklist(self.rulebook, self.dossier, self.sheet, self.fees, self.case, self.known.readings, registers).all()

    @cached_property
    def left(self) -> tuple[WhyNot, ...]:
        return _left(self.sheet, self.found)

    @cached_property
    def by_lane(self) -> dict[str, _Lane]:
        return {id_: _Lane(self, id_) for id_ in ("", *self.sites)}

    @cached_property
    def lanes(self) -> tuple[LaneView, ...]:
        return tuple(lane.view for lane in self.by_lane.values())

    @cached_property
    def running(self) -> tuple[ClockView | None, str]:
        """The clock of the case, and whose lane it is: the limit that comes first while lanes are open, else that of the decision."""
        if not self.sites:
            return self.by_lane[""].clock, ""
        case, running = self.case, [lane for lane in self.by_lane.values() if lane.limit_at]
        if case.filed is None or case.covered_at is None or case.accepted or case.ended or not running:
            return clock(case, self.rulebook.edition.clock, self.known.calendar, self.now), ""
        nearest = min(running, key=lambda lane: lane.limit_at or self.now)
        return nearest.clock, nearest.title


@dataclass(frozen=True)
class _Lane:
    """What is worked out for one lane; the common lane of a kind without lanes is the whole case."""

    look: _Looking
    id: str

    @cached_property
    def case(self) -> CaseSoFar:
        return in_lane(self.look.common, self.id)

    @cached_property
    def found(self) -> tuple[Requirement, ...]:
        split = self.look.rulebook.edition.lanes is not None
        return tuple(r for r in self.look.found if r.lane == self.id) if split else self.look.found

    @cached_property
    def points(self) -> tuple[PointToAsk, ...]:
        return points_to_ask(self.look.rulebook, self.found, self.case, self.look.sheet) if self.case.filed else ()

    @cached_property
    def rounds(self) -> tuple[RoundView, ...]:
        k = self.look
        words = k.words if self.id == k.words_in else {}
        return tuple(
            round_view(k.rulebook, r, k.history.versions, k.dossier, self.case, words, self.id) for r in self.case.rounds
        )

    @cached_property
    def moves(self) -> tuple[Move, ...]:
        k, latest = self.look, self.rounds[-1] if self.rounds else None
        return moves(k.rulebook, k.case, self.case, self.found, k.left, k.fees, self.points, latest, self.id)

    @cached_property
    def clock(self) -> ClockView | None:
        rules = self.look.rulebook
        if rules.edition.lanes is not None and (self.case.accepted or self.case.ended):
            return None
        return clock(self.case, rules.lane_clock if self.id else rules.edition.clock, self.look.known.calendar, self.look.now)

    @property
    def limit_at(self) -> datetime | None:
        return self.clock.limit_at if self.clock else None

    @property
    def title(self) -> str:
        part, _, number = self.id.partition(".")
        lanes = self.look.rulebook.edition.lanes
        return self.look.sheet.called(part, number) if self.id else lanes.common if lanes else ""

    @property
    def next_officer(self) -> str:
        if self.look.sites and self.case.accepted and not self.case.ended:
            return "Nothing: this part is complete"
        return _next_officer(self.case, self)

    @property
    def next_applicant(self) -> str:
        return _next_applicant(self.case, self)

    @cached_property
    def view(self) -> LaneView:
        counted = [r for r in self.found if r.asked]
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
            self.next_officer,
            self.next_applicant,
        )


def _next(look: _Looking, role: Literal["officer", "applicant"]) -> str:
    """What comes next for a role; in a case with lanes in the one whose limit is nearest among those that wait for it."""
    mine = ("Being checked", "Answers came back") if role == "officer" else ("Answers wanted",)
    waiting = [lane for lane in look.by_lane.values() if lane.case.state in mine and lane.limit_at] if look.sites else []
    if not waiting:
        whole = look.by_lane[""]
        return _next_officer(look.case, whole) if role == "officer" else _next_applicant(look.case, whole)
    first = min(waiting, key=lambda lane: lane.limit_at or look.now)
    return f"{first.title}: {first.next_officer if role == 'officer' else first.next_applicant}"


_SECTIONS: dict[str, Callable[[_Looking], Any]] = {
    "edition": lambda k: k.rulebook.edition.id,
    "state": lambda k: k.case.state,
    "title": lambda k: case_title(k.rulebook, k.sheet),
    "version": lambda k: k.case.version,
    "filing_day": lambda k: k.sheet.values["case.filed"],
    "filing_day_assumed": lambda k: k.case.filed is None,
    "parts": lambda k: part_views(k.sheet, k.left),
    "computed": lambda k: computed_views(k.sheet),
    "left": lambda k: k.left,
    "requirements": lambda k: k.found,
    "fees": lambda k: k.fees,
    "account": lambda k: account_of(k.rulebook, k.case, k.fees),
    "refunds": lambda k: _refunds(k.rulebook, k.case, k.fees),
    "way_in": lambda k: way_in(k.sheet),
    "pathway": lambda k: pathway(k.sheet),
    "altered": lambda k: altered(k.rulebook, k.dossier),
    "clock": lambda k: k.running[0],
    "clock_of": lambda k: k.running[1],
    "points": lambda k: k.by_lane[""].points,
    "rounds": lambda k: k.by_lane[""].rounds,
    "moves": lambda k: k.by_lane[""].moves,
    "next_officer": lambda k: _next(k, "officer"),
    "next_applicant": lambda k: _next(k, "applicant"),
    "apart": lambda k: tuple(k.sheet.apart),
    "lanes": lambda k: k.lanes if k.sites else (),
}


def outcome(assessment: Assessment) -> dict[str, str]:
    """What an edition makes of a case, by name: each stage's total, each requirement's proposed standing, the pathway."""
    told = {f"due {total.stage}": str(total.amount) for total in assessment.fees.totals}
    told |= {r.title: r.proposed for r in assessment.requirements if r.kind not in ("answer", "fee", "added")}
    told["pathway"] = assessment.pathway.title if assessment.pathway else ""
    return told


def read_case(rulebook: Rulebook, dossier: Dossier, case: CaseSoFar, known: Known, now: datetime) -> Sheet:
    """The answers of a case read over its rulebook at an instant."""
    today = known.calendar.local_day(now)
    filed = known.calendar.local_day(case.filed.at) if case.filed else today
    payments = [(known.calendar.local_day(p.at), p.amount - p.prepaid) for p in case.payments]
    issued = known.calendar.local_day(case.granted.at) if case.granted else None
    extensions = sum(r.extended for r in case.rounds)
    return read_answers(rulebook, dossier.answers, filed, today, known.calendar, payments, issued, extensions)


def _refunds(rulebook: Rulebook, case: CaseSoFar, fees: FeeSheet) -> tuple[Refund, ...]:
    if case.first_filed is None or case.ended:
        return ()
    endings: tuple[Ending, ...] = ("withdrawn", "out of scope", "not accepted", "lapsed")
    return tuple(refund(rulebook, case, fees, ending) for ending in endings)


def _left(sheet: Sheet, found: tuple[Requirement, ...]) -> tuple[WhyNot, ...]:
    """Everything the applicant has still to do, each with its very place."""
    return tuple(
        WhyNot(_left_words(r, sheet), r.places[0])
        for r in found
        if r.proposed == "wanting" and r.stops_filing and r.kind in ("answer", "document", "rule", "declaration", "signature")
    )


def _left_words(r: Requirement, sheet: Sheet) -> str:
    if r.kind == "signature":
        return r.because
    return r.title if r.kind == "answer" and r.places[0].ref not in sheet.faults else f"{r.title}: {r.because}"


def _next_officer(case: CaseSoFar, lane: _Lane) -> str:
    """The next thing to do in a lane, or in a case as its common lane has it."""
    found, latest, points = lane.found, lane.rounds[-1] if lane.rounds else None, lane.points
    files = sum(len(r.files) for r in found if r.kind == "document")
    if case.state == "Filed":
        return f"Begin checking, {things(files, 'file')} read"
    if case.state in ("Being checked", "Answers came back"):
        if case.fees_waiting:
            return f"Second person: a fee set by hand, {', '.join(case.fees_waiting)}"
        if any(m.allowed and m.move == "accept as complete" for m in lane.moves):
            return "Accept: all met, paid"
        waiting = [p for p in (latest.points if latest and latest.answered_at else ()) if p.state == "answered"]
        if waiting:
            fresh = sum(1 for p in waiting for c in p.changes if c.kind.startswith("file"))
            return f"Read {things(len(waiting), 'answer')}" + (f", {things(fresh, 'new file')}" if fresh else "")
        unjudged = [r for r in found if r.asked and not r.judged]
        if unjudged:
            return f"Judge {len(unjudged)}, next: {_apart(unjudged[0].title, lane)}"
        if points:
            return f"Send the letter, {things(len(points), 'point')}"
        doubt = next((r for r in found if r.standing == "in doubt"), None)
        return f"Settle the doubt: {_apart(doubt.title, lane)}" if doubt else "See what stops acceptance"
    return {
        "Draft": "Not filed yet",
        "Waiting for payment": "Payment of what is due at filing",
        "Answers wanted": f"Answers to {things(len(latest.points), 'point')}" if latest else "",
        "Complete": "Hand over to a reviewer" if case.check_covered_at else "Payment of what fell due after the check",
        "Under review": "Decide: grant or refuse",
        "Granted": "Payment of what is due at issue" if not case.issued else "Permit issued",
    }.get(case.state, "")


def _apart(title: str, lane: _Lane) -> str:
    """The title of a requirement without the name of the lane it stands in."""
    return title.removesuffix(f": {lane.title}") if lane.id else title


def _next_applicant(case: CaseSoFar, lane: _Lane) -> str:
    latest, left, fees = lane.rounds[-1] if lane.rounds else None, lane.look.left, lane.look.fees
    if case.state == "Draft" and case.taken_back:
        return "Taken back: mend it and file again"
    if case.state == "Draft":
        return f"{things(len(left), 'thing')} left before it is complete" if left else "Ready to be read over and filed"
    missing = open_amount(case, fees)
    if missing:
        return f"Pay {money(missing, fees.currency)}"
    if case.state == "Answers wanted" and latest:
        return f"Answer {things(len(latest.points), 'point')}"
    return {
        "Filed": "Nothing to do: the office will begin checking",
        "Being checked": "Nothing to do: the office is checking",
        "Answers came back": "Nothing to do: the office is reading your answers",
        "Complete": "Nothing to do: the decision comes next",
        "Under review": "Nothing to do: a reviewer decides",
        "Granted": "Your permit is here",
        "Refused": "Read the letter: it says what you can do",
        "Not accepted": "Read the letter: it says what you can do",
        "Out of scope": "Read the letter: it says what you can do",
        "Lapsed": "You may file again",
        "Withdrawn": "You may file again",
    }.get(case.state, "")
