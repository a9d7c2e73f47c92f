"""How long things of the office itself last: sessions, one-time links, waits after failures, who has a case open.

These are no periods of a case; those are the core's.
"""

from __future__ import annotations

from datetime import datetime, timedelta

#: how long a one-time link works, by what it allows
LINKS = {"new password": timedelta(hours=2), "first password": timedelta(days=7)}
#: two who opened a case within this time are told of each other
TOGETHER = timedelta(minutes=3)
#: one who opens a case again and again within this time opened it once
ONCE = timedelta(minutes=1)
#: a case at which the clock job failed is looked at again after this time
PASSED_OVER = timedelta(hours=1)
#: a failed sign-in is remembered so long
REMEMBERED = timedelta(days=1)
#: failures that cost nothing; then each doubles the wait in seconds, up to the longest
FREE_FAILURES, FIRST_WAIT, LONGEST_WAIT = 4, 5, 900


def after(instant: datetime, length: timedelta) -> datetime:
    """So long after an instant."""
    return instant + length


def before(instant: datetime, length: timedelta) -> datetime:
    """So long before an instant."""
    return instant - length


def session_until(now: datetime, hours: int) -> datetime:
    """When a session that begins now is over."""
    return now + timedelta(hours=hours)


def seconds_to_wait(failures: int, last_at: datetime, now: datetime) -> int:
    """How many seconds somebody has to wait who failed so often to sign in, the last time at ``last_at``; 0 if not at all."""
    if failures < FREE_FAILURES:
        return 0
    wait = min(LONGEST_WAIT, FIRST_WAIT << min(20, failures - FREE_FAILURES))
    left = (last_at + timedelta(seconds=wait) - now).total_seconds()
    return max(1, round(left)) if left > 0 else 0
