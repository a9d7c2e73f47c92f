"""Somebody without an account gets one: by a code that stands on a letter, and the case that the office recorded is then theirs to follow."""

from __future__ import annotations

import secrets

from sqlalchemy import delete
from sqlalchemy.orm import Session

from jolly_clerk.core.say import say
from jolly_clerk.office.errors import Invalid, NotFound
from jolly_clerk.office.lifetimes import LINKS, after
from jolly_clerk.office.office import Office
from jolly_clerk.office.people.accounts import address_is_taken, mail_of, send_code
from jolly_clerk.office.people.directory import Begun, begin_session, hash_of, who_of
from jolly_clerk.office.people.hashing import hashed
from jolly_clerk.office.people.slowing import try_once
from jolly_clerk.office.post.mailing import deliver_soon
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import OneTimeLink, Person


def new_claim(office: Office, session: Session, person: Person) -> str:
    """A code by which a contact makes an account, in the caller's write; the one before works no more."""
    code = secrets.token_hex(5).upper()
    session.execute(delete(OneTimeLink).where(OneTimeLink.person_id == person.id, OneTimeLink.allows == "claim"))
    until = after(office.now(), LINKS["claim"])
    session.add(OneTimeLink(secret_hash=_hash(code), person_id=person.id, allows="claim", until=until))
    return f"{code[:5]}-{code[5:]}"


def _hash(code: str) -> str:
    return hash_of("claim " + "".join(c for c in code.upper() if c.isalnum()))


def claim(office: Office, code: str, mail: str, password: str, sender: str = "") -> Begun:
    """Make an account of the contact to whom a code was sent: a mail address, which is confirmed as any other, and a password. Signs in.

    Raises NotFound for a code that is none or was used, Invalid for an address that has an account, TooOften.
    """
    mail, wrong = (
        mail_of(mail),
        NotFound(say("This code is not right, or was used already. It stands on the letter of the office.")),
    )
    with write_session(office.engine) as session:
        try_once(office, session, "asked by", sender)
    with read_session(office.engine) as session:
        link = session.get(OneTimeLink, _hash(code))
        person = session.get(Person, link.person_id) if link else None
    if person is None:
        raise wrong
    kept = hashed(password, person.name, mail)
    with write_session(office.engine) as session:
        link = session.get(OneTimeLink, _hash(code))
        if link is None or link.allows != "claim" or link.until < office.now():
            raise wrong
        if address_is_taken(session, mail):
            raise Invalid(say("There is an account with this address already. Ask the office to move the case to it."), "mail")
        person = session.get_one(Person, link.person_id)
        person.mail, person.password_hash, person.confirmed, person.letters = mail, kept, False, ""
        session.delete(link)
        send_code(office, session, person)
        who = who_of(person)
    deliver_soon(office)
    return begin_session(office, who)
