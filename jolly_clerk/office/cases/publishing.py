"""What the public register says of a case, kept beside its list row."""

from __future__ import annotations

from typing import TYPE_CHECKING

from sqlalchemy import bindparam, delete, select
from sqlalchemy.orm import Session

from jolly_clerk.core.public_register import PublicEntry, public_entry
from jolly_clerk.store.database import query
from jolly_clerk.store.public import PublicLine
from jolly_clerk.store.tables import Case

if TYPE_CHECKING:
    from jolly_clerk.office.cases.casework import Loaded


def entry_of(loaded: Loaded) -> PublicEntry | None:
    """What the register says of a case as it stands."""
    a = loaded.assessment
    return public_entry(loaded.sheet, loaded.so_far, a.permit, loaded.known.calendar, loaded.history.entries)


_LINE = select(PublicLine.case_id).where(PublicLine.case_id == bindparam("case_id"))


def keep_public(session: Session, case: Case, loaded: Loaded) -> None:
    """Write what the public register says of a case, or that it says nothing any more, in the caller's write."""
    said, there = entry_of(loaded), query(session, _LINE, case_id=case.id).first() is not None
    if said is None:
        if there:
            session.execute(delete(PublicLine).where(PublicLine.case_id == case.id))
        return
    line = session.get(PublicLine, case.id) if there else None
    line = line or PublicLine(case_id=case.id, reference=case.reference, kind=loaded.rulebook.edition.kind)
    line.title, line.outcome, line.decided = loaded.rulebook.edition.title, said.outcome, said.decided
    line.starts, line.until, line.place, line.map = said.starts, said.until, said.place[:200], said.map
    line.ended = said.ended
    line.words, line.says = f"{case.reference.lower()} {said.words}"[:2000], [list(pair) for pair in said.says]
    session.add(line)
