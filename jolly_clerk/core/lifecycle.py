"""The states of a case, folded from its history. The stamp is one of :data:`STATES`."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from datetime import date, datetime
from decimal import Decimal
from typing import Any, Literal

from jolly_clerk.core import history as h

State = Literal[
    "Draft",
    "Waiting for payment",
    "Filed",
    "Being checked",
    "Answers wanted",
    "Answers came back",
    "Complete",
    "Under review",
    "Granted",
    "Refused",
    "Not accepted",
    "Out of scope",
    "Lapsed",
    "Withdrawn",
]
PointState = Literal["open", "answered", "closed", "asked again"]


@dataclass(slots=True)
class PointSoFar:
    """A point with where it stands now."""

    asked: h.AskedPoint
    state: PointState = "open"
    words: str = ""
    again: str = ""


@dataclass(slots=True)
class RoundSoFar:
    """A letter and its answers. ``paused_from`` is the instant of the letter that arrived, None while none has."""

    no: int
    version: int
    sent_at: datetime
    due: date
    points: dict[int, PointSoFar]
    letter_sha256: str
    paused_from: datetime | None
    extended: bool = False
    answered_at: datetime | None = None
    answer_version: int = 0
    note: str = ""


@dataclass(slots=True)
class CaseSoFar:
    """All that the history says, before the rules are asked."""

    version: int = 0
    filed: h.Filed | None = None
    payments: list[h.Paid] = field(default_factory=list)
    paid_back: list[h.PaidBack] = field(default_factory=list)
    covered_at: datetime | None = None
    checking: h.CheckingBegan | None = None
    given: dict[str, h.Judged] = field(default_factory=dict)
    worded: dict[str, str] = field(default_factory=dict)
    rounds: list[RoundSoFar] = field(default_factory=list)
    taken: set[tuple[str, int]] = field(default_factory=set)
    accepted: h.Accepted | None = None
    undelivered: bool = False

    @property
    def paid(self) -> Decimal:
        """What came in less what went back."""
        return sum((p.amount for p in self.payments), Decimal("0.00")) - sum((b.amount for b in self.paid_back), Decimal(0))

    @property
    def round(self) -> RoundSoFar | None:
        """The latest round, if a letter was ever sent."""
        return self.rounds[-1] if self.rounds else None

    @property
    def open_round(self) -> RoundSoFar | None:
        """The latest round while its answers are still out."""
        return self.rounds[-1] if self.rounds and self.rounds[-1].answered_at is None else None

    @property
    def state(self) -> State:
        """The stamp."""
        if self.filed is None:
            return "Draft"
        if self.accepted:
            return "Complete"
        if self.rounds:
            latest = self.rounds[-1]
            if latest.answered_at:
                return "Answers came back"
            return "Answers wanted" if latest.paused_from else "Being checked"
        if self.checking:
            return "Being checked"
        return "Filed" if self.covered_at else "Waiting for payment"


def fold(entries: Iterable[h.Entry]) -> CaseSoFar:
    """Read a history from its first entry to its last."""
    case = CaseSoFar()
    for entry in entries:
        _FOLDERS[entry.what](case, entry)
    return case


def _filed(case: CaseSoFar, entry: h.Filed) -> None:
    case.filed, case.version = entry, entry.version
    _cover(case, entry.at)


def _paid(case: CaseSoFar, entry: h.Paid) -> None:
    if any(p.key == entry.key for p in case.payments):
        return
    case.payments.append(entry)
    _cover(case, entry.at)


def _cover(case: CaseSoFar, at: datetime) -> None:
    if case.covered_at is None and case.filed and case.paid >= case.filed.due_at_filing:
        case.covered_at = at


def _judged(case: CaseSoFar, entry: h.Judged) -> None:
    if entry.standing is None:
        case.given.pop(entry.requirement, None)
    else:
        case.given[entry.requirement] = entry


def _letter_sent(case: CaseSoFar, entry: h.LetterSent) -> None:
    points = {p.no: PointSoFar(p) for p in entry.points}
    case.rounds.append(RoundSoFar(entry.round, entry.version, entry.at, entry.due, points, entry.letter_sha256, entry.at))
    case.worded.clear()


def _returned(case: CaseSoFar, entry: h.LetterReturned) -> None:
    case.rounds[entry.round - 1].paused_from = None


def _sent_again(case: CaseSoFar, entry: h.LetterSentAgain) -> None:
    latest = case.rounds[entry.round - 1]
    latest.paused_from, latest.due = entry.at, entry.due


def _extended(case: CaseSoFar, entry: h.Extended) -> None:
    latest = case.rounds[entry.round - 1]
    latest.due, latest.extended = entry.due, True


def _answered(case: CaseSoFar, entry: h.Answered) -> None:
    latest = case.rounds[entry.round - 1]
    latest.answered_at, latest.answer_version, latest.note = entry.at, entry.version, entry.note
    case.version = entry.version
    for no, point in latest.points.items():
        point.state, point.words = "answered", entry.words.get(no, "")
        # what was found wanting was answered: the officer reads it afresh
        case.given.pop(point.asked.requirement, None)


def _point_closed(case: CaseSoFar, entry: h.PointClosed) -> None:
    case.rounds[entry.round - 1].points[entry.no].state = "closed"


def _point_again(case: CaseSoFar, entry: h.PointAskedAgain) -> None:
    point = case.rounds[entry.round - 1].points[entry.no]
    point.state, point.again = "asked again", entry.text


_FOLDERS: dict[str, Callable[[CaseSoFar, Any], None]] = {
    "filed": _filed,
    "paid": _paid,
    "paid back": lambda case, entry: case.paid_back.append(entry),
    "checking began": lambda case, entry: setattr(case, "checking", entry),
    "judged": _judged,
    "point worded": lambda case, entry: case.worded.__setitem__(entry.requirement, entry.text),
    "letter sent": _letter_sent,
    "letter returned": _returned,
    "letter sent again": _sent_again,
    "extended": _extended,
    "answered": _answered,
    "point closed": _point_closed,
    "point asked again": _point_again,
    "change taken": lambda case, entry: case.taken.add((entry.place, entry.version)),
    "accepted": lambda case, entry: setattr(case, "accepted", entry),
}
