"""Days on which the office was shut: foreseen, declared by a lead, and told in every case that they touch."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, datetime

import structlog
from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from jolly_clerk.core.closing import Closing, close, is_far
from jolly_clerk.core.history import ClosureDeclared
from jolly_clerk.core.in_words import day as said_day
from jolly_clerk.core.say import say
from jolly_clerk.core.shut import Shut
from jolly_clerk.core.states import FINAL, LAPSED
from jolly_clerk.office.cases.casework import Loaded, assessed, by
from jolly_clerk.office.cases.endings import CLOCK
from jolly_clerk.office.errors import Invalid, NotAllowed, OfficeError
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.directory import names_in, person
from jolly_clerk.office.post.papers import plain_letter
from jolly_clerk.office.post.telling import act_and_tell
from jolly_clerk.office.rules.rulebooks import office_calendar
from jolly_clerk.store.chain import load_history
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import Case, Closure

log = structlog.get_logger()

#: so many rows are shown; all are counted
MOST_SHOWN = 200
#: so many cases are looked at before it is declared; each takes some hundredths of a second
MOST_LOOKED = 300
#: in so many cases it is told before the lead is answered
AT_ONCE = 60


@dataclass(frozen=True, slots=True)
class Touched:
    """A case that a closure touches: what moves in it, each in words; ``comes_back`` if it had lapsed on the day."""

    reference: str
    title: str
    moves: tuple[str, ...]
    comes_back: bool


@dataclass(frozen=True, slots=True)
class Foreseen:
    """What declaring a closure would do: how many cases it touches, how many limits move, how many cases come back; the first of them.

    Of ``living`` cases (and those that lapsed on the day) so many were ``looked`` at: those whose limits come first.
    """

    said: str
    living: int
    looked: int
    cases: int
    limits: int
    come_back: int
    touched: tuple[Touched, ...]


@dataclass(frozen=True, slots=True)
class Declared:
    """A closure that was declared: when, why, by whom."""

    said: str
    reason: str
    article: str
    by: str
    at: datetime


def foresee(office: Office, who: Who, shut: Shut) -> Foreseen:
    """What declaring a closure would do, case by case; nothing is written. Raises NotAllowed, Invalid."""
    _check(office, who, shut)
    cases = _candidates(office, shut.day)
    first = sorted(cases, key=lambda case: (case.state not in LAPSED, case.sort_at))[:MOST_LOOKED]
    found = [(case, close(_loaded(office, case).assessment, shut, who.id, who.role)) for case in first]
    closings = [(case, closing) for case, closing in found if closing is not None]
    rows = [Touched(c.reference, c.title, _said(closing), closing.comes_back) for c, closing in closings]
    rows.sort(key=lambda row: (not row.comes_back, not row.moves, row.reference))
    return Foreseen(
        shut.said,
        len(cases),
        len(first),
        len(rows),
        sum(len(row.moves) for row in rows),
        sum(row.comes_back for row in rows),
        tuple(row for row in rows if row.moves)[:MOST_SHOWN],
    )


def declare(office: Office, who: Who, shut: Shut) -> Foreseen:
    """Declare a closure: an entry in each case that it touches, and a letter. The first cases are told at once, the others by the clock job,
    which also goes on where it was broken off. Raises NotAllowed, Invalid.
    """
    if len(shut.reason.strip()) < 3:
        raise Invalid(say("Say why the office was shut."))
    foreseen, told = foresee(office, who, shut), shut.model_dump_json()
    with write_session(office.engine) as session:
        if session.scalars(select(Closure.id).where(Closure.told == told)).first() is None:
            session.add(Closure(day=shut.day, told=told, declared_by=who.id, declared_at=office.now()))
    tell_closures(office, AT_ONCE)
    return foreseen


def tell_closures(office: Office, most: int | None = None) -> int:
    """Tell closures that were declared in the cases that do not have them yet, in so many at the most; returns in how many."""
    with read_session(office.engine) as session:
        waiting = list(session.scalars(select(Closure).where(Closure.done_at.is_(None)).order_by(Closure.id)))
    told = 0
    for closure in waiting:
        shut, lead, missed = Shut.model_validate_json(closure.told), person(office, closure.declared_by), 0
        for case in _candidates(office, shut.day):
            if most is not None and told >= most:
                return told
            try:
                told += _tell(office, lead, case, shut)
            except OfficeError as error:  # somebody was faster: the next run looks again
                log.info("closure passed over a case", reason=error.title)
                missed += 1
            except Exception as error:
                log.error("closure passed over a case", error=type(error).__name__)
                missed += 1
        if not missed:
            with write_session(office.engine) as session:
                session.get_one(Closure, closure.id).done_at = office.now()
    return told


def declared(office: Office, who: Who) -> list[Declared]:
    """The closures that were declared, the latest day first."""
    _need_lead(who)
    with read_session(office.engine) as session:
        rows = list(session.scalars(select(Closure).order_by(Closure.day.desc(), Closure.id.desc()).limit(MOST_SHOWN)))
        called = names_in(session, {row.declared_by for row in rows})
    shuts = [(row, Shut.model_validate_json(row.told)) for row in rows]
    return [Declared(s.said, s.reason, s.article, called.get(r.declared_by, r.declared_by), r.declared_at) for r, s in shuts]


def ahead(office: Office, session: Session, today: date) -> Iterator[ClosureDeclared]:
    """The entries with which a case is filed while closures of days to come are declared already."""
    for told in session.scalars(select(Closure.told).where(Closure.day >= today).order_by(Closure.day)):
        shut = Shut.model_validate_json(told)
        yield ClosureDeclared(**by(office, CLOCK), shut=shut, until=shut.day)


def _tell(office: Office, who: Who, case: Case, shut: Shut) -> bool:
    """Tell a closure in a case; False if it does not touch it."""
    loaded = _loaded(office, case)
    closing = close(loaded.assessment, shut, who.id, who.role)
    if closing is None:
        return False
    because = say("On {day} the office was shut: {reason}.", day=shut.said, reason=shut.reason.rstrip("."))
    if shut.article:
        because = say("{because} By art. {article} what would have ended then ends later.", because=because, article=shut.article)
    said = " ".join(_said(closing)) or say("Nothing moves in this case.")
    sha256 = office.vault.put(plain_letter(office, loaded, "office_shut", CLOCK, because=because, grounds=said))
    key = f"{loaded.case.reference}-shut-{shut.day}-{loaded.entries}"

    def entries(now: Loaded) -> tuple[object, ...]:
        again = close(now.assessment, shut, who.id, who.role)
        if again is None:
            return ()
        first, *others = again.entries
        return (first.model_copy(update={"letter_sha256": sha256}), *others)

    act_and_tell(office, CLOCK, loaded, "", entries, "office_shut", sha256, key)  # type: ignore[arg-type]
    return True


def _loaded(office: Office, case: Case) -> Loaded:
    with read_session(office.engine) as session:
        history = load_history(session, case.id)
    return assessed(office, case, history, len(history.entries))


def _candidates(office: Office, day: date) -> list[Case]:
    """The cases that live, and those that lapsed since the day."""
    lapsed = Case.state.in_(LAPSED) & (Case.changed_at >= office_calendar(office).day_begin(day))
    wanted = select(Case).where(or_(Case.state.not_in(FINAL), lapsed), Case.erased_at.is_(None), Case.kept.is_(False))
    with read_session(office.engine) as session:
        return list(session.scalars(wanted.order_by(Case.reference)))


def _said(closing: Closing) -> tuple[str, ...]:
    return tuple(limit.said(closing.comes_back) for limit in closing.moved)


def _check(office: Office, who: Who, shut: Shut) -> None:
    _need_lead(who)
    calendar = office_calendar(office)
    if is_far(shut, calendar.local_day(office.now())):
        raise Invalid(say("{day} is more than a year away.", day=said_day(shut.day)))
    if (why := calendar.closed_on(shut.day)) is not None:
        raise Invalid(say("{day} is closed already: {why}.", day=said_day(shut.day), why=why))


def _need_lead(who: Who) -> None:
    if not who.may.decides_fees:
        raise NotAllowed(say("Only a lead declares that the office was shut."))
