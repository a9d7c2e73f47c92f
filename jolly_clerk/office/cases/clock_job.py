"""The clock job: does what has come due by itself (lapses, fees that rose, reminders) and sends what waits.

Run by the server, or by ``jolly-clerk clock``.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import structlog
from sqlalchemy import select

from jolly_clerk.core import history as h
from jolly_clerk.core.due import THEIRS, Lapse, Raise, Remind, what_is_due
from jolly_clerk.core.in_words import day
from jolly_clerk.core.say import say, speaking
from jolly_clerk.office.cases.casework import Loaded, assessed, by
from jolly_clerk.office.cases.endings import CLOCK, lapse
from jolly_clerk.office.errors import OfficeError
from jolly_clerk.office.office import Office
from jolly_clerk.office.post.mailing import deliver_waiting
from jolly_clerk.office.post.papers import plain_letter
from jolly_clerk.office.post.telling import act_and_tell
from jolly_clerk.store.chain import load_history
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Case

log = structlog.get_logger()


@dataclass(frozen=True, slots=True)
class Done:
    """What one run did."""

    reminded: int
    lapsed: int
    sent: int


def run_clock(office: Office) -> Done:
    """Look at every case that waits for its applicant. Each case is handled separately; a failure does not stop the rest."""
    with speaking(office.texts):
        return _run(office)


def _run(office: Office) -> Done:
    waits = Case.step.in_(THEIRS) | (Case.limit_of != "")
    with read_session(office.engine) as session:
        waiting = list(session.scalars(select(Case).where(waits)))
    reminded = lapsed = 0
    for case in waiting:
        try:
            with read_session(office.engine) as session:
                history = load_history(session, case.id)
            loaded = assessed(office, case, history, len(history.entries))
            due = what_is_due(loaded.assessment)
            if isinstance(due, Lapse):
                lapse(office, loaded, due.step, due.grounds, due.lane)
                lapsed += 1
            elif due is not None:
                _tell(office, loaded, due)
                reminded += 1
        except OfficeError as error:  # somebody was faster: the next run looks again
            log.info("clock job passed over a case", reason=error.title)
    return Done(reminded, lapsed, deliver_waiting(office))


def _tell(office: Office, loaded: Loaded, due: Raise | Remind) -> None:
    """Send a reminder, or tell the applicant the higher fee: from then on it is what has to be paid."""
    lane = due.lane if isinstance(due, Remind) else ""
    until = due.due if isinstance(due, Remind) else due.until
    letter = plain_letter(office, loaded, "reminder", CLOCK, lane, because=due.because, due=day(until))
    sha256, reference = office.vault.put(letter), loaded.case.reference
    told = sum(isinstance(e, h.Reminded) for e in loaded.history.entries)
    key = f"{reference}-reminder-{1 + told}" if isinstance(due, Remind) else f"{reference}-raised-{due.due}"

    def entries(_: Loaded) -> Sequence[h.Entry]:
        if isinstance(due, Raise):
            return [h.FeeRaised(**by(office, CLOCK), due=due.due, because=say("not all was paid in time"), letter_sha256=sha256)]
        return [h.Reminded(**by(office, CLOCK), lane=lane, step=due.step, due=due.due, letter_sha256=sha256)]

    act_and_tell(office, CLOCK, loaded, "", entries, "reminder", sha256, key)
