"""Mandates: given by whoever applies, accepted by the agent, ended by either or by their last day; what the agent acts in.

From the end on the agent sees what was sent until then, and nothing else; no limit moves, and the owner is told.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime

from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from jolly_clerk.core.in_words import day
from jolly_clerk.core.mandates import MANDATE_RIGHTS, Mandate, MandateRight, MandateState, fault_of_days, said_of, state_of
from jolly_clerk.core.say import say
from jolly_clerk.office.cases.casework import Loaded, load_case, moments_of
from jolly_clerk.office.cases.seeing import covered_cases
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, TooLarge
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.office.people.accounts import mail_of, name_of, need_confirmed
from jolly_clerk.office.people.directory import names, names_in, person
from jolly_clerk.office.people.slowing import try_once
from jolly_clerk.office.post.mailing import deliver_soon, put_out_mail, tell
from jolly_clerk.office.post.papers import paper
from jolly_clerk.office.preparing.access import mail_known, need_account
from jolly_clerk.office.rules.rulebooks import kind_titles, office_calendar
from jolly_clerk.store.beside import MandateGiven
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import Case, Draft, Person

MOST_GIVEN, MOST_SHOWN = 40, 100


@dataclass(frozen=True, slots=True)
class MandateView:
    """A mandate as both see it. ``mine`` tells that one gave it, else one acts by it; ``said`` is what it allows, in words; ``ended_day``
    the day on which it was ended before its time."""

    id: str
    mine: bool
    name: str
    mail: str
    rights: tuple[MandateRight, ...]
    kinds: tuple[str, ...]
    cases: tuple[str, ...]
    first_day: date
    last_day: date | None
    ended_day: date | None
    state: MandateState
    said: str


@dataclass(frozen=True, slots=True)
class ActingIn:
    """A filing or a case in which one may act for its owner: ``draft`` or ``reference`` is where it is found."""

    draft: str
    reference: str
    kind_title: str
    title: str
    owner: str
    next: str


@dataclass(frozen=True, slots=True)
class ActingFor:
    """Somebody for whom one may begin filings, of which kinds (none means all)."""

    owner: str
    name: str
    kinds: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class SentPaper:
    """A paper that was sent in a case while a mandate was in force."""

    reference: str
    title: str
    no: int
    at: datetime
    text: str


def give(
    office: Office,
    who: Who,
    mail: str,
    name: str,
    rights: Sequence[str],
    kinds: Sequence[str] = (),
    cases: Sequence[str] = (),
    first: date | None = None,
    last: date | None = None,
) -> list[MandateView]:
    """Give a mandate to whoever has a mail address, who is asked to accept it.

    Raises Invalid for what is no address or one's own, a right, a kind or an own case that there is none of, days that are none;
    TooLarge, TooOften.
    """
    need_confirmed(who)
    need_account(who)
    address, called, titles = mail_of(mail), name_of(name), kind_titles(office)
    today = office_calendar(office).local_day(office.now())
    first = first or today
    if unknown := set(rights) - set(MANDATE_RIGHTS):
        raise Invalid(say("There is no right of this name: {name}.", name=min(unknown)[:20]), "rights")
    if unknown := set(kinds) - set(titles):
        raise Invalid(say("There is no kind of this name: {name}.", name=min(unknown)[:20]), "kinds")
    if fault := fault_of_days(first, last, today):
        raise Invalid(fault, "last_day")
    with write_session(office.engine) as session:
        if address == session.get_one(Person, who.id).mail:
            raise Invalid(say("This address is your own."), "mail")
        try_once(office, session, "mandate", who.id)
        own = set(session.scalars(select(Case.reference).where(Case.applicant_id == who.id, Case.reference.in_(cases))))
        if missing := sorted(set(cases) - own):
            raise Invalid(say("You have no case {reference}.", reference=missing[0][:20]), "cases")
        if len(list(session.scalars(select(MandateGiven.id).where(MandateGiven.owner_id == who.id)))) >= MOST_GIVEN:
            raise TooLarge(say("You gave {most} mandates already.", most=MOST_GIVEN))
        row = MandateGiven(id=new_id(), owner_id=who.id, mail=address, name=called, first_day=first, last_day=last)
        row.rights, row.kinds, row.cases = [r for r in MANDATE_RIGHTS if r in rights], sorted(set(kinds)), sorted(set(cases))
        row.made_at = office.now()
        session.add(row)
        text = say(
            "{name} asks you to act for them at {office}: {said}.\n\nSign in with this address and accept it or decline it on the"
            " page of your account:\n\n{base_url}/account\n\nIf you do not know why, do nothing.",
            name=who.name, office=office.name, said=_said(row, titles), base_url=office.settings.base_url,
        )  # fmt: skip
        put_out_mail(session, f"mandate-{row.id}", address, say("You are asked to act for somebody"), text, office.now())
    deliver_soon(office)
    return given(office, who)


def given(office: Office, who: Who) -> list[MandateView]:
    """The mandates that one gave, and those by which one acts or was asked to, the newest first."""
    titles = kind_titles(office)
    with read_session(office.engine) as session:
        mail = mail_known(session, who)
        mine = or_(MandateGiven.owner_id == who.id, (MandateGiven.mail == mail) & (MandateGiven.mail != ""))
        rows = list(session.scalars(select(MandateGiven).where(mine).order_by(MandateGiven.made_at.desc()).limit(200)))
        people = names_in(session, {row.owner_id for row in rows})
    today = office_calendar(office).local_day(office.now())
    return [_seen(row, who, people, titles, today) for row in rows]


def accept(office: Office, who: Who, mandate: str) -> None:
    """Accept a mandate; from its first day on one acts by it. Raises NotFound."""
    need_account(who)
    need_confirmed(who)
    with write_session(office.engine) as session:
        row = _open(session, who, mandate)
        if row.owner_id == who.id:
            raise NotAllowed(say("Whoever is asked to act accepts it."))
        row.accepted_at = row.accepted_at or office.now()
        _tell(
            office,
            session,
            row,
            say("{name} acts for you now", name=row.name),
            say("{name} accepted your mandate.", name=row.name),
        )
    deliver_soon(office)


def end(office: Office, who: Who, mandate: str) -> None:
    """End a mandate before its time, or decline it: either of both. The owner is told. Raises NotFound."""
    with write_session(office.engine) as session:
        row = _open(session, who, mandate)
        _end(office, session, row)
    deliver_soon(office)


def tell_what_is_over(office: Office) -> int:
    """Tell the owners of mandates whose last day is over, once; returns how many."""
    today = office_calendar(office).local_day(office.now())
    wanted = select(MandateGiven).where(MandateGiven.ended_at.is_(None), MandateGiven.last_day < today)
    count = 0
    with write_session(office.engine) as session:
        for row in list(session.scalars(wanted.where(MandateGiven.told_over.is_(False)).limit(200))):
            row.told_over = True
            if row.accepted_at and row.last_day:
                told = say("The mandate of {name} ended with {day}.", name=row.name, day=day(row.last_day))
                _tell(office, session, row, say("A mandate is over"), _and_limits(told))
                count += 1
    return count


def acting_for(office: Office, who: Who) -> list[ActingFor]:
    """For whom one may begin filings."""
    found = names(office, {m.owner for m in who.mandates})
    return [ActingFor(m.owner, found.get(m.owner, ""), m.kinds) for m in who.mandates if "prepare" in m.rights and not m.cases]


def acting_in(office: Office, who: Who) -> list[ActingIn]:
    """The filings and cases in which one may act for others, by owner, the latest first."""
    if not who.mandates:
        return []
    titles = kind_titles(office)
    found = list[ActingIn]()
    with read_session(office.engine) as session:
        people = names_in(session, {m.owner for m in who.mandates})
        for m in who.mandates:
            drafts = select(Draft).where(Draft.owner_id == m.owner, Draft.thrown_away_at.is_(None)).order_by(Draft.kept_at.desc())
            for d in session.scalars(drafts.limit(MOST_SHOWN)):
                if m.covers(d.owner_id, d.kind, d.case_id or "") and d.case_id is None:
                    found.append(ActingIn(d.id, "", titles.get(d.kind, d.kind), d.own_reference, people.get(m.owner, ""), ""))
            cases = select(Case).where(covered_cases(m), Case.erased_at.is_(None), Case.kept.is_(False))
            for c in session.scalars(cases.order_by(Case.changed_at.desc()).limit(MOST_SHOWN)):
                title = titles.get(c.kind, c.kind)
                found.append(ActingIn("", c.reference, title, c.title, people.get(m.owner, ""), c.next_applicant))
    return list(dict.fromkeys(found))


def sent_until_its_end(office: Office, who: Who, mandate: str) -> list[SentPaper]:
    """What was sent in the cases of a mandate that is over or ended, until then. Raises NotFound."""
    told = list[SentPaper]()
    for loaded, until in _cases_of_over(office, who, mandate):
        found = moments_of(loaded, names(office, loaded.people))
        sent = (m for m in found if m.paper and not m.inner and m.at <= until)
        told += [SentPaper(loaded.case.reference, loaded.assessment.title, m.no, m.at, m.text) for m in sent]
    return sorted(told, key=lambda one: one.at, reverse=True)


def sent_paper(office: Office, who: Who, mandate: str, reference: str, no: int) -> tuple[str, bytes]:
    """One of these papers: its file name and its content. Raises NotFound."""
    known = {(one.reference, one.no) for one in sent_until_its_end(office, who, mandate)}
    if (reference, no) not in known:
        raise NotFound(say("There is no such paper."))
    loaded = next(one for one, _ in _cases_of_over(office, who, mandate) if one.case.reference == reference)
    return paper(office, loaded, no)


def _cases_of_over(office: Office, who: Who, mandate: str) -> list[tuple[Loaded, datetime]]:
    """The cases of a mandate by which one acted until an instant, as their owner sees them."""
    calendar = office_calendar(office)
    today = calendar.local_day(office.now())
    with read_session(office.engine) as session:
        row = session.get(MandateGiven, mandate)
        mail = mail_known(session, who)
        if row is None or not mail or row.mail != mail or row.accepted_at is None:
            raise NotFound(say("There is no such mandate."))
        over = row.last_day is not None and row.last_day < today
        if row.ended_at is None and not over:
            raise NotFound(say("There is no such mandate that is over."))
        ids = dict(session.execute(select(Case.reference, Case.id).where(Case.reference.in_(row.cases))).tuples().all())
        covering = Mandate(row.id, row.owner_id, (), tuple(row.kinds), tuple(ids.get(ref, ref) for ref in row.cases))
        cases = select(Case.reference).where(covered_cases(covering), Case.erased_at.is_(None), Case.kept.is_(False))
        references = list(session.scalars(cases.order_by(Case.changed_at.desc()).limit(MOST_SHOWN)))
        accepted = row.accepted_at
    last = calendar.day_end(row.last_day) if over and row.last_day else None
    until = min(at for at in (row.ended_at, last) if at is not None)
    if until < accepted:
        return []
    owner = person(office, row.owner_id)
    return [(load_case(office, owner, reference), until) for reference in references]


def _open(session: Session, who: Who, mandate: str) -> MandateGiven:
    row = session.get(MandateGiven, mandate)
    mail = mail_known(session, who)
    if row is None or row.ended_at is not None or (row.owner_id != who.id and (not mail or row.mail != mail)):
        raise NotFound(say("There is no such mandate."))
    return row


def _end(office: Office, session: Session, row: MandateGiven) -> None:
    row.ended_at, row.ended_day = office.now(), office_calendar(office, session).local_day(office.now())
    if row.accepted_at:
        told = say("{name} acts for you no more: the mandate was ended.", name=row.name)
        _tell(office, session, row, say("A mandate was ended"), _and_limits(told))
    else:
        _tell(office, session, row, say("A mandate was not accepted"), say("{name} does not act for you.", name=row.name))


def _and_limits(told: str) -> str:
    return say("{told} No limit moves by it; what is asked of you waits for you.", told=told)


def _tell(office: Office, session: Session, row: MandateGiven, subject: str, text: str) -> None:
    owner = session.get_one(Person, row.owner_id)
    tell(session, owner, f"mandate-{new_id()}", subject, text, office.now())


def _said(row: MandateGiven, titles: dict[str, str]) -> str:
    return said_of(tuple(row.rights), [titles.get(kind, kind) for kind in row.kinds], row.cases)


def _seen(row: MandateGiven, who: Who, people: dict[str, str], titles: dict[str, str], today: date) -> MandateView:
    mine = row.owner_id == who.id
    return MandateView(
        id=row.id,
        mine=mine,
        name=row.name if mine else people.get(row.owner_id, ""),
        mail=row.mail if mine else "",
        rights=tuple(row.rights),
        kinds=tuple(row.kinds),
        cases=tuple(row.cases),
        first_day=row.first_day,
        last_day=row.last_day,
        ended_day=row.ended_day,
        state=state_of(row.accepted_at is not None, row.ended_at is not None, row.first_day, row.last_day, today),
        said=_said(row, titles),
    )
