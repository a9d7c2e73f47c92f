"""Calendar feeds: a link at which a calendar reads the limits of one's own cases, or of all that one may see. References and days, no names."""

from __future__ import annotations

import secrets
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select

from jolly_clerk.core.say import say
from jolly_clerk.core.urgency import limit_in_words
from jolly_clerk.office.cases.seeing import visible
from jolly_clerk.office.errors import NotAllowed, NotFound, TooLarge
from jolly_clerk.office.lifetimes import ONCE, before
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.office.people.directory import hash_of, who_of
from jolly_clerk.store.counter import CalendarFeed
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import Case, Person

#: so many feeds has a person at most, and so many limits stand in one
MOST_FEEDS, MOST_LIMITS = 10, 1000


@dataclass(frozen=True, slots=True)
class Feed:
    """A feed: of one's own cases, or of the team's; when it was made, and read last."""

    id: str
    team: bool
    made_at: datetime
    read_at: datetime | None


@dataclass(frozen=True, slots=True)
class NewFeed:
    """A feed that was just made, with its link: nobody can read the link again."""

    id: str
    link: str


def need_feeds(who: Who) -> None:
    """Raises NotAllowed for whoever has no limits to keep."""
    if who.may.moves not in ("officer", "reviewer"):
        raise NotAllowed(say("Limits are kept by officers and reviewers."))


def feeds(office: Office, who: Who) -> list[Feed]:
    """One's own feeds, newest first."""
    need_feeds(who)
    with read_session(office.engine) as session:
        rows = session.scalars(select(CalendarFeed).where(CalendarFeed.person_id == who.id).order_by(CalendarFeed.made_at.desc()))
        return [Feed(row.id, row.team, row.made_at, row.read_at) for row in rows]


def make_feed(office: Office, who: Who, team: bool) -> NewFeed:
    """Make a feed. Raises NotAllowed, TooLarge if there are many already."""
    need_feeds(who)
    secret, row_id = secrets.token_urlsafe(24), new_id()
    if len(feeds(office, who)) >= MOST_FEEDS:
        raise TooLarge(say("There are {most} feeds already; take one back first.", most=MOST_FEEDS))
    with write_session(office.engine) as session:
        session.add(CalendarFeed(id=row_id, person_id=who.id, team=team, secret_hash=hash_of(secret), made_at=office.now()))
    return NewFeed(row_id, f"{office.settings.base_url}/api/calendar/{secret}.ics")


def take_back(office: Office, who: Who, feed: str) -> None:
    """Take a feed back: its link works no more. Raises NotAllowed, NotFound."""
    need_feeds(who)
    with write_session(office.engine) as session:
        row = session.get(CalendarFeed, feed)
        if row is None or row.person_id != who.id:
            raise NotFound(say("There is no such feed of yours."))
        session.delete(row)


def read_feed(office: Office, secret: str) -> bytes:
    """The limits of a feed as a calendar (RFC 5545), for whoever has the link. Raises NotFound."""
    from jolly_clerk.exchange.calendar_file import limits  # loaded late, as its library takes a while

    now = office.now()
    with read_session(office.engine) as session:
        row = session.scalars(select(CalendarFeed).where(CalendarFeed.secret_hash == hash_of(secret))).first()
        person = session.get(Person, row.person_id) if row else None
        if row is None or person is None or person.left_at is not None:
            raise NotFound(say("There is no such calendar."))
        who, noted = who_of(person), row.read_at
        need_feeds(who)
        mine = Case.reviewer_id if who.may.moves == "reviewer" else Case.officer_id
        wanted = select(Case).where(Case.tray != "", Case.limit_day.is_not(None), *visible(who))
        if not row.team:
            wanted = wanted.where(mine == who.id)
        cases = list(session.scalars(wanted.order_by(Case.limit_day, Case.reference).limit(MOST_LIMITS)))
        feed_id = row.id
    if noted is None or noted < before(now, ONCE):
        with write_session(office.engine) as session:
            there = session.get(CalendarFeed, feed_id)
            if there is not None:
                there.read_at = now
    days = [(case.reference, limit_in_words(case.step), case.limit_day) for case in cases if case.limit_day]
    return limits(say("Limits, {office}", office=office.name), days, now, office.settings.base_url)
