"""A case put on the agenda of a meeting and taken off it, and what is minuted."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from jolly_clerk.core import history as h
from jolly_clerk.core.in_words import day
from jolly_clerk.core.meetings import (
    Minuted,
    PutOnAgenda,
    Result,
    TakenOffAgenda,
    meeting_of,
    now_on,
    why_not_minute_yet,
    why_not_on,
)
from jolly_clerk.core.say import say
from jolly_clerk.office.cases.casework import Loaded, act, by, load_case
from jolly_clerk.office.errors import Invalid, NotReady
from jolly_clerk.office.meetings.planning import MOST_ITEMS, items_of, meeting_row, need_office
from jolly_clerk.office.office import Office, Who
from jolly_clerk.store.database import read_session
from jolly_clerk.store.meetings import PlannedMeeting
from jolly_clerk.store.tables import Case


@dataclass(frozen=True, slots=True)
class Choice:
    """A meeting on whose agenda a case may go; ``why_not`` says why it cannot, ``here`` that it is on it."""

    id: str
    says: str
    why_not: str
    here: bool


def choices(office: Office, who: Who, reference: str) -> tuple[Choice, ...]:
    """The meetings to come on whose agenda a case may go. Raises NotAllowed, NotFound."""
    need_office(who)
    loaded = load_case(office, who, reference)
    meeting = meeting_of(loaded.rulebook, loaded.so_far)
    if meeting is None:
        return ()
    calendar, at = loaded.known.calendar, now_on(loaded.so_far)
    with read_session(office.engine) as session:
        wanted = select(PlannedMeeting).where(PlannedMeeting.body == meeting.body, PlannedMeeting.begins > office.now())
        rows = list(session.scalars(wanted.where(PlannedMeeting.called_off == "").order_by(PlannedMeeting.begins)))
    return tuple(
        Choice(
            row.id,
            say("{day}, {at}, {place}", day=day(row.day), at=f"{row.begins.astimezone(calendar.zone):%H:%M}", place=row.place),
            why_not_on(meeting, row.begins, calendar, office.now()),
            at is not None and at.put.meeting == row.id and at.minuted is None,
        )
        for row in rows
    )


def put(office: Office, who: Who, reference: str, meeting: str, seen: int | None = None) -> Loaded:
    """Put a case on the agenda of a meeting; it leaves the one on which it was.

    Raises NotAllowed, NotFound, NotReady for what stands against it, Invalid for another body.
    """

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        with read_session(office.engine) as session:
            row = meeting_row(session, meeting)
            there = len(items_of(session, meeting))
        rule, at = meeting_of(loaded.rulebook, loaded.so_far), now_on(loaded.so_far)
        assert rule is not None  # the move asks for it
        if rule.body != row.body:
            raise Invalid(say("This case goes before another meeting: {title}.", title=rule.title), "meeting")
        if row.called_off:
            raise NotReady(say("This meeting is called off."))
        if why := why_not_on(rule, row.begins, loaded.known.calendar, office.now()):
            raise NotReady(why)
        if at is not None and at.put.meeting == meeting and not at.minuted:
            raise NotReady(say("It is on this agenda already."))
        if there >= MOST_ITEMS:
            raise NotReady(say("There are {most} cases on this agenda; that is the most.", most=MOST_ITEMS))
        made: list[h.Entry] = [_off(office, who, at.put, "")] if at and not at.minuted else []
        told = PutOnAgenda(**by(office, who), meeting=meeting, body=row.body, title=rule.title, on=row.day, begins=row.begins)
        return [*made, told]

    def still(session: Session, _: Case, made: Sequence[h.Entry]) -> Sequence[h.Entry]:
        if meeting_row(session, meeting).called_off:  # at this very moment
            raise NotReady(say("This meeting is called off."))
        return made

    return act(office, who, reference, "put on an agenda", entries, seen, finish=still)


def _off(office: Office, who: Who, was: PutOnAgenda, because: str) -> TakenOffAgenda:
    return TakenOffAgenda(**by(office, who), meeting=was.meeting, title=was.title, on=was.on, because=because)


def take_off(office: Office, who: Who, reference: str, because: str = "", seen: int | None = None) -> Loaded:
    """Take a case off the agenda on which it is. Raises NotAllowed, NotFound, NotReady if it is on none or was looked at."""

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        at = now_on(loaded.so_far)
        if at is None or at.minuted:
            raise NotReady(say("It is on no agenda of a meeting that is to come."))
        return [_off(office, who, at.put, because.strip()[:400])]

    return act(office, who, reference, "put on an agenda", entries, seen)


def minute(office: Office, who: Who, reference: str, result: Result, words: str = "", seen: int | None = None) -> Loaded:
    """Minute what the meeting came to in a case. Raises NotAllowed, NotFound, NotReady before it begins, Invalid without words where they are
    needed."""
    words = " ".join(words.split())[:2000]
    if result != "in favour" and len(words) < 3:
        raise Invalid(say("Say in the words of the minutes why."), "words")

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        at = now_on(loaded.so_far)
        assert at is not None  # the move asks for it
        if why := why_not_minute_yet(at, office.now()):
            raise NotReady(why)
        return [Minuted(**by(office, who), meeting=at.put.meeting, title=at.put.title, on=at.put.on, result=result, words=words)]

    return act(office, who, reference, "minute", entries, seen)
