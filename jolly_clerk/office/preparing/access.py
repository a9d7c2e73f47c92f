"""Who may do what in a draft: its owner everything, whoever was invited what the invitation says."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace
from datetime import datetime

from sqlalchemy import ColumnElement, Select, and_, or_, select
from sqlalchemy.orm import Session

from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.mandates import access_by_mandates
from jolly_clerk.core.roles import APPLICANTS
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.say import say
from jolly_clerk.core.sharing import (
    AT_COUNTER,
    IN_A_CASE,
    IN_ANSWERS,
    OWNER,
    Access,
    Needed,
    Right,
    Writing,
    held,
    needed_by,
    refused,
    writing,
)
from jolly_clerk.office.cases.seeing import access_by, address_of, find_case, visible
from jolly_clerk.office.errors import NotAllowed, NotFound, NotReady
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.directory import names_in
from jolly_clerk.office.rules.rulebooks import edition_on, office_calendar, rulebook
from jolly_clerk.store.beside import EndedDraft, Invitation, MandateGiven
from jolly_clerk.store.counter import CounterFiling
from jolly_clerk.store.tables import Case, Draft, Person


def own_draft(session: Session, who: Who, draft_id: str) -> Draft:
    """A draft of one's own; NotFound for any other, NotAllowed for one to which one was only invited."""
    draft, access = shared_draft(session, who, draft_id)
    need_owner(access)
    return draft


def own_thing(session: Session, who: Who, of: str) -> Draft | Case:
    """A draft (by its id) or a case (by its reference) of one's own. Raises NotFound, NotAllowed for one to which one was only invited."""
    if "-" not in of:
        return own_draft(session, who, of)
    case = find_case(session, who, of)
    if case.applicant_id != who.id:
        raise NotAllowed(say("This is for whoever applied."))
    return case


def rules_of(office: Office, session: Session, thing: Draft | Case) -> Rulebook:
    """The rules under which a case stands, or a draft would be filed today."""
    if isinstance(thing, Case):
        return rulebook(office, thing.edition_sha256)
    calendar = office_calendar(office, session)
    return rulebook(office, edition_on(office, thing.kind, calendar.local_day(office.now()), session))


def need_account(who: Who) -> None:
    """Raise NotAllowed for somebody who came by an invitation and has no password yet."""
    if who.guest:
        raise NotAllowed(
            say("You came by an invitation. Set a password on your page first; then you have an account of your own.")
        )


def need_owner(access: Access) -> None:
    """Raise NotAllowed unless the draft is one's own."""
    if not access.owner:
        raise NotAllowed(say("This is for whoever prepares this filing."))


def shared_draft(session: Session, who: Who, draft_id: str) -> tuple[Draft, Access]:
    """A draft of one's own or one to which one was invited, and what one may do in it; NotFound for any other."""
    draft = session.get(Draft, draft_id)
    if who.may.moves != "applicant":
        recorded = session.get(CounterFiling, draft_id)
        if who.is_officer and recorded is not None and draft is not None and not draft.thrown_away_at:
            return draft, AT_COUNTER
        raise NotFound(say("There is no such draft of yours."))
    if draft is not None and not draft.thrown_away_at:
        if draft.owner_id == who.id:
            return draft, OWNER
        if acting := access_by_mandates(who.mandates, draft.owner_id, draft.kind, draft.case_id or ""):
            return draft, _in_draft(draft, acting)
        if (mail := mail_known(session, who)) and (invited := session.scalars(_invites(draft, mail)).first()):
            return draft, _in_draft(draft, access_by(who, invited))
    mine = or_(EndedDraft.owner_id == who.id, *visible(who))
    wanted = select(Case.reference).join(EndedDraft).where(EndedDraft.draft_id == draft_id, mine)
    if draft is None and (reference := session.scalar(wanted)):
        raise NotFound(say("This was filed or sent: it is {reference} now.", reference=reference), reference=reference)
    raise NotFound(say("There is no such draft of yours."))


def _invites(draft: Draft, mail: str) -> Select[Invitation]:
    return select(Invitation).where(belongs_to(draft), Invitation.mail == mail, Invitation.ended_at.is_(None))


def _in_draft(draft: Draft, access: Access) -> Access:
    """Whoever may answer letters may do all that an answer needs, and nothing by it in a filing that is none yet."""
    if draft.case_id is None:
        return replace(access, rights=tuple(right for right in access.rights if right not in IN_A_CASE))
    if not access.may("answer"):
        return access
    return replace(access, rights=tuple(dict.fromkeys((*access.rights, *IN_ANSWERS))), parts=())


def belongs_to(draft: Draft) -> ColumnElement[bool]:
    """True for the invitations to a draft, or to the case that it answers."""
    here = Invitation.draft_id == draft.id
    return or_(here, Invitation.case_id == draft.case_id) if draft.case_id else here


def mail_known(session: Session, who: Who) -> str:
    """The address of an applicant that is known to be theirs; nothing without."""
    return session.scalar(address_of(who)) or ""


def need_right(access: Access, right: Right, place: str = "") -> None:
    """Raise NotAllowed unless somebody may do this."""
    if why := refused(access, [Needed(right, place)]):
        raise NotAllowed(why.text, place)


def need_may_attach(session: Session, who: Who, draft_id: str) -> None:
    """Raise NotAllowed unless somebody may put files into a draft, or into its pile; NotFound."""
    need_right(shared_draft(session, who, draft_id)[1], "attach", "documents")


def need_may_change(
    office: Office, session: Session, who: Who, draft: Draft, access: Access, before: Dossier, after: Dossier
) -> None:
    """Raise NotAllowed if a change is not this person's to make, NotReady if somebody else is writing there."""
    needs = list(needed_by(before, after))
    if why := refused(access, needs):
        raise NotAllowed(why.text, why.place.ref if why.place else "")
    need_free(office, session, who, draft, [need.place for need in needs if need.right == "fill"])


def need_free(office: Office, session: Session, who: Who, draft: Draft, places: Sequence[str]) -> None:
    """Raise NotReady, with the place and the name, if somebody else is writing a part in which one of these places lies."""
    if places and (found := held(places, being_written(office, who, draft))):
        place, by = found
        name = names_in(session, {by.who}).get(by.who, "")
        said = say(
            "{name} is writing this part. What you typed is still here and is kept as soon as {name} has paused for two minutes.",
            name=name,
        )
        raise NotReady(said, place)


def being_written(office: Office, who: Who, draft: Draft) -> dict[str, Writing]:
    """The parts of a draft that others are writing just now, by part."""
    last = {part: (by, datetime.fromisoformat(at)) for part, (by, at) in draft.writers.items()}
    return writing(last, who.signs, office.now())


def note_writer(draft: Draft, who: Who, parts: Iterable[str], at: datetime) -> None:
    """Note, in the caller's write, that somebody wrote in these parts."""
    draft.writers = {**draft.writers, **{part: (who.signs, at.isoformat()) for part in parts}}


def people_of(session: Session, draft: Draft) -> list[str]:
    """The ids of all who may see a draft: its owner, and the accounts of those who were invited."""
    mails = list(session.scalars(select(Invitation.mail).where(belongs_to(draft), Invitation.ended_at.is_(None))))
    acting = MandateGiven.accepted_at.is_not(None), MandateGiven.ended_at.is_(None)
    mails += session.scalars(select(MandateGiven.mail).where(MandateGiven.owner_id == draft.owner_id, *acting))
    return list(dict.fromkeys([draft.owner_id, *session.scalars(known_people(mails))])) if mails else [draft.owner_id]


def known_people(mails: Sequence[str]) -> Select[str]:
    """The ids of the applicants whose addresses these are known to be, as a query."""
    known = and_(Person.confirmed, Person.left_at.is_(None), Person.role.in_(APPLICANTS))
    return select(Person.id).where(Person.mail.in_(mails), known)
