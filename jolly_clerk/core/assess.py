"""THE one door: everything that the rules say about a case, for every role, at one instant.

``assess(rulebook, dossier, history, known, now)`` is pure: the same values give the same assessment.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime
from functools import partial
from typing import Any, Literal

from pydantic import TypeAdapter

from jolly_clerk.core.absence import UNKNOWN, is_absent
from jolly_clerk.core.corrections import PointToAsk, RoundView, points_to_ask, round_view
from jolly_clerk.core.dossier.differences import raw_answers, said_answer
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.fees.account import Account, Ending, Refund, account_of, open_amount, refund
from jolly_clerk.core.fees.currency import to_coin
from jolly_clerk.core.fees.sheet import FeeSheet, Lazy, fee_sheet, value_working
from jolly_clerk.core.form import Sheet, question_at, read_answers
from jolly_clerk.core.history import NO_HISTORY, History
from jolly_clerk.core.known import Known
from jolly_clerk.core.lifecycle import CaseSoFar, State, fold, in_lane, joined
from jolly_clerk.core.moves import Move, WhyNot, moves
from jolly_clerk.core.requirements import Requirement, requirements
from jolly_clerk.core.rulebook.compiled import ComputedValue, Rulebook
from jolly_clerk.core.say import money, say, things
from jolly_clerk.core.time.clock import ClockView, clock


@dataclass(frozen=True, slots=True)
class QuestionView:
    """A question as it stands: ``asked`` is ``yes``, ``no`` or ``not known yet``; ``left`` tells that it still needs an answer.

    ``offered`` are the choices that are open now, where they depend on another answer.
    """

    place: str
    asked: str
    raw: Any
    fault: str
    left: bool
    because: str
    offered: tuple[str, ...] | None = None


@dataclass(frozen=True, slots=True)
class PartView:
    """A part of the form with what is left in it."""

    id: str
    title: str
    left: int
    questions: tuple[QuestionView, ...]


@dataclass(frozen=True, slots=True)
class ComputedView:
    """A computed answer with its working; ``beside`` are the questions it is shown beside."""

    id: str
    title: str
    value: str
    working: Lazy
    help: str
    beside: tuple[str, ...]
    article: str


@dataclass(frozen=True, slots=True)
class WayIn:
    """The way in: the branch that decides, or the questions that it hangs on."""

    branch: str
    then: Literal["", "needed", "not needed", "belongs elsewhere"]
    because: str
    article: str
    depends_on: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class PathwayView:
    """The pathway that the answers choose; empty while it is not known."""

    id: str
    title: str
    says: str
    article: str


@dataclass(frozen=True, slots=True)
class Altered:
    """An answer that differs from what a register gave."""

    place: str
    label: str
    was: str
    now: str
    source: str


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


@dataclass(frozen=True, slots=True)
class Assessment:
    """All that can be said about a case at one instant. ``filing_day_assumed`` is True in a draft.

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
    lanes: tuple[LaneView, ...] = ()
    clock_of: str = ""

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
    common = fold(history.entries)
    sheet = read_case(rulebook, dossier, common, known, now)
    lanes = _lanes_of(sheet)
    case = joined(common, lanes)
    fees = fee_sheet(sheet, case.fees_set)
    found = requirements(rulebook, dossier, sheet, fees, case, known.readings, {**known.registers, **case.registers})
    look = _Looking(rulebook, dossier, history, known, now, case, sheet, fees, found, _left(sheet, found), words or {}, words_in)
    whole = look.lane("", in_lane(common, ""))
    sites = [look.lane(lane, in_lane(common, lane)) for lane in lanes]
    running, whose = _running(case, (whole, *sites), rulebook, known, now)
    return Assessment(
        edition=rulebook.edition.id,
        state=case.state,
        title=_title(rulebook, sheet),
        version=case.version,
        filing_day=sheet.values["case.filed"],
        filing_day_assumed=case.filed is None,
        parts=_parts(sheet),
        computed=_computed(sheet),
        left=look.left,
        requirements=found,
        fees=fees,
        account=account_of(rulebook, case, fees),
        refunds=_refunds(rulebook, case, fees),
        way_in=way_in(sheet),
        pathway=_pathway(sheet),
        altered=altered(rulebook, dossier),
        clock=running,
        points=whole.points,
        rounds=whole.rounds,
        moves=whole.moves,
        next_officer=_next_of((whole, *sites), "officer") or _next_officer(case, found, whole),
        next_applicant=_next_of((whole, *sites), "applicant") or _next_applicant(case, look.left, whole.rounds, fees),
        apart=tuple(sheet.apart),
        lanes=(whole, *sites) if sites else (),
        clock_of=whose,
    )


def _lanes_of(sheet: Sheet) -> tuple[str, ...]:
    """The lanes besides the common one: one for each repeat of the part that the edition names."""
    lanes = sheet.rulebook.edition.lanes
    if lanes is None or not isinstance(sheet.values.get(lanes.each), list):
        return ()
    return tuple(f"{lanes.each}.{no}" for no in sheet.numbers(lanes.each))


@dataclass(frozen=True, slots=True)
class _Looking:
    """What every lane is looked at with."""

    rulebook: Rulebook
    dossier: Dossier
    history: History
    known: Known
    now: datetime
    whole: CaseSoFar
    sheet: Sheet
    fees: FeeSheet
    found: tuple[Requirement, ...]
    left: tuple[WhyNot, ...]
    words: dict[int, str]
    words_in: str

    def lane(self, id_: str, case: CaseSoFar) -> LaneView:
        rules, edition = self.rulebook, self.rulebook.edition
        found = tuple(r for r in self.found if r.lane == id_) if edition.lanes else self.found
        points = points_to_ask(rules, found, case, self.sheet) if case.filed else ()
        words = self.words if id_ == self.words_in else {}
        rounds = tuple(round_view(rules, r, self.history.versions, self.dossier, case, words, id_) for r in case.rounds)
        latest = rounds[-1] if rounds else None
        all_moves = moves(rules, self.whole, case, found, self.left, self.fees, points, latest, id_)
        running = None
        if edition.lanes is None or not (case.accepted or case.ended):
            running = clock(case, rules.lane_clock if id_ else edition.clock, self.known.calendar, self.now)
        part, _, number = id_.partition(".")
        title = self.sheet.called(part, number) if id_ else edition.lanes.common if edition.lanes else ""
        counted = [r for r in found if r.asked]
        made = LaneView(
            id_,
            title,
            case.state,
            (1 if case.first_filed else 0) + sum(r.answered_at is not None for r in case.rounds),
            running,
            points,
            rounds,
            all_moves,
            len(counted),
            sum(r.judged for r in counted),
            "",
            _next_applicant(case, self.left, rounds, self.fees),
        )
        if edition.lanes and case.accepted and not case.ended:
            return replace(made, next_officer="Nothing: this part is complete")
        return replace(made, next_officer=_next_officer(case, found, made))


def _running(
    case: CaseSoFar, lanes: Sequence[LaneView], rulebook: Rulebook, known: Known, now: datetime
) -> tuple[ClockView | None, str]:
    """The clock of the case, and whose lane it is: the limit that comes first while lanes are open, else that of the decision."""
    if len(lanes) == 1:
        return lanes[0].clock, ""
    running = [lane for lane in lanes if lane.clock and lane.clock.limit_at]
    if case.filed is None or case.covered_at is None or case.accepted or case.ended or not running:
        return clock(case, rulebook.edition.clock, known.calendar, now), ""
    nearest = min(running, key=lambda lane: lane.clock.limit_at if lane.clock and lane.clock.limit_at else now)
    return nearest.clock, nearest.title


def _next_of(lanes: Sequence[LaneView], role: Literal["officer", "applicant"]) -> str:
    """What comes next in a case with lanes: the lane whose limit is nearest among those that wait for this role."""
    mine = ("Being checked", "Answers came back") if role == "officer" else ("Answers wanted",)
    waiting = [lane for lane in lanes if lane.state in mine and lane.clock and lane.clock.limit_at] if len(lanes) > 1 else []
    if not waiting:
        return ""
    first = min(waiting, key=lambda lane: lane.clock.limit_at if lane.clock and lane.clock.limit_at else datetime.max)
    return f"{first.title}: {first.next_officer if role == 'officer' else first.next_applicant}"


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


def way_in(sheet: Sheet) -> WayIn | None:
    """The first branch that holds; it stops at the first that is not known, and says what it hangs on."""
    for compiled in sheet.rulebook.branches:
        holds = True if compiled.when is None else compiled.when.holds(sheet.values)
        if holds is UNKNOWN:
            return WayIn("", "", "", "", tuple(sheet.deciding(compiled.when)))
        if holds:
            branch = compiled.branch
            return WayIn(branch.id, branch.then, compiled.because.fill(sheet.values).strip(), branch.article, ())
    return None


def _pathway(sheet: Sheet) -> PathwayView | None:
    for compiled in sheet.rulebook.pathways:
        holds = True if compiled.when is None else compiled.when.holds(sheet.values)
        if holds is UNKNOWN:
            return None
        if holds:
            p = compiled.pathway
            return PathwayView(p.id, p.title, p.says, p.article)
    return None


def altered(rulebook: Rulebook, dossier: Dossier) -> tuple[Altered, ...]:
    """The answers that a register gave and that were changed since."""
    flat = raw_answers(dossier) if dossier.prefilled else {}
    found = []
    for given in dossier.prefilled:
        now = said_answer(rulebook, given.place, flat.get(given.place))
        was = said_answer(rulebook, given.place, given.value)
        if now != was:
            register = rulebook.edition.registers.get(given.source)
            title = register.title if register else given.source
            found.append(Altered(given.place, rulebook.label(given.place), was, now or "nothing", title))
    return tuple(found)


def _title(rulebook: Rulebook, sheet: Sheet) -> str:
    text = rulebook.case_title
    values = [None if isinstance(p, str) else p.value(sheet.values) for p in text.pieces]
    if all(v is None or is_absent(v) for v in values):
        return rulebook.edition.title
    said = [
        p if isinstance(p, str) else "" if is_absent(v) else text.said(p, sheet.values)
        for p, v in zip(text.pieces, values, strict=True)
    ]
    return "".join(said).strip(" ,") or rulebook.edition.title


def _parts(sheet: Sheet) -> tuple[PartView, ...]:
    made = []
    for part in sheet.rulebook.parts.values():
        questions = tuple(_question(sheet, place, sheet.asked[place]) for place in sheet.places_in(part.id))
        made.append(PartView(part.id, part.title, sum(q.left for q in questions), questions))
    return tuple(made)


def _question(sheet: Sheet, place: str, asked: Any) -> QuestionView:
    node = question_at(sheet.rulebook, place)
    assert node is not None
    raw, fault = sheet.raw.get(place), sheet.faults.get(place, "")
    left = asked is True and (bool(fault) or (raw is None and place not in sheet.may_stay_open))
    because = ""
    if asked is UNKNOWN:
        labels = [sheet.rulebook.label(p) for p in sheet.deciding(node.when)]
        because = "Depends on " + " and ".join(f"“{x}”" for x in labels) + "." if labels else ""
    said = "yes" if asked is True else "no" if asked is False else "not known yet"
    own = sheet.own(place.rpartition(".")[0]) if node.part.each else sheet.values
    offered = tuple(node.offered(own)) if node.option_when else None
    return QuestionView(place, said, raw, fault if asked is True else "", left, because, offered)


def _computed(sheet: Sheet) -> tuple[ComputedView, ...]:
    made = []
    for node in sheet.rulebook.computed.values():
        part = node.value.each
        if part is None:
            made.append(_computed_one(sheet, node, sheet.values, node.key, tuple(node.value.beside)))
            continue
        for own in sheet.items.get(part, ()) if node.value.beside else ():
            beside = tuple(f"{part}.{own.item['id']}.{b.rpartition('.')[2]}" for b in node.value.beside)
            made.append(_computed_one(sheet, node, own, f"{part}.{own.item['id']}.{node.value.id}", beside))
    return tuple(made)


def _computed_one(
    sheet: Sheet, node: ComputedValue, values: Mapping[str, Any], id_: str, beside: tuple[str, ...]
) -> ComputedView:
    value, v = values[node.key], node.value
    said = money(to_coin(value)) if node.key in sheet.rulebook.money_names and not is_absent(value) else say(value)
    working = partial(value_working, sheet, node, values)
    return ComputedView(id_, v.title, said, working, v.help or "", beside, v.article)


def _left(sheet: Sheet, found: tuple[Requirement, ...]) -> tuple[WhyNot, ...]:
    """Everything the applicant has still to do, each with its very place."""
    return tuple(
        WhyNot(_left_words(r, sheet), r.places[0])
        for r in found
        if r.proposed == "wanting" and r.stops_filing and r.kind in ("answer", "document", "rule", "signature")
    )


def _left_words(r: Requirement, sheet: Sheet) -> str:
    if r.kind == "signature":
        return r.because
    return r.title if r.kind == "answer" and r.places[0].ref not in sheet.faults else f"{r.title}: {r.because}"


def _next_officer(case: CaseSoFar, found: tuple[Requirement, ...], lane: LaneView) -> str:
    """The next thing to do in a lane, or in a case as its common lane has it."""
    latest, points = lane.rounds[-1] if lane.rounds else None, lane.points
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


def _apart(title: str, lane: LaneView) -> str:
    """The title of a requirement without the name of the lane it stands in."""
    return title.removesuffix(f": {lane.title}") if lane.id else title


def _next_applicant(case: CaseSoFar, left: tuple[WhyNot, ...], rounds: tuple[RoundView, ...], fees: FeeSheet) -> str:
    latest = rounds[-1] if rounds else None
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
