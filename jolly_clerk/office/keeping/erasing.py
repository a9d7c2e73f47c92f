"""Erasing: a case past its time, a person, a draft. Put on a list by a lead, confirmed by somebody else, done in one write.

What is personal goes: the personal parts of the history, the texts of the versions, files and letters that no other case names, what
the case is found by, the texts of mails. What stays: the chain, which still verifies, amounts, receipts, and what everybody may know
of a permit.
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Sequence
from dataclasses import asdict, dataclass
from datetime import date, datetime
from pathlib import Path

from sqlalchemy import delete, or_, select, update
from sqlalchemy.orm import Session

from jolly_clerk.core.in_words import all_of, day
from jolly_clerk.core.keeping import kept_as_it_came_until, kept_until
from jolly_clerk.core.roles import STAFF
from jolly_clerk.core.say import say
from jolly_clerk.core.states import FINAL
from jolly_clerk.office.cases.casework import assessed
from jolly_clerk.office.cases.endings import words_of
from jolly_clerk.office.cases.seeing import held_by
from jolly_clerk.office.desk.reviewing import check_permit
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady
from jolly_clerk.office.keeping.removing import erase_draft, is_named, remove_files
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.accounts import need_lead
from jolly_clerk.office.people.directory import end_other_sessions
from jolly_clerk.office.people.firms import forget_member
from jolly_clerk.office.post.mailing import NUMBER
from jolly_clerk.office.rules.rulebooks import calendar_of, office_calendar
from jolly_clerk.store.beside import (
    GO_WITH_A_CASE,
    Erasure,
    FileUse,
    Invitation,
    KeptCase,
    Look,
    MailCode,
    MandateGiven,
    TextCode,
)
from jolly_clerk.store.chain import load_history
from jolly_clerk.store.counter import DocketSent, Turning
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.meetings import AgendaItem
from jolly_clerk.store.permits import HeldPermit, ReplacedCode
from jolly_clerk.store.tables import (
    Case,
    Draft,
    FiledVersion,
    HistoryEntry,
    OneTimeLink,
    Outgoing,
    Person,
)
from jolly_clerk.store.till import Owed

#: so many cases that are due are listed at once, of so many that ended longest ago
MOST_LISTED, MOST_LOOKED_AT = 50, 200


@dataclass(frozen=True, slots=True)
class Due:
    """A case past its time: kept until which day, and what it is called."""

    reference: str
    kind: str
    title: str
    kept_until: date


@dataclass(frozen=True, slots=True)
class OnTheList:
    """Something that a lead put on the list: a case by its reference or a person by name; ``own`` tells that whoever looks put it
    there, and may therefore not confirm it."""

    id: int
    what: str
    called: str
    reason: str
    asked_by: str
    asked_at: datetime
    own: bool
    done_at: datetime | None


@dataclass(frozen=True, slots=True)
class Erasing:
    """What is due, what is on the list, and what was erased lately."""

    due: tuple[Due, ...]
    waiting: tuple[OnTheList, ...]
    done: tuple[OnTheList, ...]


def erasing(office: Office, who: Who) -> Erasing:
    """What can be erased and what waits for a second person. Raises NotAllowed for whoever does not check cases."""
    _need_checker(who)
    with read_session(office.engine) as session:
        listed = list(session.scalars(select(Erasure).order_by(Erasure.id.desc()).limit(200)))
        people = select(Person.id, Person.name).where(Person.id.in_({e.asked_by for e in listed}))
        names = dict(session.execute(people).tuples().all())

    def shown(e: Erasure) -> OnTheList:
        return OnTheList(
            e.id, e.what, e.called, e.reason, names.get(e.asked_by, e.asked_by), e.asked_at, e.asked_by == who.id, e.done_at
        )

    return Erasing(
        tuple(_due(office, {e.target_id for e in listed})) if who.may.minds_people else (),
        tuple(shown(e) for e in listed if e.done_at is None),
        tuple(shown(e) for e in listed if e.done_at is not None)[:20],
    )


def _need_checker(who: Who) -> None:
    if who.may.moves != "officer":
        raise NotAllowed(say("Erasing belongs to the leads, and is confirmed by an officer or another lead."))


def _due(office: Office, listed: set[str]) -> Iterable[Due]:
    old = select(Case).where(Case.state.in_(FINAL), Case.erased_at.is_(None), Case.id.not_in(listed))
    with read_session(office.engine) as session:
        cases = list(session.scalars(old.order_by(Case.changed_at).limit(MOST_LOOKED_AT)))
    count = 0
    for case in cases:
        until = _kept_until(office, case)
        if until is not None and _is_over(office, case, until):
            yield Due(case.reference, case.kind, case.title, until)
            count += 1
        if count == MOST_LISTED:
            return


def _kept_until(office: Office, case: Case) -> date | None:
    if case.kept:
        return kept_as_it_came_until(case.changed_at, office_calendar(office))
    with read_session(office.engine) as session:
        history = load_history(session, case.id)
    return kept_until(assessed(office, case, history, len(history.entries)).assessment)


def _is_over(office: Office, case: Case, until: date) -> bool:
    calendar = office_calendar(office) if case.kept else calendar_of(office, case.edition_sha256)
    return calendar.local_day(office.now()) > until


def put_on_the_list(office: Office, who: Who, reference: str, reason: str) -> None:
    """A lead puts a case past its time on the list.

    Raises NotAllowed for others, NotFound, NotReady with the day until which it is kept, or that it lives or money is open.
    """
    need_lead(who)
    reason = words_of(reason, say("why it is erased"))[:300]
    with read_session(office.engine) as session:
        case = session.scalars(select(Case).where(Case.reference == reference, Case.erased_at.is_(None))).first()
    if case is None:
        raise NotFound(say("There is no such case."))
    _need_over(office, case)
    _list(office, who, "case", case.id, case.reference, reason)


def _need_over(office: Office, case: Case) -> None:
    until = _kept_until(office, case)
    if until is None:
        raise NotReady(say("{reference} is not over, or money is open. It cannot be erased.", reference=case.reference))
    if not _is_over(office, case, until):
        raise NotReady(say("{reference} is kept until {until}.", reference=case.reference, until=day(until)))


def put_person_on_the_list(office: Office, who: Who, person_id: str, reason: str) -> None:
    """A lead puts an applicant on the list, whose cases are all erased. Raises NotAllowed, NotFound, NotReady with the cases left."""
    need_lead(who)
    reason = words_of(reason, say("why it is erased"))[:300]
    with read_session(office.engine) as session:
        person = session.get(Person, person_id)
    if person is None or person.role in STAFF:
        raise NotFound(say("There is no such applicant."))
    _need_no_cases(office, person_id)
    _list(office, who, "person", person.id, person.name[:40], reason)


def _need_no_cases(office: Office, person_id: str) -> None:
    theirs = or_(Case.applicant_id == person_id, held_by(person_id))
    left = select(Case.reference).where(theirs, Case.erased_at.is_(None)).order_by(Case.reference)
    with read_session(office.engine) as session:
        references = list(session.scalars(left.limit(5)))
    if references:
        raise NotReady(say("Cases of this person are still kept: {references}.", references=all_of(references)))


def _list(office: Office, who: Who, what: str, target_id: str, called: str, reason: str) -> None:
    with write_session(office.engine) as session:
        if session.scalar(select(Erasure.id).where(Erasure.target_id == target_id)):
            raise Invalid(say("It is on the list already."))
        session.add(
            Erasure(
                what=what,
                target_id=target_id,
                called=called,
                reason=reason,
                asked_by=who.id,
                asked_at=office.now(),
                confirmed_by="",
                public={},
                files=[],
            )
        )


def take_off(office: Office, who: Who, erasure_id: int) -> None:
    """Take something off the list that was not erased yet. Raises NotAllowed, NotFound."""
    _need_checker(who)
    with write_session(office.engine) as session:
        row = session.get(Erasure, erasure_id)
        if row is None or row.done_at is not None:
            raise NotFound(say("There is no such thing on the list."))
        session.delete(row)


def confirm(office: Office, who: Who, erasure_id: int) -> None:
    """Somebody else than who put it on the list confirms it: it is erased. Raises NotAllowed, NotFound, NotReady."""
    _need_checker(who)
    with read_session(office.engine) as session:
        row = session.get(Erasure, erasure_id)
        case = session.get(Case, row.target_id) if row and row.what == "case" else None
    if row is None or row.done_at is not None:
        raise NotFound(say("There is no such thing on the list."))
    if row.asked_by == who.id:
        raise NotAllowed(say("You put this on the list yourself; somebody else must confirm it."))
    public = {}
    if case is not None:
        _need_over(office, case)
        public = asdict(check_permit(office, case.permit_code)) if case.permit_code else {}
    else:
        _need_no_cases(office, row.target_id)
    with write_session(office.engine) as session:
        listed = session.get_one(Erasure, erasure_id)
        listed.confirmed_by, listed.done_at, listed.public = who.id, office.now(), public
        keys = erase_case(session, listed) if case is not None else erase_person(session, listed)
        told = _record(listed)
    with (office.folder / RECORD).open("a", encoding="utf-8") as record:
        record.write(told + "\n")
    forget_delivered(office, keys)
    remove_files(office)


#: what was erased, a JSON object a line, kept outside the database, so that a copy made before can be brought up to it
RECORD = "erased.jsonl"


def _record(erasure: Erasure) -> str:
    kept = ("what", "target_id", "called", "reason", "asked_by", "confirmed_by", "public")
    times = {"asked_at": erasure.asked_at.isoformat(), "done_at": (erasure.done_at or erasure.asked_at).isoformat()}
    return json.dumps({name: getattr(erasure, name) for name in kept} | times, ensure_ascii=False)


def repeat_erasures(office: Office, record: Path) -> int:
    """Erase in an office made from an older copy what was erased since; returns how many cases and persons."""
    count = 0
    for line in record.read_text("utf-8").splitlines() if record.is_file() else ():
        told = json.loads(line)
        with write_session(office.engine) as session:
            done = session.scalars(select(Erasure).where(Erasure.target_id == told["target_id"])).first()
            there = session.get(Case if told["what"] == "case" else Person, told["target_id"])
            if there is None or (done is not None and done.done_at is not None):
                continue
            if done is not None:
                session.delete(done)
                session.flush()
            times = {name: datetime.fromisoformat(told.pop(name)) for name in ("asked_at", "done_at")}
            erasure = Erasure(**told, **times, files=[])
            session.add(erasure)
            keys = (erase_case if told["what"] == "case" else erase_person)(session, erasure)
        forget_delivered(office, keys)
        count += 1
    remove_files(office)
    return count


def erase_case(session: Session, erasure: Erasure) -> list[str]:
    """Erase what is personal of a case, in the caller's write; its files are noted for removal. Returns the keys of its mails."""
    case_id = erasure.target_id
    case = session.get_one(Case, case_id)
    case.title, case.own_reference, case.erased_at = say("(erased)"), "", erasure.done_at
    case.tray, case.next_look_at, case.next_officer, case.next_applicant = "", None, "", ""
    session.execute(update(HistoryEntry).where(HistoryEntry.case_id == case_id).values(personal=None))
    session.execute(update(KeptCase).where(KeptCase.case_id == case_id).values(told=""))
    session.execute(update(FiledVersion).where(FiledVersion.case_id == case_id).values(dossier="{}"))
    for table in (*GO_WITH_A_CASE, AgendaItem, HeldPermit, ReplacedCode, Owed, DocketSent, Turning):
        session.execute(delete(table).where(table.case_id == case_id))
    for draft_id in list(session.scalars(select(Draft.id).where(Draft.case_id == case_id))):
        erase_draft(session, draft_id)
    mails = list(session.scalars(select(Outgoing.key).where(Outgoing.case_id == case_id)))
    gone = {"to": "", "subject": "", "text": "", "pdf_sha256": ""}
    session.execute(update(Outgoing).where(Outgoing.case_id == case_id).values(**gone))
    own = set(session.scalars(select(FileUse.sha256).where(FileUse.case_id == case_id)))
    session.execute(delete(FileUse).where(FileUse.case_id == case_id))
    session.flush()
    erasure.files = sorted(sha256 for sha256 in own if not is_named(session, sha256))
    return mails


def erase_person(session: Session, erasure: Erasure) -> list[str]:
    """Erase an applicant, in the caller's write: the account, what is being prepared, what was mailed."""
    person = session.get_one(Person, erasure.target_id)
    reached_at = [person.mail, f"{NUMBER}{person.mobile}"] if person.mobile else [person.mail]
    mails = list(session.scalars(select(Outgoing.key).where(Outgoing.to.in_(reached_at), Outgoing.case_id.is_(None))))
    session.execute(update(Outgoing).where(Outgoing.key.in_(mails)).values(to="", subject="", text=""))
    for draft_id in list(session.scalars(select(Draft.id).where(Draft.owner_id == person.id))):
        erase_draft(session, draft_id)
    session.execute(update(Draft).where(Draft.offered_to == person.mail).values(offered_to=""))
    session.execute(update(HeldPermit).where(HeldPermit.offered_to == person.mail).values(offered_to=""))
    session.execute(delete(Invitation).where(Invitation.mail == person.mail))
    session.execute(delete(MandateGiven).where((MandateGiven.owner_id == person.id) | (MandateGiven.mail == person.mail)))
    forget_member(session, person)
    end_other_sessions(session, person.id)
    for table in (OneTimeLink, MailCode, TextCode):
        session.execute(delete(table).where(table.person_id == person.id))
    session.execute(delete(Look).where(Look.person_id == person.id))
    person.name, person.mail, person.address, person.telephone = say("(erased)"), "", "", ""
    person.born, person.firm, person.language, person.letters = None, "", "", ""
    person.mobile, person.code_by_text, person.news = "", False, {}
    person.password_hash, person.left_at = "", erasure.done_at
    erasure.called = say("(erased)")
    return mails


def forget_delivered(office: Office, keys: Sequence[str]) -> None:
    """Have the post room forget what it still holds."""
    for key in keys:
        office.post_room.forget(key)
