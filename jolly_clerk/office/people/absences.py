"""Absences of the people of the office: from when until when somebody is away, and who stands in for them."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from sqlalchemy import bindparam, or_, select
from sqlalchemy.orm import Session

from jolly_clerk.core.mandates import in_force
from jolly_clerk.core.owning import fault_of_absence
from jolly_clerk.core.roles import STAFF
from jolly_clerk.core.say import say
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.office.people.directory import names_in
from jolly_clerk.office.rules.rulebooks import office_calendar
from jolly_clerk.store.beside import Absence
from jolly_clerk.store.database import query, read_session, write_session
from jolly_clerk.store.tables import Person


@dataclass(frozen=True, slots=True)
class AbsenceView:
    """Who is away on which days, who stands in, and whether that is so today; ``mine`` tells that whoever looks may end it."""

    id: str
    person: str
    name: str
    deputy: str
    deputy_name: str
    first_day: date
    last_day: date
    now: bool
    mine: bool


def absences(office: Office, who: Who) -> list[AbsenceView]:
    """The absences that are not over, soonest first: of everybody for a lead, else one's own and those in which one stands in."""
    if not who.may.staff:
        raise NotAllowed(say("This is for the people of the office."))
    today = office_calendar(office).local_day(office.now())
    wanted = select(Absence).where(Absence.last_day >= today).order_by(Absence.first_day, Absence.id)
    if not who.may.minds_people:
        wanted = wanted.where(or_(Absence.person_id == who.id, Absence.deputy_id == who.id))
    with read_session(office.engine) as session:
        rows = list(session.scalars(wanted))
        names = names_in(session, [id_ for row in rows for id_ in (row.person_id, row.deputy_id)])
    return [
        AbsenceView(
            row.id, row.person_id, names.get(row.person_id, ""), row.deputy_id, names.get(row.deputy_id, ""), row.first_day,
            row.last_day, in_force(row.first_day, row.last_day, today), row.person_id == who.id or who.may.minds_people,
        )
        for row in rows
    ]  # fmt: skip


def go_away(office: Office, who: Who, person: str, deputy: str, first: date, last: date) -> list[AbsenceView]:
    """Note that somebody is away, oneself or (by a lead) another, and who stands in. Raises NotAllowed, NotFound, Invalid with the field."""
    if not who.may.staff:
        raise NotAllowed(say("This is for the people of the office."))
    if person != who.id and not who.may.minds_people:
        raise NotAllowed(say("A lead notes the absence of others."))
    today = office_calendar(office).local_day(office.now())
    field, fault = fault_of_absence(person, deputy, first, last, today)
    if fault:
        raise Invalid(fault, field)
    with write_session(office.engine) as session:
        away, stands_in = session.get(Person, person), session.get(Person, deputy)
        for one in (away, stands_in):
            if one is None or one.role not in STAFF or one.left_at is not None:
                raise NotFound(say("There is no such person in the office."))
        assert away is not None and stands_in is not None
        if (away.role in _JUDGE) != (stands_in.role in _JUDGE):
            raise Invalid(say("Whoever stands in has to have the same work."), "deputy")
        session.add(
            Absence(
                id=new_id(),
                person_id=person,
                deputy_id=deputy,
                first_day=first,
                last_day=last,
                made_by=who.id,
                made_at=office.now(),
            )
        )
    return absences(office, who)


#: those who judge cases: they stand in for one another
_JUDGE = ("officer", "lead")


def come_back(office: Office, who: Who, absence: str) -> list[AbsenceView]:
    """End an absence. Raises NotFound, NotAllowed."""
    with write_session(office.engine) as session:
        row = session.get(Absence, absence)
        if row is None:
            raise NotFound(say("There is no such absence."))
        if row.person_id != who.id and not who.may.minds_people:
            raise NotAllowed(say("Whoever is away ends it, or a lead."))
        session.delete(row)
    return absences(office, who)


_STOOD_IN_FOR = select(Absence.person_id).where(
    Absence.deputy_id == bindparam("who"), Absence.first_day <= bindparam("today"), Absence.last_day >= bindparam("today")
)


def stands_in_for(session: Session, who: Who, today: date) -> list[str]:
    """The ids of those for whom somebody stands in today."""
    return list(query(session, _STOOD_IN_FOR, who=who.id, today=today).scalars())


def away_today(session: Session, today: date) -> dict[str, tuple[date, str]]:
    """Who is away today, by id: until when, and who stands in."""
    wanted = select(Absence).where(Absence.first_day <= today, Absence.last_day >= today)
    return {row.person_id: (row.last_day, row.deputy_id) for row in session.scalars(wanted)}
