"""Firms: a firm is an applicant of its own with several people. Its filings are the firm's; whoever belongs to it acts as the firm, and the
history names the person. Keepers say who belongs to it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import Select, delete, select, update
from sqlalchemy.orm import Session

from jolly_clerk.core.say import say
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.office.people.accounts import mail_of, name_of, need_confirmed
from jolly_clerk.office.people.directory import belongs, hash_of
from jolly_clerk.office.people.slowing import try_once
from jolly_clerk.office.post.mailing import deliver_soon, put_out_mail
from jolly_clerk.store.beside import FirmMember
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import Person, SignIn

#: a firm has no more people, and a person founds no more firms
MOST_MEMBERS, MOST_FIRMS = 200, 20


@dataclass(frozen=True, slots=True)
class MemberView:
    """Somebody of a firm. ``since`` is when they accepted; None while they are only asked. ``own`` is oneself."""

    id: str
    name: str
    mail: str
    keeper: bool
    since: datetime | None
    own: bool


@dataclass(frozen=True, slots=True)
class FirmView:
    """A firm to which one belongs, or was asked to belong (``asked``): then nothing else of it is told."""

    id: str
    name: str
    keeper: bool
    asked: bool
    members: tuple[MemberView, ...]


def found(office: Office, who: Who, name: str) -> list[FirmView]:
    """Found a firm: whoever does is its first keeper. Raises Invalid, NotReady before the own address is confirmed, TooOften."""
    need_confirmed(who)
    if who.guest:
        raise NotAllowed(say("Set a password first: then this is an account of your own."))
    called = name_of(name)
    with write_session(office.engine) as session:
        try_once(office, session, "mandate", who.signs)
        person = session.get_one(Person, who.signs)
        if len(list(session.scalars(_of(person.mail)))) >= MOST_FIRMS:
            raise Invalid(say("These are more firms than anybody minds."), "name")
        firm = Person(id=new_id(), name=called, role="applicant", kinds=[], confirmed=True, is_firm=True, made_at=office.now())
        session.add(firm)
        session.flush()
        member = FirmMember(id=new_id(), firm_id=firm.id, mail=person.mail, name=person.name, keeper=True, made_at=office.now())
        member.accepted_at = office.now()
        session.add(member)
    return firms_of(office, who)


def firms_of(office: Office, who: Who) -> list[FirmView]:
    """The firms to which one belongs or was asked to belong, by name."""
    with read_session(office.engine) as session:
        person = session.get_one(Person, who.signs)
        mine = list(session.scalars(_of(person.mail))) if person.mail and person.confirmed else []
        seen = [_seen(session, row, person.mail) for row in mine]
    return sorted(seen, key=lambda firm: (firm.name, firm.id))


def ask(office: Office, who: Who, firm: str, mail: str, name: str, keeper: bool) -> list[FirmView]:
    """A keeper asks somebody to belong to a firm; it holds once they accepted. Raises NotFound, NotAllowed, Invalid, TooOften."""
    address, called = mail_of(mail), name_of(name)
    with write_session(office.engine) as session:
        _need_keeper(session, who, firm)
        try_once(office, session, "mandate", who.signs)
        there = list(session.scalars(_members(firm)))
        if any(row.mail == address for row in there):
            raise Invalid(say("This address belongs to the firm already, or was asked."), "mail")
        if len(there) >= MOST_MEMBERS:
            raise Invalid(say("At most {most} people belong to a firm.", most=MOST_MEMBERS), "mail")
        session.add(FirmMember(id=new_id(), firm_id=firm, mail=address, name=called, keeper=keeper, made_at=office.now()))
        text = say(
            "{who} asks you to belong to {firm} at this office: you would prepare, file and pay its filings together.\n\n"
            "Sign in with this address, {address}, and accept it in your account at\n\n{base_url}/account",
            who=who.hand_name or who.name, firm=session.get_one(Person, firm).name, address=address, base_url=office.settings.base_url,
        )  # fmt: skip
        put_out_mail(session, f"firm-{new_id()}", address, say("You are asked to belong to a firm"), text, office.now())
    deliver_soon(office)
    return firms_of(office, who)


def accept(office: Office, who: Who, firm: str) -> list[FirmView]:
    """Accept that one belongs to a firm. Raises NotFound."""
    need_confirmed(who)
    if who.guest:
        raise NotAllowed(say("Set a password first: then this is an account of your own."))
    with write_session(office.engine) as session:
        row = _own(session, who, firm)
        row.accepted_at = row.accepted_at or office.now()
    return firms_of(office, who)


def set_keeper(office: Office, who: Who, firm: str, member: str, keeper: bool) -> list[FirmView]:
    """A keeper makes somebody a keeper, or no longer. Raises NotReady for the last one."""
    with write_session(office.engine) as session:
        _need_keeper(session, who, firm)
        row = _member(session, firm, member)
        if not keeper:
            _need_another(session, row)
        row.keeper = keeper
    return firms_of(office, who)


def end(office: Office, who: Who, firm: str, member: str) -> list[FirmView]:
    """Somebody belongs to a firm no more, or declines: a keeper ends it, or whoever it is. Raises NotFound, NotAllowed, NotReady."""
    with write_session(office.engine) as session:
        row = _member(session, firm, member)
        person = session.get_one(Person, who.signs)
        if row.mail != person.mail or not person.confirmed:
            _need_keeper(session, who, firm)
        _need_another(session, row)
        row.ended_at = office.now()
        acting = select(Person.id).where(Person.mail == row.mail)
        session.execute(update(SignIn).where(SignIn.acts_as == firm, SignIn.person_id.in_(acting)).values(acts_as=""))
    return firms_of(office, who)


def act_as(office: Office, who: Who, secret: str, firm: str) -> None:
    """Go on as a firm, or (an empty ``firm``) as oneself, in the session of the cookie ``secret``. Raises NotFound."""
    with write_session(office.engine) as session:
        person = session.get_one(Person, who.signs)
        if firm and not belongs(session, person, firm):
            raise NotFound(say("There is no such firm of yours."))
        session.execute(update(SignIn).where(SignIn.token_hash == hash_of(secret)).values(acts_as=firm))


def forget_member(session: Session, person: Person) -> None:
    """Forget in which firms somebody is, and of a firm who belongs to it, in the caller's write. Where nobody else minds a firm, whoever
    has belonged to it longest does from now on."""
    for row in list(session.scalars(_of(person.mail))) if person.mail else ():
        others = [other for other in session.scalars(_members(row.firm_id)) if other.id != row.id and other.accepted_at]
        if others and not any(other.keeper for other in others):
            others[0].keeper = True
    held = FirmMember.firm_id == person.id
    session.execute(delete(FirmMember).where(held | ((FirmMember.mail == person.mail) & (FirmMember.mail != ""))))


def _of(mail: str) -> Select[FirmMember]:
    return select(FirmMember).where(FirmMember.mail == mail, FirmMember.ended_at.is_(None)).order_by(FirmMember.made_at)


def _members(firm: str) -> Select[FirmMember]:
    return select(FirmMember).where(FirmMember.firm_id == firm, FirmMember.ended_at.is_(None)).order_by(FirmMember.made_at)


def _own(session: Session, who: Who, firm: str) -> FirmMember:
    person = session.get_one(Person, who.signs)
    known = person.mail and person.confirmed
    row = session.scalars(_members(firm).where(FirmMember.mail == person.mail)).first() if known else None
    if row is None:
        raise NotFound(say("There is no such firm of yours."))
    return row


def _need_keeper(session: Session, who: Who, firm: str) -> None:
    row = _own(session, who, firm)
    if row.accepted_at is None or not row.keeper:
        raise NotAllowed(say("A keeper of the firm does this."))


def _member(session: Session, firm: str, member: str) -> FirmMember:
    row = session.get(FirmMember, member)
    if row is None or row.firm_id != firm or row.ended_at is not None:
        raise NotFound(say("There is no such person in the firm."))
    return row


def _need_another(session: Session, row: FirmMember) -> None:
    """Raise NotReady if nobody else minds the firm."""
    others = [
        other for other in session.scalars(_members(row.firm_id)) if other.id != row.id and other.keeper and other.accepted_at
    ]
    if row.keeper and row.accepted_at and not others:
        raise NotReady(say("This is the last keeper of the firm. Make somebody else a keeper first."))


def _seen(session: Session, own: FirmMember, mail: str) -> FirmView:
    name = session.get_one(Person, own.firm_id).name
    if own.accepted_at is None:
        asked = MemberView(own.id, own.name, own.mail, own.keeper, None, own=True)
        return FirmView(own.firm_id, name, own.keeper, True, (asked,))
    members = tuple(
        MemberView(row.id, row.name, row.mail, row.keeper, row.accepted_at, row.mail == mail)
        for row in session.scalars(_members(own.firm_id))
    )
    return FirmView(own.firm_id, name, own.keeper, False, members)
