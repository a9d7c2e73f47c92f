"""Tries that slow the next ones down: passwords, codes, sign-ups, searches. Only a hash of what was tried on is kept."""

from __future__ import annotations

import hashlib

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from jolly_clerk.core.say import say
from jolly_clerk.office.errors import TooOften
from jolly_clerk.office.lifetimes import LIMITS, REMEMBERED, Tried, before, seconds_to_wait
from jolly_clerk.office.office import Office
from jolly_clerk.store.beside import Try


def _key(key: str) -> str:
    return hashlib.sha256(key.encode("utf-8", "replace")).hexdigest()


def try_once(office: Office, session: Session, what: Tried, key: str) -> None:
    """Count one try in the caller's write. Raises TooOften, with the seconds to wait, if there were too many of late.

    A try is counted before its outcome is known, so that many at the same moment are not all let through;
    :func:`forgive` takes the count back when it went well.
    """
    now, limit = office.now(), LIMITS[what]
    row = session.get(Try, (what, _key(key)))
    if row is None:
        row = Try(what=what, key=_key(key), count=0, last_at=now)
        session.add(row)
    elif row.last_at < before(now, REMEMBERED):
        row.count = 0
    if wait := seconds_to_wait(row.count, row.last_at, now, limit):
        raise TooOften(say("Too many tries. Wait {wait} seconds and try again.", wait=wait), wait)
    row.count, row.last_at = row.count + 1, now
    session.flush()


def forgive(session: Session, what: Tried, key: str) -> None:
    """Forget the tries on something, in the caller's write: the last one went well."""
    session.execute(delete(Try).where(Try.what == what, Try.key == _key(key)))


def forget_old_tries(office: Office, session: Session) -> None:
    """Forget tries of long ago, in the caller's write."""
    session.execute(delete(Try).where(Try.last_at < before(office.now(), REMEMBERED)))


def tries(session: Session, what: Tried, key: str) -> int:
    """How many tries are remembered."""
    return session.scalar(select(Try.count).where(Try.what == what, Try.key == _key(key))) or 0
