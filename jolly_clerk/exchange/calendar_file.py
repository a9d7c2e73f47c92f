"""A due date as an iCalendar file (RFC 5545)."""

from __future__ import annotations

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
    calendar = Calendar()
    calendar.add("prodid", "-//Jolly Clerk//EN")
    calendar.add("version", "2.0")
    calendar.add_component(event)
    return bytes(calendar.to_ical())
