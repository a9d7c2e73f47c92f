"""Messages in a case, both ways and with files, and the internal notes that the applicant never sees."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from jolly_clerk.core import history as h
from jolly_clerk.core.dossier.model import Attachment
from jolly_clerk.core.permit_entries import InspectionHeld
from jolly_clerk.core.roles import about
from jolly_clerk.core.say import say
from jolly_clerk.office.cases.casework import Loaded, act, load_case, permit
from jolly_clerk.office.cases.endings import words_of
from jolly_clerk.office.desk.waiting import seen, seen_at
from jolly_clerk.office.errors import NotAllowed, TooLarge
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.directory import names_in
from jolly_clerk.office.post.mailing import deliver_soon, put_out
from jolly_clerk.office.preparing.attaching import clean_name, keep_files, too_large
from jolly_clerk.store.beside import CaseRead
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Case, HistoryEntry, Person

MOST_FILES = 10
#: how the entry of a message begins to be known in a history
_SENT = f'"what":"{h.MessageSent.model_fields["what"].default}"'


@dataclass(frozen=True, slots=True)
class Message:
    """A message or a note. ``read_at`` is when somebody of the other side first looked at the case after it; None if nobody has."""

    no: int
    at: datetime
    who: str
    office: bool
    text: str
    files: tuple[h.Attached, ...]
    read_at: datetime | None


def attached_files(office: Office, who: Who, files: Sequence[tuple[str, bytes]]) -> tuple[h.Attached, ...]:
    """Keep files (name and content) that go with an entry. Raises TooLarge."""
    for name, content in files:
        too_large(office, clean_name(name), len(content))
    kept = keep_files(office, who, [content for _, content in files])
    return tuple(
        h.Attached(name=clean_name(name), sha256=sha256, size=len(content))
        for (name, content), (sha256, _) in zip(files, kept, strict=True)
    )


def write(office: Office, who: Who, reference: str, text: str, files: Sequence[tuple[str, bytes]] = ()) -> Loaded:
    """Write a message in a case; the other side gets a mail that says so."""
    loaded = load_case(office, who, reference)
    permit(loaded, who, "write")
    text = words_of(text, say("what you want to tell"), 1)
    if len(files) > MOST_FILES:
        raise TooLarge(say("At most {most_files} files go with one message.", most_files=MOST_FILES))
    attached = attached_files(office, who, files)

    def entries(_: Loaded) -> Sequence[h.Entry]:
        return [h.MessageSent(at=office.now(), who=who.signs, role=who.role, text=text, files=attached)]

    def out(session: Session, case: Case, made: Sequence[h.Entry]) -> Sequence[h.Entry]:
        key = f"{reference}-message-{loaded.entries + 1}"
        subject = say("A message about {reference}", reference=reference)
        if who.may.staff:
            put_out(
                session, case, key, subject, "", office.now(), say("The office has written to you in your case."), news="messages"
            )
        elif case.officer_id:
            officer = session.get_one(Person, case.officer_id)
            put_out(
                session, case, key, subject, "", office.now(), say("The applicant has written in a case of yours."), officer.mail
            )
        return made

    done = act(office, who, reference, "write", entries, finish=out)
    deliver_soon(office)
    return done


def note(office: Office, who: Who, reference: str, text: str, caller: str = "") -> Loaded:
    """Write an internal note; of a telephone call with whoever called."""
    text, caller = words_of(text, say("what should be noted"), 1), " ".join(caller.split())[:120]

    def entries(_: Loaded) -> Sequence[h.Entry]:
        return [h.NoteWritten(at=office.now(), who=who.signs, role=who.role, text=text, caller=caller)]

    return act(office, who, reference, "note", entries)


def read_talk(office: Office, who: Who, reference: str) -> None:
    """Note that the messages of a case are open before somebody who may answer them. Raises NotAllowed for others."""
    loaded = load_case(office, who, reference)
    if who.may.moves not in ("officer", "reviewer"):
        raise NotAllowed(say("Only whoever may answer a message marks it as read."))
    seen(office, who, loaded.case.id, "message")


def messages(
    office: Office, loaded: Loaded, names: dict[str, str], inner: bool
) -> tuple[tuple[Message, ...], tuple[Message, ...]]:
    """The messages of a case and its notes (none for the applicant), oldest first."""
    told, notes = [], []
    reads: list[tuple[datetime, bool]] = []
    noted: dict[int, datetime | None] = {}
    if any(isinstance(entry, h.MessageSent) for entry in loaded.history.entries):
        reads, noted = _reads(office, loaded)
    for no, entry in enumerate(loaded.history.entries, 1):
        if isinstance(entry, h.MessageSent):
            ours = about(entry.role).staff
            after = (at for at, by_applicant in reads if at > entry.at and by_applicant == ours)
            read_at = noted[no] if no in noted else next(after, None)
            told.append(Message(no, entry.at, names.get(entry.who, entry.who), ours, entry.text, entry.files, read_at))
        elif isinstance(entry, h.NoteWritten) and inner:
            text = say("Call of {caller}: {text}", caller=entry.caller, text=entry.text) if entry.caller else entry.text
            notes.append(Message(no, entry.at, names.get(entry.who, entry.who), True, text, (), None))
    return tuple(told), tuple(notes)


def _reads(office: Office, loaded: Loaded) -> tuple[list[tuple[datetime, bool]], dict[int, datetime | None]]:
    """When the case was opened, oldest first, and whether by its applicant; and when its messages were read in the office."""
    with read_session(office.engine) as session:
        opened = select(CaseRead.at, CaseRead.person_id).where(CaseRead.case_id == loaded.case.id).order_by(CaseRead.at)
        reads = [(at, person == loaded.case.applicant_id) for at, person in session.execute(opened)]
        return reads, seen_at(session, loaded.case.id)


@dataclass(frozen=True, slots=True)
class Unread:
    """A message of the office that the applicant has not seen yet; ``who`` wrote it."""

    reference: str
    title: str
    who: str
    at: datetime


def unread(office: Office, who: Who) -> tuple[Unread, ...]:
    """The newest message of the office in each of an applicant's cases that was not opened since, newest first."""
    own = (Case.applicant_id == who.id, Case.erased_at.is_(None))
    sent = select(Case.id, Case.reference, Case.title, HistoryEntry.body).join(HistoryEntry, HistoryEntry.case_id == Case.id)
    sent = sent.where(*own, HistoryEntry.body.contains(_SENT)).order_by(Case.id, HistoryEntry.no)
    seen = select(CaseRead.case_id, func.max(CaseRead.at)).join(Case, Case.id == CaseRead.case_id)
    with read_session(office.engine) as session:
        rows = session.execute(sent).all()
        opened = dict(session.execute(seen.where(*own, CaseRead.person_id == who.id).group_by(CaseRead.case_id)).tuples().all())
        found: dict[str, tuple[str, str, str, datetime]] = {}
        for id_, reference, title, body in rows:
            entry = json.loads(body)
            at = datetime.fromisoformat(entry["at"])
            if about(entry["role"]).staff and (id_ not in opened or opened[id_] < at):
                found[id_] = (reference, title, entry["who"], at)
        names = names_in(session, [by for _, _, by, _ in found.values()])
    told = [Unread(reference, title, names.get(by, by), at) for reference, title, by, at in found.values()]
    return tuple(sorted(told, key=lambda m: m.at, reverse=True))


def message_files(loaded: Loaded) -> list[Attachment]:
    """The files that went with messages and the photographs of inspections, as attachments of no slot."""
    sent = ((no, e.files, "message") for no, e in enumerate(loaded.history.entries, 1) if isinstance(e, h.MessageSent))
    taken = ((no, e.photographs, "inspection") for no, e in enumerate(loaded.history.entries, 1) if isinstance(e, InspectionHeld))
    return [
        Attachment(id=f"m{no}", slot=slot, name=f.name, sha256=f.sha256, size=f.size)
        for no, files, slot in (*sent, *taken)
        for f in files
    ]
