"""Accounts: sign-up with an address that is confirmed, sign-in with a password, forgotten passwords, people who come and leave."""

from __future__ import annotations

import secrets
from collections.abc import Sequence
from contextlib import suppress

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from jolly_clerk.core.mail_address import as_mail_address
from jolly_clerk.core.roles import ROLES, STAFF, Role
from jolly_clerk.core.say import say
from jolly_clerk.office.errors import CodeWanted, Invalid, NotAllowed, NotFound, NotReady, NotRecognised, TooOften
from jolly_clerk.office.lifetimes import LINKS, after
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.office.people.codes import is_right, new_code
from jolly_clerk.office.people.directory import Begun, begin_session, end_other_sessions, hash_of, who_of
from jolly_clerk.office.people.hashing import hashed, need_good, verified
from jolly_clerk.office.people.slowing import forgive, try_once
from jolly_clerk.office.people.texting import ask_code, need_code
from jolly_clerk.office.post.mailing import deliver_soon, put_out_mail
from jolly_clerk.office.rules.rulebooks import known_kinds
from jolly_clerk.store.beside import MailCode
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import OneTimeLink, Person


def mail_of(text: str) -> str:
    """A mail address as it is compared; Invalid if it is none."""
    try:
        return as_mail_address(text)
    except ValueError as fault:
        raise Invalid(str(fault), "mail") from None


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


def new_person(office: Office, name: str, mail: str, role: Role, password: str = "", kinds: Sequence[str] = ()) -> Who:
    """Add a person whose address is known to be the person's. Invalid if it is taken."""
    name, mail = name_of(name), mail_of(mail)
    kept = hashed(password, name, mail) if password else ""
    made = Person(id=new_id(), name=name, role=role, mail=mail, password_hash=kept, kinds=list(kinds), made_at=office.now())
    with write_session(office.engine) as session:
        if _confirmed(session, mail):
            raise Invalid(say("There is an account with this address already. Sign in, or ask for a new password."), "mail")
        session.add(made)
    return who_of(made)


def _confirmed(session: Session, mail: str) -> Person | None:
    """The one person whose address this is known to be."""
    wanted = select(Person).where(Person.mail == mail, Person.confirmed, Person.left_at.is_(None))
    return session.scalars(wanted).first()


def sign_up(office: Office, name: str, mail: str, password: str, sender: str = "") -> Begun:
    """An applicant makes an account and is signed in; a code goes to the address, and nothing can be filed before it came back.

    Whether the address has an account already is told to the address alone: the answer is the same. Raises Invalid, TooOften.
    """
    name, mail = name_of(name), mail_of(mail)
    kept, now = hashed(password, name, mail), office.now()
    made = Person(id=new_id(), name=name, role="applicant", mail=mail, password_hash=kept, kinds=[], confirmed=False, made_at=now)
    with write_session(office.engine) as session:
        try_once(office, session, "sign-up", sender)
        session.add(made)
        session.flush()
        if _confirmed(session, mail):
            _tell_that_there_is_one(office, session, mail)
        else:
            send_code(office, session, made)
    deliver_soon(office)
    return begin_session(office, who_of(made))


def _tell_that_there_is_one(office: Office, session: Session, mail: str) -> None:
    try:
        try_once(office, session, "asked for", mail)
    except TooOften:
        return
    text = say(
        "Somebody began to make an account with this address. You have one already: sign in with it, or ask for a new password "
        "at\n\n{base_url}\n\nIf it was not you, do nothing.",
        base_url=office.settings.base_url,
    )
    put_out_mail(session, f"account-{new_id()}", mail, say("You have an account already"), text, office.now())


def address_is_taken(session: Session, mail: str) -> bool:
    """True if an address is known to be that of an account."""
    return _confirmed(session, mail) is not None


def send_code(office: Office, session: Session, person: Person) -> None:
    """Send a code that confirms an address, in the caller's write."""
    row, now = session.get(MailCode, person.id) or MailCode(person_id=person.id), office.now()
    code, row.until = new_code(office, row, person.id)
    session.add(row)
    text = say(
        "Your code is {code}. Type it at {office}, where you are making an account. It works for 30 minutes."
        "\n\nIf you are making none, do nothing.",
        code=code,
        office=office.name,
    )
    put_out_mail(
        session,
        f"code-{new_id()}",
        person.mail,
        say("Your code to confirm this address"),
        text,
        now,
        secret_until=row.until,
    )


def send_code_again(office: Office, who: Who) -> None:
    """Send a new code to the own address; the older one works no more. Raises NotReady if it is confirmed, TooOften."""
    if who.confirmed:
        raise NotReady(say("Your address is confirmed already."))
    with write_session(office.engine) as session:
        try_once(office, session, "code", who.signs)
        person = session.get_one(Person, who.signs)
        if _confirmed(session, person.mail):
            _tell_that_there_is_one(office, session, person.mail)
        else:
            send_code(office, session, person)
    deliver_soon(office)


def confirm(office: Office, who: Who, code: str) -> None:
    """Confirm the own address by the code that was sent to it. Raises Invalid if it is not right, too old or tried too often."""
    wrong = Invalid(say("This code is not right, or too old. Look at the newest mail, or ask for a new code."), "code")
    good = False
    with write_session(office.engine) as session:
        person, sent = session.get_one(Person, who.signs), session.get(MailCode, who.signs)
        if person.confirmed:
            return
        if sent is not None and is_right(sent, sent.until, who.signs, code, office.now()):
            good = _confirmed(session, person.mail) is None
        if good:
            person.confirmed = True
            session.delete(sent)
            _close_others(office, session, person)
    if not good:
        raise wrong


def _close_others(office: Office, session: Session, person: Person) -> None:
    """Close what others began with an address that is now known to be this person's."""
    others = select(Person).where(Person.mail == person.mail, Person.id != person.id, Person.confirmed.is_(False))
    for other in session.scalars(others.where(Person.left_at.is_(None))):
        other.left_at = office.now()
        end_other_sessions(session, other.id)


def need_confirmed(who: Who) -> None:
    """Raise NotReady unless the address of this person is confirmed."""
    if not who.confirmed:
        raise NotReady(say("Confirm your mail address first: type the code that we sent to it."), "mail")


def sign_in(office: Office, mail: str, password: str, sender: str = "", code: str = "") -> Begun:
    """Sign in with a password. Tries slow the next ones down, at this address and by this sender; what was wrong is not told.

    Who wishes it is asked for a ``code`` by text message as well: it is sent when the password was right, and the password is sent
    with it once more. Raises NotAllowed, CodeWanted, Invalid for another code, TooOften, Busy.
    """
    address = mail.strip().lower()[:200]
    at_address = f"{address}\n{sender}"
    with write_session(office.engine) as session:
        try_once(office, session, "password", at_address)
        try_once(office, session, "address", address)
        try_once(office, session, "sender", sender)
        found = _confirmed(session, address)
        if found is None:
            begun = select(Person).where(Person.mail == address, Person.left_at.is_(None)).order_by(Person.made_at.desc())
            found = session.scalars(begun).first()
    if not verified(password, found.password_hash if found else "") or found is None:
        raise NotRecognised(say("The address or the password is not right."))
    with write_session(office.engine) as session:
        forgive(session, "password", at_address)
        forgive(session, "address", address)
        forgive(session, "sender", sender)
    who = who_of(found)
    if found.code_by_text and found.mobile:
        if not code.strip():
            digits = ask_code(office, who, "sign in")
            raise CodeWanted(
                say("We sent a code of six digits by text message to the number that ends in {digits}.", digits=digits), "code"
            )
        need_code(office, who, "sign in", code)
    return begin_session(office, who)


def _link(office: Office, session: Session, person: Person, allows: str) -> str:
    secret, now = secrets.token_urlsafe(32), office.now()
    session.execute(delete(OneTimeLink).where(OneTimeLink.person_id == person.id, OneTimeLink.allows == allows))
    session.add(OneTimeLink(secret_hash=hash_of(secret), person_id=person.id, allows=allows, until=after(now, LINKS[allows])))
    return f"{office.settings.base_url}/password/{secret}"


def forgotten(office: Office, mail: str, sender: str = "") -> None:
    """Send a link for a new password, if the address has an account; the answer is the same if it has none.

    One address gets no more than a few such mails. Raises TooOften if one sender asks too often.
    """
    address = mail.strip().lower()[:200]
    with write_session(office.engine) as session:
        try_once(office, session, "asked by", sender)
        person = _confirmed(session, address)
        with suppress(TooOften):
            try_once(office, session, "asked for", address)
            if person:
                _send_link(office, session, person)
    deliver_soon(office)


def _send_link(office: Office, session: Session, person: Person) -> None:
    link, now = _link(office, session, person, "new password"), office.now()
    text = say(
        "Somebody asked for a new password for this address. If it was you, open this link within two hours:\n\n{link}"
        "\n\nIf it was not you, do nothing.",
        link=link,
    )
    until = after(now, LINKS["new password"])
    put_out_mail(session, f"password-{new_id()}", person.mail, say("A new password"), text, now, secret_until=until)


def set_password(office: Office, secret: str, password: str) -> Begun:
    """Set a password by a one-time link, and sign in. Every other session of the person ends."""
    now = office.now()
    with read_session(office.engine) as session:
        link = session.get(OneTimeLink, hash_of(secret))
        person = session.get(Person, link.person_id) if link else None
    about = (person.name, person.mail) if person else ()
    kept = hashed(password, *about)
    with write_session(office.engine) as session:
        link = session.get(OneTimeLink, hash_of(secret))
        person = session.get(Person, link.person_id) if link and link.until >= now else None
        if link is None or person is None or person.left_at is not None:
            raise NotFound(say("This link was used already, or its time is over. Ask for a new one."))
        person.password_hash, person.guest = kept, False
        session.delete(link)
        end_other_sessions(session, person.id)
        forgive(session, "address", person.mail)
        who = who_of(person)
    return begin_session(office, who)


def change_password(office: Office, who: Who, old: str, new: str, kept_session: str = "") -> None:
    """Change the own password; the old one is asked, and guesses at it are slowed. Every other session of the person ends,
    all but the one of the cookie ``kept_session``."""
    with write_session(office.engine) as session:
        try_once(office, session, "old password", who.signs)
        person = session.get_one(Person, who.signs)
    need_good(new, person.name, person.mail)
    if person.password_hash and not verified(old, person.password_hash):  # slow, so never inside a write
        raise NotRecognised(say("The old password is not right."))
    kept = hashed(new, person.name, person.mail)
    with write_session(office.engine) as session:
        person = session.get_one(Person, who.signs)
        person.password_hash, person.guest = kept, False
        forgive(session, "old password", who.signs)
        end_other_sessions(session, who.signs, kept_session)


def end_others(office: Office, who: Who, kept_session: str) -> None:
    """End every other session of a person."""
    with write_session(office.engine) as session:
        end_other_sessions(session, who.signs, kept_session)


def need_lead(who: Who) -> None:
    """Raise NotAllowed unless this person leads."""
    if not who.may.minds_people:
        raise NotAllowed(say("Only a lead minds the people of the office."))


def invite(office: Office, who: Who, name: str, mail: str, role: str, kinds: Sequence[str] = ()) -> Who:
    """A lead adds somebody to the office; a link to set the first password goes out. ``kinds`` limits the person to these."""
    need_lead(who)
    wanted = role_of(role)
    if wanted not in STAFF:
        raise Invalid(say("Applicants make their own account."), "role")
    made = new_person(office, name, mail, wanted, kinds=kinds_of(office, kinds))
    with write_session(office.engine) as session:
        person = session.get_one(Person, made.id)
        link = _link(office, session, person, "first password")
        text = say(
            "{name} has added you to the office as {role}. Set your password within seven days:\n\n{link}",
            name=who.name,
            role=role,
            link=link,
        )
        subject, now = say("Your account at {name}", name=office.name), office.now()
        until = after(now, LINKS["first password"])
        put_out_mail(session, f"invitation-{made.id}", person.mail, subject, text, now, secret_until=until)
    deliver_soon(office)
    return made


def kinds_of(office: Office, wanted: Sequence[str]) -> list[str]:
    """The kinds that somebody is limited to, each of which has a rulebook. Invalid for one that has none."""
    there = known_kinds(office)
    for kind in wanted:
        if kind not in there:
            raise Invalid(say("No rulebook of this kind is published: {kind}.", kind=kind[:10]), "kinds")
    return sorted(set(wanted))


def limit_to(office: Office, who: Who, person_id: str, kinds: Sequence[str]) -> None:
    """A lead limits somebody of the office to some kinds, or (none) to none."""
    need_lead(who)
    limited = kinds_of(office, kinds)
    with write_session(office.engine) as session:
        person = session.get(Person, person_id)
        if person is None or person.role not in STAFF:
            raise NotFound(say("There is no such person in the office."))
        person.kinds = limited


def staff(office: Office, who: Who) -> list[Person]:
    """Everybody who works in the office, those who left last."""
    need_lead(who)
    with read_session(office.engine) as session:
        rows = session.scalars(select(Person).where(Person.role.in_(STAFF)).order_by(Person.left_at.isnot(None), Person.name))
        return list(rows)


def leave(office: Office, who: Who, person_id: str) -> None:
    """Somebody leaves the office: the account is closed at once, what was done stays."""
    need_lead(who)
    if person_id == who.signs:
        raise Invalid(say("You cannot close your own account; another lead does."))
    with write_session(office.engine) as session:
        person = session.get(Person, person_id)
        if person is None or person.role not in STAFF:
            raise NotFound(say("There is no such person in the office."))
        person.left_at = office.now()
        end_other_sessions(session, person_id)
        session.execute(delete(OneTimeLink).where(OneTimeLink.person_id == person_id))
