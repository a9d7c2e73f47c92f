"""Who opened a case: noted when a person opens it, and by nothing else."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from jolly_clerk.core.story import Moment, since_looked
from jolly_clerk.office.cases.casework import load_case, moments_of
from jolly_clerk.office.desk.waiting import seen
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.directory import also_here, names, note_opened, opened_last


@dataclass(frozen=True, slots=True)
class Opened:
    """The names of others of the office who opened the case in the last minutes, nobody for an applicant; when one looked at it last,
    and what others did since, oldest first."""

    others_here: tuple[str, ...]
    looked_at: datetime | None
    since: tuple[Moment, ...]


def opened(office: Office, who: Who, reference: str) -> Opened:
    """Note that somebody opened a case, and tell who else has it open. Raises NotFound."""
    loaded = load_case(office, who, reference)
    case, moments = loaded.case, moments_of(loaded, names(office, loaded.people)) if who.sees_all else ()
    looked_at, since = since_looked(moments, loaded.history.entries, who.id, opened_last(office, who, case.id))
    others = tuple(also_here(office, who, case.id)) if who.sees_all else ()
    note_opened(office, who, case.id, case.changed_at)
    seen(office, who, case.id, "mention", "fell")
    return Opened(others, looked_at, since)
