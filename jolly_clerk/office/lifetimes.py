"""How long things of the office itself last: sessions, one-time links, waits after failures, who has a case open.

These are no periods of a case; those are the core's.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime, timedelta
from math import ceil
from typing import Final, Literal

#: how long a one-time link works, by what it allows
LINKS = {"new password": timedelta(hours=2), "first password": timedelta(days=7), "claim": timedelta(days=365)}
#: two who opened a case within this time are told of each other
TOGETHER = timedelta(minutes=3)
#: one who opens a case again and again within this time opened it once
ONCE = timedelta(minutes=1)
#: by so much the clock of the machine may stand before what happened last
BEHIND = timedelta(minutes=2)
#: an upload with which nobody goes on is given up after so long
UPLOADS_KEPT = timedelta(days=1)
#: a page that was away no longer takes up where it stopped
EVENTS_KEPT = timedelta(hours=1)
#: how often it is tidied
DAILY = timedelta(days=1)
#: a file that was taken to be read and is not finished after this time is taken again
TAKEN = timedelta(minutes=3)
#: a copy of the office is old after so long, and mail late that the mail server did not take for so long
COPY_OLD, MAIL_LATE = timedelta(days=2), timedelta(hours=1)
#: a token for programs works at most so long
TOKENS_LAST = timedelta(days=366)
#: a case at which the clock job failed is looked at again after this time
PASSED_OVER = timedelta(hours=1)
#: the log of looks is kept so long, and so long what a register said; a draft that nobody changes is thrown away after so long
LOOKS_KEPT, ANSWERS_KEPT, DRAFTS_KEPT = timedelta(days=730), timedelta(days=730), timedelta(days=365)
#: a draft that was thrown away can be brought back for so long
THROWN_AWAY = timedelta(days=7)
#: a file that nothing names is kept so long, in case what names it is still under way
LOOSE = timedelta(days=7)
#: tries are remembered so long after the last one
REMEMBERED = timedelta(days=1)
#: a code that confirms a mail address works so long, and so often may it be tried
CODE, CODE_TRIES = timedelta(minutes=30), 5
#: the link of an invitation works so long; a signature is asked for again after so long, so often
INVITED_FOR, ASKED_AGAIN, MOST_ASKED = timedelta(days=30), timedelta(days=3), 2
#: the link of an issuer works so long; it is asked for again after so long, so often
ISSUER_LINK, ISSUER_AGAIN, MOST_ISSUER = timedelta(days=30), timedelta(days=7), 2
#: an account whose address was never confirmed is kept so long
UNCONFIRMED = timedelta(days=30)
#: an edition that is begun in the browser is in force so long from now, until another day is written
EDITION_AHEAD = timedelta(days=30)
#: a session that is used is noted so often, and one that is not used is over after so long
NOTED, IDLE = timedelta(minutes=5), timedelta(hours=2)


@dataclass(frozen=True, slots=True)
class Limit:
    """``free`` tries cost nothing; then each doubles the wait from ``first`` seconds up to ``longest``."""

    free: int
    first: int
    longest: int


#: what can be tried too often: a password at an address by one sender, at an address by all, at all addresses by one sender; the
#: own old password; accounts made, and links asked for, by one sender; mails asked for at one address; codes by mail and by text
#: asked for by one person; searches of a register, offers, invitations, issuers asked and mandates by one person
Tried = Literal[
    "password",
    "address",
    "sender",
    "old password",
    "sign-up",
    "asked by",
    "asked for",
    "code",
    "text",
    "register",
    "offer",
    "invite",
    "issuer",
    "mandate",
]
LIMITS: Final[dict[Tried, Limit]] = {
    "password": Limit(4, 5, 900),
    "address": Limit(40, 5, 60),
    "sender": Limit(60, 5, 900),
    "old password": Limit(4, 5, 900),
    "sign-up": Limit(20, 60, 3600),
    "asked by": Limit(20, 60, 3600),
    "asked for": Limit(2, 300, 86_400),
    "code": Limit(3, 60, 3600),
    "text": Limit(4, 60, 3600),
    "register": Limit(200, 5, 300),
    "offer": Limit(20, 60, 3600),
    "invite": Limit(40, 60, 3600),
    "issuer": Limit(40, 60, 3600),
    "mandate": Limit(20, 60, 3600),
}


def days(count: int) -> timedelta:
    """So many days."""
    return timedelta(days=count)


def seconds(count: float) -> timedelta:
    """So many seconds."""
    return timedelta(seconds=count)


def days_until(today: date, day: date) -> int:
    """So many days from one day to another; below zero if it is past."""
    return (day - today).days


def minutes_left(until: datetime, now: datetime) -> int:
    """Whole minutes until an instant, begun ones counted; 0 in the last of them."""
    left = (until - now).total_seconds()
    return 0 if left < 60 else ceil(left / 60)


def after(instant: datetime, length: timedelta) -> datetime:
    """So long after an instant."""
    return instant + length


def before(instant: datetime, length: timedelta) -> datetime:
    """So long before an instant."""
    return instant - length


def session_until(now: datetime, hours: int) -> datetime:
    """When a session that begins now is over."""
    return now + timedelta(hours=hours)


def seconds_to_wait(tries: int, last_at: datetime, now: datetime, limit: Limit = LIMITS["password"]) -> int:
    """How many seconds somebody has to wait who tried so often, the last time at ``last_at``; 0 if not at all."""
    if tries < limit.free:
        return 0
    wait = min(limit.longest, limit.first << min(20, tries - limit.free))
    left = (last_at + timedelta(seconds=wait) - now).total_seconds()
    return max(1, round(left)) if left > 0 else 0
