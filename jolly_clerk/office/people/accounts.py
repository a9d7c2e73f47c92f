"""Accounts: sign-up, sign-in with a password (Argon2), forgotten passwords, people who come and leave."""

from __future__ import annotations

import hashlib
import re
import secrets
from datetime import datetime
from email.message import EmailMessage

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from jolly_clerk.core.roles import ROLES, STAFF, Role
from jolly_clerk.core.say import say
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady
from jolly_clerk.office.lifetimes import LINKS, REMEMBERED, after, before, seconds_to_wait
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.office.people.directory import Begun, begin_session
from jolly_clerk.office.post.mailing import deliver_soon, put_out_mail
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import OneTimeLink, Person, SignIn, SignInFailure

LEAST_LETTERS, MOST_LETTERS = 10, 200
#: what neither part of a mail address may hold: what a header would take for something else, blanks, control characters
_NOT_IN_MAIL = r"@\s<>,;:\"'()\[\]\\\x00-\x1f\x7f-\x9f"
_MAIL = re.compile(rf"[^{_NOT_IN_MAIL}]{{1,64}}@[^{_NOT_IN_MAIL}]{{1,180}}")


def mail_of(text: str) -> str:
    """A mail address as it is compared; Invalid if it is none."""
    mail = text.strip().lower()
    if not _MAIL.fullmatch(mail) or len(mail) > 200 or not _fits_a_header(mail):
        raise Invalid(say("This is no mail address. Write it like name@place.example."), "mail")
    return mail


def _fits_a_header(mail: str) -> bool:
    """True if the standard library can put the address into a mail."""
    try:
        EmailMessage()["To"] = mail
    except Exception:  # its parser raises AttributeError, IndexError and others
        return False
    return True


def hashed(password: str) -> str:
    """The Argon2 hash of a password. Invalid if it is too short or too long."""
    from pwdlib import PasswordHash

    if not LEAST_LETTERS <= len(password) <= MOST_LETTERS:
        raise Invalid(
            say(
                "A password has {least_letters} to {most_letters} characters; a few words in a row are good.",
                least_letters=LEAST_LETTERS,
                most_letters=MOST_LETTERS,
            ),
            "password",
        )
    return PasswordHash.recommended().hash(password)


def name_of(text: str) -> str:
    """A person's name; Invalid if there is none."""
    name = " ".join(text.split())
    if not 2 <= len(name) <= 120:
        raise Invalid(say("Write the name as it should stand in letters."), "name")
    return name


def role_of(text: str) -> Role:
    """The role of that name among those of people; Invalid if there is none."""
    for role in ROLES:
        if role == text:
            return role
    raise Invalid(say("A role is one of {roles}.", roles=", ".join(ROLES)), "role")


def new_person(office: Office, name: str, mail: str, role: Role, password: str = "") -> Who:
    """Add a person. Invalid if the address is taken."""
    name, mail = name_of(name), mail_of(mail)
    kept = hashed(password) if password else ""
    person_id = new_id()
    with write_session(office.engine) as session:
        if session.scalar(select(func.count()).select_from(Person).where(Person.mail == mail)):
            raise Invalid(say("There is an account with this address already. Sign in, or ask for a new password."), "mail")
        session.add(Person(id=person_id, name=name, role=role, mail=mail, password_hash=kept))
    return Who(person_id, name, role)


def sign_up(office: Office, name: str, mail: str, password: str) -> Begun:
    """An applicant makes an account, and is signed in."""
    if not password:
        hashed(password)
    who = new_person(office, name, mail, "applicant", password)
    return begin_session(office, who)


def sign_in(office: Office, mail: str, password: str) -> Begun:
    """Sign in with a password. Failures slow the next tries of that address down; what was wrong is not told."""
    from pwdlib import PasswordHash

    address, now = mail.strip().lower()[:200], office.now()
    with read_session(office.engine) as session:
        failed = session.get(SignInFailure, address)
        found = session.scalars(select(Person).where(Person.mail == address, Person.left_at.is_(None))).first()
    if failed and (wait := seconds_to_wait(failed.count, failed.last_at, now)):
        raise NotReady(say("Too many tries. Wait {wait} seconds and try again.", wait=wait))
    kept = found.password_hash if found and found.password_hash else _DUMMY
    good = PasswordHash.recommended().verify(password[:MOST_LETTERS], kept) and found is not None and bool(found.password_hash)
    with write_session(office.engine) as session:
        if good:
            session.execute(delete(SignInFailure).where(SignInFailure.mail == address))
        else:
            row = session.get(SignInFailure, address) or SignInFailure(mail=address, count=0, last_at=now)
            row.count, row.last_at = row.count + 1, now
            session.add(row)
            _forget_old(session, now)
    if not good or found is None:
        raise NotAllowed(say("The address or the password is not right."))
    return begin_session(office, Who(found.id, found.name, found.role))


#: verified against when there is no such account, so that the answer takes as long
_DUMMY = "$argon2id$v=19$m=65536,t=3,p=4$0Lwk7LX2bXQpAPMAE0PICg$rgikBHQBygsltAQ/+5uTqnHVf7DSC5KrjQ48tXukP6Y"


def _forget_old(session: Session, now: datetime) -> None:
    session.execute(delete(SignInFailure).where(SignInFailure.last_at < before(now, REMEMBERED)))
    session.execute(delete(OneTimeLink).where(OneTimeLink.until < now))


def _hash(secret: str) -> str:
    return hashlib.sha256(secret.encode()).hexdigest()


def _link(office: Office, session: Session, person: Person, allows: str) -> str:
    secret, now = secrets.token_urlsafe(32), office.now()
    session.execute(delete(OneTimeLink).where(OneTimeLink.person_id == person.id, OneTimeLink.allows == allows))
    session.add(OneTimeLink(secret_hash=_hash(secret), person_id=person.id, allows=allows, until=after(now, LINKS[allows])))
    return f"{office.settings.base_url}/password/{secret}"


def forgotten(office: Office, mail: str) -> None:
    """Send a link for a new password, if the address has an account; the answer is the same if it has none."""
    address = mail.strip().lower()[:200]
    with write_session(office.engine) as session:
        person = session.scalars(select(Person).where(Person.mail == address, Person.left_at.is_(None))).first()
        if person:
            link = _link(office, session, person, "new password")
            text = say(
                "Somebody asked for a new password for this address. If it was you, open this link within two hours:\n\n{link}"
                "\n\nIf it was not you, do nothing.",
                link=link,
            )
            put_out_mail(session, f"password-{new_id()}", person.mail, say("A new password"), text, office.now())
    deliver_soon(office)


def set_password(office: Office, secret: str, password: str) -> Begun:
    """Set a password by a one-time link, and sign in. Every other session of the person ends."""
    kept, now = hashed(password), office.now()
    with write_session(office.engine) as session:
        link = session.get(OneTimeLink, _hash(secret))
        person = session.get(Person, link.person_id) if link and link.until >= now else None
        if link is None or person is None or person.left_at is not None:
            raise NotFound(say("This link was used already, or its time is over. Ask for a new one."))
        person.password_hash = kept
        session.delete(link)
        session.execute(delete(SignIn).where(SignIn.person_id == person.id))
        session.execute(delete(SignInFailure).where(SignInFailure.mail == person.mail))
        who = Who(person.id, person.name, person.role)
    return begin_session(office, who)


def change_password(office: Office, who: Who, old: str, new: str) -> None:
    """Change the own password; the old one is asked."""
    from pwdlib import PasswordHash

    kept = hashed(new)
    with read_session(office.engine) as session:
        before = session.get_one(Person, who.id).password_hash
    if before and not PasswordHash.recommended().verify(old[:MOST_LETTERS], before):  # slow, so never inside a write
        raise NotAllowed(say("The old password is not right."))
    with write_session(office.engine) as session:
        session.get_one(Person, who.id).password_hash = kept


def need_lead(who: Who) -> None:
    """Raise NotAllowed unless this person leads."""
    if not who.may.minds_people:
        raise NotAllowed(say("Only a lead minds the people of the office."))


def invite(office: Office, who: Who, name: str, mail: str, role: str) -> Who:
    """A lead adds somebody to the office; a link to set the first password goes out."""
    need_lead(who)
    wanted = role_of(role)
    if wanted not in STAFF:
        raise Invalid(say("Applicants make their own account."), "role")
    made = new_person(office, name, mail, wanted)
    with write_session(office.engine) as session:
        person = session.get_one(Person, made.id)
        link = _link(office, session, person, "first password")
        text = say(
            "{name} has added you to the office as {role}. Set your password within seven days:\n\n{link}",
            name=who.name,
            role=role,
            link=link,
        )
        put_out_mail(
            session, f"invitation-{made.id}", person.mail, say("Your account at {name}", name=office.name), text, office.now()
        )
    deliver_soon(office)
    return made


def staff(office: Office, who: Who) -> list[Person]:
    """Everybody who works in the office, those who left last."""
    need_lead(who)
    with read_session(office.engine) as session:
        rows = session.scalars(select(Person).where(Person.role.in_(STAFF)).order_by(Person.left_at.isnot(None), Person.name))
        return list(rows)


def leave(office: Office, who: Who, person_id: str) -> None:
    """Somebody leaves the office: the account is closed at once, what was done stays."""
    need_lead(who)
    if person_id == who.id:
        raise Invalid(say("You cannot close your own account; another lead does."))
    with write_session(office.engine) as session:
        person = session.get(Person, person_id)
        if person is None or person.role not in STAFF:
            raise NotFound(say("There is no such person in the office."))
        person.left_at = office.now()
        session.execute(delete(SignIn).where(SignIn.person_id == person_id))
        session.execute(delete(OneTimeLink).where(OneTimeLink.person_id == person_id))
