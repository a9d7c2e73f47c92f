"""Who may do what next, and why not: the moves of a case for every role."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from jolly_clerk.core.corrections import PointToAsk, RoundView
from jolly_clerk.core.fees.sheet import FeeSheet
from jolly_clerk.core.history import Role
from jolly_clerk.core.lifecycle import CaseSoFar
from jolly_clerk.core.requirements import Place, Requirement
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.say import money, things


@dataclass(frozen=True, slots=True)
class WhyNot:
    """One thing that stands in the way of a move, with the place that puts it right."""

    text: str
    place: Place | None = None


@dataclass(frozen=True, slots=True)
class Move:
    """Something a role could do with the case, whether it can now, and what stands in the way.

    ``warnings`` do not stop it: they list what an authority that takes incomplete filings will ask for later.
    """

    role: Role
    move: str
    allowed: bool
    why_not: tuple[WhyNot, ...]
    warnings: tuple[WhyNot, ...] = ()


OFFICERS: tuple[Role, ...] = ("officer", "lead")


def moves(
    rulebook: Rulebook,
    case: CaseSoFar,
    found: Sequence[Requirement],
    left: Sequence[WhyNot],
    fees: FeeSheet,
    points: Sequence[PointToAsk],
    latest: RoundView | None,
) -> tuple[Move, ...]:
    """Every move of every role, in the order in which the work is done."""
    made = [
        _file(rulebook, case, left),
        _pay(case, fees),
        _answer(case, latest),
    ]
    for role in OFFICERS:
        made += [
            _begin(role, case),
            _judge(role, case),
            _send_letter(role, case, found, points, latest),
            _accept(role, case, found, fees, latest),
        ]
    return tuple(made)


def _move(role: Role, name: str, *why_not: WhyNot | None, warnings: Sequence[WhyNot] = ()) -> Move:
    reasons = tuple(w for w in why_not if w)
    return Move(role, name, not reasons, reasons, tuple(warnings))


def _state_is(case: CaseSoFar, *states: str) -> WhyNot | None:
    if case.state in states:
        return None
    wanted = " or ".join(f"“{s}”" for s in states)
    return WhyNot(f"The case is “{case.state}”; this needs {wanted}.")


def _file(rulebook: Rulebook, case: CaseSoFar, left: Sequence[WhyNot]) -> Move:
    stops = _state_is(case, "Draft")
    if rulebook.edition.incomplete_filing == "warn":
        return _move("applicant", "file", stops, warnings=left)
    return _move("applicant", "file", stops, *left)


def open_amount(case: CaseSoFar, fees: FeeSheet) -> Decimal:
    """What is still to be paid of the stage at filing: reckoned as told at filing until that is covered, then anew."""
    if case.filed is None:
        return Decimal(0)
    due = case.filed.due_at_filing if case.covered_at is None else fees.total("at filing").low
    return max(due - case.paid, Decimal(0))


def _pay(case: CaseSoFar, fees: FeeSheet) -> Move:
    stops = None
    if case.filed is None:
        stops = WhyNot("File first; the fee is due then.")
    elif case.accepted:
        stops = WhyNot("Nothing is due now; the permit fee is asked at issue.")
    elif not open_amount(case, fees):
        stops = WhyNot("Everything due so far is paid.")
    return _move("applicant", "pay", stops)


def _answer(case: CaseSoFar, latest: RoundView | None) -> Move:
    stops = _state_is(case, "Answers wanted")
    needs = [
        WhyNot(f"Point {p.no} needs {p.needs}.", p.places[0] if p.places else None)
        for p in (latest.points if latest else ())
        if p.needs
    ]
    return _move("applicant", "send the answers", stops, *([] if stops else needs))


def _begin(role: Role, case: CaseSoFar) -> Move:
    return _move(role, "begin checking", _state_is(case, "Filed"))


def _judge(role: Role, case: CaseSoFar) -> Move:
    return _move(role, "judge", _state_is(case, "Being checked", "Answers came back"))


def _open_points(latest: RoundView | None) -> list[WhyNot]:
    still = [p for p in (latest.points if latest and latest.answered_at else ()) if p.state == "answered"]
    return [WhyNot(f"Point {p.no}, {p.title}, is answered but neither closed nor asked again.") for p in still]


def _untaken(latest: RoundView | None) -> list[WhyNot]:
    changes = [u.change for u in (latest.unasked if latest and latest.answered_at else ()) if not u.taken]
    return [
        WhyNot(f"{c.label} was changed without being asked: take it, or ask about it.", Place(c.place, c.label)) for c in changes
    ]


def _send_letter(
    role: Role,
    case: CaseSoFar,
    found: Sequence[Requirement],
    points: Sequence[PointToAsk],
    latest: RoundView | None,
) -> Move:
    stops = _state_is(case, "Being checked", "Answers came back")
    none = None if points else WhyNot("Nothing was judged wanting, so there is no point to ask.")
    unjudged = [r for r in found if r.asked and not r.judged]
    warnings = [WhyNot(f"{things(len(unjudged), 'requirement is', 'requirements are')} not yet judged.")] if unjudged else []
    return _move(role, "send the letter", stops, none, *([] if stops else _open_points(latest)), warnings=warnings)


def _accept(role: Role, case: CaseSoFar, found: Sequence[Requirement], fees: FeeSheet, latest: RoundView | None) -> Move:
    stops = _state_is(case, "Being checked", "Answers came back")
    if stops:
        return _move(role, "accept as complete", stops)
    reasons = []
    for r in found:
        if r.standing == "not known yet":
            reasons.append(WhyNot(f"{r.title}: {r.because}", r.places[0]))
        elif r.asked and not r.judged:
            reasons.append(WhyNot(f"{r.title} is not yet judged.", r.places[0]))
        elif r.asked and r.standing not in ("met", "waived"):
            reasons.append(WhyNot(f"{r.title} is {r.standing}.", r.places[0]))
    missing = open_amount(case, fees)
    if missing:
        reasons.append(WhyNot(f"{money(missing, fees.currency)} of the fee due at filing is not paid.", Place("fee", "Payment")))
    return _move(role, "accept as complete", *reasons, *_open_points(latest), *_untaken(latest))
