"""What waits for a word of somebody in the office: kept as cases change, shown in the in-tray, seen and over."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import and_, false, or_, select, update
from sqlalchemy.orm import Session

from jolly_clerk.core.history import Entry
from jolly_clerk.core.roles import STAFF
from jolly_clerk.core.waiting_words import TOUCHING, Wants, waiting_words
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.directory import leads_of, names_in
from jolly_clerk.store.beside import WaitingWord
from jolly_clerk.store.database import read_session, write_session
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
    holder = Case.reviewer_id if who.may.moves == "reviewer" else Case.officer_id
    kinds = [Case.kind.in_(who.kinds)] if who.kinds else []
    to_me = [WaitingWord.to_id == who.id, and_(WaitingWord.what == "message", holder == who.id)]
    if who.is_officer:
        to_me.append(and_(WaitingWord.what == "message", Case.officer_id.is_(None)))
        leads = leads_of(office, session)
        second = WaitingWord.by_id != who.id if who.id in leads else WaitingWord.by_id.in_(leads if len(leads) == 1 else ())
        to_me.append(and_(WaitingWord.what == "second person", second))
    found = select(WaitingWord, Case.reference, Case.title).join(Case, Case.id == WaitingWord.case_id)
    found = found.where(WaitingWord.over == false(), WaitingWord.seen_at.is_(None), Case.erased_at.is_(None), or_(*to_me), *kinds)
    rows = session.execute(found.order_by(WaitingWord.at).limit(MOST_SHOWN)).tuples().all()
    names = names_in(session, [word.by_id for word, _, _ in rows])
    return tuple(
        WordView(reference, title, word.what, names.get(word.by_id, ""), word.at, word.text)  # type: ignore[arg-type]
        for word, reference, title in rows
    )


def seen(office: Office, who: Who, case_id: str, *what: Wants) -> None:
    """Note that somebody who may answer had what waits in a case before the eyes; what names one person is seen by that one alone."""
    if who.may.moves not in ("officer", "reviewer"):
        return
    own = [WaitingWord.case_id == case_id, WaitingWord.what.in_(what), WaitingWord.seen_at.is_(None)]
    own.append(or_(WaitingWord.to_id == who.id, WaitingWord.to_id == ""))
    with read_session(office.engine) as session:
        if session.scalars(select(WaitingWord.id).where(*own).limit(1)).first() is None:
            return
    with write_session(office.engine) as session:
        session.execute(update(WaitingWord).where(*own).values(seen_at=office.now()))


def seen_at(session: Session, case_id: str) -> dict[int, datetime | None]:
    """When the messages of a case were before the eyes of somebody who may answer, by the number of their entries."""
    rows = select(WaitingWord.no, WaitingWord.seen_at).where(WaitingWord.case_id == case_id, WaitingWord.what == "message")
    return dict(session.execute(rows).tuples().all())
