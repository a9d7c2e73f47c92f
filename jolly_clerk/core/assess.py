"""THE one door: everything that the rules say about a case, for every role, at one instant.

``assess(rulebook, dossier, history, known, now)`` is pure: the same values give the same assessment.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime
from functools import partial
from typing import Any

from pydantic import TypeAdapter

from jolly_clerk.core.absence import UNKNOWN, is_absent
from jolly_clerk.core.corrections import PointToAsk, RoundView, points_to_ask, round_view
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.fees.sheet import FeeSheet, Lazy, StageTotal, fee_sheet, to_cents, value_working
from jolly_clerk.core.form import Sheet, question_at, read_answers
from jolly_clerk.core.history import NO_HISTORY, History
from jolly_clerk.core.known import Known
from jolly_clerk.core.lifecycle import CaseSoFar, State, fold
from jolly_clerk.core.moves import Move, WhyNot, moves, open_amount
from jolly_clerk.core.requirements import Requirement, requirements
from jolly_clerk.core.rulebook.compiled import ComputedValue, Rulebook
from jolly_clerk.core.say import money, say, things
from jolly_clerk.core.time.clock import ClockView, clock


@dataclass(frozen=True, slots=True)
class QuestionView:
    """A question as it stands: ``asked`` is ``yes``, ``no`` or ``not known yet``; ``left`` tells that it still needs an answer."""

    place: str
    asked: str
    raw: Any
    fault: str
    left: bool
    because: str


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
class Account:
    """What the case owes and has paid, in the currency of the fee sheet.

    ``open`` is still to be paid now; ``over`` is paid back on acceptance.
    """

    paid: Any
    open: Any
    over: Any
    due_at_filing: StageTotal


@dataclass(frozen=True, slots=True)
class Assessment:
    """All that can be said about a case at one instant. ``filing_day_assumed`` is True in a draft."""

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
    clock: ClockView | None
    points: tuple[PointToAsk, ...]
    rounds: tuple[RoundView, ...]
    moves: tuple[Move, ...]
    next_officer: str
    next_applicant: str
    apart: tuple[str, ...]

    def move(self, role: str, name: str) -> Move:
        """The move of a role by name; KeyError if there is no such move."""
        for move in self.moves:
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
) -> Assessment:
    """Assess a dossier over its history.

    ``known`` gives the calendar and the readings, ``now`` an instant with its zone; both must be
    given (they default only so that partial calls fail loudly here). ``words`` are the applicant's
    words of an answer that is still a draft, by the number of the point. Raises ValueError for a
    ``now`` without a zone.
    """
    if known is None or now is None or now.tzinfo is None:
        raise ValueError("assess needs what is known and an instant with its zone")
    case = fold(history.entries)
    today = known.calendar.local_day(now)
    filed = known.calendar.local_day(case.filed.at) if case.filed else today
    sheet = read_answers(rulebook, dossier.answers, filed, today)
    fees = fee_sheet(sheet)
    found = requirements(rulebook, dossier, sheet, fees, case, known.readings)
    left = _left(sheet, found)
    points = points_to_ask(rulebook, found, case, sheet) if case.filed else ()
    rounds = tuple(round_view(rulebook, r, history.versions, dossier, case, words or {}) for r in case.rounds)
    latest = rounds[-1] if rounds else None
    running = clock(case, rulebook.edition.clock, known.calendar, now)
    all_moves = moves(rulebook, case, found, left, fees, points, latest)
    due = fees.total("at filing")
    over = to_cents(case.paid - due.amount) if due.amount is not None and case.paid > due.amount else to_cents(case.paid * 0)
    return Assessment(
        edition=rulebook.edition.id,
        state=case.state,
        title=_title(rulebook, sheet),
        version=case.version,
        filing_day=filed,
        filing_day_assumed=case.filed is None,
        parts=_parts(sheet),
        computed=_computed(sheet),
        left=left,
        requirements=found,
        fees=fees,
        account=Account(case.paid, open_amount(case, fees), over, due),
        clock=running,
        points=points,
        rounds=rounds,
        moves=all_moves,
        next_officer=_next_officer(case, found, latest, all_moves, points),
        next_applicant=_next_applicant(case, left, latest, fees),
        apart=tuple(sheet.apart),
    )


def _title(rulebook: Rulebook, sheet: Sheet) -> str:
    pieces = rulebook.case_title.pieces
    values = [None if isinstance(p, str) else p.value(sheet.values) for p in pieces]
    if all(v is None or is_absent(v) for v in values):
        return rulebook.edition.title
    said = [p if isinstance(p, str) else "" if is_absent(v) else say(v) for p, v in zip(pieces, values, strict=True)]
    return "".join(said).strip(" ,") or rulebook.edition.title


def _parts(sheet: Sheet) -> tuple[PartView, ...]:
    made = []
    for part in sheet.rulebook.parts.values():
        questions = tuple(
            _question(sheet, place, asked) for place, asked in sheet.asked.items() if place.startswith(f"{part.id}.")
        )
        made.append(PartView(part.id, part.title, sum(q.left for q in questions), questions))
    return tuple(made)


def _question(sheet: Sheet, place: str, asked: Any) -> QuestionView:
    node = question_at(sheet.rulebook, place)
    assert node is not None
    raw, fault = sheet.raw.get(place), sheet.faults.get(place, "")
    left = asked is True and (bool(fault) or (raw is None and not node.question.optional))
    because = ""
    if asked is UNKNOWN:
        labels = [sheet.rulebook.label(p) for p in sheet.deciding(node.when)]
        because = "Depends on " + " and ".join(f"“{x}”" for x in labels) + "." if labels else ""
    said = "yes" if asked is True else "no" if asked is False else "not known yet"
    return QuestionView(place, said, raw, fault if asked is True else "", left, because)


def _computed(sheet: Sheet) -> tuple[ComputedView, ...]:
    made = []
    for node in sheet.rulebook.order:
        if isinstance(node, ComputedValue):
            value, v = sheet.values[node.key], node.value
            said = money(to_cents(value)) if node.key in sheet.rulebook.money_names and not is_absent(value) else say(value)
            made.append(
                ComputedView(v.id, v.title, said, partial(value_working, sheet, node), v.help or "", tuple(v.beside), v.article)
            )
    return tuple(made)


def _left(sheet: Sheet, found: tuple[Requirement, ...]) -> tuple[WhyNot, ...]:
    """Everything the applicant has still to do, each with its very place."""
    return tuple(
        WhyNot(_left_words(r, sheet), r.places[0])
        for r in found
        if r.proposed == "wanting" and r.kind in ("answer", "document", "rule", "signature")
    )


def _left_words(r: Requirement, sheet: Sheet) -> str:
    if r.kind == "signature":
        return r.because
    return r.title if r.kind == "answer" and r.places[0].ref not in sheet.faults else f"{r.title}: {r.because}"


def _next_officer(
    case: CaseSoFar,
    found: tuple[Requirement, ...],
    latest: RoundView | None,
    all_moves: tuple[Move, ...],
    points: tuple[PointToAsk, ...],
) -> str:
    files = sum(len(r.files) for r in found if r.kind == "document")
    if case.state == "Filed":
        return f"Begin checking, {things(files, 'file')} read"
    if case.state in ("Being checked", "Answers came back"):
        if any(m.allowed and m.move == "accept as complete" for m in all_moves):
            return "Accept: all met, paid"
        waiting = [p for p in (latest.points if latest and latest.answered_at else ()) if p.state == "answered"]
        if waiting:
            fresh = sum(1 for p in waiting for c in p.changes if c.kind.startswith("file"))
            return f"Read {things(len(waiting), 'answer')}" + (f", {things(fresh, 'new file')}" if fresh else "")
        unjudged = [r for r in found if r.asked and not r.judged]
        if unjudged:
            return f"Judge {len(unjudged)}, next: {unjudged[0].title}"
        if points:
            return f"Send the letter, {things(len(points), 'point')}"
        doubt = next((r for r in found if r.standing == "in doubt"), None)
        return f"Settle the doubt: {doubt.title}" if doubt else "See what stops acceptance"
    return {
        "Draft": "Not filed yet",
        "Waiting for payment": "Payment of what is due at filing",
        "Answers wanted": f"Answers to {things(len(latest.points), 'point')}" if latest else "",
        "Complete": "Hand over to the reviewers",
    }.get(case.state, "")


def _next_applicant(case: CaseSoFar, left: tuple[WhyNot, ...], latest: RoundView | None, fees: FeeSheet) -> str:
    if case.state == "Draft":
        return f"{things(len(left), 'thing')} left before it is complete" if left else "Ready to be read over and filed"
    missing = open_amount(case, fees)
    if case.state == "Waiting for payment" or missing:
        return f"Pay {money(missing, fees.currency)}"
    if case.state == "Answers wanted" and latest:
        return f"Answer {things(len(latest.points), 'point')}"
    return {
        "Filed": "Nothing to do: the office will begin checking",
        "Being checked": "Nothing to do: the office is checking",
        "Answers came back": "Nothing to do: the office is reading your answers",
        "Complete": "Nothing to do: the decision comes next",
    }.get(case.state, "")
