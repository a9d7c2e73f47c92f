"""What is kept with the list row of a case from its review on: who still has to sign off, on which agendas it is, codes that were replaced."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from datetime import date
from typing import TYPE_CHECKING

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from jolly_clerk.core.lifecycle import CaseSoFar
from jolly_clerk.core.meetings import meeting_of, results_by_meeting
from jolly_clerk.core.permit_entries import replaced_codes
from jolly_clerk.core.reviewing import not_signed
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.store.meetings import AgendaItem
from jolly_clerk.store.permits import ReplacedCode
from jolly_clerk.store.running import ToSignOff

if TYPE_CHECKING:
    from jolly_clerk.office.cases.casework import Loaded


@dataclass(frozen=True)
class UnderReview:
    """What is kept: the codes that were replaced with their days, who is waited for, who meets, and what each meeting came to."""

    codes: Mapping[str, date]
    waited_for: Collection[str]
    body: str
    results: Mapping[str, str]


def under_review(rulebook: Rulebook, case: CaseSoFar) -> UnderReview:
    """What is kept of a case as it stands."""
    meeting = meeting_of(rulebook, case)
    results = results_by_meeting(rulebook, case)
    return UnderReview(replaced_codes(case), not_signed(case), meeting.body if meeting else "", results)


def keep_review(session: Session, case_id: str, loaded: Loaded, before: CaseSoFar | None = None) -> None:
    """Keep who is waited for, the agendas and the codes that were replaced, in the caller's transaction. Nothing is looked for if it is what
    was kept ``before`` under the same edition."""
    now = under_review(loaded.rulebook, loaded.so_far)
    if before is not None and now == under_review(loaded.rulebook, before):
        return
    for code, day in now.codes.items():
        if session.get(ReplacedCode, code) is None:
            session.add(ReplacedCode(code=code, case_id=case_id, day=day))
    _keep_signing(session, case_id, now.waited_for)
    _keep_agendas(session, case_id, now.body, now.results)


def _keep_signing(session: Session, case_id: str, waited_for: Collection[str]) -> None:
    there = set(session.scalars(select(ToSignOff.person_id).where(ToSignOff.case_id == case_id)))
    if gone := there - set(waited_for):
        session.execute(delete(ToSignOff).where(ToSignOff.case_id == case_id, ToSignOff.person_id.in_(gone)))
    session.add_all(ToSignOff(case_id=case_id, person_id=id_) for id_ in waited_for if id_ not in there)


def _keep_agendas(session: Session, case_id: str, body: str, results: Mapping[str, str]) -> None:
    """One row for each agenda; a new one comes last on its agenda."""
    there = {item.meeting_id: item for item in session.scalars(select(AgendaItem).where(AgendaItem.case_id == case_id))}
    for meeting_id, item in there.items():
        if meeting_id not in results:
            session.delete(item)
    for meeting_id, result in results.items():
        if meeting_id in there:
            there[meeting_id].result = result
            continue
        last = session.scalar(select(func.max(AgendaItem.position)).where(AgendaItem.meeting_id == meeting_id)) or 0
        session.add(AgendaItem(case_id=case_id, meeting_id=meeting_id, body=body, position=last + 1, result=result))
