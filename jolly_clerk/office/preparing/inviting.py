"""Others invited to work in a filing or in the case that it became: asked, changed, ended, each use seen by whoever invited them.

An invitation is to a mail address and works for the account that is known to have it. Nobody else finds the filing.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import Select, func, or_, select
from sqlalchemy.orm import Session

from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.say import say
from jolly_clerk.core.sharing import RIGHTS, SAID, Access, Right
from jolly_clerk.office.cases.seeing import note_use
from jolly_clerk.office.errors import Invalid, NotFound, TooLarge
from jolly_clerk.office.lifetimes import ASKED_AGAIN, MOST_ASKED, ONCE, before
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.office.people.accounts import mail_of, name_of, need_confirmed
from jolly_clerk.office.people.directory import names_in
from jolly_clerk.office.people.guests import new_link
from jolly_clerk.office.people.slowing import try_once
from jolly_clerk.office.post.mailing import deliver_soon, put_out_mail
from jolly_clerk.office.preparing.access import belongs_to, known_people, mail_known, own_thing, rules_of
from jolly_clerk.office.preparing.revisions import note_other_change
from jolly_clerk.office.rules.rulebooks import kind_titles
from jolly_clerk.store.beside import Invitation
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import Case, Draft, Person

MOST_INVITED = 20


@dataclass(frozen=True, slots=True)
class Use:
    """Something that an invited person did: in words, when last, how often."""

    said: str
    last_at: datetime
    count: int


@dataclass(frozen=True, slots=True)
class Invited:
    """An invitation as whoever made it sees it. ``said`` are its rights in words; ``joined`` tells that the address has an account."""

    id: str
    mail: str
    name: str
    rights: tuple[Right, ...]
    parts: tuple[str, ...]
    said: str
    joined: bool
    made_at: datetime
    uses: tuple[Use, ...]


@dataclass(frozen=True, slots=True)
class InvitedTo:
    """A filing or a case to which one was invited: ``draft`` or ``reference`` is where it is found."""

    id: str
    draft: str
    reference: str
    kind_title: str
    title: str
    owner: str
    rights: tuple[Right, ...]
    said: str


def rights_of(text: Sequence[str]) -> tuple[Right, ...]:
    """Rights by their names, in their order; looking is always one. Invalid for a name that is none."""
    if unknown := set(text) - set(RIGHTS):
        raise Invalid(say("There is no right of this name: {name}.", name=min(unknown)[:20]), "rights")
    return tuple(right for right in RIGHTS if right == "look" or right in text)


def invite(
    office: Office, who: Who, of: str, mail: str, name: str, rights: Sequence[str], parts: Sequence[str] = ()
) -> list[Invited]:
    """Invite somebody by mail to a draft (its id) or a case (its reference) of one's own; whoever was invited before gets other rights.

    Raises Invalid for what is no address, one's own, a right or a part that there is none of; TooLarge, TooOften.
    """
    need_confirmed(who)
    address, called, allowed = mail_of(mail), name_of(name), rights_of(rights)
    with read_session(office.engine) as session:
        _need_parts(rules_of(office, session, own_thing(session, who, of)), parts)
    titles = kind_titles(office)
    with write_session(office.engine) as session:
        thing = own_thing(session, who, of)
        if address == session.get_one(Person, who.id).mail:
            raise Invalid(say("This address is your own."), "mail")
        try_once(office, session, "invite", who.id)
        row = session.scalars(_open(thing).where(Invitation.mail == address)).first()
        if row is None:
            if (session.scalar(select(func.count()).select_from(_open(thing).subquery())) or 0) >= MOST_INVITED:
                raise TooLarge(say("{most} people were invited already; end an invitation first.", most=MOST_INVITED))
            case_id = thing.case_id if isinstance(thing, Draft) else thing.id
            draft_id = thing.id if isinstance(thing, Draft) else ""
            row = Invitation(id=new_id(), draft_id=draft_id, case_id=case_id, by_id=who.id, mail=address, used={})
            row.made_at = office.now()
            session.add(row)
        row.name, row.rights, row.parts = called, list(allowed), list(parts)
        _tell(office, session, who.name, row, titles.get(thing.kind, thing.kind))
        session.flush()
        _touch(office, session, thing, who.id)
    deliver_soon(office)
    return invitations(office, who, of)


def invitations(office: Office, who: Who, of: str) -> list[Invited]:
    """Who was invited to a draft or a case of one's own, and what each did with it."""
    with read_session(office.engine) as session:
        thing = own_thing(session, who, of)
        rules = rules_of(office, session, thing)
        rows = list(session.scalars(_open(thing).order_by(Invitation.made_at, Invitation.id)))
        joined = set(session.scalars(known_people([row.mail for row in rows]).with_only_columns(Person.mail)))
    return [_seen(row, rules, row.mail in joined) for row in rows]


def end(office: Office, who: Who, invitation: str) -> None:
    """End an invitation: whoever made it, or whoever was invited, who then leaves. Raises NotFound."""
    with write_session(office.engine) as session:
        row = session.get(Invitation, invitation)
        if row is None or row.ended_at is not None or (who.id != row.by_id and mail_known(session, who) != row.mail):
            raise NotFound(say("There is no such invitation any more."))
        here = or_(Draft.id == row.draft_id, Draft.case_id == row.case_id) if row.case_id else Draft.id == row.draft_id
        for draft in list(
            session.scalars(select(Draft).where(here))
        ):  # whoever was invited is told as well, while it still is so
            _touch(office, session, draft, who.id)
        row.ended_at = office.now()


def invited_to(office: Office, who: Who) -> list[InvitedTo]:
    """The filings and cases to which one was invited, the newest invitation first."""
    titles = kind_titles(office)
    with read_session(office.engine) as session:
        mail = mail_known(session, who)
        if not mail:
            return []
        wanted = select(Invitation).where(Invitation.mail == mail, Invitation.ended_at.is_(None))
        rows = list(session.scalars(wanted.order_by(Invitation.made_at.desc()).limit(200)))
        found = list[InvitedTo]()
        names = names_in(session, {row.by_id for row in rows})
        for row in rows:
            draft = session.get(Draft, row.draft_id) if row.draft_id else None
            case = session.get(Case, row.case_id) if row.case_id else None
            thing = draft or case
            if thing is None or (draft and draft.thrown_away_at) or (case and case.erased_at):
                continue
            found.append(
                InvitedTo(
                    id=row.id,
                    draft=draft.id if draft else "",
                    reference=case.reference if case else "",
                    kind_title=titles.get(thing.kind, thing.kind),
                    title=case.title if case else "",
                    owner=names.get(row.by_id, ""),
                    rights=tuple(row.rights),
                    said=_rights_said(row.rights, ()),
                )
            )
    return found


def note_look(office: Office, access: Access) -> None:
    """Note that somebody who was invited looked, at most once a minute."""
    if not access.invitation:
        return
    with read_session(office.engine) as session:
        last = session.get_one(Invitation, access.invitation).used.get("look ")
    if last is None or datetime.fromisoformat(last[1]) < before(office.now(), ONCE):
        with write_session(office.engine) as session:
            note_use(session, access, "look ", office.now())


def _open(thing: Draft | Case) -> Select[Invitation]:
    here = belongs_to(thing) if isinstance(thing, Draft) else Invitation.case_id == thing.id
    return select(Invitation).where(here, Invitation.ended_at.is_(None))


def _need_parts(rules: Rulebook, parts: Sequence[str]) -> None:
    if unknown := set(parts) - {part.id for part in rules.edition.parts}:
        raise Invalid(say("The form has no such part: {name}.", name=min(unknown)[:20]), "parts")


def _rights_said(rights: Sequence[Right], parts: Sequence[str]) -> str:
    said = [say(SAID[right]) for right in RIGHTS if right in rights]
    if parts and "fill" in rights:
        said[said.index(say(SAID["fill"]))] = say("fill in “{parts}”", parts=", ".join(parts))
    return ", ".join(said)


def _seen(row: Invitation, rules: Rulebook, joined: bool) -> Invited:
    titles = {part.id: part.title for part in rules.edition.parts}
    uses = [Use(_use_said(what, titles), datetime.fromisoformat(last), count) for what, (_, last, count) in row.used.items()]
    return Invited(
        id=row.id,
        mail=row.mail,
        name=row.name,
        rights=tuple(row.rights),
        parts=tuple(row.parts),
        said=_rights_said(row.rights, [titles.get(p, p) for p in row.parts]),
        joined=joined,
        made_at=row.made_at,
        uses=tuple(sorted(uses, key=lambda use: use.last_at, reverse=True)),
    )


def _use_said(what: str, titles: dict[str, str]) -> str:
    right, _, part = what.partition(" ")
    if right == "fill":
        return say("filled in “{part}”", part=titles.get(part, part))
    return {
        "attach": say("changed the files"),
        "sign": say("signed or declared"),
        "pay": say("went to pay"),
        "answer": say("sent answers"),
    }.get(right, say("looked at it"))


def _tell(office: Office, session: Session, name: str, row: Invitation, title: str) -> None:
    text = say(
        "{name} invites you to a filing: {title}.\n\nYou may: {rights}.\n\nOpen this link; it works for 30 days:\n\n{link}"
        "\n\nIf you do not know why, do nothing.",
        name=name, title=title, rights=_rights_said(row.rights, ()), link=new_link(office, row),
    )  # fmt: skip
    _mail(office, session, row, say("You were invited to a filing"), text)


def _mail(office: Office, session: Session, row: Invitation, subject: str, text: str) -> None:
    put_out_mail(session, f"invite-{new_id()}", row.mail, subject, text, office.now(), secret_until=row.link_until)


def remind_signers(office: Office) -> int:
    """Ask those once more, some times, who were invited to sign a filing that is not signed; returns how many."""
    titles, now = kind_titles(office), office.now()
    waits = or_(Invitation.reminded_at.is_(None), Invitation.reminded_at < before(now, ASKED_AGAIN))
    wanted = select(Invitation, Draft).join(Draft, Draft.id == Invitation.draft_id)
    wanted = wanted.where(Invitation.ended_at.is_(None), Invitation.reminded < MOST_ASKED, Draft.thrown_away_at.is_(None))
    count = 0
    with write_session(office.engine) as session:
        for row, draft in session.execute(wanted.where(Invitation.made_at < before(now, ASKED_AGAIN), waits).limit(200)).all():
            if "sign" not in row.rights or draft.dossier.get("signature"):
                continue
            owner = names_in(session, {row.by_id}).get(row.by_id, "")
            text = say(
                "{name} still waits for your signature: {title}.\n\nOpen this link; it works for 30 days:\n\n{link}",
                name=owner, title=titles.get(draft.kind, draft.kind), link=new_link(office, row),
            )  # fmt: skip
            _mail(office, session, row, say("Your signature is still wanted"), text)
            row.reminded, row.reminded_at = row.reminded + 1, now
            count += 1
    return count


def _touch(office: Office, session: Session, thing: Draft | Case, who_id: str) -> None:
    """Open pages of all who may see a draft look again."""
    if isinstance(thing, Draft):
        note_other_change(office, session, thing, who_id)
