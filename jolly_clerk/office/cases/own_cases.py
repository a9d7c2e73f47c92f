"""The office's own cases as a register: an applicant's case of another kind, by its reference, with some of its answers."""

from __future__ import annotations

from sqlalchemy import select

from jolly_clerk.core.dossier.differences import raw_answers
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.ports import as_key
from jolly_clerk.core.rulebook.model import Register
from jolly_clerk.core.states import UNFILED
from jolly_clerk.office.office import Office
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Case, FiledVersion


def own_case(office: Office, register: Register, applicant_id: str, key: str) -> dict[str, str] | None:
    """What is known of the case of that reference, as a row of ``register``; None if the applicant has no such case."""
    wanted = as_key(key)
    return next((row for row in own_cases(office, register, applicant_id) if as_key(row[register.key]) == wanted), None)


def own_cases(office: Office, register: Register, applicant_id: str) -> list[dict[str, str]]:
    """Every filed case of the applicant that the register holds, newest first."""
    wanted = select(Case).where(Case.kind == register.cases_of, Case.applicant_id == applicant_id, Case.state != UNFILED)
    found = []
    with read_session(office.engine) as session:
        for case in session.scalars(wanted.order_by(Case.filed_at.desc())):
            latest = session.get(FiledVersion, (case.id, case.version))
            flat = raw_answers(Dossier.model_validate_json(latest.dossier)) if latest else {}
            given = {column: str(flat.get(place, "")) for column, place in register.gives.items()}
            row = {"state": case.state, "title": case.title, **given, register.key: case.reference}
            found.append({column: row.get(column, "") for column in register.columns})
    return found
