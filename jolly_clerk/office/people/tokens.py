"""Tokens by which a person's programs use the interface: each has a scope and an end, and can be taken back."""

from __future__ import annotations

import re
import secrets
from contextlib import suppress
from dataclasses import dataclass
from datetime import date, datetime
from typing import Literal

from sqlalchemy import select, update
from sqlalchemy.exc import OperationalError

from jolly_clerk.core.say import say
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, TooLarge
from jolly_clerk.office.lifetimes import NOTED, TOKENS_LAST, before, days_until
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.office.people.accounts import need_confirmed
from jolly_clerk.office.people.directory import SignedIn, hash_of, mandates_of, who_of
from jolly_clerk.office.rules.rulebooks import office_calendar
from jolly_clerk.store.database import Busy, read_session, write_session
from jolly_clerk.store.running import ApiToken
from jolly_clerk.store.tables import Person

#: *look* reads what the person may read; *work* does besides what the person may do, but for accounts, people and the office itself
Scope = Literal["look", "work"]
#: so many tokens has a person at most; what every token begins with, so that it is known when it is found somewhere
MOST, MARK = 10, "jct_"
#: what no token does, whatever its scope: accounts, people, tokens, the office itself
NEVER = re.compile(r"/api/(session|tokens|people|office|firms|mandates)(/|$)")
_BEARER = re.compile(rf"Bearer\s+({MARK}[\w-]{{20,80}})", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Token:
    """A token of one's own: what it is for, what it may do, until when, and when it was used last."""

    id: str
    name: str
    scope: Scope
    made_at: datetime
    until: datetime
    used_at: datetime | None
    over: bool


@dataclass(frozen=True, slots=True)
class NewToken:
    """A token that was just made, with its secret: nobody can read the secret again."""

    id: str
    secret: str


@dataclass(frozen=True, slots=True)
class ByToken:
    """Whom a token stands for, and what it may do."""

    session: SignedIn
    scope: Scope


def tokens(office: Office, who: Who) -> list[Token]:
    """One's own tokens, newest first."""
    with read_session(office.engine) as session:
        rows = list(session.scalars(select(ApiToken).where(ApiToken.person_id == who.signs).order_by(ApiToken.made_at.desc())))
    now = office.now()
    return [Token(r.id, r.name, _scope(r.scope), r.made_at, r.until, r.used_at, r.until <= now) for r in rows]


def make(office: Office, who: Who, name: str, scope: Scope, last_day: date) -> NewToken:
    """Make a token that works up to and with ``last_day``.

    Raises NotAllowed for a guest or an address that is not confirmed, Invalid for a day that is past or more than a year ahead, TooLarge
    if there are many already.
    """
    need_confirmed(who)
    if who.guest:
        raise NotAllowed(say("Set a password first."))
    name = " ".join(name.split())
    if not name:
        raise Invalid(say("Say what it is for."), "name")
    calendar = office_calendar(office)
    ahead = days_until(calendar.local_day(office.now()), last_day)
    if not 0 <= ahead <= TOKENS_LAST.days:
        raise Invalid(say("It ends on a day from today on and within {days} days.", days=TOKENS_LAST.days), "last_day")
    if len(tokens(office, who)) >= MOST:
        raise TooLarge(say("There are {most} tokens already; take one back first.", most=MOST))
    secret, row_id = MARK + secrets.token_urlsafe(32), new_id()
    with write_session(office.engine) as session:
        session.add(
            ApiToken(
                id=row_id,
                person_id=who.signs,
                name=name[:60],
                secret_hash=hash_of(secret),
                scope=scope,
                made_at=office.now(),
                until=calendar.day_end(last_day),
            )
        )
    return NewToken(row_id, secret)


def take_back(office: Office, who: Who, token: str) -> None:
    """Take a token back: it works no more. Raises NotFound."""
    with write_session(office.engine) as session:
        row = session.get(ApiToken, token)
        if row is None or row.person_id != who.signs:
            raise NotFound(say("There is no such token of yours."))
        session.delete(row)


def is_bearer(header: str) -> bool:
    """True if an ``Authorization`` header is meant for us; other schemes are those of a server before this one."""
    return header.strip().lower().startswith("bearer")


def by_token(office: Office, header: str) -> ByToken | None:
    """Whom the token in an ``Authorization`` header stands for; None if it is none, is over, or the person left."""
    found = _BEARER.fullmatch(header.strip())
    if found is None:
        return None
    now = office.now()
    with read_session(office.engine) as session:
        row = session.scalars(select(ApiToken).where(ApiToken.secret_hash == hash_of(found[1]))).first()
        person = session.get(Person, row.person_id) if row else None
        mandates = mandates_of(office, session, person) if person else ()
    if row is None or person is None or person.left_at is not None or row.until <= now:
        return None
    if row.used_at is None or row.used_at < before(now, NOTED):
        with suppress(Busy, OperationalError), write_session(office.engine) as session:
            session.execute(update(ApiToken).where(ApiToken.id == row.id).values(used_at=now))
    return ByToken(SignedIn(who_of(person, mandates), "", person.mail), _scope(row.scope))


def why_not(scope: Scope, method: str, path: str) -> str:
    """Why a token may not do this; nothing if it may."""
    if NEVER.match(path):
        return say("No token does this. Sign in with a browser.")
    if scope == "look" and method not in ("GET", "HEAD"):
        return say("This token may look and change nothing.")
    return ""


def _scope(kept: str) -> Scope:
    return "work" if kept == "work" else "look"
