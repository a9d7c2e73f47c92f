"""How long a case is kept after it has ended. Source: the edition's ``keep``, ten years where it says nothing."""

from __future__ import annotations

from datetime import date, datetime

from jolly_clerk.core.assessment import Assessment
from jolly_clerk.core.time.calendar import Calendar
from jolly_clerk.core.time.periods import Period

#: what came from elsewhere has no edition that says how long
KEPT_AS_IT_CAME = Period(10, "years")


def kept_until(assessment: Assessment) -> date | None:
    """The last day on which a case is kept; None while it lives or money is open. From the next day on it may be erased."""
    case, account = assessment.case, assessment.account
    if case.ended is None or account.open or account.over or case.refunds_due:
        return None
    calendar = assessment.known.calendar
    last = max(
        [
            case.ended.at,
            *(b.at for b in case.paid_back),
            *(b.at for b in case.refunds_paid.values()),
            *([case.issued.at] if case.issued else []),
        ]
    )
    return assessment.rulebook.edition.keep.last_day(calendar.local_day(last), calendar)


def kept_as_it_came_until(ended_at: datetime, calendar: Calendar) -> date:
    """The last day on which a case is kept that ended elsewhere."""
    return KEPT_AS_IT_CAME.last_day(calendar.local_day(ended_at), calendar)
