"""Who holds a permit: whoever applied, or whoever accepted it after it was transferred.

Once a transfer is recorded, the permit is offered to the mail address that the short filing named. The account that is known to have the
address accepts or declines it. Whoever holds it sees its page, files on it and is reminded of its days; what was filed for it by somebody
else stays theirs.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from jolly_clerk.core import history as h
from jolly_clerk.core.permit_entries import PermitTakenOver
from jolly_clerk.core.permit_steps import accepts_it
from jolly_clerk.core.say import say
from jolly_clerk.core.sharing import Access
from jolly_clerk.office.cases.casework import Loaded, act, by, load_case
from jolly_clerk.office.cases.endings import CLOCK
from jolly_clerk.office.errors import Invalid, NotFound
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.accounts import mail_of, need_confirmed
from jolly_clerk.office.post.mailing import deliver_soon, put_out_mail, tell
from jolly_clerk.office.preparing.access import mail_known, need_account
from jolly_clerk.office.rules.rulebooks import kind_titles
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.permits import HeldPermit
from jolly_clerk.store.tables import Case, Person

#: what whoever holds a permit may do in the case of it: nothing but with the permit
HOLDER = Access(False, ("answer",))


@dataclass(frozen=True, slots=True)
class PermitRow:
    """A permit as it stands in a list: the reference of its case, what kind it is and what it is called."""

    reference: str
    kind_title: str
    title: str


@dataclass(frozen=True, slots=True)
class PermitsOfMine:
    """The permits that are offered to somebody, and those of others that somebody accepted and holds."""

    offered: tuple[PermitRow, ...]
    held: tuple[PermitRow, ...]


def holder_of(loaded: Loaded) -> str:
    """The account that holds the permit of a case."""
    return loaded.so_far.permit.holder or loaded.case.applicant_id


def is_held_by(loaded: Loaded, who: Who) -> bool:
    """True for an applicant who holds the permit of a case, or may prepare filings for whoever applied while nobody else accepted it."""
    if who.may.moves != "applicant":
        return False
    if holder := loaded.so_far.permit.holder:
        return holder == who.id
    return loaded.access.owner or (bool(loaded.access.mandate) and loaded.access.may("fill"))


def load_permit(office: Office, who: Who, reference: str) -> Loaded:
    """The case of a permit for whoever may see the case, or holds the permit. Raises NotFound."""
    if who.may.moves == "applicant" and _accepted(office, who, reference):
        loaded = load_case(office, CLOCK, reference)
        if loaded.case.applicant_id != who.id:
            loaded.access = HOLDER
        return loaded
    return load_case(office, who, reference)


def _accepted(office: Office, who: Who, reference: str) -> bool:
    wanted = select(HeldPermit.case_id).join(Case, Case.id == HeldPermit.case_id)
    with read_session(office.engine) as session:
        return session.scalar(wanted.where(Case.reference == reference, HeldPermit.holder_id == who.id)) is not None


def offer_permit(office: Office, session: Session, permit: Case, step: Loaded) -> None:
    """Offer a permit, in the caller's write, to the address that the short filing named; nothing where it names none, or one to which no
    mail can go (it is told at filing, and may have been changed since by an answer)."""
    try:
        address = mail_of(accepts_it(step.assessment))
    except Invalid:
        return
    row = session.get(HeldPermit, permit.id)
    if row is None:
        row = HeldPermit(case_id=permit.id, step="", offered_to="", holder_id=None)
        session.add(row)
    row.step, row.offered_to = step.case.reference, address
    subject = say("{title} is transferred to you", title=permit.title)
    text = say(
        "{title} ({reference}) was transferred to you.\n\nSign in with this address and accept it under “Transferred to you”; from then on you"
        " file on it, and its days are told to you:\n\n{base_url}/cases\n\nIf you do not know why, do nothing.",
        title=permit.title, reference=permit.reference, base_url=office.settings.base_url,
    )  # fmt: skip
    put_out_mail(session, f"{step.case.reference}-offer", address, subject, text, office.now())


def permits_of(office: Office, who: Who) -> PermitsOfMine:
    """What is offered to somebody, if the address is known to be theirs, and what somebody accepted."""
    titles = kind_titles(office)
    there = select(Case).join(HeldPermit, HeldPermit.case_id == Case.id).where(Case.erased_at.is_(None)).order_by(Case.reference)
    with read_session(office.engine) as session:
        mail = mail_known(session, who)
        offered = list(session.scalars(there.where(HeldPermit.offered_to == mail))) if mail else []
        held = list(session.scalars(there.where(HeldPermit.holder_id == who.id, Case.applicant_id != who.id)))

    def rows(cases: Sequence[Case]) -> tuple[PermitRow, ...]:
        return tuple(PermitRow(c.reference, titles.get(c.kind, c.kind), c.title) for c in cases)

    return PermitsOfMine(rows(offered), rows(held))


def accept_permit(office: Office, who: Who, reference: str) -> None:
    """Accept a permit that is offered to oneself; one holds it from then on. Raises NotFound."""
    need_confirmed(who)
    need_account(who)
    with read_session(office.engine) as session:
        step = _offered(session, who, reference).step

    def take(session: Session, case: Case, made: Sequence[h.Entry]) -> Sequence[h.Entry]:
        row = _offered(session, who, reference)
        _tell_before(office, session, row, case, say("{name} has accepted it and holds it now.", name=who.name))
        row.offered_to, row.holder_id = "", who.id
        return made

    entry = PermitTakenOver(**by(office, who), reference=step)
    act(office, CLOCK, reference, "", lambda _: [entry], finish=take)
    deliver_soon(office)


def decline_permit(office: Office, who: Who, reference: str) -> None:
    """Decline a permit that is offered to oneself; whoever held it before holds it still. Raises NotFound."""
    with write_session(office.engine) as session:
        row = _offered(session, who, reference)
        case = session.get_one(Case, row.case_id)
        _tell_before(office, session, row, case, say("{name} has declined it. It stays with you.", name=who.name))
        row.offered_to = ""
    deliver_soon(office)


def _offered(session: Session, who: Who, reference: str) -> HeldPermit:
    """The permit of that reference that is offered to somebody. Raises NotFound."""
    mail = mail_known(session, who)
    wanted = select(HeldPermit).join(Case, Case.id == HeldPermit.case_id).where(Case.reference == reference)
    row = session.scalars(wanted.where(HeldPermit.offered_to == mail, Case.erased_at.is_(None))).first() if mail else None
    if row is None:
        raise NotFound(say("This is not offered to you any more."))
    return row


def _tell_before(office: Office, session: Session, row: HeldPermit, case: Case, text: str) -> None:
    """Tell whoever held a permit before what became of the offer."""
    person = session.get_one(Person, row.holder_id or case.applicant_id)
    subject = say("{title} ({reference})", title=case.title, reference=case.reference)
    tell(session, person, f"{row.step}-offer-answered", subject, text, office.now())
