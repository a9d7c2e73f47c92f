"""The calendar of the office, written in the browser: kept, looked over, laid before a lead, confirmed.

What is confirmed goes with every edition that is published from then on. An edition keeps the calendar that it was published with, and so do
its cases.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from jolly_clerk.core.say import say
from jolly_clerk.core.time.calendar import Calendar
from jolly_clerk.core.time.comparing import ClosedDay, closed_days, differences
from jolly_clerk.office.errors import NotAllowed, NotFound, NotReady, Stale, TooLarge
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.office.people.directory import names_in
from jolly_clerk.office.rules.rulebooks import office_calendar
from jolly_clerk.office.rules.writing import (
    calendar_for,
    calendar_text,
    need_page,
    need_writer,
    need_writer_or_lead,
)
from jolly_clerk.shelf.nodes import UnreadableRulebook
from jolly_clerk.shelf.rulebooks import read_calendar
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.rules import CalendarText

MOST_LETTERS = 100_000
#: so many years are looked over, from this one on
YEARS = 3


@dataclass(frozen=True, slots=True)
class CalendarFault:
    """What is wrong in the text, at which line."""

    line: int
    text: str


@dataclass(frozen=True, slots=True)
class CalendarPage:
    """The calendar for editions to come: as it is (``version``), and what is being written, with its faults and the days that it changes.
    ``writes`` and ``confirms`` tell what whoever looks may do now."""

    name: str
    version: str
    text: str
    written: bool
    revision: int
    kept_at: datetime | None
    by: str
    asked_at: datetime | None
    asked_by: str
    faults: tuple[CalendarFault, ...]
    differs: tuple[str, ...]
    days: tuple[ClosedDay, ...]
    writes: bool
    confirms: bool


def calendar_page(office: Office, who: Who) -> CalendarPage:
    """The calendar and what is being written of it. Raises NotAllowed."""
    need_page(who)
    with read_session(office.engine) as session:
        row = _draft(session)
        called = names_in(session, {row.kept_by, row.asked_by}) if row else {}
    now, current = office_calendar(office).local_day(office.now()), calendar_for(office)
    text = row.text if row else calendar_text(office).decode()
    faults, made = _read(text)
    return CalendarPage(
        name=current.name,
        version=current.version,
        text=text,
        written=row is not None,
        revision=row.revision if row else 0,
        kept_at=row.kept_at if row else None,
        by=called.get(row.kept_by, "") if row else "",
        asked_at=row.asked_at if row else None,
        asked_by=called.get(row.asked_by, "") if row else "",
        faults=faults,
        differs=tuple(differences(current, made)) if made else (),
        days=tuple(closed_days(current, made or current, now.year, YEARS)),
        writes=who.may.writes_rules and not (row and row.asked_at),
        confirms=bool(row and row.asked_at and who.may.minds_people and row.asked_by != who.id),
    )


def _read(text: str) -> tuple[tuple[CalendarFault, ...], Calendar | None]:
    try:
        return (), read_calendar(text, "calendar", strict=True)
    except UnreadableRulebook as error:
        return tuple(CalendarFault(fault.line, fault.message) for fault in error.faults), None


def keep_calendar(office: Office, who: Who, text: str, seen: int) -> CalendarPage:
    """Keep what was typed. Raises NotAllowed, TooLarge, NotReady while it lies before a lead, Stale if somebody else wrote in it since
    revision ``seen`` (0 for the calendar as it is)."""
    need_writer(who)
    if len(text) > MOST_LETTERS:
        raise TooLarge(say("A calendar has at most {most} characters.", most=MOST_LETTERS))
    with write_session(office.engine) as session:
        row = _draft(session)
        if row is not None and row.asked_at is not None:
            raise NotReady(say("It lies before a lead. Take it back first, then write on."))
        if seen != (row.revision if row else 0):
            raise Stale(say("Somebody else wrote in it meanwhile. What you typed is still here; copy it, then look at it anew."))
        if row is None:
            row = CalendarText(id=new_id(), text=text, revision=0, kept_at=office.now(), kept_by=who.id)
            session.add(row)
        row.text, row.revision, row.kept_at, row.kept_by = text, row.revision + 1, office.now(), who.id
    return calendar_page(office, who)


def ask_for_calendar(office: Office, who: Who) -> CalendarPage:
    """Lay it before a lead. Raises NotAllowed, NotFound, NotReady while it has a fault or changes nothing."""
    need_writer(who)
    current = calendar_text(office)
    with write_session(office.engine) as session:
        row = _needed(session)
        _check(row, current)
        row.asked_at, row.asked_by = office.now(), who.id
    return calendar_page(office, who)


def _check(row: CalendarText, text: bytes) -> None:
    """Raise NotReady if what is written cannot take the place of the calendar with this text."""
    faults, made = _read(row.text)
    if made is None:
        raise NotReady(say("Line {line}: {text}", line=faults[0].line, text=faults[0].text))
    current = read_calendar(text.decode(), "calendar")
    if made.name != current.name:
        raise NotReady(say("It is called {name}; editions name {old}.", name=made.name, old=current.name))
    if row.text.encode() == text:
        raise NotReady(say("It is as the calendar is; nothing would change."))
    if made.version == current.version:
        raise NotReady(
            say("It still has the version {version}; give it another one, by which cases name it.", version=made.version)
        )


def take_calendar_back(office: Office, who: Who) -> CalendarPage:
    """Take it back from the lead, or send it back: it is written on. Raises NotAllowed, NotFound."""
    need_writer_or_lead(who)
    with write_session(office.engine) as session:
        row = _needed(session)
        row.asked_at, row.asked_by = None, ""
    return calendar_page(office, who)


def throw_calendar_away(office: Office, who: Who) -> CalendarPage:
    """Throw away what is being written. Raises NotAllowed, NotFound."""
    need_writer(who)
    with write_session(office.engine) as session:
        session.delete(_needed(session))
    return calendar_page(office, who)


def confirm_calendar(office: Office, who: Who) -> CalendarPage:
    """A lead confirms it: editions that are published from now on go by it. Raises NotAllowed, NotFound, NotReady."""
    if not who.may.minds_people:
        raise NotAllowed(say("A calendar is confirmed by a lead."))
    current = calendar_text(office)
    with write_session(office.engine) as session:
        row = _needed(session)
        if row.asked_at is None:
            raise NotReady(say("It is not laid before you."))
        if row.asked_by == who.id:
            raise NotAllowed(say("Whoever asked for it does not confirm it."))
        _check(row, current)
        row.sha256, row.confirmed_at, row.confirmed_by = office.vault.put(row.text.encode()), office.now(), who.id
    return calendar_page(office, who)


def _draft(session: Session) -> CalendarText | None:
    return session.scalars(select(CalendarText).where(CalendarText.confirmed_at.is_(None))).first()


def _needed(session: Session) -> CalendarText:
    row = _draft(session)
    if row is None:
        raise NotFound(say("No calendar is being written."))
    return row
