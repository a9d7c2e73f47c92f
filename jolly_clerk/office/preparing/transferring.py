"""A draft transferred to somebody else: offered to a mail address, accepted or declined by whoever is known to have it.

Until it is accepted nothing changes: the owner works on and can take the offer back.
"""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import Select, select, update
from sqlalchemy.orm import Session

from jolly_clerk.core.dossier.changing import transferred
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.say import say
from jolly_clerk.office.errors import Invalid, NotFound, NotReady
from jolly_clerk.office.events import draft_changed
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.office.people.accounts import mail_of, need_confirmed
from jolly_clerk.office.people.directory import names_in
from jolly_clerk.office.people.slowing import try_once
from jolly_clerk.office.post.mailing import deliver_soon, put_out_mail, tell
from jolly_clerk.office.preparing.access import mail_known, need_account, own_draft
from jolly_clerk.office.preparing.drafts import OpenDraft, open_draft
from jolly_clerk.office.preparing.revisions import forget_changes, note_other_change
from jolly_clerk.office.rules.rulebooks import kind_titles
from jolly_clerk.store.beside import IssuerAsked
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import Draft, Person


@dataclass(frozen=True, slots=True)
class Offered:
    """A draft that is offered to somebody: what it is, and from whom. What stands in it is seen once it is accepted."""

    id: str
    kind_title: str
    own_reference: str
    owner: str


def offer(office: Office, who: Who, draft_id: str, mail: str) -> OpenDraft:
    """Offer a draft to the person with this address, who is told by mail; an offer before it is over.

    Raises Invalid for what is no address or one's own, NotReady for answers to a letter, TooOften.
    """
    need_confirmed(who)
    address, titles = mail_of(mail), kind_titles(office)
    with write_session(office.engine) as session:
        draft = own_draft(session, who, draft_id)
        if draft.case_id is not None:
            raise NotReady(say("These are answers in a case; they stay with whoever filed it."))
        owner = session.get_one(Person, who.id)
        if address == owner.mail:
            raise Invalid(say("This address is your own."), "mail")
        try_once(office, session, "offer", who.id)
        _offered(office, session, draft, address)
        text = say(
            "{name} wants to transfer a filing to you that is being prepared: {title}.\n\nSign in with this address and accept it"
            " under “Offered to you”, or decline it there:\n\n{base_url}/cases\n\nIf you do not know why, do nothing.",
            name=who.name, title=titles.get(draft.kind, draft.kind), base_url=office.settings.base_url,
        )  # fmt: skip
        put_out_mail(session, f"offer-{new_id()}", address, say("A filing is offered to you"), text, office.now())
    deliver_soon(office)
    return open_draft(office, who, draft_id)


def take_back(office: Office, who: Who, draft_id: str) -> OpenDraft:
    """Take the offer of a draft back."""
    with write_session(office.engine) as session:
        _offered(office, session, own_draft(session, who, draft_id), "")
    return open_draft(office, who, draft_id)


def offered(office: Office, who: Who) -> list[Offered]:
    """The drafts that are offered to somebody, if the address is known to be theirs."""
    titles = kind_titles(office)
    with read_session(office.engine) as session:
        mail = mail_known(session, who)
        waiting = list(session.scalars(_waiting(mail).order_by(Draft.kept_at.desc()))) if mail else []
        names = names_in(session, {d.owner_id for d in waiting})
    return [Offered(d.id, titles.get(d.kind, d.kind), d.own_reference, names.get(d.owner_id, "")) for d in waiting]


def accept(office: Office, who: Who, draft_id: str) -> OpenDraft:
    """Take a draft over that is offered to oneself. Promises and signature are given anew. Raises NotFound."""
    need_confirmed(who)
    need_account(who)
    titles = kind_titles(office)
    with write_session(office.engine) as session:
        draft = _offered_to(session, who, draft_id)
        before = draft.owner_id
        draft.dossier = transferred(Dossier.model_validate(draft.dossier)).model_dump(mode="json")
        draft.owner_id, draft.folder, draft.writers = who.id, "", {}
        session.execute(update(IssuerAsked).where(IssuerAsked.draft_id == draft.id).values(by_id=who.id))
        forget_changes(session, draft.id)
        _offered(office, session, draft, "")
        told = titles.get(draft.kind, draft.kind)
        _tell_owner(office, session, before, draft, told, say("{name} has accepted the filing that you offered.", name=who.name))
    deliver_soon(office)
    return open_draft(office, who, draft_id)


def decline(office: Office, who: Who, draft_id: str) -> None:
    """Decline a draft that is offered to oneself; it stays where it is. Raises NotFound."""
    titles = kind_titles(office)
    with write_session(office.engine) as session:
        draft = _offered_to(session, who, draft_id)
        _offered(office, session, draft, "")
        told = titles.get(draft.kind, draft.kind)
        _tell_owner(
            office, session, draft.owner_id, draft, told, say("{name} has declined the filing that you offered.", name=who.name)
        )
    deliver_soon(office)


def _waiting(mail: str) -> Select[Draft]:
    return select(Draft).where(Draft.offered_to == mail, Draft.thrown_away_at.is_(None), Draft.case_id.is_(None))


def _offered_to(session: Session, who: Who, draft_id: str) -> Draft:
    mail = mail_known(session, who)
    draft = session.scalars(_waiting(mail).where(Draft.id == draft_id)).first() if mail else None
    if draft is None:
        raise NotFound(say("This is not offered to you any more."))
    return draft


def _offered(office: Office, session: Session, draft: Draft, address: str) -> None:
    draft.offered_to = address
    note_other_change(office, session, draft, draft.owner_id)


def _tell_owner(office: Office, session: Session, owner: str, draft: Draft, title: str, text: str) -> None:
    person = session.get_one(Person, owner)
    draft_changed(office, session, draft.id, draft.revision, owner)
    tell(session, person, f"offer-{new_id()}", say("Your filing: {title}", title=title), text, office.now())
