"""A due date as an iCalendar file (RFC 5545)."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime, timedelta

from icalendar import Alarm, Calendar, Event


def due_date(reference: str, subject: str, due: date, made: datetime, url: str, remind_days: tuple[int, ...] = ()) -> bytes:
    """One all-day event on ``due``, with an alarm so many days before; the same reference and day give the same UID."""
    event = Event()
    event.add("uid", f"{reference}-{due.isoformat()}@jolly-clerk")
    event.add("dtstamp", made)
    event.add("dtstart", due)
    event.add("dtend", due + timedelta(days=1))
    event.add("summary", f"{subject} ({reference})")
    event.add("url", url)
    for days in remind_days:
        alarm = Alarm()
        alarm.add("action", "DISPLAY")
        alarm.add("description", subject)
        alarm.add("trigger", timedelta(days=-days))
        event.add_component(alarm)
    return _calendar([event])


def limits(name: str, days: Sequence[tuple[str, str, date]], made: datetime, url: str) -> bytes:
    """The limits of cases as a calendar that can be subscribed to: for each reference, what runs out on which day. ``url`` begins the
    link to each."""
    events = []
    for reference, what, due in days:
        event = Event()
        event.add("uid", f"{reference}-{due.isoformat()}@jolly-clerk")
        event.add("dtstamp", made)
        event.add("dtstart", due)
        event.add("dtend", due + timedelta(days=1))
        event.add("summary", f"{reference}: {what}")
        event.add("transp", "TRANSPARENT")
        event.add("url", f"{url}/desk/{reference}")
        events.append(event)
    return _calendar(events, name)


def _calendar(events: Sequence[Event], name: str = "") -> bytes:
    calendar = Calendar()
    calendar.add("prodid", "-//Jolly Clerk//EN")
    calendar.add("version", "2.0")
    if name:
        calendar.add("name", name)
        calendar.add("refresh-interval", timedelta(hours=1), parameters={"VALUE": "DURATION"})
    for event in events:
        calendar.add_component(event)
    return bytes(calendar.to_ical())
