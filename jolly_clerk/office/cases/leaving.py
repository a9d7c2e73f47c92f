"""Before it leaves: a letter, an acceptance, a hand-over or an ending is kept ready for a short time, in which it can be taken back."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import datetime

from sqlalchemy import select

from jolly_clerk.core.deadlines import deemed
from jolly_clerk.core.history import LetterSent, LetterSentAgain
from jolly_clerk.core.say import say
from jolly_clerk.core.story import READY
from jolly_clerk.office.cases.casework import MOST_ATTEMPTS, Loaded, leave, leave_due, load_case, write_entries
from jolly_clerk.office.cases.ready import LETTERS, entries_of, ready_steps, taken_back
from jolly_clerk.office.errors import NotAllowed, NotFound, NotReady, Stale
from jolly_clerk.office.lifetimes import after, minutes_left, seconds
from jolly_clerk.office.office import BeingReady, Office, Who
from jolly_clerk.store.beside import ReadyStep
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Case, Person

Step = Callable[[Office], Loaded]


@dataclass(frozen=True, slots=True)
class LeavingView:
    """A step that is ready: which, in which lane, who made it ready, when it leaves, and all that in words."""

    id: int
    move: str
    lane: str
    who: str
    own: bool
    leaves_at: datetime
    says: str


def before_it_leaves(office: Office, who: Who, reference: str, move: str, lane: str, do: Step) -> Loaded:
    """Make a step ready, with every date reckoned from the instant at which it leaves; an office that lets nothing wait does it at once.

    Args:
        do: the step itself, over an office whose clock stands at that instant.

    Raises:
        what the step raises.
    """
    waits = office.settings.letter_waits if move in LETTERS else office.settings.step_waits
    if not waits:
        return do(office)
    load_case(office, who, reference)  # what is due to leave leaves first
    now = office.now()
    leaves_at = after(now, seconds(waits))
    do(replace(office, now=lambda: leaves_at, ready=BeingReady(move, lane, now, leaves_at)))
    return load_case(office, who, reference)


def take_step_back(office: Office, who: Who, reference: str, step: int) -> Loaded:
    """Take back what is ready before it leaves: nothing of it has happened, and nobody outside was told."""
    for _ in range(MOST_ATTEMPTS):
        loaded = load_case(office, who, reference)
        if not who.is_officer:
            raise NotAllowed(say("Only an officer takes back what is about to leave."))
        row = _step(office, loaded.case.id, step)
        entry = taken_back(row, office.now(), who.id, who.role)
        done = write_entries(office, loaded, (entry,), drops=(row,))
        if done is not None:
            return done
    raise Stale(say("Somebody else worked on this case at the same moment. Look at what changed, then decide again."))


def send_step_now(office: Office, who: Who, reference: str, step: int) -> Loaded:
    """Let what is ready leave at once. Raises NotReady if its letter is dated another day, or counts as received on another."""
    loaded = load_case(office, who, reference)
    if not who.is_officer:
        raise NotAllowed(say("Only an officer sends what is about to leave."))
    row, now = _step(office, loaded.case.id, step), office.now()
    calendar, rules = loaded.known.calendar, loaded.assessment.clock_rules.answers
    entries = [entry.model_copy(update={"at": now}) for entry in entries_of(row)]
    other_day = calendar.local_day(now) != calendar.local_day(row.leaves_at)
    if other_day or any(
        deemed(now, rules, calendar) != e.received for e in entries if isinstance(e, (LetterSent, LetterSentAgain))
    ):
        raise NotReady(say("Its dates are those of the moment at which it leaves by itself. Take it back and send it again."))
    leave(office, loaded, row, entries)
    return load_case(office, who, reference)


def _step(office: Office, case_id: str, step: int) -> ReadyStep:
    with read_session(office.engine) as session:
        row = session.get(ReadyStep, step)
    if row is None or row.case_id != case_id:
        raise NotFound(say("This has left already, or was taken back."))
    return row


def leaving(office: Office, who: Who, loaded: Loaded) -> tuple[LeavingView, ...]:
    """What of a case is ready to leave, for people of the office."""
    if loaded.case.leaves_at is None or not who.sees_all:
        return ()
    with read_session(office.engine) as session:
        rows = ready_steps(session, loaded.case.id)
        names = {row.person_id: session.get_one(Person, row.person_id).name for row in rows}
    return tuple(
        LeavingView(r.id, r.move, r.lane, names[r.person_id], r.person_id == who.id, r.leaves_at, _says(office, r, names))
        for r in rows
    )


def _says(office: Office, row: ReadyStep, names: dict[str, str]) -> str:
    left = minutes_left(row.leaves_at, office.now())
    when = say("in less than a minute") if left < 1 else say("in {minutes} min", minutes=left)
    return say("{what} leaves {when}, made ready by {who}.", what=say(READY[row.move]), when=when, who=names[row.person_id])


def let_leave(office: Office) -> int:
    """Let everything leave whose time has come, over all cases; gives how many cases it was."""
    with read_session(office.engine) as session:
        due = list(session.scalars(select(Case.id).where(Case.leaves_at <= office.now()).order_by(Case.leaves_at)))
    for case_id in due:
        leave_due(office, case_id)
    return len(due)


def next_leaves(office: Office) -> datetime | None:
    """When the next step leaves, over all cases."""
    with read_session(office.engine) as session:
        return session.scalars(
            select(Case.leaves_at).where(Case.leaves_at.is_not(None)).order_by(Case.leaves_at).limit(1)
        ).first()
