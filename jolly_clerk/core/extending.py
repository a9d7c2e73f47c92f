"""What more time for an answer would bring, before anybody asks for it: the new last day, and what it costs."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from jolly_clerk.core.assessment import Assessment, assess
from jolly_clerk.core.deadlines import answers_due, due_said
from jolly_clerk.core.fees.lines import ZERO
from jolly_clerk.core.history import Extended, History
from jolly_clerk.core.lifecycle import in_lane


@dataclass(frozen=True, slots=True)
class MoreTime:
    """The last day with more time, in words too, and the fee that it causes; zero if it causes none."""

    due: date
    said: str
    fee: Decimal


def more_time(a: Assessment, lane: str = "") -> MoreTime | None:
    """What more time would bring in a lane now; None if it cannot be given."""
    move = "more time"
    if not a.move("applicant", move, lane).allowed:
        return None
    latest, calendar = in_lane(a.common, lane).rounds[-1], a.known.calendar
    sent = latest.replaced_at or latest.paused_from or latest.sent_at
    due = answers_due(sent, a.clock_rules, calendar, extended=True, received=latest.received)
    told = Extended(at=a.now, who="applicant", role="applicant", lane=lane, round=latest.no, due=due.day, due_at=due.at)
    then = History(entries=(*a.history.entries, told), versions=a.history.versions)
    after = assess(a.rulebook, a.dossier, then, a.known, a.now)
    fee = sum((t.low for t in after.fees.totals), ZERO) - sum((t.low for t in a.fees.totals), ZERO)
    return MoreTime(due.day, due_said(due, calendar, calendar.local_day(a.now)), max(fee, ZERO))
