"""The inspections of a permit: which come next, at which hours, until when they can be moved, and what one that is made again costs."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from decimal import Decimal
from typing import TYPE_CHECKING, Literal

from jolly_clerk.core.in_words import all_of, day
from jolly_clerk.core.permit_entries import InspectionHeld, InspectionSoFar
from jolly_clerk.core.rulebook.inspecting import Inspections, Visit
from jolly_clerk.core.say import _, say
from jolly_clerk.core.states import Tone
from jolly_clerk.core.time.calendar import DAY, Calendar

if TYPE_CHECKING:
    from jolly_clerk.core.assessment import Assessment

#: how far ahead an inspection can be booked, in days
AHEAD = 120
VisitState = Literal["passed", "booked", "not passed", "to be booked", "later"]
_TONES: dict[VisitState, Tone] = {
    "passed": "moss", "booked": "petrol", "not passed": "madder", "to be booked": "brass", "later": "slate",
}  # fmt: skip
#: the same, so that the catalogues know them
_SAID = (_("passed"), _("booked"), _("not passed"), _("to be booked"), _("later"))
#: the states of a permit in which nothing is inspected any more
OVER = ("cancelled", "finished", "expired")


@dataclass(frozen=True, slots=True)
class Hour:
    """An hour at which an inspection can begin: the instant, and how it is told (``10:00 to 12:00``)."""

    on: date
    begins: datetime
    said: str


@dataclass(frozen=True, slots=True)
class VisitView:
    """An inspection as it stands: what is looked at, the number, day and hours that are booked, until when they can be moved, what was found
    so far, the last day for another one, and what booking one costs now; ``why_not`` is why none can be booked. ``may_book`` tells that it
    can be booked now, ``may_move`` that the one that is booked can be moved, ``may_hold`` that its hour has come."""

    id: str
    title: str
    says: str
    state: VisitState
    stands: str
    tone: Tone
    why_not: str
    no: int
    on: date | None
    hours: str
    may_move_until: date | None
    found: tuple[InspectionHeld, ...]
    again: date | None
    cost: Decimal
    may_book: bool
    may_move: bool
    may_hold: bool
    article: str


def visit_views(a: Assessment) -> tuple[VisitView, ...]:
    """The inspections of a permit in their order; none before it is issued, or where its kind has none."""
    rules = a.rulebook.edition.inspections
    if rules is None or a.permit is None:
        return ()
    return tuple(_view(a, rules, visit) for visit in rules.visits)


def _view(a: Assessment, rules: Inspections, visit: Visit) -> VisitView:
    so_far = a.case.permit
    waiting = so_far.waiting(visit.id)
    found = tuple(one.held for one in so_far.inspections.values() if one.booked.visit == visit.id and one.held)
    why_not = _why_not(a, rules, visit)
    state: VisitState = "to be booked"
    if visit.id in so_far.passed:
        state = "passed"
    elif waiting:
        state = "booked"
    elif found:
        state = "not passed"
    elif why_not:
        state = "later"
    booked = waiting.booked if waiting else None
    return VisitView(
        visit.id,
        visit.title,
        visit.says,
        state,
        say(state),
        _TONES[state],
        why_not,
        booked.no if booked else 0,
        booked.on if booked else None,
        booked.hours if booked else "",
        booked.on - DAY if booked else None,
        found,
        found[-1].again if found and not found[-1].passed else None,
        fee_of(rules, so_far.failed.get(visit.id, 0)),
        not why_not and waiting is None,
        waiting is not None and may_move(waiting, a.known.calendar, a.now),
        waiting is not None and waiting.booked.begins <= a.now,
        rules.article,
    )


def fee_of(rules: Inspections, failed: int) -> Decimal:
    """What an inspection costs that was not passed so often: nothing the first time, and nothing for the repetitions that are free."""
    return rules.repeated if failed > rules.free else Decimal(0)


def _why_not(a: Assessment, rules: Inspections, visit: Visit) -> str:
    """Why an inspection cannot be booked now; nothing if it can, or if it is booked."""
    so_far, titles = a.case.permit, {v.id: v.title for v in rules.visits}
    if a.permit is not None and a.permit.state in OVER:
        return say("What was granted is {state}.", state=a.permit.says)
    if visit.id in so_far.passed:
        return say("It was passed.")
    if before := [titles[id_] for id_ in visit.after if id_ not in so_far.passed]:
        return say("{before} has to be passed first.", before=all_of([f"“{title}”" for title in before]))
    if a.account.open and so_far.fees:
        return say("An inspection that was made again is not paid yet.")
    return ""


def hours_on(rules: Inspections, calendar: Calendar, on: date) -> Iterator[Hour]:
    """The hours at which inspections begin on a day; none on a day on which the office is closed, or when it shuts before they end."""
    if not calendar.is_working(on):
        return
    lasts = timedelta(hours=rules.lasts.count)
    closes = calendar.office_end(on)
    for begins in rules.at:
        at = datetime.combine(on, begins, calendar.zone)
        if at + lasts <= closes:
            yield Hour(on, at, say("{begins} to {ends}", begins=_clock(begins), ends=_clock((at + lasts).time())))


def _clock(at: time) -> str:
    return f"{at:%H:%M}"


def hours_to_choose(a: Assessment, visit: str, first: date, taken: frozenset[datetime]) -> tuple[Hour, ...]:
    """The free hours for an inspection in the fourteen days from ``first`` on, of those in which it can be: from tomorrow, as far as is
    booked ahead, and while that day is to come, by the day until which it has to be made again."""
    rules = a.rulebook.edition.inspections
    if rules is None:
        return ()
    calendar = a.known.calendar
    today = calendar.local_day(a.now)
    last = today + AHEAD * DAY
    days = (first + n * DAY for n in range(14))
    fits = (on for on in days if today < on <= last and not fault_of_day(a, visit, on))
    return tuple(hour for on in fits for hour in hours_on(rules, calendar, on) if hour.begins not in taken)


def fault_of_day(a: Assessment, visit: str, on: date) -> str:
    """Why an inspection cannot be on a day; nothing if it can."""
    calendar = a.known.calendar
    today = calendar.local_day(a.now)
    if on <= today:
        return say("An inspection is booked for tomorrow or later.")
    if on > today + AHEAD * DAY:
        return say("An inspection is booked at most {days} days ahead.", days=AHEAD)
    if not calendar.is_working(on):
        return say("The office is closed on {day}.", day=day(on))
    until = next((v.again for v in visit_views(a) if v.id == visit), None)
    if until is not None and today <= until < on:
        return say("It has to be made again by {day}.", day=day(until))
    return ""


def may_move(one: InspectionSoFar, calendar: Calendar, now: datetime) -> bool:
    """True until the end of the day before."""
    return calendar.local_day(now) < one.booked.on


def again_by(rules: Inspections, calendar: Calendar, now: datetime) -> date:
    """The last day for another inspection after one that was not passed now."""
    return rules.again.last_day(calendar.local_day(now), calendar)
