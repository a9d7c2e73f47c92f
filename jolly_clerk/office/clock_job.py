"""The clock job: reminds applicants, lets lapse what ran out, sends what waits. Run by the server, or by ``jolly-clerk clock``."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date

import structlog
from sqlalchemy import select

from jolly_clerk.core import history as h
from jolly_clerk.core.clock import ClockView, reminders
from jolly_clerk.core.lifecycle import in_lane
from jolly_clerk.core.say import day, money, things
from jolly_clerk.office.casework import Loaded, assessed
from jolly_clerk.office.endings import CLOCK, lapse
from jolly_clerk.office.errors import OfficeError
from jolly_clerk.office.mailing import deliver_waiting
from jolly_clerk.office.office import Office
from jolly_clerk.office.papers import plain_letter
from jolly_clerk.office.telling import act_and_tell
from jolly_clerk.store.chain import load_history
from jolly_clerk.store.database import reading
from jolly_clerk.store.tables import Case

log = structlog.get_logger()
LATE = 5


@dataclass(frozen=True, slots=True)
class Done:
    """What one run did."""

    reminded: int
    lapsed: int
    sent: int


def run_clock(office: Office) -> Done:
    """Look at every case that waits for its applicant; each is done on its own, so that one that fails holds up no other."""
    waits = Case.step.in_(("payment", "answers")) | (Case.limit_of != "")
    with reading(office.engine) as session:
        waiting = list(session.scalars(select(Case).where(waits)))
    reminded = lapsed = 0
    for case in waiting:
        try:
            with reading(office.engine) as session:
                history = load_history(session, case.id)
            loaded = assessed(office, case, history, len(history.entries))
            if over := run_out(loaded):
                _lapse(office, loaded, *over)
                lapsed += 1
            elif _raised(loaded):
                _raise(office, loaded)
                reminded += 1
            elif due := _reminder_due(loaded):
                _remind(office, loaded, *due)
                reminded += 1
        except OfficeError as error:  # somebody was faster: the next run looks again
            log.info("clock job passed over a case", reason=error.title)
    return Done(reminded, lapsed, deliver_waiting(office))


def _theirs(loaded: Loaded) -> Iterator[tuple[str, ClockView]]:
    """The clocks that run against the applicant, by lane; several only in a case with lanes."""
    a = loaded.assessment
    clocks = [(lane.id, lane.clock) for lane in a.lanes] if a.clock_of else [("", a.clock)]
    yield from ((lane, clock) for lane, clock in clocks if clock and clock.step in ("payment", "answers"))


def run_out(loaded: Loaded) -> tuple[str, ClockView] | None:
    """The lane and the clock of a period of the applicant's that has ended, if there is one."""
    return next(((lane, c) for lane, c in _theirs(loaded) if c.limit_at and loaded.now >= c.limit_at), None)


def _raised(loaded: Loaded) -> bool:
    """True if what is due at filing has risen beyond what was told, because it was not paid in time."""
    case, due = loaded.so_far, loaded.assessment.fees.total("at filing").amount
    grows = loaded.rulebook.edition.clock.pay.grows and case.filed is not None and case.covered_at is None
    return bool(grows and due is not None and due > case.due_told)


def _raise(office: Office, loaded: Loaded) -> None:
    """Tell the applicant the higher fee; from then on it is what has to be paid."""
    due, clock = loaded.assessment.fees.total("at filing").low, loaded.assessment.clock
    assert clock and clock.limit_day
    told = f"{money(due, loaded.rulebook.edition.currency)} is due, since not all was paid in time."
    sha256 = office.vault.put(plain_letter(office, loaded, "reminder", CLOCK, because=told, due=day(clock.limit_day)))

    def entries(_: Loaded) -> Sequence[h.Entry]:
        because = "not all was paid in time"
        return [h.FeeRaised(at=office.now(), who=CLOCK.id, role="clock", due=due, because=because, letter_sha256=sha256)]

    act_and_tell(office, CLOCK, loaded, entries, "reminder", sha256, key=f"{loaded.case.reference}-raised-{due}")


def _lapse(office: Office, loaded: Loaded, lane: str, clock: ClockView) -> None:
    assert clock.limit_day
    rules = loaded.rulebook.edition.clock
    if clock.step == "payment":
        open_now = money(loaded.assessment.account.open, loaded.rulebook.edition.currency)
        grounds = f"{open_now} was to be paid by the end of {day(clock.limit_day)} and has not come (art. {rules.pay.article})."
    else:
        grounds = f"Answers were due by the end of {day(clock.limit_day)} and have not come (art. {rules.answers.article})."
    lapse(office, loaded, clock.step, grounds, lane)


def _reminder_due(loaded: Loaded) -> tuple[str, ClockView, date] | None:
    """The lane, its clock and the day to name in a reminder whose day has come and was not kept yet; None if there is none."""
    calendar = loaded.known.calendar
    today = calendar.local_day(loaded.now)
    for lane, clock in _theirs(loaded):
        past = [d for d in reminders(clock, loaded.rulebook.edition.clock) if d <= today]
        if not past or clock.limit_day is None or clock.since > max(past):
            continue
        kept = [e for e in loaded.history.entries if isinstance(e, h.Reminded) and (e.lane, e.due) == (lane, clock.limit_day)]
        # one that is long past (the office was shut) is not made up for if the next one went out
        if any(calendar.local_day(e.at) >= max(past) for e in kept) or (today - max(past)).days > LATE:
            continue
        return lane, clock, clock.limit_day
    return None


def _remind(office: Office, loaded: Loaded, lane: str, clock: ClockView, due: date) -> None:
    reference, step = loaded.case.reference, clock.step
    assert step in ("payment", "answers")
    latest = in_lane(loaded.so_far, lane).open_round
    because = (
        f"{money(loaded.assessment.account.open, loaded.rulebook.edition.currency)} is to be paid."
        if step == "payment"
        else f"{things(len(latest.points) if latest else 0, 'point')} of our letter to be answered."
    )
    sha256 = office.vault.put(plain_letter(office, loaded, "reminder", CLOCK, lane, because=because, due=day(due)))
    number = 1 + sum(isinstance(e, h.Reminded) for e in loaded.history.entries)

    def entries(_: Loaded) -> Sequence[h.Entry]:
        return [h.Reminded(at=office.now(), who=CLOCK.id, role="clock", lane=lane, step=step, due=due, letter_sha256=sha256)]

    act_and_tell(office, CLOCK, loaded, entries, "reminder", sha256, key=f"{reference}-reminder-{number}")
