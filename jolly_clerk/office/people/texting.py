"""Text messages: the number of a person, known by a code that was sent to it; codes by text; which news go by which way."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from sqlalchemy import delete
from sqlalchemy.orm import Session

from jolly_clerk.core.news import NEWS, fault_of_news, ways_of
from jolly_clerk.core.say import say
from jolly_clerk.office.errors import Invalid, NotReady
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.office.people.codes import is_right, new_code
from jolly_clerk.office.people.slowing import try_once
from jolly_clerk.office.post.mailing import deliver_soon, put_out_text
from jolly_clerk.store.beside import TextCode
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import Person

#: what a code by text is for: knowing a number, signing in, filing
Purpose = Literal["number", "sign in", "file"]
FEWEST_DIGITS, MOST_DIGITS = 5, 15


@dataclass(frozen=True, slots=True)
class KindOfNews:
    """A kind of news, the ways that can be chosen for it, and the one that is."""

    news: str
    title: str
    ways: tuple[str, ...]
    way: str


@dataclass(frozen=True, slots=True)
class Contact:
    """How a person is reached: ``number`` is known to be theirs, ``asked`` waits for its code; ``code_by_text`` asks for one at signing in."""

    number: str
    asked: str
    code_by_text: bool
    news: tuple[KindOfNews, ...]


def contact(office: Office, who: Who) -> Contact:
    """How a person is reached."""
    with read_session(office.engine) as session:
        person, waits = session.get_one(Person, who.signs), session.get(TextCode, (who.signs, "number"))
    asked = waits.number if waits is not None and waits.until >= office.now() else ""
    news = tuple(KindOfNews(name, say(title), ways_of(name), person.news.get(name, "mail")) for name, title in NEWS.items())
    return Contact(person.mobile, asked, person.code_by_text, news)


def number_of(text: str) -> str:
    """A number for text messages as it is kept: digits, perhaps after a plus. Raises Invalid."""
    kept = "".join(c for c in text if c not in " -()/")
    digits = kept.removeprefix("+")
    if not digits.isascii() or not digits.isdigit() or not FEWEST_DIGITS <= len(digits) <= MOST_DIGITS:
        raise Invalid(say("Write the number in digits, as in 0300 55 12."), "number")
    return kept


def ask_number(office: Office, who: Who, number: str) -> Contact:
    """Send a code to a number; the number is kept once the code came back. Raises Invalid, TooOften."""
    kept = number_of(number)
    with write_session(office.engine) as session:
        _send(office, session, who.signs, "number", kept)
    deliver_soon(office)
    return contact(office, who)


def confirm_number(office: Office, who: Who, code: str) -> Contact:
    """Keep the number to which the code was sent. Raises Invalid."""
    with write_session(office.engine) as session:
        right = _is_right(office, session, who.signs, "number", code)
        if right is not None:
            session.get_one(Person, who.signs).mobile = right
    if right is None:
        raise _wrong()
    return contact(office, who)


def forget_number(office: Office, who: Who) -> Contact:
    """Forget the number: everything goes by mail again, and no code is asked for at signing in."""
    with write_session(office.engine) as session:
        person = session.get_one(Person, who.signs)
        person.mobile, person.code_by_text = "", False
        session.execute(delete(TextCode).where(TextCode.person_id == who.signs))
    return contact(office, who)


def keep_contact(office: Office, who: Who, news: Mapping[str, str], code_by_text: bool) -> Contact:
    """Choose by which way each kind of news comes, and whether a code is asked for at signing in. Raises Invalid, NotReady without a number."""
    if fault := fault_of_news(news):
        raise Invalid(say("This cannot be chosen here."), f"news.{fault[:40]}")
    with write_session(office.engine) as session:
        person = session.get_one(Person, who.signs)
        if not person.mobile and (code_by_text or any(way != "mail" for way in news.values())):
            raise NotReady(say("Tell us a number for text messages first."), "number")
        person.news, person.code_by_text = dict(news), code_by_text
    return contact(office, who)


def ask_code(office: Office, who: Who, purpose: Purpose = "file") -> str:
    """Send a code to the known number; returns its last digits. Raises NotReady without a number, TooOften."""
    with write_session(office.engine) as session:
        person = session.get_one(Person, who.signs)
        if not person.mobile:
            raise NotReady(say("Tell us a number for text messages first: it stands in your account."), "number")
        _send(office, session, who.signs, purpose, person.mobile)
    deliver_soon(office)
    return person.mobile[-2:]


def need_code(office: Office, who: Who, purpose: Purpose, code: str) -> None:
    """Raise Invalid unless this is the code that was sent by text for this purpose; it works once."""
    with write_session(office.engine) as session:
        right = _is_right(office, session, who.signs, purpose, code)
    if right is None:
        raise _wrong()


def _send(office: Office, session: Session, person_id: str, purpose: Purpose, number: str) -> None:
    try_once(office, session, "text", person_id)
    row = session.get(TextCode, (person_id, purpose)) or TextCode(person_id=person_id, purpose=purpose)
    row.number = number
    code, row.until = new_code(office, row, f"{person_id} {purpose}")
    session.add(row)
    text = say(
        "{office}: your code is {code}. It works for 30 minutes. Tell it to nobody.", office=office.settings.name, code=code
    )
    put_out_text(session, f"text-{new_id()}", number, text, office.now(), secret_until=row.until)


def _is_right(office: Office, session: Session, person_id: str, purpose: Purpose, code: str) -> str | None:
    """The number to which the code was sent, if it is right; the code has then done its work."""
    row = session.get(TextCode, (person_id, purpose))
    if row is None or not is_right(row, row.until, f"{person_id} {purpose}", code, office.now()):
        return None
    session.delete(row)
    return row.number


def _wrong() -> Invalid:
    return Invalid(say("This code is not right, or too old. Look at the newest message, or ask for a new code."), "code")
