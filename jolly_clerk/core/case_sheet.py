"""The answers of a case read at an instant, with the days of the steps that it has taken."""

from __future__ import annotations

from datetime import date, datetime

from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.form import Sheet, read_answers
from jolly_clerk.core.known import Known
from jolly_clerk.core.lifecycle import CaseSoFar
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.time.calendar import Calendar


def read_case(rulebook: Rulebook, dossier: Dossier, case: CaseSoFar, known: Known, now: datetime) -> Sheet:
    """The answers of a case read over its rulebook at an instant."""
    today = known.calendar.local_day(now)
    filed = known.calendar.local_day(case.filed.filed_at) if case.filed else today
    payments = [(known.calendar.local_day(p.at), p.amount - p.prepaid) for p in case.payments]
    issued = known.calendar.local_day(case.granted.at) if case.granted else None
    extensions = sum(r.extended for r in case.rounds)
    steps = _steps(case, known.calendar)
    return read_answers(rulebook, dossier.answers, filed, today, known.calendar, payments, issued, extensions, steps)


def _steps(case: CaseSoFar, calendar: Calendar) -> dict[str, date]:
    """The days of the steps that the case has taken, by their names in rules."""
    latest = case.rounds[-1] if case.rounds else None
    sent = latest.paused_from if latest else None
    instants = {
        "case.checked": case.checking.at if case.checking else None,
        "case.accepted": case.accepted.at if case.accepted else None,
        "case.handed_over": case.handed.at if case.handed else None,
        "letter.sent": sent,
        "letter.received": sent,
        "answer.received": latest.answered_at if latest else None,
        "paid.on": max((p.counts_from or p.at for p in case.payments), default=None),
    }
    found = {name: calendar.local_day(at) for name, at in instants.items() if at is not None}
    if latest and latest.received:
        found["letter.received"] = latest.received
    return found
