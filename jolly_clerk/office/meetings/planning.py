"""Meetings planned and called off, and the order of their agendas."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, time

from sqlalchemy import select
from sqlalchemy.orm import Session

from jolly_clerk.core import history as h
from jolly_clerk.core.in_words import day
from jolly_clerk.core.meetings import TakenOffAgenda, now_on
from jolly_clerk.core.rulebook.routes import Meeting
from jolly_clerk.core.say import say
from jolly_clerk.office.cases.casework import Loaded, act, by
from jolly_clerk.office.cases.endings import words_of
from jolly_clerk.office.cases.seeing import visible
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady, Stale
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.office.rules.rulebooks import kinds, office_calendar
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.meetings import AgendaItem, PlannedMeeting
from jolly_clerk.store.tables import Case

#: so many cases are on one agenda
MOST_ITEMS = 60


@dataclass(frozen=True, slots=True)
class Body:
    """Who meets, as the editions in force name them."""

    id: str
    title: str


def need_office(who: Who) -> None:
    """Raise NotAllowed for whoever does not work on cases in the office."""
    if not who.sees_all:
        raise NotAllowed(say("Only the office sees its meetings."))


def may_plan(who: Who) -> bool:
    """True for those who plan meetings and minute what they come to."""
    return who.may.moves == "officer"


def need_planner(who: Who) -> None:
    """Raise NotAllowed for whoever does not plan meetings."""
    need_office(who)
    if not may_plan(who):
        raise NotAllowed(say("Officers and leads plan meetings."))


def meeting_row(session: Session, meeting: str) -> PlannedMeeting:
    """A meeting by its id. Raises NotFound."""
    row = session.get(PlannedMeeting, meeting)
    if row is None:
        raise NotFound(say("There is no such meeting."))
    return row


def items_of(session: Session, meeting: str) -> list[AgendaItem]:
    """The cases on an agenda, in order."""
    wanted = select(AgendaItem).where(AgendaItem.meeting_id == meeting)
    return list(session.scalars(wanted.order_by(AgendaItem.position, AgendaItem.case_id)))


def rules_of_meetings(office: Office) -> list[Meeting]:
    """The meetings that the pathways of the editions in force have."""
    today = office_calendar(office).local_day(office.now())
    return [p.pathway.meeting for rules in kinds(office, today) for p in rules.pathways if p.pathway.meeting]


def bodies(office: Office) -> tuple[Body, ...]:
    """Who meets, as the editions in force name them, by title."""
    found = {rule.body: rule.title for rule in rules_of_meetings(office)}
    return tuple(Body(id_, title) for id_, title in sorted(found.items(), key=lambda one: one[1]))


def plan(office: Office, who: Who, body: str, on: date, at: time, place: str) -> str:
    """Plan a meeting at an hour of the office's clock; its id. Raises NotAllowed, Invalid with the field."""
    need_planner(who)
    title = next((known.title for known in bodies(office) if known.id == body), "")
    if not title:
        raise Invalid(say("No edition in force names whoever meets so."), "body")
    calendar = office_calendar(office)
    begins = datetime.combine(on, at.replace(tzinfo=None), calendar.zone)
    if begins <= office.now():
        raise Invalid(say("A meeting is planned for an hour that is to come."), "on")
    if closed := calendar.closed_on(on):
        raise Invalid(say("The office is closed on {day}: {closed}.", day=day(on), closed=closed), "on")
    place = words_of(place, say("where it is"))[:200]
    with write_session(office.engine) as session:
        same = select(PlannedMeeting).where(
            PlannedMeeting.body == body, PlannedMeeting.begins == begins, PlannedMeeting.called_off == ""
        )
        if session.scalars(same).first() is not None:
            raise Invalid(say("A meeting of {title} is planned for this hour already.", title=title), "at")
        row = PlannedMeeting(
            id=new_id(), body=body, title=title, day=on, begins=begins, place=place, made_by=who.id, called_off=""
        )
        session.add(row)
        return row.id


def call_off(office: Office, who: Who, meeting: str, because: str) -> None:
    """Call a meeting off; the cases on its agenda wait for another one. Raises NotAllowed, NotFound, Invalid, NotReady once it was held."""
    need_planner(who)
    because = words_of(because, say("why it is called off"))[:400]
    with write_session(office.engine) as session:
        row = meeting_row(session, meeting)
        if row.called_off:
            raise NotReady(say("It is called off already."))
        if any(item.result for item in items_of(session, meeting)):
            raise NotReady(say("It was held: a result is minuted."))
        row.called_off = because
    with read_session(office.engine) as session:  # from here on no further case comes onto it
        row = meeting_row(session, meeting)
        on_it = select(AgendaItem.case_id).where(AgendaItem.meeting_id == meeting)
        references = list(session.scalars(select(Case.reference).where(Case.id.in_(on_it))))
    for reference in references:

        def entries(loaded: Loaded) -> Sequence[h.Entry]:
            at = now_on(loaded.so_far)
            if at is None or at.put.meeting != meeting or at.minuted:
                return []
            told = say("the meeting is called off, {because}", because=because)
            return [TakenOffAgenda(**by(office, who), meeting=meeting, title=row.title, on=row.day, because=told)]

        act(office, who, reference, "", entries)


def reorder(office: Office, who: Who, meeting: str, references: Sequence[str]) -> None:
    """Bring the agenda into an order, named by all its cases that this person may see; the others keep their places.

    Raises NotAllowed, NotFound, Stale if other cases are on it by now.
    """
    need_planner(who)
    with write_session(office.engine) as session:
        meeting_row(session, meeting)
        items = {item.case_id: item for item in items_of(session, meeting)}
        seen = select(Case.reference, Case.id).where(Case.id.in_(list(items)), *visible(who))
        ids = dict(session.execute(seen).tuples().all())
        if sorted(references) != sorted(ids):
            raise Stale(say("The agenda is not the one that you saw. Look at it again, then bring it into order."))
        places = [item.position for item in items.values() if item.case_id in ids.values()]
        for place, reference in zip(places, references, strict=True):
            items[ids[reference]].position = place
