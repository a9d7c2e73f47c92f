"""Which cases a person may see, and what somebody who was invited to one may do in it."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from functools import cache

from sqlalchemy import ColumnElement, Select, and_, bindparam, exists, or_, select
from sqlalchemy.orm import Session

from jolly_clerk.core.dossier.model import Attachment
from jolly_clerk.core.mandates import Mandate, access_by_mandates
from jolly_clerk.core.roles import APPLICANTS
from jolly_clerk.core.say import say
from jolly_clerk.core.sharing import OWNER, Access
from jolly_clerk.office.errors import NotAllowed, NotFound
from jolly_clerk.office.office import Who
from jolly_clerk.store.beside import Invitation
from jolly_clerk.store.permits import HeldPermit
from jolly_clerk.store.tables import Case, Person


def visible(who: Who) -> list[ColumnElement[bool]]:
    """Which cases a person may see, as conditions: the own ones and those to which one was invited, or those of the office."""
    if not who.sees_all:
        return [or_(Case.applicant_id == who.id, Case.id.in_(invited_cases(who)), *(covered_cases(m) for m in who.mandates))]
    return visible_in_office(who.may.moves == "reviewer", who.kinds)


def visible_in_office(reviewer: bool, kinds: Sequence[str]) -> list[ColumnElement[bool]]:
    """Which cases somebody of the office may see: a reviewer what was handed over, and whoever is limited to some kinds only those."""
    handed: list[ColumnElement[bool]] = [Case.reviewer_id.is_not(None)] if reviewer else []
    return [*handed, Case.kind.in_(kinds)] if kinds else handed


@cache
def _called(reviewer: bool, kinds: tuple[str, ...]) -> Select[Case]:
    """The case of a reference, for whoever of the office sees these kinds."""
    return select(Case).where(Case.reference == bindparam("reference"), *visible_in_office(reviewer, kinds))


def find_case(session: Session, who: Who, reference: str) -> Case:
    """The case of that reference, if this person may see it; NotFound otherwise, so that nothing is given away."""
    if who.sees_all:
        wanted = _called(who.may.moves == "reviewer", who.kinds)
    else:
        wanted = select(Case).where(Case.reference == bindparam("reference"), *visible(who))
    case = session.scalars(wanted, {"reference": reference}).first()
    if case is None:
        raise NotFound(say("There is no case {reference} that you may see.", reference=reference[:20]))
    if case.kept:
        raise NotFound(say("{reference} came from elsewhere and is kept as it came.", reference=case.reference))
    if case.erased_at is not None:
        raise NotFound(
            say("{reference} was erased. Its amounts and receipts are kept, and nothing personal.", reference=case.reference)
        )
    return case


def held_by(person_id: str) -> ColumnElement[bool]:
    """The cases whose permit this person holds, as a condition: of the own ones those that nobody else accepted, and those accepted."""
    others = exists().where(HeldPermit.case_id == Case.id, HeldPermit.holder_id.is_not(None))
    accepted = exists().where(HeldPermit.case_id == Case.id, HeldPermit.holder_id == person_id)
    return or_(and_(Case.applicant_id == person_id, ~others), accepted)


def covered_cases(mandate: Mandate) -> ColumnElement[bool]:
    """Which cases a mandate covers, as a condition."""
    wanted = [Case.applicant_id == mandate.owner]
    if mandate.kinds:
        wanted.append(Case.kind.in_(mandate.kinds))
    if mandate.cases:
        wanted.append(Case.id.in_(mandate.cases))
    return and_(*wanted)


def address_of(who: Who) -> Select[str]:
    """The mail address of an applicant if it is known to be theirs, as a query."""
    return select(Person.mail).where(Person.id == who.id, Person.confirmed, Person.role.in_(APPLICANTS))


def invited_cases(who: Who) -> Select[str | None]:
    """The ids of the cases to which somebody was invited, as a query."""
    open_now = Invitation.ended_at.is_(None) & Invitation.case_id.is_not(None)
    return select(Invitation.case_id).where(Invitation.mail == address_of(who).scalar_subquery(), open_now)


def access_to(session: Session, who: Who, case: Case) -> Access:
    """What an applicant may do in a case: everything in the own one, else what a mandate or the invitation says."""
    if who.may.moves != "applicant" or case.applicant_id == who.id:
        return OWNER
    if acting := access_by_mandates(who.mandates, case.applicant_id, case.kind, case.id):
        return acting
    wanted = select(Invitation).where(Invitation.case_id == case.id, Invitation.ended_at.is_(None))
    invited = session.scalars(wanted.where(Invitation.mail == address_of(who).scalar_subquery())).first()
    return access_by(who, invited) if invited else Access(False, (), ())


def access_by(who: Who, invited: Invitation) -> Access:
    """What an invitation allows to whoever it is for."""
    access = Access(False, tuple(invited.rights), tuple(invited.parts), invited.id)
    return access.as_guest() if who.guest else access


def note_use(session: Session, access: Access, what: str, at: datetime) -> None:
    """Note, in the caller's write, what somebody who was invited did."""
    if not access.invitation:
        return
    row = session.get_one(Invitation, access.invitation)
    there: Sequence[object] = row.used.get(what) or (at.isoformat(), "", 0)
    row.used = {**row.used, what: [there[0], at.isoformat(), int(str(there[2])) + 1]}


def need_open(attachment: Attachment) -> None:
    """Raise NotAllowed for a file that went straight to the office and is sealed for whoever applied."""
    if attachment.sealed:
        raise NotAllowed(say("This went straight to the office. Whoever sent it did not allow you to look into it."))
