"""Who of the office has a case: taken over, handed on, given back, assigned, many at once; and a case reopened by a lead."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy import ColumnElement, Integer, cast, func, select
from sqlalchemy.orm import Session

from jolly_clerk.core import history as h
from jolly_clerk.core.deadlines import answers_due
from jolly_clerk.core.owning import why_not_assign
from jolly_clerk.core.roles import OFFICERS, REVIEWERS
from jolly_clerk.core.say import say
from jolly_clerk.office.cases.casework import Loaded, act
from jolly_clerk.office.cases.endings import words_of
from jolly_clerk.office.cases.leaving import before_it_leaves
from jolly_clerk.office.cases.seeing import visible
from jolly_clerk.office.desk.reviewing import hand_over
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, OfficeError
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.absences import away_today
from jolly_clerk.office.people.directory import names_in, of_roles
from jolly_clerk.office.post.mailing import deliver_soon, put_out
from jolly_clerk.office.rules.rulebooks import office_calendar
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Case, Person

#: so many cases are handed on in one go
MOST_AT_ONCE = 100


def assign(office: Office, who: Who, reference: str, to: str, because: str = "", seen: int | None = None) -> Loaded:
    """Give a case to an officer, or (``to`` empty) to nobody. Raises NotAllowed, NotFound, Invalid where it is so already."""
    because = " ".join(because.split())[:300]

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        name, kinds = _officer(office, to)
        if kinds and loaded.case.kind not in kinds:
            raise Invalid(say("{name} does not work on cases of this kind.", name=name), "to")
        owner = loaded.so_far.officer
        why = why_not_assign(who.may.minds_people, who.id, owner, to)
        if why and to != owner:
            raise NotAllowed(why)
        if why:
            raise Invalid(why, "to")
        return [h.Assigned(at=office.now(), who=who.signs, role=who.role, to=to, name=name, because=because)]

    return act(office, who, reference, "assign", entries, seen, relies_on=())


def _officer(office: Office, to: str) -> tuple[str, list[str]]:
    """The name of an officer and the kinds to which they are limited; nothing for nobody. Raises NotFound."""
    if not to:
        return "", []
    with read_session(office.engine) as session:
        found = session.get(Person, to)
    if found is None or found.left_at is not None or found.role not in OFFICERS:
        raise NotFound(say("There is no such officer."))
    return found.name, list(found.kinds or [])


def need_officer(who: Who) -> None:
    """Raise NotAllowed unless somebody has cases at the intake."""
    if not who.is_officer:
        raise NotAllowed(say("This is for the officers."))


@dataclass(frozen=True, slots=True)
class Became:
    """What became of one case of many: nothing said where it was done."""

    reference: str
    refused: str


def assign_all(office: Office, who: Who, references: Sequence[str], to: str, because: str = "") -> list[Became]:
    """Give many cases to one officer, each by itself. Raises NotAllowed for whoever is none."""
    need_officer(who)
    return _each(references, lambda reference: assign(office, who, reference, to, because))


def hand_over_all(office: Office, who: Who, references: Sequence[str], to: str) -> list[Became]:
    """Hand many complete cases over to one reviewer, each by itself. Raises NotAllowed for whoever is no officer."""
    need_officer(who)
    return _each(
        references,
        lambda one: before_it_leaves(office, who, one, "hand over", "", lambda then: hand_over(then, who, one, to)),
    )


def assign_from(office: Office, who: Who, officer: str, to: str, because: str = "") -> list[Became]:
    """A lead gives all open cases of one officer to another, those with the nearest limit first. Raises NotAllowed."""
    if not who.may.minds_people:
        raise NotAllowed(say("A lead does this."))
    mine = Case.officer_id == officer if officer else Case.officer_id.is_(None)
    wanted = select(Case.reference).where(Case.tray == "intake", Case.kept.is_(False), mine, *visible(who))
    with read_session(office.engine) as session:
        references = list(session.scalars(wanted.order_by(Case.sort_at, Case.reference).limit(MOST_AT_ONCE)))
    return assign_all(office, who, references, to, because)


def _each(references: Sequence[str], do: Callable[[str], object]) -> list[Became]:
    if len(references) > MOST_AT_ONCE:
        raise Invalid(say("At most {most} cases go at once.", most=MOST_AT_ONCE), "references")
    done = []
    for reference in dict.fromkeys(references):
        try:
            do(reference)
            done.append(Became(reference, ""))
        except OfficeError as error:  # one that cannot go holds up no other
            done.append(Became(reference, error.detail))
    return done


@dataclass(frozen=True, slots=True)
class Load:
    """What somebody of the office has: open cases, those that the office can go on with now, the limit that comes first and of which case.
    ``away_until`` and ``deputy`` are told while they are away. Without a person: what nobody has."""

    person: str
    name: str
    open: int
    ours: int
    nearest: str
    limit_day: date | None
    away_until: date | None
    deputy: str


def load(office: Office, who: Who) -> list[Load]:
    """What each officer has, those with the nearest limit first; then what nobody has. Raises NotAllowed."""
    need_officer(who)
    today = office_calendar(office).local_day(office.now())
    here = [Case.tray == "intake", Case.kept.is_(False), *visible(who)]
    counted = (
        select(Case.officer_id, func.count(), func.sum(cast(Case.waits.is_(False), Integer)))
        .where(*here)
        .group_by(Case.officer_id)
    )
    with read_session(office.engine) as session:
        counts = {officer or "": (int(n), int(ours or 0)) for officer, n, ours in session.execute(counted).tuples()}
        people = {officer.id: officer.name for officer in colleagues(office)}
        people |= names_in(session, [id_ for id_ in counts if id_ and id_ not in people])
        away = away_today(session, today)
        names = names_in(session, [deputy for _, deputy in away.values()])
        rows = []
        for person, name in [*people.items(), ("", "")]:
            n, ours = counts.get(person, (0, 0))
            first = _nearest(session, here, person) if n else None
            until, deputy = away.get(person, (None, ""))
            rows.append(
                Load(
                    person,
                    name,
                    n,
                    ours,
                    first.reference if first else "",
                    first.limit_day if first else None,
                    until,
                    names.get(deputy, ""),
                )
            )
    return sorted(rows, key=lambda r: (r.person == "", r.limit_day is None, r.limit_day or today, r.name))


def _nearest(session: Session, here: Sequence[ColumnElement[bool]], person: str) -> Case | None:
    mine = Case.officer_id == person if person else Case.officer_id.is_(None)
    found = select(Case).where(*here, mine, Case.limit_day.is_not(None)).order_by(Case.sort_at, Case.reference)
    return session.scalars(found.limit(1)).first()


def colleagues(office: Office) -> list[Who]:
    """Everybody to whom a case can be given."""
    return of_roles(office, OFFICERS)


def everybody(office: Office, who: Who) -> tuple[list[Who], list[Who]]:
    """The officers and the reviewers to whom cases can be given. Raises NotAllowed."""
    need_officer(who)
    return colleagues(office), of_roles(office, REVIEWERS)


def reopen(office: Office, who: Who, reference: str, because: str, seen: int | None = None) -> Loaded:
    """Reopen a case that the office or its clock ended, with a reason that the applicant reads; what did not go back yet stays here."""
    because = words_of(because, say("why it is reopened"))

    def entries(loaded: Loaded) -> Sequence[h.Entry]:
        cancels = tuple(sorted(back.key for back in loaded.so_far.refunds_due))
        due = None
        ended = loaded.so_far.ended
        if isinstance(ended, h.Lapsed) and ended.step == "answers":
            due = answers_due(office.now(), loaded.assessment.clock_rules, loaded.known.calendar).day
        return [h.Reopened(at=office.now(), who=who.signs, role=who.role, because=because, cancels=cancels, due=due)]

    def finish(session: Session, case: Case, made: Sequence[h.Entry]) -> Sequence[h.Entry]:
        text = say("Your case goes on: {because}", because=because)
        put_out(session, case, f"{reference}-reopened-{case.entries}", say("Your case was reopened"), "", office.now(), text=text)
        return made

    done = act(office, who, reference, "reopen", entries, seen, finish=finish)
    deliver_soon(office)
    return done
