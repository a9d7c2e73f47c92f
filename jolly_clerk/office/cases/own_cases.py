"""The office's own cases as a register: an applicant's case of another kind, by its reference, with some of its answers."""

from __future__ import annotations

from sqlalchemy import Select, select

from jolly_clerk.core.dossier.differences import raw_answers
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.permit_steps import answer_since, permit_row, worked_out_of
from jolly_clerk.core.rulebook.model import Register
from jolly_clerk.core.rulebook.steps import PERMIT_COLUMNS
from jolly_clerk.core.states import UNFILED
from jolly_clerk.office.cases.casework import assessed
from jolly_clerk.office.cases.seeing import held_by
from jolly_clerk.office.office import Office
from jolly_clerk.store.chain import load_history
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Case, FiledVersion


def own_case(office: Office, register: Register, applicant_id: str, key: str) -> dict[str, str] | None:
    """What is known of the case of that reference, as a row of ``register``; None if the applicant has no such case."""
    wanted = _cases(register, applicant_id).where(Case.reference == "".join(key.split()).upper())
    with read_session(office.engine) as session:
        case = session.scalars(wanted).first()
    return _row(office, register, case) if case else None


def own_cases(office: Office, register: Register, applicant_id: str) -> list[dict[str, str]]:
    """Every filed case of the applicant that the register holds, newest first."""
    with read_session(office.engine) as session:
        cases = list(session.scalars(_cases(register, applicant_id).order_by(Case.filed_at.desc())))
    return [_row(office, register, case) for case in cases]


def _cases(register: Register, applicant_id: str) -> Select[Case]:
    return select(Case).where(
        Case.kind == register.cases_of, held_by(applicant_id), Case.state != UNFILED, Case.erased_at.is_(None)
    )


def _row(office: Office, register: Register, case: Case) -> dict[str, str]:
    """A case as a row of the register: its state and title, the answers that it gives, and how its permit stands where that is asked."""
    worked_out = {place for place in register.gives.values() if _is_worked_out(place)}
    with read_session(office.engine) as session:
        latest = session.get(FiledVersion, (case.id, case.version))
        asks_more = worked_out or set(register.columns) & set(PERMIT_COLUMNS)
        history = load_history(session, case.id) if asks_more and not case.kept else None
    told: dict[str, str] = {}
    flat = raw_answers(Dossier.model_validate_json(latest.dossier)) if latest else {}
    if history is not None:
        a = assessed(office, case, history, len(history.entries)).assessment
        told = permit_row(a)
        flat = flat | {place: worked_out_of(a, place) for place in worked_out}
        flat |= {place: words for place in register.gives.values() if (words := answer_since(a, place)) is not None}
    given = {column: str(flat.get(place, "")) for column, place in register.gives.items()}
    row = {"state": case.state, "title": case.title, **told, **given, register.key: case.reference}
    return {column: row.get(column, "") for column in register.columns}


def _is_worked_out(place: str) -> bool:
    """True for a fee line (``fee.price``), or for a computed answer, which has no part."""
    return place.startswith("fee.") or "." not in place
