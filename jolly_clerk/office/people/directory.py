"""People and their sessions. In a demo, one click signs a person in."""

from __future__ import annotations

import hashlib
import secrets
from collections.abc import Iterable, Sequence
from contextlib import nullcontext, suppress
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import bindparam, delete, func, select, update
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session

from jolly_clerk.core.mandates import Mandate, in_force
from jolly_clerk.core.owning import Somebody
from jolly_clerk.core.roles import APPLICANTS, SECOND, STAFF, Role
from jolly_clerk.core.say import say
from jolly_clerk.office.errors import NotAllowed, NotFound
from jolly_clerk.office.lifetimes import IDLE, NOTED, ONCE, TOGETHER, before, session_until
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.rules.rulebooks import office_calendar
from jolly_clerk.store.beside import CaseRead, FirmMember, MandateGiven
from jolly_clerk.store.database import Busy, query, read_session, write_session
from jolly_clerk.store.running import ApiToken
from jolly_clerk.store.tables import Case, Person, SignIn


@dataclass(frozen=True, slots=True)
class Begun:
    """A session just begun: the secret for the cookie and the token that each change must carry."""

    secret: str
    csrf: str


@dataclass(frozen=True, slots=True)
class SignedIn:
    """Who a session belongs to."""

    who: Who
    csrf: str
    mail: str = ""


def who_of(person: Person, mandates: tuple[Mandate, ...] = ()) -> Who:
    """Somebody as the use cases know them."""
    return Who(person.id, person.name, person.role, tuple(person.kinds or ()), person.confirmed, person.guest, mandates)


def mandates_of(office: Office, session: Session, person: Person) -> tuple[Mandate, ...]:
    """The mandates in force today by which an applicant with a known address acts for others."""
    if person.role not in APPLICANTS or not person.mail or not person.confirmed or person.guest:
        return ()
    given = select(MandateGiven).where(MandateGiven.mail == person.mail, MandateGiven.ended_at.is_(None))
    rows = list(session.scalars(given.where(MandateGiven.accepted_at.is_not(None)).order_by(MandateGiven.made_at)))
    if not rows:
        return ()
    today = office_calendar(office, session).local_day(office.now())
    rows = [row for row in rows if in_force(row.first_day, row.last_day, today)]
    ids = select(Case.reference, Case.id).where(Case.reference.in_([ref for row in rows for ref in row.cases]))
    known = dict(session.execute(ids).tuples().all())
    return tuple(
        Mandate(row.id, row.owner_id, tuple(row.rights), tuple(row.kinds), tuple(known.get(ref, ref) for ref in row.cases))
        for row in rows
    )


def belongs(session: Session, person: Person, firm: str) -> bool:
    """True if somebody belongs to a firm now."""
    if not person.mail or not person.confirmed or person.guest or person.role not in APPLICANTS:
        return False
    own = select(FirmMember.id).where(FirmMember.firm_id == firm, FirmMember.mail == person.mail)
    return session.scalars(own.where(FirmMember.accepted_at.is_not(None), FirmMember.ended_at.is_(None))).first() is not None


def _as_firm(session: Session, person: Person, firm_id: str) -> Who | None:
    """Somebody as the firm as which they go on; None if they do not belong to it any more."""
    firm = session.get(Person, firm_id) if firm_id and belongs(session, person, firm_id) else None
    return Who(firm.id, firm.name, firm.role, hand=person.id, hand_name=person.name) if firm else None


def hash_of(secret: str) -> str:
    """What is kept of a secret: of a session, a link, a code."""
    return hashlib.sha256(secret.encode()).hexdigest()


def add_person(office: Office, id_: str, name: str, role: Role, mail: str = "") -> Who:
    """Add a person, or put name and role right if the id is there."""
    with write_session(office.engine) as session:
        session.merge(Person(id=id_, name=name, role=role, mail=mail))
    return Who(id_, name, role)


#: so many people stand at the door of a demo, those of the office before applicants
AT_THE_DOOR = 100


def people(office: Office) -> list[Who]:
    """Everybody, as the demo's sign-in page shows them; of many applicants the first."""
    wanted = select(Person).where(Person.is_firm.is_(False))
    wanted = wanted.order_by(Person.role.in_(APPLICANTS), Person.role, Person.name).limit(AT_THE_DOOR)
    with read_session(office.engine) as session:
        return [who_of(p) for p in session.scalars(wanted)]


_OF_ROLES = (
    select(Person.id, Person.name, Person.role, Person.kinds)
    .where(Person.role.in_(bindparam("roles", expanding=True)), Person.left_at.is_(None))
    .order_by(Person.name)
)


def of_roles(office: Office, roles: Sequence[Role]) -> list[Who]:
    """Everybody of the office who has one of these roles and has not left, by name."""
    with read_session(office.engine) as session:
        found = query(session, _OF_ROLES, roles=list(roles)).all()
    return [Who(id_, name, role, tuple(kinds or ())) for id_, name, role, kinds in found]


def person(office: Office, id_: str) -> Who:
    """One person who has not left. Raises NotFound."""
    with read_session(office.engine) as session:
        found = session.get(Person, id_)
        mandates = mandates_of(office, session, found) if found else ()
    if found is None or found.left_at is not None:
        raise NotFound(say("There is no such person."))
    return who_of(found, mandates)


_LEADS = select(Person.id).where(Person.role.in_(SECOND), Person.left_at.is_(None))


def leads_of(office: Office, session: Session | None = None) -> set[str]:
    """The ids of the leads who have not left, by the caller's session if there is one."""
    with nullcontext(session) if session else read_session(office.engine) as own:
        return set(query(own, _LEADS).scalars())


def by_mail(office: Office, mail: str) -> Who:
    """The person whose confirmed address this is. Raises NotFound."""
    wanted = select(Person).where(Person.mail == mail.strip().lower(), Person.confirmed, Person.left_at.is_(None))
    with read_session(office.engine) as session:
        found = session.scalars(wanted).first()
    if found is None or not mail.strip():
        raise NotFound(say("There is no such person."))
    return who_of(found)


def sign_in_by_click(office: Office, id_: str) -> Begun:
    """Begin a session without a password; only in a demo."""
    if not office.demo:
        raise NotAllowed(say("Sign-in by one click exists only in the demo."))
    return begin_session(office, person(office, id_))


def begin_session(office: Office, who: Who) -> Begun:
    """Begin a session of a person."""
    secret, csrf = secrets.token_urlsafe(32), secrets.token_urlsafe(24)
    now = office.now()
    with write_session(office.engine) as session:
        session.execute(delete(SignIn).where(SignIn.until < now))
        until = session_until(now, office.settings.session_hours)
        session.add(SignIn(token_hash=hash_of(secret), person_id=who.id, csrf=csrf, until=until, seen_at=now))
    return Begun(secret, csrf)


_SESSION = select(SignIn, Person).join(Person, Person.id == SignIn.person_id).where(SignIn.token_hash == bindparam("token_hash"))


def signed_in(office: Office, secret: str) -> SignedIn | None:
    """The session of a cookie, or None if there is none, or it is over, or it was not used for long."""
    now = office.now()
    with read_session(office.engine) as session:
        row, found = session.execute(_SESSION, {"token_hash": hash_of(secret)}).tuples().first() or (None, None)
        mandates = mandates_of(office, session, found) if found else ()
        acting = _as_firm(session, found, row.acts_as) if found and row else None
    if row is None or found is None or found.left_at is not None or row.until < now:
        return None
    seen = row.seen_at or row.until
    if seen < before(now, IDLE):
        return None
    if seen < before(now, NOTED):
        _note_used(office, row.token_hash, now)
    return SignedIn(acting or who_of(found, mandates), row.csrf, found.mail)


def _note_used(office: Office, token_hash: str, now: datetime) -> None:
    """Note that a session is used. That it cannot be noted just now keeps nobody from looking."""
    with suppress(Busy, OperationalError), write_session(office.engine) as session:
        session.execute(update(SignIn).where(SignIn.token_hash == token_hash).values(seen_at=now))


def end_other_sessions(session: Session, person_id: str, kept: str = "") -> None:
    """End the sessions of a person, in the caller's write, all but the one of this cookie; if none is kept, the tokens as well."""
    if not kept:
        session.execute(delete(ApiToken).where(ApiToken.person_id == person_id))
    session.execute(delete(SignIn).where(SignIn.person_id == person_id, SignIn.token_hash != (hash_of(kept) if kept else "")))


def sign_out(office: Office, secret: str) -> None:
    """End a session."""
    with write_session(office.engine) as session:
        session.execute(delete(SignIn).where(SignIn.token_hash == hash_of(secret)))


_ALSO_HERE = (
    select(Person.name)
    .join(CaseRead, CaseRead.person_id == Person.id)
    .where(CaseRead.case_id == bindparam("case_id"), CaseRead.at > bindparam("since"))
    .where(Person.id != bindparam("me"), Person.role.in_(STAFF))
    .distinct()
)


def also_here(office: Office, who: Who, case_id: str) -> list[str]:
    """The names of others of the office who looked at a case in the last minutes."""
    since = before(office.now(), TOGETHER)
    with read_session(office.engine) as session:
        return sorted(query(session, _ALSO_HERE, case_id=case_id, since=since, me=who.id).scalars())


_OPENED_LAST = select(func.max(CaseRead.at)).where(
    CaseRead.case_id == bindparam("case_id"), CaseRead.person_id == bindparam("person_id")
)


def opened_last(office: Office, who: Who, case_id: str) -> datetime | None:
    """When somebody opened a case last, and had it open; None if never."""
    with read_session(office.engine) as session:
        return query(session, _OPENED_LAST, case_id=case_id, person_id=who.id).scalar()


def note_opened(office: Office, who: Who, case_id: str, changed_at: datetime) -> None:
    """Note that somebody opened a case; a window that opens it again and again counts once a minute, unless it changed meanwhile."""
    now, last_at = office.now(), opened_last(office, who, case_id)
    if last_at is not None and last_at > before(now, ONCE) and last_at >= changed_at:
        return
    with write_session(office.engine) as session:
        session.add(CaseRead(case_id=case_id, person_id=who.id, at=office.now()))


def names(office: Office, ids: Iterable[str | None]) -> dict[str, str]:
    """The names of these people by id."""
    with read_session(office.engine) as session:
        return names_in(session, ids)


_SOMEBODIES = select(Person.id, Person.name, Person.mail, Person.born).where(Person.id.in_(bindparam("ids", expanding=True)))


def somebodies_in(session: Session, *ids: str) -> list[Somebody]:
    """These people in their order, as far as it is asked whether two are the same; those who are not there are left out."""
    found = {id_: Somebody(name, mail or "", born) for id_, name, mail, born in query(session, _SOMEBODIES, ids=list(ids))}
    return [found[id_] for id_ in ids if id_ in found]


_NAMES = select(Person.id, Person.name).where(Person.id.in_(bindparam("ids", expanding=True)))


def names_in(session: Session, ids: Iterable[str | None]) -> dict[str, str]:
    """The names of these people by id, in the caller's session."""
    wanted = {id_ for id_ in ids if id_}
    return dict(query(session, _NAMES, ids=list(wanted)).tuples().all()) if wanted else {}
