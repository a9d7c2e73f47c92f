"""The clock job: does what has come due by itself (lapses, fees that rose, reminders) and sends what waits.

Run by the server, or by ``jolly-clerk clock``.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Literal

import structlog
from sqlalchemy import delete, select

from jolly_clerk.core import history as h
from jolly_clerk.core.due import (
    AskPermit,
    BodyOver,
    DecidesItself,
    Lapse,
    LaterUnpaid,
    NotTicked,
    Raise,
    Remind,
    Silence,
    due_in_words,
    next_look,
    what_is_due,
)
from jolly_clerk.core.in_words import day
from jolly_clerk.core.say import say, speaking
from jolly_clerk.office.cases.casework import Loaded, assessed, by
from jolly_clerk.office.cases.closures import tell_closures
from jolly_clerk.office.cases.endings import CLOCK, lapse
from jolly_clerk.office.cases.finding import write_what_is_found
from jolly_clerk.office.cases.leaving import let_leave
from jolly_clerk.office.desk.inquiring import go_on_without, posting_missed
from jolly_clerk.office.desk.reviewing import grant_by_silence
from jolly_clerk.office.desk.turning import finish_turnings
from jolly_clerk.office.errors import OfficeError
from jolly_clerk.office.events import forget_old_events
from jolly_clerk.office.keeping.looks import forget_old_looks
from jolly_clerk.office.keeping.removing import tidy
from jolly_clerk.office.lifetimes import DAILY, PASSED_OVER, after, before
from jolly_clerk.office.office import Office
from jolly_clerk.office.people.slowing import forget_old_tries
from jolly_clerk.office.permits.carrying import carry_out_steps
from jolly_clerk.office.permits.stepping import go_on
from jolly_clerk.office.post.mailing import deliver_waiting, drop_old_secrets
from jolly_clerk.office.post.papers import plain_letter
from jolly_clerk.office.post.telling import act_and_tell
from jolly_clerk.office.preparing.adding import take_out
from jolly_clerk.office.preparing.inviting import remind_signers
from jolly_clerk.office.preparing.issuing import remind_issuers
from jolly_clerk.office.preparing.mandates import tell_what_is_over
from jolly_clerk.office.preparing.uploading import tidy_uploads
from jolly_clerk.office.rules.rulebooks import known_for
from jolly_clerk.office.till.placing import carry_out_all
from jolly_clerk.store.beside import SearchRow
from jolly_clerk.store.chain import load_history
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import Case, OneTimeLink

log = structlog.get_logger()


@dataclass(frozen=True, slots=True)
class Done:
    """What one run did."""

    reminded: int
    lapsed: int
    sent: int


#: so many cases are taken up at a time
AT_ONCE = 200


def run_clock(office: Office, between: Callable[[float], bool] | None = None) -> Done:
    """Look at every case whose time for a look has come. Each is handled separately; a failure does not stop the rest.

    ``between`` is called after each case with the seconds that it took; the run ends early if it says False.
    """
    with speaking(office.texts):
        return _run(office, between)


def _run(office: Office, between: Callable[[float], bool] | None) -> Done:
    let_leave(office)
    tell_closures(office)
    reminded = lapsed = 0
    seen: set[str] = set()
    while cases := _to_look_at(office, seen):
        for case in cases:
            seen.add(case.id)
            began = time.monotonic()
            try:
                done = _look(office, case)
                reminded += done == "told"
                lapsed += done == "lapsed"
            except OfficeError as error:  # somebody was faster: the next run looks again
                log.info("clock job passed over a case", reason=error.title)
            except Exception as error:
                log.error("case passed over", error=type(error).__name__)
                _look_again(office, case.id, after(office.now(), PASSED_OVER))
            if between is not None and not between(time.monotonic() - began):
                return Done(reminded, lapsed, 0)
    _write_what_is_missing(office)
    _tidy(office)
    if office.mail_waits is not None:  # the server has a thread for it
        office.mail_waits.set()
        return Done(reminded, lapsed, 0)
    return Done(reminded, lapsed, deliver_waiting(office))


def _tidy(office: Office) -> None:
    """Carry out what a stop left undone; drop what is over: old tries, links and codes; once a day what nobody keeps any longer."""
    finish_turnings(office)
    carry_out_steps(office)
    carry_out_all(office)
    drop_old_secrets(office)
    forget_old_events(office)
    if office.tidied_at is None or office.tidied_at < before(office.now(), DAILY):
        office.tidied_at = office.now()
        tidy(office)
        tidy_uploads(office)
        forget_old_looks(office)
        remind_signers(office)
        remind_issuers(office)
        tell_what_is_over(office)
    with write_session(office.engine) as session:
        forget_old_tries(office, session)
        session.execute(delete(OneTimeLink).where(OneTimeLink.until < office.now()))


def _write_what_is_missing(office: Office) -> None:
    """Write what cases of an older office are found by, once; from then on it is kept with each case."""
    while not office.all_can_be_found:
        with write_session(office.engine) as session:
            missing = (
                select(Case)
                .outerjoin(SearchRow, SearchRow.case_id == Case.id)
                .where(SearchRow.id.is_(None), Case.erased_at.is_(None))
            )
            cases = list(session.scalars(missing.order_by(Case.filed_at).limit(AT_ONCE)))
            for case in cases:
                history = load_history(session, case.id)
                hashes = {a.sha256 for a in history.versions[-1].dossier.papers}
                write_what_is_found(session, case, history, known_for(office, case.edition_sha256, hashes, session))
        office.all_can_be_found = not cases


def _to_look_at(office: Office, seen: Collection[str]) -> list[Case]:
    due = select(Case).where(Case.next_look_at <= office.now()).order_by(Case.next_look_at).limit(AT_ONCE + len(seen))
    with read_session(office.engine) as session:
        return [case for case in session.scalars(due) if case.id not in seen]


def _look(office: Office, case: Case) -> Literal["told", "lapsed", ""]:
    """Do what is due of a case; what it does tells when to look next, else it is noted here."""
    with read_session(office.engine) as session:
        history = load_history(session, case.id)
    loaded = assessed(office, case, history, len(history.entries))
    due = what_is_due(loaded.assessment)
    if isinstance(due, Lapse):
        lapse(office, loaded, due.step, due.grounds, due.lane)
        return "lapsed"
    if isinstance(due, (AskPermit, DecidesItself)):
        go_on(office, case.reference)
        return "told"
    if isinstance(due, Silence):
        grant_by_silence(office, CLOCK, loaded, due)
        return "told"
    if isinstance(due, BodyOver):
        go_on_without(office, CLOCK, loaded, due)
        return "told"
    if isinstance(due, NotTicked):
        posting_missed(office, CLOCK, loaded, due)
        return "told"
    if isinstance(due, LaterUnpaid):
        take_out(office, CLOCK, loaded, due)
        return "told"
    if due is not None:
        _tell(office, loaded, due)
        return "told"
    _look_again(office, case.id, next_look(loaded.assessment))
    return ""


def _look_again(office: Office, case_id: str, at: datetime | None) -> None:
    with write_session(office.engine) as session:
        session.get_one(Case, case_id).next_look_at = at


def _tell(office: Office, loaded: Loaded, due: Raise | Remind) -> None:
    """Send a reminder, or tell the applicant the higher fee: from then on it is what has to be paid."""
    lane = due.lane if isinstance(due, Remind) else ""
    until = due.due if isinstance(due, Remind) else due.until
    name = due.letter if isinstance(due, Remind) else "reminder"
    letter = plain_letter(office, loaded, name, CLOCK, lane, because=due.because, due=lambda: day(until))
    sha256, reference = office.vault.put(letter), loaded.case.reference
    told = sum(isinstance(e, h.Reminded) for e in loaded.history.entries)
    key = f"{reference}-reminder-{1 + told}" if isinstance(due, Remind) else f"{reference}-raised-{due.due}"

    def entries(_: Loaded) -> Sequence[h.Entry]:
        if isinstance(due, Raise):
            return [h.FeeRaised(**by(office, CLOCK), due=due.due, because=say("not all was paid in time"), letter_sha256=sha256)]
        return [h.Reminded(**by(office, CLOCK), lane=lane, step=due.step, due=due.due, of=due.of, letter_sha256=sha256)]

    act_and_tell(office, CLOCK, loaded, "", entries, name, sha256, key)


@dataclass(frozen=True, slots=True)
class ToCome:
    """What would happen of itself to a case, and when."""

    at: datetime
    reference: str
    says: str


def to_come(office: Office, until: datetime) -> list[ToCome]:
    """The next thing that happens of itself in each case up to an instant, soonest first, if nobody does anything; nothing is written."""
    with speaking(office.texts), read_session(office.engine) as session:
        due = select(Case).where(Case.next_look_at <= until, Case.erased_at.is_(None)).order_by(Case.next_look_at)
        cases = [(case, load_history(session, case.id)) for case in session.scalars(due)]
        found = [told for case, history in cases if (told := _to_come(office, case, history, until)) is not None]
    return sorted(found, key=lambda one: (one.at, one.reference))


def _to_come(office: Office, case: Case, history: h.History, until: datetime) -> ToCome | None:
    at = case.next_look_at
    for _ in range(MOST_LOOKS):
        if at is None or at > until:
            return None
        then = replace(office, now=lambda at=at: max(at, office.now()))  # type: ignore[misc]
        a = assessed(then, case, history, len(history.entries)).assessment
        if (due := what_is_due(a)) is not None:
            return ToCome(then.now(), case.reference, due_in_words(due))
        at = next_look(a)
    return None


#: so often a case is looked at before it is taken that nothing comes
MOST_LOOKS = 20
