"""Who looked at what: noted by the server beside the look itself, in writes of their own, within two seconds.

A look is not held up by its note. If notes cannot be written for a minute, nobody looks any more: what is not noted is not shown.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Literal

import structlog
from sqlalchemy import delete, or_, select

from jolly_clerk.core.numbers import whole_number
from jolly_clerk.core.say import say
from jolly_clerk.office.errors import NotAllowed
from jolly_clerk.office.lifetimes import LOOKS_KEPT, ONCE, before
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.rules.rulebooks import office_calendar
from jolly_clerk.store.beside import Look
from jolly_clerk.store.database import Busy, read_session, write_session
from jolly_clerk.store.tables import Person

log = structlog.get_logger()
What = Literal["case", "summary", "file", "paper", "letter", "search", "found", "list", "calendar", "copy"]
#: seconds for which looks may go unnoted before looking ends, and within which a look is noted
PATIENCE, WITHIN = 60.0, 2.0
#: so many looks are remembered, so that a window that looks again and again within a minute is noted once
MOST_REMEMBERED = 5_000
#: looks on a page
PAGE = 100


class Looks:
    """What was looked at and is not written yet. ``thread`` tells that the server writes it; else each look is written at once."""

    def __init__(self, office: Office) -> None:
        self.office, self.thread = office, False
        self._lock = threading.Lock()
        self._waiting: list[Look] = []
        self._since: float | None = None
        self._lately: dict[tuple[str, str, str, str], datetime] = {}

    def note(self, who: Who, what: What, reference: str = "", detail: str = "") -> None:
        """Note a look. Raises Busy if looks could not be written for a minute."""
        now = self.office.now()
        key = (who.signs, what, reference, detail)
        with self._lock:
            if self._since is not None and time.monotonic() - self._since > PATIENCE:
                raise Busy
            last = self._lately.get(key)
            if last is not None and last > before(now, ONCE):
                return
            if len(self._lately) > MOST_REMEMBERED:
                self._lately.clear()
            self._lately[key] = now
            self._waiting.append(Look(at=now, person_id=who.signs, what=what, reference=reference[:40], detail=detail[:200]))
        if not self.thread:
            self.write()

    def write(self) -> None:
        """Write what waits. What cannot be written stays, and is tried again."""
        with self._lock:
            waiting = self._waiting
        if not waiting:
            return
        count = len(waiting)
        try:
            with write_session(self.office.engine) as session:
                session.add_all(_copies(waiting[:count]))
        except Exception as error:
            log.error("looks not written", error=type(error).__name__)
            with self._lock:
                self._since = self._since or time.monotonic()
            return
        with self._lock:
            del self._waiting[:count]
            self._since = None


def _copies(looks: Sequence[Look]) -> list[Look]:
    """New rows each time: one that failed to be written stays as it is."""
    return [Look(at=n.at, person_id=n.person_id, what=n.what, reference=n.reference, detail=n.detail) for n in looks]


def looked(office: Office, who: Who, what: What, reference: str = "", detail: str = "") -> None:
    """Note that a person looked at something personal; see :class:`Looks`."""
    looks_of(office).note(who, what, reference, detail)


def looks_of(office: Office) -> Looks:
    """The looks of an office that are under way."""
    if office.looks is None:
        office.looks = Looks(office)
    assert isinstance(office.looks, Looks)
    return office.looks


@dataclass(frozen=True, slots=True)
class Seen:
    """One look: when, who, at what."""

    at: datetime
    who: str
    what: str
    reference: str
    detail: str


def seen_of(office: Office, who: Who, reference: str) -> tuple[Seen, ...]:
    """Who looked at a case, newest first, at most 500. Raises NotAllowed for whoever is neither a lead nor an auditor."""
    need_auditor(who)
    return seen(office, reference=reference)


@dataclass(frozen=True, slots=True)
class LooksPage:
    """Looks, newest first; ``after`` is where the next page begins, empty at the end."""

    rows: tuple[Seen, ...]
    after: str


def search_looks(
    office: Office, who: Who, words: str = "", first: date | None = None, last: date | None = None, after: str = ""
) -> LooksPage:
    """Who looked at what: by the name of a person or a reference, within days, a page at a time. Raises NotAllowed for whoever is neither
    a lead nor an auditor."""
    need_auditor(who)
    wanted = select(Look, Person.name).outerjoin(Person, Person.id == Look.person_id).order_by(Look.id.desc())
    text = " ".join(words.split())[:80]
    if text:
        like = f"%{text.replace('%', '').replace('_', '')}%"
        wanted = wanted.where(or_(Person.name.ilike(like), Look.reference == text.upper(), Look.detail.ilike(like)))
    calendar = office_calendar(office)
    if first is not None:
        wanted = wanted.where(Look.at >= calendar.day_begin(first))
    if last is not None:
        wanted = wanted.where(Look.at < calendar.day_end(last))
    if (before := whole_number(after)) is not None:
        wanted = wanted.where(Look.id < before)
    looks_of(office).write()
    with read_session(office.engine) as session:
        rows = session.execute(wanted.limit(PAGE + 1)).tuples().all()
    told = tuple(Seen(n.at, name or n.person_id, n.what, n.reference, n.detail) for n, name in rows[:PAGE])
    return LooksPage(told, str(rows[PAGE - 1][0].id) if len(rows) > PAGE else "")


def need_auditor(who: Who) -> None:
    """Raises NotAllowed for whoever is neither a lead nor an auditor."""
    if not (who.sees_all and (who.may.minds_people or not who.may.moves)):
        raise NotAllowed(say("Only a lead or an auditor sees who looked."))


def seen(office: Office, reference: str = "", person: str = "", most: int = 500) -> tuple[Seen, ...]:
    """The looks at a case, or of a person, newest first."""
    wanted = select(Look, Person.name).outerjoin(Person, Person.id == Look.person_id).order_by(Look.id.desc())
    if reference:
        wanted = wanted.where(Look.reference == reference)
    if person:
        wanted = wanted.where(Look.person_id == person)
    looks_of(office).write()
    with read_session(office.engine) as session:
        rows = session.execute(wanted.limit(most)).tuples()
        return tuple(Seen(n.at, name or n.person_id, n.what, n.reference, n.detail) for n, name in rows)


def forget_old_looks(office: Office) -> None:
    """Forget looks of longer ago than they are kept."""
    with write_session(office.engine) as session:
        session.execute(delete(Look).where(Look.at < before(office.now(), LOOKS_KEPT)))
