"""How a case stands, folded from its history. Its stamp is one of :data:`~jolly_clerk.core.states.STATES`."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from decimal import Decimal
from typing import Any

from jolly_clerk.core import history as h
from jolly_clerk.core.covering import cover, cover_check, fold_came_later, fold_charged_back, fold_paid, fold_taken_out, tell_due
from jolly_clerk.core.meetings import Tabled
from jolly_clerk.core.other_bodies import BodySoFar, fold_body_answered, fold_body_asked
from jolly_clerk.core.owning import fold_assigned, fold_checking_began, fold_reopened
from jolly_clerk.core.permit_entries import WHAT_HAPPENS_TO_IT, PermitSoFar, fold_permit
from jolly_clerk.core.reading_in import fold_read_in
from jolly_clerk.core.reviewing import FOLD_REVIEW
from jolly_clerk.core.rounds import LaneSoFar as LaneSoFar
from jolly_clerk.core.rounds import PointSoFar as PointSoFar
from jolly_clerk.core.rounds import PointState as PointState
from jolly_clerk.core.rounds import RoundSoFar as RoundSoFar
from jolly_clerk.core.states import ENDINGS, State

#: what an officer may take back until the next letter or decision goes out
UNDOABLE = (
    "judged", "point worded", "points arranged", "point closed", "point asked again", "change taken", "requirement added",
    "fee set", "fee settled",
)  # fmt: skip
#: after these nothing before them can be taken back
_SEALS = ("letter sent", "letter replaced", "answered", "accepted", "filed", "taken back", *ENDINGS)


@dataclass(slots=True)
class CaseSoFar:
    """All that the history says, before the rules are asked. ``filed`` is None in a draft, also in one that was taken back.

    ``uncovered`` are the stretches in which what is due was covered by a payment that was charged back.
    ``additions`` is what came later and costs something and was not taken out; ``due_told`` is what the applicant was told to pay
    at filing; ``before_acceptance`` counts payments and paybacks up to acceptance, ``settled`` is what they came to;
    ``check_covered_at`` is when what fell due after the check was paid. ``rounds``, ``accepted`` and ``ended`` are those of
    the common lane; ``lanes`` holds the others. ``waits_for_lanes`` is how the case stands while its common lane is complete
    and no site is.
    """

    version: int = 0
    first_filed: h.Filed | None = None
    filed: h.Filed | None = None
    payments: list[h.Paid] = field(default_factory=list)
    paid_back: list[h.PaidBack | h.RefundDue | h.Moved] = field(default_factory=list)
    refunds_paid: dict[str, h.RefundPaid] = field(default_factory=dict)
    charged_back: list[h.ChargedBack] = field(default_factory=list)
    additions: list[h.CameLater] = field(default_factory=list)
    covered_at: datetime | None = None
    uncovered: list[tuple[datetime, datetime]] = field(default_factory=list)
    due_told: Decimal = Decimal(0)
    checking: h.CheckingBegan | None = None
    officer: str = ""
    reopened: list[h.Reopened] = field(default_factory=list)
    given: dict[str, h.Judged] = field(default_factory=dict)
    worded: dict[str, str] = field(default_factory=dict)
    arranged: tuple[tuple[str, ...], ...] = ()
    added: list[h.RequirementAdded] = field(default_factory=list)
    registers: dict[str, h.RegisterAsked] = field(default_factory=dict)
    fees_set: dict[str, h.FeeSet] = field(default_factory=dict)
    fees_waiting: dict[str, h.FeeSet] = field(default_factory=dict)
    rounds: list[RoundSoFar] = field(default_factory=list)
    taken: set[tuple[str, int]] = field(default_factory=set)
    taken_back: h.TakenBack | None = None
    accepted: h.Accepted | None = None
    before_acceptance: tuple[int | None, int | None] = (None, None)
    settled: Decimal = Decimal(0)
    check_covered_at: datetime | None = None
    handed: h.HandedOver | None = None
    signed_off: dict[str, h.SignedOff] = field(default_factory=dict)
    agendas: tuple[Tabled, ...] = ()
    ended: h.Ended | None = None
    issued: h.PermitIssued | None = None
    permit: PermitSoFar = field(default_factory=PermitSoFar)
    undoable: dict[str, tuple[int, ...]] = field(default_factory=dict)
    lanes: dict[str, LaneSoFar] = field(default_factory=dict)
    waits_for_lanes: State | None = None
    bodies: list[BodySoFar] = field(default_factory=list)

    @property
    def paid(self) -> Decimal:
        """What came in less what went back."""
        return sum((p.amount for p in self.payments), Decimal("0.00")) - sum((b.amount for b in self.paid_back), Decimal(0))

    @property
    def prepaid(self) -> Decimal:
        """The part of what was paid that is meant for a later stage."""
        return sum((p.prepaid for p in self.payments), Decimal("0.00")) - sum((b.prepaid for b in self.paid_back), Decimal(0))

    @property
    def came_for_filing(self) -> Decimal:
        """What came in for the stage at filing: neither prepaid nor paid after acceptance."""
        return sum((p.amount - p.prepaid for p in self.payments[: self.before_acceptance[0]]), Decimal("0.00"))

    @property
    def paid_for_filing(self) -> Decimal:
        """What came in for the stage at filing, less what went back before acceptance."""
        return self.came_for_filing - sum((b.amount - b.prepaid for b in self.paid_back[: self.before_acceptance[1]]), Decimal(0))

    @property
    def paid_for_check(self) -> Decimal:
        """What came in after acceptance and is not meant for the issue, nor for a later part of what was due at filing."""
        later = self.filed.later if self.filed and self.accepted else ()
        return self.paid - self.prepaid - self.settled - self.paid_on(later, self.before_acceptance[0] or 0)

    def paid_on(self, debts: Collection[str], since: int = 0) -> Decimal:
        """What of the payments, from the one with this number on, was for these debts."""
        return sum((part for p in self.payments[since:] for key, part in p.debts.items() if key in debts), Decimal(0))

    @property
    def refunds_due(self) -> tuple[h.RefundDue, ...]:
        """Refunds that did not leave yet, oldest first."""
        return tuple(b for b in self.paid_back if isinstance(b, h.RefundDue) and b.key not in self.refunds_paid)

    @property
    def to_set(self) -> tuple[str, ...]:
        """The lines at filing that the rules could not work out and that the office has not set yet."""
        return tuple(line for line in self.filed.to_set if line not in self.fees_set) if self.filed else ()

    @property
    def pay_from(self) -> datetime | None:
        """The instant from which the period to pay what is due now runs: the filing, the acceptance, or a charge-back since."""
        began = self.accepted.at if self.accepted else self.filed.at if self.filed else None
        if began and self.filed and self.filed.to_set and not self.accepted:
            began = max([began, *(fee.at for line, fee in self.fees_set.items() if line in self.filed.to_set)])
        again = [entry.at for entry in (*self.charged_back, *self.reopened) if began and entry.at > began]
        return max(again, default=began)

    @property
    def granted(self) -> h.Granted | None:
        """The grant, if there is one."""
        return self.ended if isinstance(self.ended, h.Granted) else None

    @property
    def round(self) -> RoundSoFar | None:
        """The latest round, if a letter was ever sent."""
        return self.rounds[-1] if self.rounds else None

    @property
    def all_rounds(self) -> tuple[RoundSoFar, ...]:
        """The rounds of every lane, the common one first."""
        return (*self.rounds, *(r for lane in self.lanes.values() for r in lane.rounds))

    @property
    def open_round(self) -> RoundSoFar | None:
        """The latest round while its answers are still out."""
        return self.rounds[-1] if self.rounds and self.rounds[-1].answered_at is None else None

    @property
    def state(self) -> State:
        """The stamp."""
        if self.ended:
            return ENDINGS[self.ended.what]
        if self.filed is None:
            return "Draft"
        if self.waits_for_lanes:
            return self.waits_for_lanes
        if self.accepted:
            return "Under review" if self.handed else "Complete"
        if self.rounds:
            latest = self.rounds[-1]
            if latest.answered_at:
                return "Answers came back"
            return "Answers wanted" if latest.paused_from else "Being checked"
        if self.checking:
            return "Being checked"
        return "Filed" if self.covered_at else "Waiting for payment"


def fold(entries: Sequence[h.Entry]) -> CaseSoFar:
    """Read a history from its first entry to its last; what was undone counts as never done."""
    undone = {no for entry in entries if isinstance(entry, h.Undone) for no in entry.of}
    case = CaseSoFar()
    for no, entry in enumerate(entries, 1):
        if no in undone:
            continue
        _FOLDERS[entry.what](case, entry)
        if entry.what in UNDOABLE:
            before = case.undoable.get(entry.who, ())
            together = before and entries[before[-1] - 1].at == entry.at  # what was written in one go is undone in one go
            case.undoable[entry.who] = (*before, no) if together else (no,)
        elif entry.what in _SEALS:
            case.undoable.clear()
    return case


def in_lane(case: CaseSoFar, lane: str) -> CaseSoFar:
    """The case as one lane sees it: its own rounds and outcome, all else shared. Nothing names the common lane."""
    if not lane:
        return case
    own = case.lanes.get(lane) or LaneSoFar()
    return replace(
        case,
        rounds=own.rounds,
        arranged=own.arranged,
        accepted=own.accepted,
        ended=own.ended or case.ended,
        check_covered_at=None,
    )


def joined(case: CaseSoFar, sites: Sequence[str]) -> CaseSoFar:
    """The whole case over its lanes: complete from the day on which the common lane and one site's both are."""
    if not sites or case.ended or not case.accepted:
        return case
    own = [in_lane(case, lane) for lane in sites]
    first = min((c.accepted for c in own if c.accepted and not c.ended), key=lambda entry: entry.at, default=None)
    if first is None:
        live = {c.state for c in own if not c.ended}
        return replace(case, accepted=None, waits_for_lanes="Answers wanted" if live == {"Answers wanted"} else "Being checked")
    last = max(case.accepted, first, key=lambda entry: entry.at)
    return replace(case, accepted=last, check_covered_at=case.check_covered_at and max(case.check_covered_at, last.at))


def _lane(case: CaseSoFar, entry: h.InLane) -> CaseSoFar | LaneSoFar:
    return case.lanes.setdefault(entry.lane, LaneSoFar()) if entry.lane else case


def _nothing(case: CaseSoFar, entry: h.Entry) -> None:
    """An entry that changes nothing but the line of time."""


def _new_version(case: CaseSoFar, entry: h.PutRight) -> None:
    case.version = entry.version


def _filed(case: CaseSoFar, entry: h.Filed) -> None:
    case.first_filed = case.first_filed or entry
    case.filed, case.version, case.taken_back, case.covered_at = entry, entry.version, None, None
    case.due_told = entry.due_at_filing - sum(entry.later.values(), Decimal(0))
    cover(case, entry.at)


def _taken_back(case: CaseSoFar, entry: h.TakenBack) -> None:
    case.taken_back, case.filed, case.covered_at = entry, None, None


def _fee_set(case: CaseSoFar, entry: h.FeeSet) -> None:
    if entry.needs_second:
        case.fees_waiting[entry.line] = entry
    else:
        case.fees_waiting.pop(entry.line, None)
        case.fees_set[entry.line] = entry
        tell_due(case, entry.at)


def _fee_settled(case: CaseSoFar, entry: h.FeeSettled) -> None:
    waiting = case.fees_waiting.pop(entry.line, None)
    if waiting and entry.confirmed:
        case.fees_set[entry.line] = waiting.model_copy(update={"at": entry.at})
        tell_due(case, entry.at)


def _lapse_undone(case: CaseSoFar, entry: h.LapseUndone) -> None:
    case.ended = None
    case.paid_back = [b for b in case.paid_back if b.key not in entry.cancels]


def _closure_declared(case: CaseSoFar, entry: h.ClosureDeclared) -> None:
    for lane, due in entry.moved.items():
        latest = (case.lanes[lane] if lane else case).rounds[-1]
        latest.due, latest.due_at = due, entry.moved_at.get(lane, latest.due_at)


def _accepted(case: CaseSoFar, entry: h.Accepted) -> None:
    if entry.lane:
        _lane(case, entry).accepted = entry
        return
    back = [b for b in case.paid_back if not b.key.endswith("-acceptance")]
    case.accepted, case.settled = entry, case.paid - case.prepaid
    case.before_acceptance = (len(case.payments), len(back))
    cover_check(case, entry.at)


def _judged(case: CaseSoFar, entry: h.Judged) -> None:
    if entry.standing is None:
        case.given.pop(entry.requirement, None)
    else:
        case.given[entry.requirement] = entry


def _letter_sent(case: CaseSoFar, entry: h.LetterSent) -> None:
    points = {p.no: PointSoFar(p) for p in entry.points}
    lane = _lane(case, entry)
    a_round = RoundSoFar(entry.round, entry.version, entry.at, entry.due, points, entry.letter_sha256, entry.at)
    a_round.due_at, a_round.received = entry.due_at, entry.received
    lane.rounds.append(a_round)
    lane.arranged = ()
    sent = {id_ for p in entry.points for id_ in (p.requirement, *p.also)}
    for key in [k for k in case.worded if sent & set(k.split("+"))]:
        del case.worded[key]


def _returned(case: CaseSoFar, entry: h.LetterReturned) -> None:
    latest = _lane(case, entry).rounds[entry.round - 1]
    latest.paused_from, latest.posting_missed = None, None


def _sent_again(case: CaseSoFar, entry: h.LetterSentAgain) -> None:
    latest = _lane(case, entry).rounds[entry.round - 1]
    latest.paused_from, latest.due = entry.at, entry.due
    latest.posted, latest.posting_missed = False, None
    latest.due_at, latest.received = entry.due_at, entry.received


def _replaced(case: CaseSoFar, entry: h.LetterReplaced) -> None:
    latest = _lane(case, entry).rounds[entry.round - 1]
    latest.points = {p.no: PointSoFar(p) for p in entry.points}
    latest.due, latest.due_at, latest.received = entry.due, entry.due_at, entry.received
    latest.replaced_at, latest.letter_sha256 = entry.at, entry.letter_sha256
    latest.posted, latest.posting_missed = False, None


def _posted(case: CaseSoFar, entry: h.LetterPosted) -> None:
    latest = _lane(case, entry).rounds[entry.round - 1]
    latest.posted, latest.posting_missed = True, None


def _posting_missed(case: CaseSoFar, entry: h.PostingMissed) -> None:
    _lane(case, entry).rounds[entry.round - 1].posting_missed = entry.day


def _extended(case: CaseSoFar, entry: h.Extended) -> None:
    latest = _lane(case, entry).rounds[entry.round - 1]
    latest.due, latest.due_at, latest.extended = entry.due, entry.due_at, True


def _answered(case: CaseSoFar, entry: h.Answered) -> None:
    latest = _lane(case, entry).rounds[entry.round - 1]
    latest.answered_at, latest.answer_version, latest.note = entry.at, entry.version, entry.note
    case.version = entry.version
    for no, point in latest.points.items():
        point.state, point.words = "answered", entry.words.get(no, "")
        # what was found wanting was answered: the officer reads it afresh
        for requirement in (point.asked.requirement, *point.asked.also):
            case.given.pop(requirement, None)


def _point_closed(case: CaseSoFar, entry: h.PointClosed) -> None:
    _lane(case, entry).rounds[entry.round - 1].points[entry.no].state = "closed"


def _point_again(case: CaseSoFar, entry: h.PointAskedAgain) -> None:
    point = _lane(case, entry).rounds[entry.round - 1].points[entry.no]
    point.state, point.again = "asked again", entry.text


_FOLDERS: dict[str, Callable[[CaseSoFar, Any], None]] = {
    "filed": _filed,
    "paid": fold_paid,
    **dict.fromkeys(("paid back", "refund due", "moved"), lambda case, entry: case.paid_back.append(entry)),
    "refund paid": lambda case, entry: case.refunds_paid.__setitem__(entry.of, entry),
    "charged back": fold_charged_back,
    "body asked": fold_body_asked,
    "body answered": fold_body_answered,
    "letter posted": _posted,
    "letter replaced": _replaced,
    "posting missed": _posting_missed,
    "lapse undone": _lapse_undone,
    "closure declared": _closure_declared,
    "clerical error": _new_version,
    "checking began": fold_checking_began,
    "assigned": fold_assigned,
    "reopened": fold_reopened,
    "judged": _judged,
    "point worded": lambda case, entry: case.worded.__setitem__(entry.requirement, entry.text),
    "letter sent": _letter_sent,
    "letter returned": _returned,
    "letter sent again": _sent_again,
    "extended": _extended,
    "answered": _answered,
    "came later": fold_came_later,
    "taken out": fold_taken_out,
    "point closed": _point_closed,
    "point asked again": _point_again,
    "change taken": lambda case, entry: case.taken.add((entry.place, entry.version)),
    "accepted": _accepted,
    "points arranged": lambda case, entry: setattr(_lane(case, entry), "arranged", entry.groups),
    "requirement added": lambda case, entry: case.added.append(entry),
    "register asked": lambda case, entry: case.registers.__setitem__(entry.name, entry),
    "fee set": _fee_set,
    "fee settled": _fee_settled,
    "read in": fold_read_in,
    "undone": _nothing,
    "step taken back": _nothing,
    **dict.fromkeys(("message sent", "note written", "thing came", "public entry changed", "reminded"), _nothing),
    "fee raised": lambda case, entry: setattr(case, "due_told", entry.due),
    "taken back": _taken_back,
    **FOLD_REVIEW,
    "review asked": _nothing,
    **dict.fromkeys(WHAT_HAPPENS_TO_IT, fold_permit),
    "permit issued": lambda case, entry: setattr(case, "issued", entry),
    **dict.fromkeys(ENDINGS, lambda case, entry: setattr(_lane(case, entry), "ended", entry)),
}
