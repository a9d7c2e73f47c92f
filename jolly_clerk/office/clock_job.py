"""The clock job: reminds applicants, lets lapse what ran out, sends what waits. Run by the server, or by ``jolly-clerk clock``."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

import structlog
from sqlalchemy import select

from jolly_clerk.core import history as h
from jolly_clerk.core.say import day, money, things
from jolly_clerk.core.time.clock import reminders
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
    with reading(office.engine) as session:
        waiting = list(session.scalars(select(Case).where(Case.step.in_(("payment", "answers")))))
    reminded = lapsed = 0
    for case in waiting:
        try:
            with reading(office.engine) as session:
                history = load_history(session, case.id)
            loaded = assessed(office, case, history, len(history.entries))
            if run_out(loaded):
                _lapse(office, loaded)
                lapsed += 1
            elif _raised(loaded):
                _raise(office, loaded)
                reminded += 1
            elif (due := _reminder_due(loaded)) is not None:
                _remind(office, loaded, due)
                reminded += 1
        except OfficeError as error:  # somebody was faster: the next run looks again
            log.info("clock job passed over a case", reason=error.title)
    return Done(reminded, lapsed, deliver_waiting(office))


def run_out(loaded: Loaded) -> bool:
    """True if the applicant's period has ended."""
    clock = loaded.assessment.clock
    return bool(clock and clock.step in ("payment", "answers") and clock.limit_at and loaded.now >= clock.limit_at)


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


def _lapse(office: Office, loaded: Loaded) -> None:
    clock = loaded.assessment.clock
    assert clock and clock.limit_day
    rules = loaded.rulebook.edition.clock
    if clock.step == "payment":
        open_now = money(loaded.assessment.account.open, loaded.rulebook.edition.currency)
        grounds = f"{open_now} was to be paid by the end of {day(clock.limit_day)} and has not come (art. {rules.pay.article})."
    else:
        grounds = f"Answers were due by the end of {day(clock.limit_day)} and have not come (art. {rules.answers.article})."
    lapse(office, loaded, clock.step, grounds)


def _reminder_due(loaded: Loaded) -> date | None:
    """The reminder day that has come and was not kept yet, of several the latest; None if there is none."""
    clock = loaded.assessment.clock
    assert clock is not None
    calendar = loaded.known.calendar
    today = calendar.local_day(loaded.now)
    days = reminders(clock, loaded.rulebook.edition.clock)
    past = [d for d in days if d <= today]
    if not past or clock.limit_day is None or clock.since > max(past):
        return None
    sent = [calendar.local_day(e.at) for e in loaded.history.entries if isinstance(e, h.Reminded) and e.due == clock.limit_day]
    # one that is long past (the office was shut) is not made up for if the next one went out
    if any(d >= max(past) for d in sent) or (today - max(past)).days > LATE:
        return None
    return clock.limit_day


def _remind(office: Office, loaded: Loaded, due: date) -> None:
    clock, reference = loaded.assessment.clock, loaded.case.reference
    assert clock is not None
    step = clock.step
    assert step in ("payment", "answers")
    latest = loaded.so_far.open_round
    because = (
        f"{money(loaded.assessment.account.open, loaded.rulebook.edition.currency)} is to be paid."
        if step == "payment"
        else f"{things(len(latest.points) if latest else 0, 'point')} of our letter to be answered."
    )
    sha256 = office.vault.put(plain_letter(office, loaded, "reminder", CLOCK, because=because, due=day(due)))
    number = 1 + sum(isinstance(e, h.Reminded) for e in loaded.history.entries)

    def entries(_: Loaded) -> Sequence[h.Entry]:
        return [h.Reminded(at=office.now(), who=CLOCK.id, role="clock", step=step, due=due, letter_sha256=sha256)]

    act_and_tell(office, CLOCK, loaded, entries, "reminder", sha256, key=f"{reference}-reminder-{number}")
