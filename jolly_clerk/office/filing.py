"""Filing: a draft becomes a case with a reference."""

from __future__ import annotations

from jolly_clerk.core.dossier.model import Version
from jolly_clerk.core.history import Filed, History
from jolly_clerk.core.reference import make_reference
from jolly_clerk.office.casework import assessed, project
from jolly_clerk.office.drafts import open_draft
from jolly_clerk.office.errors import NotReady, Stale
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.store.chain import append, keep_version, seal
from jolly_clerk.store.database import next_number, writing
from jolly_clerk.store.tables import Case, Draft


def file(office: Office, who: Who, draft_id: str, counter: int | None = None, take_gaps: bool = False) -> str:
    """File a draft; returns the reference. ``take_gaps`` says that the listed gaps were read and accepted.

    Raises NotReady with every gap if there are some and they were not accepted, or may not be.
    """
    ready = open_draft(office, who, draft_id)
    move = ready.assessment.move("applicant", "file")
    if not move.allowed:
        raise NotReady(move.why_not[0].text, "", move.why_not)
    if move.warnings and not take_gaps:
        raise NotReady("Something is still missing. It can be filed like this; the office will ask for it.", "", move.warnings)
    now, due = office.now(), ready.assessment.fees.total("at filing").low
    case_id = new_id()
    year = ready.assessment.filing_day.year
    sealed = seal(Version(no=1, at=now, dossier=ready.dossier))
    with writing(office.engine) as session:
        draft = session.get(Draft, draft_id)
        if draft is None or draft.counter != (ready.draft.counter if counter is None else counter):
            raise Stale("This draft was changed or filed in another window. Look at it again before you file.")
        number = next_number(session, f"case {ready.draft.kind} {year}")
        case = Case(
            id=case_id,
            reference=make_reference(ready.draft.kind, year, number),
            kind=ready.draft.kind,
            edition_sha256=ready.edition_sha256,
            applicant_id=who.id,
            own_reference=ready.draft.own_reference,
            title="",
            state="",
            holder="",
            filed_at=now,
            changed_at=now,
            version=1,
            step="",
            next_officer="",
            next_applicant="",
            squares=[],
            entries=0,
        )
        session.add(case)
        session.flush()
        filed = Filed(
            at=now,
            who=who.id,
            role="applicant",
            version=1,
            edition=ready.rulebook.edition.id,
            edition_sha256=ready.edition_sha256,
            calendar_version=ready.known.calendar.version,
            due_at_filing=due,
            dossier_hash=sealed.hash,
        )
        keep_version(session, case_id, sealed)
        count = append(session, case_id, [filed])
        project(case, assessed(office, case, History(entries=(filed,), versions=(sealed.version,)), count))
        session.delete(draft)
        return case.reference
