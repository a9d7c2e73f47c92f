"""What goes for good: drafts, accounts that were never confirmed, and files that nothing names any more."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import datetime

from sqlalchemy import delete, exists, func, or_, select
from sqlalchemy.orm import Session

from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.office.lifetimes import ANSWERS_KEPT, DRAFTS_KEPT, LOOSE, THROWN_AWAY, UNCONFIRMED, before
from jolly_clerk.office.office import Office
from jolly_clerk.office.preparing.issuing import tell_of_given_up
from jolly_clerk.office.preparing.revisions import forget_changes
from jolly_clerk.store.beside import GO_WITH_A_DRAFT, Erasure, FileUse, MailCode, PageSign, PileItem, TextCode
from jolly_clerk.store.counter import CounterFiling, Turning
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import (
    Case,
    Draft,
    OneTimeLink,
    Outgoing,
    Person,
    PublishedEdition,
    RegisterAnswer,
    SignIn,
    StoredFile,
    StoredReading,
)


def erase_draft(session: Session, draft_id: str) -> None:
    """Take a draft away, in the caller's write; its files go with the next tidying."""
    forget_changes(session, draft_id)
    for table in (*GO_WITH_A_DRAFT, CounterFiling, Turning):
        session.execute(delete(table).where(table.draft_id == draft_id))
    session.execute(delete(Draft).where(Draft.id == draft_id))


def is_named(session: Session, sha256: str) -> bool:
    """True if a case, a draft, an edition or a mail names a file."""
    if session.scalar(select(func.count()).select_from(FileUse).where(FileUse.sha256 == sha256)):
        return True
    edition = or_(PublishedEdition.sha256 == sha256, PublishedEdition.calendar_sha256 == sha256)
    if session.scalar(select(func.count()).select_from(PublishedEdition).where(edition)):
        return True
    if session.scalar(select(func.count()).select_from(Outgoing).where(Outgoing.pdf_sha256 == sha256)):
        return True
    return any(sha256 in named for named in _of_drafts(session))


def _of_drafts(session: Session) -> Iterable[set[str]]:
    yield set(session.scalars(select(PileItem.sha256)))
    for dossier in session.scalars(select(Draft.dossier).execution_options(yield_per=100)):
        files = Dossier.model_validate(dossier).papers
        yield {a.sha256 for a in files} | {source.checksum for a in files for source in a.made_from}


def remove_files(office: Office) -> int:
    """Remove the files of what was erased from the vault, and what was read in them; returns how many. Taken up again after a stop."""
    count = 0
    with read_session(office.engine) as session:
        waiting = [e for e in session.scalars(select(Erasure).where(Erasure.done_at.is_not(None))) if e.files]
    for erasure in waiting:
        count += _remove(office, erasure.files)
        with write_session(office.engine) as session:
            session.get_one(Erasure, erasure.id).files = []
    return count


def _remove(office: Office, hashes: Sequence[str]) -> int:
    """Remove files that nothing names, rows first: a stop in between leaves a file without a row, never a row without its file."""
    with write_session(office.engine) as session:
        gone = [sha256 for sha256 in hashes if not is_named(session, sha256)]
        for table in (PageSign, StoredReading, StoredFile):
            session.execute(delete(table).where(table.sha256.in_(gone)))
    for sha256 in gone:
        office.vault.remove(sha256)
        office.readings = {key: found for key, found in office.readings.items() if key[0] != sha256}
    return len(gone)


def tidy(office: Office) -> int:
    """What the clock job tidies once a day: drafts that nobody changed for a year, accounts that were never confirmed, old answers of
    registers, files that nothing has named for a week. Returns how many files went."""
    now = office.now()
    remove_files(office)
    office.vault.tidy(before(now, LOOSE).timestamp())
    over = (Draft.kept_at < before(now, DRAFTS_KEPT)) | (Draft.thrown_away_at < before(now, THROWN_AWAY))
    old = select(Draft.id).where(Draft.case_id.is_(None), over)
    with write_session(office.engine) as session:
        for draft_id in list(session.scalars(old.limit(200))):
            tell_of_given_up(office, session, draft_id)
            erase_draft(session, draft_id)
        session.execute(delete(RegisterAnswer).where(RegisterAnswer.asked_at < before(now, ANSWERS_KEPT)))
        _erase_unconfirmed(session, now)
        named = set().union(*_of_drafts(session))
        loose = select(StoredFile.sha256).where(StoredFile.kept_at < before(now, LOOSE))
        loose = loose.where(~exists().where(FileUse.sha256 == StoredFile.sha256))
        hashes = [sha256 for sha256 in session.scalars(loose.limit(1000)) if sha256 not in named]
    return _remove(office, hashes)


def _erase_unconfirmed(session: Session, now: datetime) -> None:
    has_cases = exists().where(Case.applicant_id == Person.id)  # who claimed a case that the office had recorded
    over = Person.confirmed.is_(False), Person.made_at < before(now, UNCONFIRMED), ~has_cases
    for person in list(session.scalars(select(Person).where(*over).limit(200))):
        for draft_id in list(session.scalars(select(Draft.id).where(Draft.owner_id == person.id))):
            erase_draft(session, draft_id)
        for table in (OneTimeLink, MailCode, TextCode, SignIn):
            session.execute(delete(table).where(table.person_id == person.id))
        session.delete(person)
