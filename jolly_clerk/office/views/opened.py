"""Who opened a case: noted when a person opens it, and by nothing else."""

from __future__ import annotations

from dataclasses import dataclass

from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.desk.waiting import seen
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.directory import also_here, note_opened


@dataclass(frozen=True, slots=True)
class Opened:
    """The names of others of the office who opened the case in the last minutes; nobody for an applicant."""

    others_here: tuple[str, ...]


def opened(office: Office, who: Who, reference: str) -> Opened:
    """Note that somebody opened a case, and tell who else has it open. Raises NotFound."""
    case = load_case(office, who, reference).case
    others = tuple(also_here(office, who, case.id)) if who.sees_all else ()
    note_opened(office, who, case.id)
    seen(office, who, case.id, "mention", "fell")
    return Opened(others)
