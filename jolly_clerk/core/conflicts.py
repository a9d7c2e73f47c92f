"""When a change made over an older state of a case truly conflicts with what others did since.

A judgement conflicts with the same requirement, its point or its evidence; words with the same point; a move (send, accept, end)
with everything but notes, messages and reminders.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from typing import Final, get_args

from jolly_clerk.core import history as h
from jolly_clerk.core.meetings import PutOnAgenda, TakenOffAgenda

#: what happens to a permit: its case is decided
PERMIT: Final = get_args(h.PermitEntry)
#: touches nothing that anybody decides over
ASIDE: Final = (
    h.NoteWritten,
    h.MessageSent,
    h.Reminded,
    h.StepTakenBack,
    h.Assigned,
    h.ThingCame,
    h.PublicEntryChanged,
    h.SignedOff,
    h.ReviewAsked,
    PutOnAgenda,
    TakenOffAgenda,
)
#: the requirement that money bears on
FEE: Final = "fee.at_filing"
#: what a move touches: the whole case
WHOLE: Final = "*"


def touched(entry: h.Entry, history: Sequence[h.Entry] = ()) -> frozenset[str]:
    """What an entry changed: the ids of requirements, ``register:NAME``, or :data:`WHOLE`. ``history`` is needed for steps undone."""
    return frozenset(_touched(entry, history))


def _touched(entry: h.Entry, history: Sequence[h.Entry]) -> Iterator[str]:
    if isinstance(entry, ASIDE):
        return
    if isinstance(entry, h.Judged):
        yield entry.requirement
    elif isinstance(entry, h.PointWorded):
        yield from entry.requirement.split("+")
    elif isinstance(entry, h.RequirementAdded):
        yield entry.requirement
    elif isinstance(entry, h.PointsArranged):
        yield "points"
    elif isinstance(entry, (h.PointClosed, h.PointAskedAgain)):
        yield f"point:{entry.lane}:{entry.round}:{entry.no}"
    elif isinstance(entry, h.ChangeTaken):
        yield f"change:{entry.place}"
    elif isinstance(entry, (h.CameLater, h.TakenOut)):
        yield from (entry.place, f"change:{entry.place}")
    elif isinstance(entry, PERMIT):
        yield "permit"
    elif isinstance(entry, h.RegisterAsked):
        yield f"register:{entry.name}"
    elif isinstance(entry, (h.FeeSet, h.FeeSettled)):
        yield from (FEE, f"line:{entry.line}")
    elif isinstance(entry, (h.Paid, h.GoesBack, h.RefundPaid)):
        yield FEE
    elif isinstance(entry, h.Undone):
        for no in entry.of:
            if no <= len(history):
                yield from _touched(history[no - 1], history)
    else:
        yield WHOLE


def conflicting(relies_on: Iterable[str], history: Sequence[h.Entry], seen: int) -> tuple[int, ...]:
    """The numbers of the entries since revision ``seen`` that touch what a change relies on; ``*`` relies on everything."""
    wanted = frozenset(relies_on)
    found = []
    for no, entry in enumerate(history[seen:], seen + 1):
        changed = touched(entry, history)
        if changed and (WHOLE in wanted or WHOLE in changed or changed & wanted):
            found.append(no)
    return tuple(found)


def falls(relies_on: Iterable[str], lane: str, history: Sequence[h.Entry], since: int) -> bool:
    """True if what happened since revision ``since`` takes the ground from a step that is ready in a lane: what it ``relies_on`` was
    touched. What happens in another lane leaves a letter of this one alone."""
    wanted = frozenset(relies_on)
    for entry in history[since:]:
        if WHOLE not in wanted and isinstance(entry, h.InLane) and entry.lane != lane:
            continue
        changed = touched(entry, history)
        if changed and (WHOLE in wanted or WHOLE in changed or changed & wanted):
            return True
    return False
