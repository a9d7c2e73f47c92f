"""How long a case is kept after it has ended. Source: the edition's ``keep``, ten years where it says nothing."""

from __future__ import annotations

from datetime import date

from jolly_clerk.core.assessment import Assessment


def kept_until(assessment: Assessment) -> date | None:
    """The last day on which a case is kept; None while it lives or money is open. From the next day on it may be erased."""
    case, account = assessment.case, assessment.account
    if case.ended is None or account.open or account.over:
        return None
    calendar = assessment.known.calendar
    last = max([case.ended.at, *(b.at for b in case.paid_back), *([case.issued.at] if case.issued else [])])
    return assessment.rulebook.edition.keep.last_day(calendar.local_day(last), calendar)
