"""Somebody who comes by the link of an invitation: known by a code that is mailed to the invited address, without a password.

Whoever comes so may look, sign and pay where the invitation says so; for anything else an account with a password is needed.
"""

from __future__ import annotations

import secrets
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from jolly_clerk.core.say import say
from jolly_clerk.office.errors import Invalid, NotFound, NotReady
from jolly_clerk.office.lifetimes import INVITED_FOR, after
from jolly_clerk.office.office import Office, new_id
from jolly_clerk.office.people.codes import is_right, new_code
from jolly_clerk.office.people.directory import Begun, begin_session, hash_of, names_in, who_of
from jolly_clerk.office.people.slowing import try_once
from jolly_clerk.office.post.mailing import deliver_soon, put_out_mail
from jolly_clerk.store.beside import Invitation
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import Person


@dataclass(frozen=True, slots=True)
class AtTheDoor:
    """What whoever opens the link is told before the code: who invites whom; ``has_account`` tells that the address has a password."""

    name: str
    owner: str
    mail: str
    has_account: bool


def new_link(office: Office, row: Invitation) -> str:
    """A new link for an invitation, in the caller's write; the one before works no more."""
    secret = secrets.token_urlsafe(32)
    row.link_hash, row.link_until = hash_of(secret), after(office.now(), INVITED_FOR)
    row.code_hash, row.tries_left = "", 0
    return f"{office.settings.base_url}/invited/{secret}"


def _invitation(office: Office, session: Session, secret: str) -> Invitation:
    wanted = select(Invitation).where(Invitation.link_hash == hash_of(secret), Invitation.ended_at.is_(None))
    row = session.scalars(wanted).first()
    if row is None or row.link_until is None or row.link_until < office.now():
        raise NotFound(say("This invitation has ended, or its link is too old. Ask whoever invited you for a new one."))
    return row


def _person(session: Session, row: Invitation) -> Person | None:
    wanted = select(Person).where(Person.mail == row.mail, Person.confirmed, Person.left_at.is_(None))
    return session.scalars(wanted).first()


def at_the_door(office: Office, secret: str) -> AtTheDoor:
    """What a link is for. Raises NotFound."""
    with read_session(office.engine) as session:
        row = _invitation(office, session, secret)
        person = _person(session, row)
        owner = names_in(session, {row.by_id}).get(row.by_id, "")
        name, _, place = row.mail.partition("@")
        return AtTheDoor(row.name, owner, f"{name[:1]}…@{place}", person is not None and not person.guest)


def send_code(office: Office, secret: str) -> None:
    """Mail a code to the invited address. Raises NotFound, NotReady where the address has an account, TooOften."""
    with write_session(office.engine) as session:
        row = _invitation(office, session, secret)
        if (person := _person(session, row)) and not person.guest:
            raise NotReady(say("This address has an account already. Sign in with it."))
        try_once(office, session, "code", row.id)
        code, row.code_until = new_code(office, row, row.id)
        text = say("Your code is {code}. Type it at {office}. It works for 30 minutes.", code=code, office=office.name)
        put_out_mail(session, f"code-{new_id()}", row.mail, say("Your code"), text, office.now(), secret_until=row.code_until)
    deliver_soon(office)


def come_in(office: Office, secret: str, code: str) -> Begun:
    """Come in by link and code; the address is then known to be the person's. Raises NotFound, Invalid."""
    who = None
    with write_session(office.engine) as session:
        row = _invitation(office, session, secret)
        good = is_right(row, row.code_until, row.id, code, office.now())
        person = _person(session, row)
        if good and (person is None or person.guest):
            row.code_hash, row.tries_left = "", 0
            if person is None:
                person = Person(id=new_id(), name=row.name, role="applicant", mail=row.mail, kinds=[], confirmed=True, guest=True)
                person.made_at = office.now()
                session.add(person)
                session.flush()
            who = who_of(person)
    if who is None:
        raise Invalid(say("This code is not right, or too old. Look at the newest mail, or ask for a new code."), "code")
    return begin_session(office, who)
