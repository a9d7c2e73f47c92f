"""What an applicant's account says of the person; filings begin with it."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from datetime import date
from typing import Final

from jolly_clerk.core.say import say
from jolly_clerk.office.errors import Invalid, NotFound
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.rules.rulebooks import office_calendar
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import Person

MOST_ADDRESS, MOST_TELEPHONE, MOST_FIRM = 300, 40, 120
#: the languages in which one may answer, and how letters may come, by the ids that the rulebooks use
LANGUAGES: Final = ("en", "pt", "fr")
LETTERS: Final = ("mail", "print")


@dataclass(frozen=True, slots=True)
class Profile:
    """The person as filings begin with; empty where nothing is told. ``born`` is ``YYYY-MM-DD``; ``called`` is the firm or, without one,
    the name."""

    name: str
    mail: str
    address: str
    telephone: str
    born: str = ""
    firm: str = ""
    language: str = ""
    letters: str = ""
    called: str = field(init=False, default="")

    def __post_init__(self) -> None:
        object.__setattr__(self, "called", self.firm or self.name)


@dataclass(frozen=True, slots=True)
class Kept:
    """What is kept of a profile beside name and mail."""

    address: str = ""
    telephone: str = ""
    born: date | None = None
    firm: str = ""
    language: str = ""
    letters: str = ""


def profile(office: Office, person_id: str) -> Profile:
    """The profile of a person."""
    with read_session(office.engine) as session:
        found = session.get(Person, person_id)
    if found is None:
        raise NotFound(say("There is no such person."))
    born = found.born.isoformat() if found.born else ""
    beside = born, found.firm, found.language, found.letters
    return Profile(found.name, found.mail, found.address, found.telephone, *beside)


def keep_profile(office: Office, who: Who, told: Kept) -> Profile:
    """Put something else into the own profile; filings begun before stay as they are. Raises Invalid, with the field."""
    address, telephone, firm = (" ".join(text.split()) for text in (told.address, told.telephone, told.firm))
    told = replace(told, address=address, telephone=telephone, firm=firm)
    if len(told.address) > MOST_ADDRESS:
        raise Invalid(say("At most {most_address} characters fit here.", most_address=MOST_ADDRESS), "address")
    if len(told.firm) > MOST_FIRM:
        raise Invalid(say("At most {most_address} characters fit here.", most_address=MOST_FIRM), "firm")
    if len(told.telephone) > MOST_TELEPHONE or not set(told.telephone) <= set("0123456789 +-()/"):
        raise Invalid(say("Write the number in digits, as in 0300 55 12."), "telephone")
    if told.born and told.born > office_calendar(office).local_day(office.now()):
        raise Invalid(say("This day is not over yet."), "born")
    if told.language not in ("", *LANGUAGES):
        raise Invalid(say("The office does not read this language."), "language")
    if told.letters not in ("", *LETTERS):
        raise Invalid(say("Letters do not come in this way."), "letters")
    with write_session(office.engine) as session:
        own = session.get(Person, who.id)
        if own is None:
            raise NotFound(say("There is no such person."))
        own.address, own.telephone, own.firm = told.address, told.telephone, told.firm
        own.born, own.language, own.letters = told.born, told.language, told.letters
    return profile(office, who.id)
