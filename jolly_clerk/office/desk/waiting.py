"""What waits for a word of somebody in the office: kept as cases change, shown in the in-tray, seen and over."""

from __future__ import annotations

import functools
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import BindParameter, Select, and_, bindparam, false, or_, select, update
from sqlalchemy.orm import Session

from jolly_clerk.core.history import Entry
from jolly_clerk.core.roles import STAFF
from jolly_clerk.core.waiting_words import TOUCHING, Wants, waiting_words
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.directory import leads_of, names_in
from jolly_clerk.store.beside import WaitingWord
from jolly_clerk.store.database import query, read_session, write_session
from jolly_clerk.store.tables import Case, Person

#: so many stand in the in-tray; the rest follows as these are done
MOST_SHOWN = 50


@dataclass(frozen=True, slots=True)
class WordView:
    """Something that waits for whoever looks: in which case, what, from whom and since when."""

    reference: str
    title: str
    what: Wants
    who: str
    at: datetime
    text: str


def note_waiting(session: Session, case: Case, before: Sequence[Entry], fresh: Sequence[Entry]) -> None:
    """Keep what waits in a case after fresh entries, in the caller's write."""
    if not any(isinstance(entry, TOUCHING) for entry in fresh):
        return
    history = (*before, *fresh)
    people = select(Person.id, Person.name).where(Person.role.in_(STAFF), Person.left_at.is_(None))
    wanted = {(w.no, w.to): w for w in waiting_words(history, dict(session.execute(people).tuples().all()))}
    there = {(row.no, row.to_id): row for row in session.scalars(select(WaitingWord).where(WaitingWord.case_id == case.id))}
    for key, row in there.items():
        row.over = key not in wanted
        if row.over and row.what == "message" and row.seen_at is None:
            row.seen_at = history[-1].at  # whoever answers a message has read it
    for key, w in wanted.items():
        if key not in there:
            at, text = history[w.no - 1].at, " ".join(w.text.split())[:200]
            session.add(WaitingWord(case_id=case.id, no=w.no, what=w.what, to_id=w.to, by_id=w.by, at=at, text=text))


def words_for(office: Office, who: Who, session: Session) -> tuple[WordView, ...]:
    """What waits for somebody of the office, oldest first; nothing for whoever only reads."""
    if who.may.moves not in ("officer", "reviewer"):
        return ()
    leads = leads_of(office, session) if who.is_officer else set[str]()
    found = _waiting(who.may.moves == "reviewer", who.is_officer, who.id in leads, tuple(who.kinds))
    rows = query(session, found, me=who.id, only_lead=list(leads) if len(leads) == 1 else []).all()
    names = names_in(session, [row.by_id for row in rows])
    return tuple(WordView(row.reference, row.title, row.what, names.get(row.by_id, ""), row.at, row.text) for row in rows)


@functools.cache
def _waiting(reviewer: bool, officer: bool, lead: bool, kinds: tuple[str, ...]) -> Select[*tuple[Any, ...]]:
    """What waits for ``me``, a reviewer or an officer; ``only_lead`` is the lead if there is one alone, whose money an officer may approve."""
    holder = Case.reviewer_id if reviewer else Case.officer_id
    me: BindParameter[str] = bindparam("me")
    to_me = [WaitingWord.to_id == me, and_(WaitingWord.what == "message", holder == me)]
    if officer:
        to_me.append(and_(WaitingWord.what == "message", Case.officer_id.is_(None)))
        second = WaitingWord.by_id != me if lead else WaitingWord.by_id.in_(bindparam("only_lead", expanding=True))
        to_me.append(and_(WaitingWord.what == "second person", second))
    w = WaitingWord
    found = select(Case.reference, Case.title, w.what, w.by_id, w.at, w.text).join(Case, Case.id == w.case_id)
    found = found.where(w.over == false(), w.seen_at.is_(None), Case.erased_at.is_(None), or_(*to_me))
    return (found.where(Case.kind.in_(kinds)) if kinds else found).order_by(w.at).limit(MOST_SHOWN)


def seen(office: Office, who: Who, case_id: str, *what: Wants) -> None:
    """Note that somebody who may answer had what waits in a case before the eyes; what names one person is seen by that one alone."""
    if who.may.moves not in ("officer", "reviewer"):
        return
    with read_session(office.engine) as session:
        found = query(session, _UNSEEN, case_id=case_id, what=list(what), me=who.id).scalars().all()
    if found:
        with write_session(office.engine) as session:
            unseen = update(WaitingWord).where(WaitingWord.id.in_(found), WaitingWord.seen_at.is_(None))
            session.execute(unseen.values(seen_at=office.now()))


_UNSEEN = select(WaitingWord.id).where(
    WaitingWord.case_id == bindparam("case_id"),
    WaitingWord.what.in_(bindparam("what", expanding=True)),
    WaitingWord.seen_at.is_(None),
    or_(WaitingWord.to_id == bindparam("me"), WaitingWord.to_id == ""),
)


def seen_at(session: Session, case_id: str) -> dict[int, datetime | None]:
    """When the messages of a case were before the eyes of somebody who may answer, by the number of their entries."""
    rows = select(WaitingWord.no, WaitingWord.seen_at).where(WaitingWord.case_id == case_id, WaitingWord.what == "message")
    return dict(session.execute(rows).tuples().all())
