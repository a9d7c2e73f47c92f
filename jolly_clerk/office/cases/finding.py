"""What each case is found by: written with its list row when something came that it can be found by."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy.orm import Session

from jolly_clerk.core.dossier.differences import raw_answers
from jolly_clerk.core.history import Answered, Entry, Filed, History, MessageSent, NoteWritten, PermitIssued, PutRight, ReadIn
from jolly_clerk.core.known import Known
from jolly_clerk.core.searching import MOST_OF_CASE, MOST_OF_FILE, SHORT, Searched, searched, texts_of
from jolly_clerk.store.searching import keep_searched
from jolly_clerk.store.tables import Case, Person

_NEWS = (Filed, Answered, PutRight, MessageSent, NoteWritten, PermitIssued)


def brings_something_to_find(entries: Sequence[Entry]) -> bool:
    """True if these entries hold something that a case is found by."""
    return any(isinstance(entry, _NEWS) for entry in entries)


def write_what_is_found(session: Session, case: Case, history: History, known: Known) -> None:
    """Write what a case is found by, in the caller's transaction."""
    person = session.get(Person, case.applicant_id)
    keep_searched(session, case.id, found_by(case, person.name if person else "", history, known))


def found_by(case: Case, applicant: str, history: History, known: Known) -> Searched:
    """What a case is found by: its reference, title, people, answers, the texts of its files, its messages and notes."""
    latest = history.versions[-1].dossier
    answers = [text for raw in raw_answers(latest).values() for text in texts_of(raw)]
    said = [e.text for e in history.entries if isinstance(e, (MessageSent, NoteWritten))]
    signed = [latest.signature.name] if latest.signature else []
    names = [a.name for a in latest.attachments]
    elsewhere = [e.reference for e in history.entries if isinstance(e, ReadIn)]
    fields = [
        case.title,
        case.own_reference,
        case.permit_code or "",
        *elsewhere,
        *signed,
        *names,
        *(a for a in answers if len(a) <= SHORT),
    ]
    texts = [*(a for a in answers if len(a) > SHORT), latest.note, *said]
    left = MOST_OF_CASE
    for sha256 in dict.fromkeys(a.sha256 for a in latest.attachments):
        reading = known.readings.get(sha256)
        if reading and left > 0:
            texts.append("\n".join(line.text for line in reading.lines)[: min(MOST_OF_FILE, left)])
            left -= len(texts[-1])
    return searched(case.reference, applicant, fields, texts)
