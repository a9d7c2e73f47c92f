"""Recording at the counter: a filing that came by post, by mail or with a visitor is filled in for whoever applies.

The office never signs: consent is a signed sheet among the papers, or the person's name with somebody of the office as witness.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from datetime import date, datetime
from typing import cast

from sqlalchemy import String, func, or_, select
from sqlalchemy import cast as cast_to
from sqlalchemy.orm import Session

from jolly_clerk.core.dossier.changing import begin
from jolly_clerk.core.dossier.model import Signing
from jolly_clerk.core.dossier.signing import covered, signed
from jolly_clerk.core.history import NO_HISTORY, ThingCame
from jolly_clerk.core.recording import Came, fault_of_recording
from jolly_clerk.core.reference import is_docket
from jolly_clerk.core.roles import APPLICANTS
from jolly_clerk.core.say import say
from jolly_clerk.core.sorting.likely import Likely, likeliest
from jolly_clerk.core.sorting.parts import of_part
from jolly_clerk.core.sorting.placing import offers_for
from jolly_clerk.office.cases.casework import Loaded, act, by, load_case
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.office.people.directory import names_in
from jolly_clerk.office.post.mailing import ON_PAPER
from jolly_clerk.office.preparing.access import shared_draft
from jolly_clerk.office.preparing.drafts import OpenDraft, change_draft, open_draft, opened
from jolly_clerk.office.preparing.learning import learnt_of
from jolly_clerk.office.preparing.pile import spots_of
from jolly_clerk.office.preparing.placing import drop, sheets_in
from jolly_clerk.office.preparing.profiles import Profile, profile
from jolly_clerk.office.preparing.signing import need_name
from jolly_clerk.office.rules.rulebooks import edition_on, kinds, known_for, office_calendar, rulebook
from jolly_clerk.store.beside import PileItem
from jolly_clerk.store.counter import CounterFiling, DocketSent
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import Case, Draft, Person

MOST_FOUND, MOST_LISTED = 8, 100
#: the profile of nobody
NOBODY = Profile("", "", "", "")


@dataclass(frozen=True, slots=True)
class Contact:
    """Whoever applies: an account by its ``id``, or somebody without one, who has a name and a postal address."""

    id: str = ""
    name: str = ""
    address: str = ""
    telephone: str = ""


@dataclass(frozen=True, slots=True)
class FoundPerson:
    """Somebody who has an account, or a contact of the office."""

    id: str
    name: str
    mail: str
    address: str
    has_account: bool


@dataclass(frozen=True, slots=True)
class Recording:
    """A filing that is being recorded, or was: ``reference`` once it is filed."""

    draft: str
    kind: str
    kind_title: str
    owner: str
    recorded_by: str
    mine: bool
    came: Came
    reached: date
    begun_at: datetime
    title: str
    in_pile: int
    left: int
    signed: bool
    reference: str


def need_counter(who: Who) -> None:
    """Raises NotAllowed for whoever records nothing."""
    if not who.is_officer:
        raise NotAllowed(say("The counter is for officers and leads."))


def begin_recording(office: Office, who: Who, kind: str, came: Came, reached: date, contact: Contact) -> str:
    """Begin to record a filing; returns the id of its draft. Raises NotAllowed, NotFound for an unknown kind, Invalid with the field."""
    need_counter(who)
    calendar = office_calendar(office)
    name, address = " ".join(contact.name.split()), " ".join(contact.address.split())[:300]
    field, fault = fault_of_recording(reached, calendar.local_day(office.now()), name, address, bool(contact.id))
    if fault:
        raise Invalid(fault, field)
    rules = rulebook(office, edition_on(office, kind, reached))
    told = profile(office, contact.id) if contact.id else Profile(name, "", address, contact.telephone, letters=ON_PAPER)
    dossier, draft_id = begin(rules, asdict(told), {}, office.now()), new_id()
    with write_session(office.engine) as session:
        owner = _owner(office, session, Contact(contact.id, name, address, " ".join(contact.telephone.split())[:40]))
        session.flush()
        row = Draft(
            id=draft_id, owner_id=owner, kind=kind, case_id=None, own_reference="", folder="", words={}, kept_at=office.now(),
            dossier=dossier.model_dump(mode="json"),
        )  # fmt: skip
        session.add(row)
        session.add(
            CounterFiling(
                draft_id=draft_id,
                owner_id=owner,
                recorded_by=who.id,
                kind=kind,
                came=came,
                reached=reached,
                begun_at=office.now(),
            )
        )
    return draft_id


def _owner(office: Office, session: Session, contact: Contact) -> str:
    """The id of whoever applies; somebody without an account becomes a contact."""
    if contact.id:
        person = session.get(Person, contact.id)
        if person is None or person.role not in APPLICANTS or person.left_at is not None:
            raise NotFound(say("There is no such person."))
        return person.id
    made = Person(
        id=new_id(),
        name=contact.name[:120],
        role="applicant",
        mail="",
        address=contact.address,
        telephone=contact.telephone,
        letters=ON_PAPER,
        made_at=office.now(),
    )
    session.add(made)
    return made.id


def people_found(office: Office, who: Who, words: str) -> list[FoundPerson]:
    """People whose name or mail address holds these words; those with the same name first. Raises NotAllowed."""
    need_counter(who)
    wanted = " ".join(words.split()).lower()
    if len(wanted) < 2:
        return []
    like = f"%{wanted.replace('%', '').replace('_', '')}%"
    holds = or_(func.lower(Person.name).like(like), Person.mail.like(like))
    found = select(Person).where(Person.role.in_(APPLICANTS), Person.left_at.is_(None), holds)
    with read_session(office.engine) as session:
        rows = list(session.scalars(found.order_by(Person.name, Person.id).limit(MOST_FOUND)))
    return [FoundPerson(p.id, p.name, p.mail, p.address, bool(p.password_hash) or p.is_firm or bool(p.mail)) for p in rows]


def recordings(office: Office, who: Who) -> list[Recording]:
    """What is being recorded, one's own first, and what was filed of it lately. Raises NotAllowed."""
    need_counter(who)
    with read_session(office.engine) as session:
        wanted = select(CounterFiling).order_by(CounterFiling.begun_at.desc()).limit(MOST_LISTED)
        rows = list(session.scalars(wanted))
        names = names_in(session, {id_ for row in rows for id_ in (row.owner_id, row.recorded_by)})
        drafts = {d.id: d for d in session.scalars(select(Draft).where(Draft.id.in_([row.draft_id for row in rows])))}
        count = select(PileItem.draft_id, func.count()).where(PileItem.draft_id.in_(list(drafts))).group_by(PileItem.draft_id)
        piles = dict(session.execute(count).tuples().all())
        titles = dict(
            session.execute(select(Case.reference, Case.title).where(Case.reference.in_([r.reference for r in rows])))
            .tuples()
            .all()
        )
        there = {id_: opened(office, session, d, None, NO_HISTORY) for id_, d in drafts.items() if d.thrown_away_at is None}
    called = {rules.edition.kind: rules.edition.title for rules in kinds(office, office_calendar(office).local_day(office.now()))}
    found = []
    for row in rows:
        now = there.get(row.draft_id)
        if now is None and not row.reference:
            continue
        found.append(
            Recording(
                draft=row.draft_id,
                kind=row.kind,
                kind_title=called.get(row.kind, row.kind),
                owner=names.get(row.owner_id, ""),
                recorded_by=names.get(row.recorded_by, ""),
                mine=row.recorded_by == who.id,
                came=cast(Came, row.came),
                reached=row.reached,
                begun_at=row.begun_at,
                title=now.assessment.title if now else titles.get(row.reference, ""),
                in_pile=piles.get(row.draft_id, 0),
                left=len(now.assessment.left) if now else 0,
                signed=bool(now and now.dossier.signature),
                reference=row.reference,
            )
        )
    return sorted(found, key=lambda one: (bool(one.reference), not one.mine))


def note_consent(office: Office, who: Who, draft_id: str, name: str, on_paper: bool, seen: int | None = None) -> OpenDraft:
    """Note that whoever applies consents: by a signature on the paper that came, or by the name, with who notes it as witness.

    Raises NotAllowed, Invalid for no name, or for the officer's own one.
    """
    need_counter(who)
    need_name(name)
    if " ".join(name.lower().split()) == who.name.lower():
        raise Invalid(say("The office never signs for anybody: this is your own name."), "name")
    there = open_draft(office, who, draft_id)
    signing = Signing(
        name=" ".join(name.split()),
        at=office.now().replace(microsecond=0),
        text=there.rulebook.edition.signature.text,
        covers=covered(there.dossier),
        witness=who.name,
        on_paper=on_paper,
    )
    return change_draft(office, who, draft_id, lambda dossier: signed(dossier, signing), seen)


def discard(office: Office, who: Who, draft_id: str) -> None:
    """Throw away what was begun to be recorded. Raises NotAllowed, NotFound."""
    need_counter(who)
    with write_session(office.engine) as session:
        shared_draft(session, who, draft_id)[0].thrown_away_at = office.now()


def split(office: Office, who: Who, draft_id: str, pieces: Sequence[str], kind: str, contact: Contact) -> str:
    """Sheets of a pile are another filing: it is begun, reached the office on the same day, and gets them; returns the id of its draft.

    Raises NotAllowed, NotFound, Invalid.
    """
    need_counter(who)
    with read_session(office.engine) as session:
        shared_draft(session, who, draft_id)
        row = session.get_one(CounterFiling, draft_id)
        items = {i.id: i for i in session.scalars(select(PileItem).where(PileItem.draft_id == draft_id))}
    named = [sheets_in(piece) for piece in pieces]
    if not named or any(item not in items for item, _, _ in named):
        raise NotFound(say("This is not in the pile any more."))
    other = begin_recording(office, who, kind, cast(Came, row.came), row.reached, contact)
    with write_session(office.engine) as session:
        for item_id, first, last in named:
            item = session.get_one(PileItem, item_id)
            session.add(
                PileItem(
                    id=new_id(), draft_id=other, put_at=office.now(), no=item.no, sha256=item.sha256, size=item.size, name=item.name,
                    within=item.within, told=item.told, first=first, last=last, fixed=True,
                )
            )  # fmt: skip
    drop(office, who, draft_id, pieces)
    return other


def likely_kinds(office: Office, who: Who, draft_id: str, pieces: Sequence[str]) -> list[Likely]:
    """For which kinds these sheets of a pile may be, the likeliest first: by how sure a place of each could be for each. Raises
    NotAllowed, NotFound."""
    need_counter(who)
    now = open_draft(office, who, draft_id)
    with read_session(office.engine) as session:
        items = {i.id: i for i in session.scalars(select(PileItem).where(PileItem.draft_id == draft_id))}
        readings = known_for(office, now.edition_sha256, {i.sha256 for i in items.values()}, session).readings
        today = office_calendar(office, session).local_day(office.now())
        drafts = [
            Draft(
                id="", owner_id=now.draft.owner_id, kind=r.edition.kind, case_id=None, lane="", adds="", own_reference="", words={},
                dossier=begin(r, asdict(NOBODY), {}, office.now()).model_dump(mode="json"), writers={}, removed=[],
            )
            for r in kinds(office, today)
        ]  # fmt: skip
        places = {d.kind: spots_of(opened(office, session, d, None, NO_HISTORY), learnt_of(office, d.kind)) for d in drafts}
    parts = []
    for piece in pieces:
        item_id, first, last = sheets_in(piece)
        item = items.get(item_id)
        reading = readings.get(item.sha256) if item else None
        part = of_part(reading, first, last) if reading else None
        if item and part:
            parts.append((part, item.name))
    titles = {r.edition.kind: r.edition.title for r in kinds(office, today)}
    return likeliest({kind: [offers_for(part, name, spots) for part, name in parts] for kind, spots in places.items()}, titles)


@dataclass(frozen=True, slots=True)
class Thing:
    """Something that was announced by a docket: for which case it is, and where it lies if it came."""

    docket: str
    reference: str
    title: str
    slot: str
    what: str
    place: str
    condition: str
    came_at: datetime | None


def thing(office: Office, who: Who, docket: str) -> Thing:
    """What lies on a docket, by its number or what its code says. Raises NotAllowed, Invalid for no number, NotFound."""
    need_counter(who)
    no = docket.upper().split()[-1] if docket.split() else ""
    if not is_docket(no):
        raise Invalid(say("“{docket}” is no number of a docket; it looks like D-26-00017-K.", docket=docket[:30]), "docket")
    with read_session(office.engine) as session:
        sent = session.get(DocketSent, no)
        case = session.get(Case, sent.case_id) if sent else None
        announced = (
            None
            if case
            else session.scalars(select(Draft.id).where(cast_to(Draft.dossier, String).contains(no)).limit(1)).first()
        )
    if announced is not None:
        raise NotFound(say("Docket {no} is of a filing that was not filed yet. Lay the thing aside with its sheet.", no=no))
    if case is None:
        raise NotFound(say("No case knows docket {no}.", no=no))
    return _thing(office, who, case.reference, no)


def _thing(office: Office, who: Who, reference: str, no: str) -> Thing:
    loaded = load_case(office, who, reference)
    found = next((d for d in loaded.dossier.dockets if d.no == no), None)
    if found is None:
        raise NotFound(say("No case knows docket {no}.", no=no))
    came = [e for e in loaded.history.entries if isinstance(e, ThingCame) and e.docket == no]
    slot = loaded.rulebook.slot_title(f"documents.{found.slot}")
    last = came[-1] if came else None
    return Thing(
        no, reference, loaded.assessment.title, slot, found.what, last.place if last else "", last.condition if last else "",
        last.at if last else None,
    )  # fmt: skip


def thing_came(office: Office, who: Who, docket: str, place: str, condition: str) -> Thing:
    """Something that was announced came: it lies at a place, in some condition. A second time says where it lies now. Raises as
    :func:`thing` does, Invalid without a place."""
    found = thing(office, who, docket)
    place, condition = " ".join(place.split())[:80], " ".join(condition.split())[:200]
    if len(place) < 2:
        raise Invalid(say("Say where it lies."), "place")

    def entries(_: Loaded) -> list[ThingCame]:
        return [
            ThingCame(
                **by(office, who), docket=found.docket, title=f"{found.slot}, {found.what}", place=place, condition=condition
            )
        ]

    act(office, who, found.reference, "", entries)
    return _thing(office, who, found.reference, found.docket)
