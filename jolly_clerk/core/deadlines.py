"""The last days and instants of the applicant's periods: to answer, with more time, to pay; and when a letter counts as received.

Source: the scenario, *Periods*; the decisions, *Rules*, *Delivery*.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime

from jolly_clerk.core.in_words import day as said_day
from jolly_clerk.core.rulebook.model import Clock, PayClock
from jolly_clerk.core.rulebook.schedule import AnswersClock, OtherBodyClock, Timed
from jolly_clerk.core.say import say
from jolly_clerk.core.time.calendar import Calendar
from jolly_clerk.core.time.periods import Period


@dataclass(frozen=True, slots=True)
class Due:
    """The last day of a period, and for one in hours its last instant; a day ends at 24:00."""

    day: date
    at: datetime | None = None

    def ends(self, calendar: Calendar) -> datetime:
        """The instant at which it is over."""
        return self.at or calendar.day_end(self.day)


def _last(event: datetime, first_day: date, rules: Timed | OtherBodyClock, calendar: Calendar) -> Due:
    """The end of a period: hours run from the instant, all else from the day after ``first_day``."""
    within, if_closed, calendar = rules.within, rules.if_closed, calendar.called(rules.by)
    if within.in_hours:
        at = within.limit(event.astimezone(calendar.zone), calendar)
        return Due(calendar.local_day(at), at)
    day = within.last_day(first_day, calendar)
    return Due(calendar.working_day_from(day) if if_closed == "next working day" else day)


def body_due(asked: datetime, rules: OtherBodyClock, calendar: Calendar) -> Due:
    """The last day on which another body answers in time."""
    return _last(asked, calendar.local_day(asked), rules, calendar)


def received_on(sent: datetime, rules: AnswersClock, calendar: Calendar) -> date:
    """The day on which a letter counts as received: that of its sending, or so long after it as the edition says.

    A letter by post counts as sent on the office day on which it leaves, the next one if it leaves after the office's end.
    """
    sent_on = calendar.received_on(sent) if rules.posted else calendar.local_day(sent)
    return rules.received.last_day(sent_on, calendar) if rules.received else sent_on


def posting_day(sent: datetime, calendar: Calendar) -> date:
    """The day on which a printed letter counts as posted: that on which it leaves, or the next office day."""
    return calendar.received_on(sent)


def deemed(sent: datetime, rules: AnswersClock, calendar: Calendar) -> date | None:
    """The day on which a letter counts as received, if that is not the one of its sending."""
    return received_on(sent, rules, calendar) if rules.received else None


def due_said(due: Due, calendar: Calendar, today: date | None = None) -> str:
    """``Fri 18 Dec 2026``, with the hour if the period is one of hours; without the year if it is that of ``today``."""
    said = said_day(due.day, today)
    return f"{said} {due.at.astimezone(calendar.zone):%H:%M}" if due.at else said


def answers_due(sent: datetime, rules: Clock, calendar: Calendar, extended: bool = False, received: date | None = None) -> Due:
    """The end of the period to answer a letter; with more time it is lengthened from its same first day.

    ``received`` is the day on which the letter counts as received, by default as the edition says.
    """
    own = rules.answers
    first = received or received_on(sent, own, calendar)
    due = _last(sent, first, own, calendar)
    if extended and own.once_more is not None:
        due = _longer(due, first, own, own.once_more, calendar)
    if rules.latest_answers is not None and due.day > rules.latest_answers:
        return Due(rules.latest_answers)
    return due


def _longer(due: Due, first: date, own: AnswersClock, more: Period, calendar: Calendar) -> Due:
    calendar = calendar.called(own.by)
    if own.within.in_hours or more.in_hours:
        at = more.limit(due.ends(calendar), calendar) if more.in_hours else calendar.day_end(more.last_day(due.day, calendar))
        return Due(calendar.local_day(at), at)
    if own.within.unit == more.unit:
        day = own.within.plus(more).last_day(first, calendar)
    else:
        day = more.last_day(own.within.last_day(first, calendar), calendar)
    return Due(calendar.working_day_from(day) if own.if_closed == "next working day" else day)


def payment_due(event: datetime, rules: PayClock, calendar: Calendar) -> Due:
    """The end of the period to pay what fell due at an instant."""
    return _last(event, calendar.local_day(event), rules, calendar)


def answers_due_why(sent: datetime, rules: Clock, calendar: Calendar) -> tuple[str, ...]:
    """Why answers to a letter that goes out now are due when they are."""
    today, within = calendar.local_day(sent), rules.answers.within
    first, due = received_on(sent, rules.answers, calendar), answers_due(sent, rules, calendar)
    why: list[str] = []
    printed = rules.answers.printed if rules.answers.posted else None
    if printed:
        told = {"received": printed.received, "first": said_day(first, today), "article": printed.article}
        why.append(
            say(
                "the letter goes by post and counts as received on {first}, {received} after it is posted (art. {article})",
                **told,
            )
        )
    elif first != today:
        why.append(say("the letter counts as received on {first}", first=said_day(first, today)))
    counted = {"within": within, "article": rules.answers.article}
    if due.at is not None:
        return (*why, say("{within} from the moment of sending (art. {article})", **counted))
    why.append(say("{within} from the day after {today} (art. {article})", today=said_day(first, today), **counted))
    if rules.latest_answers is not None and due.day == rules.latest_answers:
        return (*why, say("and at the latest by {day}", day=said_day(due.day, today)))
    plain, calendar = within.last_day(first, calendar.called(rules.answers.by)), calendar.called(rules.answers.by)
    if due.day != plain:
        why.append(say("{plain} is closed ({closed_on})", plain=said_day(plain, today), closed_on=calendar.closed_on(plain)))
    return tuple(why)
