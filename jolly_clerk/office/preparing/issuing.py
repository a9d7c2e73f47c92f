"""Issuers asked to send one document straight to the office: asked, reminded, taken back, and how it stands with each."""

from __future__ import annotations

import secrets
from dataclasses import dataclass
from datetime import date, datetime

from sqlalchemy import Select, func, or_, select
from sqlalchemy.orm import Session

from jolly_clerk.core.delivering import Asking, asking, no_day_to_send, wanted_on
from jolly_clerk.core.in_words import day
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.say import say
from jolly_clerk.core.states import LIVE, UNFILED
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.cases.seeing import find_case
from jolly_clerk.office.errors import Invalid, NotFound, NotReady, TooLarge
from jolly_clerk.office.lifetimes import ISSUER_AGAIN, ISSUER_LINK, MOST_ISSUER, after, before
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.office.people.accounts import mail_of, name_of, need_confirmed
from jolly_clerk.office.people.directory import hash_of, names_in
from jolly_clerk.office.people.slowing import try_once
from jolly_clerk.office.post.mailing import deliver_soon, put_out_mail
from jolly_clerk.office.preparing.access import own_thing, rules_of, shared_draft
from jolly_clerk.office.preparing.drafts import open_draft
from jolly_clerk.office.preparing.revisions import note_other_change
from jolly_clerk.office.rules.rulebooks import kind_titles, office_calendar
from jolly_clerk.store.beside import IssuerAsked
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import Case, Draft

MOST_ISSUERS = 60


@dataclass(frozen=True, slots=True)
class Asked:
    """What an issuer was asked for, as whoever may see it sees it. ``place`` is the slot, ``state`` how it stands, ``opened_at`` when the
    link was opened last, ``came_from`` who delivered."""

    id: str
    place: str
    title: str
    mail: str
    name: str
    words: str
    wanted_by: date
    made_at: datetime
    state: Asking
    opened: int
    opened_at: datetime | None
    reminded: int
    reminded_at: datetime | None
    came_at: datetime | None
    came_from: str


def ask(
    office: Office, who: Who, of: str, slot: str, mail: str, name: str, words: str = "", wanted: date | None = None
) -> list[Asked]:
    """Ask an issuer for one document of a draft (its id) or a case (its reference) of one's own: a one-time link goes to the address.

    Raises Invalid for a slot that there is none of, for what is no address, for a day that is over; TooLarge, TooOften, NotReady for a
    case that is at its end.
    """
    need_confirmed(who)
    address, called, words = mail_of(mail), name_of(name), words.strip()[:1000]
    rules, asks_for = _need_slot(office, who, of, slot)
    today = office_calendar(office).local_day(office.now())
    wanted = wanted or wanted_on(today)
    if why_not := no_day_to_send(wanted, today):
        raise Invalid(why_not, "wanted_by")
    titles = kind_titles(office)
    with write_session(office.engine) as session:
        thing = own_thing(session, who, of)
        try_once(office, session, "issuer", who.id)
        if (session.scalar(select(func.count()).select_from(_open(thing).subquery())) or 0) >= MOST_ISSUERS:
            raise TooLarge(say("{most} documents were asked for already; take one back first.", most=MOST_ISSUERS))
        case_id, draft_id = (thing.case_id, thing.id) if isinstance(thing, Draft) else (thing.id, "")
        row = IssuerAsked(id=new_id(), draft_id=draft_id, case_id=case_id, by_id=who.id, slot=slot, mail=address, name=called)
        row.words, row.wanted_by, row.made_at = words, wanted, office.now()
        session.add(row)
        _write_to(office, session, row, who.name, asks_for, titles.get(rules.edition.kind, rules.edition.kind))
        _touch(office, session, thing, who.id)
    deliver_soon(office)
    return asked_of(office, who, of)


def asked_of(office: Office, who: Who, of: str) -> list[Asked]:
    """What issuers were asked for a draft or a case that one may see."""
    with read_session(office.engine) as session:
        if "-" in of:
            thing: Draft | Case = find_case(session, who, of)
        else:
            thing = shared_draft(session, who, of)[0]
        rules = rules_of(office, session, thing)
        rows = list(session.scalars(_open(thing).order_by(IssuerAsked.made_at, IssuerAsked.id)))
    today = office_calendar(office).local_day(office.now())
    return [_seen(row, rules, today, office.now()) for row in rows]


def ask_again(office: Office, who: Who, request: str) -> None:
    """Send an issuer a new link; the one before works no more. Raises NotFound, NotReady if it has come."""
    titles = kind_titles(office)
    with write_session(office.engine) as session:
        row, thing = _own_request(session, who, request)
        if row.came_at is not None:
            raise NotReady(say("This has come already."))
        try_once(office, session, "issuer", who.id)
        rules = rules_of(office, session, thing)
        title = titles.get(thing.kind, thing.kind)
        _write_to(office, session, row, who.name, rules.slot_title(f"documents.{row.slot}"), title, again=True)
        row.reminded, row.reminded_at = row.reminded + 1, office.now()
        _touch(office, session, thing, who.id)
    deliver_soon(office)


def take_back(office: Office, who: Who, request: str) -> None:
    """Ask an issuer no more: the link works no more, and the issuer is told. Raises NotFound, NotReady if it has come."""
    with write_session(office.engine) as session:
        row, thing = _own_request(session, who, request)
        if row.came_at is not None:
            raise NotReady(say("This has come already."))
        row.ended_at, row.link_hash = office.now(), ""
        text = say("{name} asks you for this document no more. The link that you were sent works no longer.", name=who.name)
        put_out_mail(session, f"issuer-{new_id()}", row.mail, say("A document is asked for no more"), text, office.now())
        _touch(office, session, thing, who.id)
    deliver_soon(office)


def remind_issuers(office: Office) -> int:
    """Ask those again, some times, who did not send anything yet; returns how many."""
    titles, now = kind_titles(office), office.now()
    waits = or_(IssuerAsked.reminded_at.is_(None), IssuerAsked.reminded_at < before(now, ISSUER_AGAIN))
    wanted = select(IssuerAsked).where(IssuerAsked.ended_at.is_(None), IssuerAsked.came_at.is_(None), waits)
    wanted = wanted.where(IssuerAsked.reminded < MOST_ISSUER, IssuerAsked.made_at < before(now, ISSUER_AGAIN))
    count = 0
    with write_session(office.engine) as session:
        for row in list(session.scalars(wanted.limit(200))):
            thing = thing_of(session, row)
            if thing is None:
                continue
            owner = names_in(session, {row.by_id}).get(row.by_id, "")
            title = rules_of(office, session, thing).slot_title(f"documents.{row.slot}")
            _write_to(office, session, row, owner, title, titles.get(thing.kind, thing.kind), again=True)
            row.reminded, row.reminded_at = row.reminded + 1, now
            count += 1
    return count


def tell_of_given_up(office: Office, session: Session, draft_id: str) -> None:
    """Tell all who sent something for a draft, or were asked to, that it is given up, in the caller's write."""
    for row in session.scalars(select(IssuerAsked).where(IssuerAsked.draft_id == draft_id, IssuerAsked.ended_at.is_(None))):
        if row.case_id is None:
            sent = say("What you sent for it is erased within 30 days; nobody looked into it.") if row.came_at else ""
            text = say("The filing for which you were asked for a document is given up. {sent}", sent=sent).strip()
            put_out_mail(session, f"issuer-{new_id()}", row.mail, say("A filing is given up"), text, office.now())


def thing_of(session: Session, row: IssuerAsked) -> Draft | Case | None:
    """The case or the draft for which an issuer is asked; None if it is thrown away, erased or at its end."""
    if row.case_id:
        case = session.get_one(Case, row.case_id)
        return case if case.erased_at is None and case.state in (*LIVE, UNFILED) else None
    draft = session.get(Draft, row.draft_id)
    return None if draft is None or draft.thrown_away_at else draft


def _need_slot(office: Office, who: Who, of: str, slot: str) -> tuple[Rulebook, str]:
    """The rules of a filing and the title of its slot. Raises Invalid for a slot that there is none of, NotReady at the end of a case."""
    place = f"documents.{slot}"
    if "-" in of:
        loaded = load_case(office, who, of)
        if loaded.so_far.ended:
            raise NotReady(say("This case is at its end; nothing can be sent for it any more."))
        rules, found = loaded.rulebook, loaded.assessment
    else:
        now = open_draft(office, who, of)
        rules, found = now.rulebook, now.assessment
    if rules.slot_at(slot) is None or found.requirement(place) is None:
        raise Invalid(say("There is no such slot for documents."), place[:60])
    return rules, rules.slot_title(place)


def _own_request(session: Session, who: Who, request: str) -> tuple[IssuerAsked, Draft | Case]:
    row = session.get(IssuerAsked, request)
    thing = thing_of(session, row) if row and row.by_id == who.id and row.ended_at is None else None
    if row is None or thing is None:
        raise NotFound(say("This is not asked for any more."))
    return row, thing


def _open(thing: Draft | Case) -> Select[IssuerAsked]:
    here = IssuerAsked.draft_id == thing.id
    if case_id := (thing.case_id if isinstance(thing, Draft) else thing.id):
        here = here | (IssuerAsked.case_id == case_id)
    return select(IssuerAsked).where(here, IssuerAsked.ended_at.is_(None))


def _seen(row: IssuerAsked, rules: Rulebook, today: date, now: datetime) -> Asked:
    works = row.link_until is not None and row.link_until > now
    return Asked(
        id=row.id,
        place=f"documents.{row.slot}",
        title=rules.slot_title(f"documents.{row.slot}"),
        mail=row.mail,
        name=row.name,
        words=row.words,
        wanted_by=row.wanted_by,
        made_at=row.made_at,
        state=asking(row.came_at is not None, row.opened > 0, row.wanted_by, today, works),
        opened=row.opened,
        opened_at=row.opened_at,
        reminded=row.reminded,
        reminded_at=row.reminded_at,
        came_at=row.came_at,
        came_from=", ".join(part for part in (row.came_name, row.came_firm) if part),
    )


def _write_to(
    office: Office, session: Session, row: IssuerAsked, owner: str, document: str, kind: str, again: bool = False
) -> None:
    """Mail an issuer a new one-time link, in the caller's write."""
    secret = secrets.token_urlsafe(32)
    row.link_hash, row.link_until = hash_of(secret), after(office.now(), ISSUER_LINK)
    link, until = f"{office.settings.base_url}/deliver/{secret}", day(row.wanted_by)
    first = say("{name} asks you to send one document straight to the office: {document}.", name=owner, document=document)
    text = say(
        "{first}\n\nIt is for: {kind}. It is wanted by {until}.\n\nOpen this link to send it; you need no account, and it works once,"
        " within 30 days:\n\n{link}\n\nIf you do not know why, do nothing.",
        first=first, kind=kind, until=until, link=link,
    )  # fmt: skip
    whole = f"{text}\n\n{owner}: {row.words}" if row.words else text
    subject = say("A document is still wanted from you") if again else say("A document is wanted from you")
    put_out_mail(session, f"issuer-{new_id()}", row.mail, subject, whole, office.now(), secret_until=row.link_until)


def _touch(office: Office, session: Session, thing: Draft | Case, who_id: str) -> None:
    if isinstance(thing, Draft):
        session.flush()
        note_other_change(office, session, thing, who_id)
