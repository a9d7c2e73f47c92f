"""What an applicant's account says of the person; filings begin with it."""

from __future__ import annotations

from dataclasses import dataclass

from jolly_clerk.core.say import say
from jolly_clerk.office.errors import Invalid, NotFound
from jolly_clerk.office.office import Office, Who
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import Person

MOST_ADDRESS, MOST_TELEPHONE = 300, 40


@dataclass(frozen=True, slots=True)
class Profile:
    """The person as filings begin with; empty where nothing is told."""

    name: str
    mail: str
    address: str
    telephone: str


def profile(office: Office, person_id: str) -> Profile:
    """The profile of a person."""
    with read_session(office.engine) as session:
        found = session.get(Person, person_id)
    if found is None:
        raise NotFound(say("There is no such person."))
    return Profile(found.name, found.mail, found.address, found.telephone)


def keep_profile(office: Office, who: Who, address: str, telephone: str) -> Profile:
    """Put a new address and telephone number into the own profile; filings begun before stay as they are."""
    address, telephone = " ".join(address.split()), " ".join(telephone.split())
    if len(address) > MOST_ADDRESS:
        raise Invalid(say("At most {most_address} characters fit here.", most_address=MOST_ADDRESS), "address")
    if len(telephone) > MOST_TELEPHONE or not set(telephone) <= set("0123456789 +-()/"):
        raise Invalid(say("Write the number in digits, as in 0300 55 12."), "telephone")
    with write_session(office.engine) as session:
        own = session.get(Person, who.id)
        if own is None:
            raise NotFound(say("There is no such person."))
        own.address, own.telephone = address, telephone
    return profile(office, who.id)
