"""Steps that are ready and leave a little later: kept beside the case, dropped when they left, were taken back or fell."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import datetime
from typing import TYPE_CHECKING

from sqlalchemy import select
from sqlalchemy.orm import Session

from jolly_clerk.core.conflicts import FEE, WHOLE, falls
from jolly_clerk.core.history import ENTRY, Entry, StepTakenBack
from jolly_clerk.core.roles import Role
from jolly_clerk.core.say import Sentence
from jolly_clerk.office.office import BeingReady, Office
from jolly_clerk.store.beside import ReadyStep
from jolly_clerk.store.tables import Case

if TYPE_CHECKING:
    from jolly_clerk.office.cases.casework import Loaded

#: the steps that are letters to the applicant about points: they wait longer than the others
LETTERS = ("send the letter", "send again", "replace the letter")


def ready_steps(session: Session, case_id: str) -> list[ReadyStep]:
    """What of a case is ready to leave, the first to leave first."""
    return list(session.scalars(select(ReadyStep).where(ReadyStep.case_id == case_id).order_by(ReadyStep.leaves_at)))


def keep_ready(session: Session, case: Case, loaded: Loaded, entries: Sequence[Entry], ready: BeingReady) -> None:
    """Keep a step beside its case until it leaves."""
    session.add(
        ReadyStep(
            case_id=case.id,
            move=ready.move,
            lane=ready.lane,
            person_id=entries[-1].who,
            put_at=ready.made_at,
            leaves_at=ready.leaves_at,
            entries=[ENTRY.dump_python(entry, mode="json") for entry in entries],
            out=ready.out,
            relies_on=sorted(_relies_on(loaded, ready)),
        )
    )
    case.leaves_at = min(case.leaves_at or ready.leaves_at, ready.leaves_at)


def _relies_on(loaded: Loaded, ready: BeingReady) -> set[str]:
    """What a step relies on: the whole case, or for a letter the requirements, registers and answered points of its lane. The fee counts
    only if the letter asks for it."""
    if ready.move not in LETTERS:
        return {WHOLE}
    a = loaded.assessment
    asked = {id_ for p in a.points_in(ready.lane) for id_ in (p.requirement, *p.also)}
    own = {r.id for r in a.requirements if r.lane == ready.lane and (r.id != FEE or FEE in asked)}
    latest = loaded.so_far.round if not ready.lane else None
    points = {f"point:{ready.lane}:{latest.no}:{no}" for no in latest.points} if latest else set()
    return own | points | {"points", *(f"register:{name}" for name in loaded.rulebook.edition.registers)}


def entries_of(step: ReadyStep) -> tuple[Entry, ...]:
    """The finished entries of a step."""
    return tuple(ENTRY.validate_python(entry) for entry in step.entries)


def fallen(steps: Iterable[ReadyStep], history: Sequence[Entry], since: int) -> list[ReadyStep]:
    """Which of these steps lose their ground by what a history holds since a revision."""
    return [step for step in steps if falls(step.relies_on, step.lane, history, since)]


def taken_back(step: ReadyStep, at: datetime, who: str, role: Role, because: str | Sentence = "") -> StepTakenBack:
    """The entry that a step did not leave."""
    return StepTakenBack(
        at=at, who=who, role=role, lane=step.lane, move=step.move, leaves_at=step.leaves_at, because=because, of=step.person_id
    )


def drop(session: Session, case: Case, ids: Sequence[int]) -> bool:
    """Drop steps that leave or do not leave, in the caller's write; False if one of them is gone already."""
    if not ids:
        return True
    rows = [row for row in ready_steps(session, case.id) if row.id in ids]
    if len(rows) != len(ids):
        return False
    for row in rows:
        session.delete(row)
    session.flush()
    left = ready_steps(session, case.id)
    case.leaves_at = left[0].leaves_at if left else None
    return True


def leaves_now(office: Office, case: Case) -> bool:
    """True if something of the case is ready and its time has come."""
    return office.ready is None and case.leaves_at is not None and case.leaves_at <= office.now()
