"""What granted short filings do: an entry in the history of the permit's case, and what comes back of what was paid for it.

What a stop in between left undone is taken up by the clock job, and nothing is done twice.
"""

from __future__ import annotations

import secrets
from collections.abc import Sequence
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from jolly_clerk.core import history as h
from jolly_clerk.core.permit_entries import PermitStep
from jolly_clerk.core.permit_steps import comes_back, effect_of, says_of
from jolly_clerk.core.say import say, speaking
from jolly_clerk.office.cases.casework import Loaded, act, load_case
from jolly_clerk.office.cases.endings import CLOCK
from jolly_clerk.office.office import Office
from jolly_clerk.office.permits.holding import offer_permit
from jolly_clerk.office.post.mailing import deliver_soon, put_out
from jolly_clerk.office.post.papers import permit_paper
from jolly_clerk.office.rules.rulebooks import rulebook
from jolly_clerk.store.database import read_session
from jolly_clerk.store.permits import FiledStep, HeldPermit
from jolly_clerk.store.tables import Case
from jolly_clerk.texts import catalogue

#: letters that cannot be taken for one another, for codes that are read aloud
CODE_LETTERS = "ABCDEFGHJKLMNPRSTUVWXYZ23456789"


def new_code() -> str:
    """A permit's code: four groups of four, long enough that nobody guesses one."""
    return "-".join("".join(secrets.choice(CODE_LETTERS) for _ in range(4)) for _ in range(4))


def carry_out_steps(office: Office) -> int:
    """Carry out every short filing that was granted and is not written into its permit yet; returns how many."""
    with read_session(office.engine) as session:
        wanted = select(FiledStep.case_id).join(Case, Case.id == FiledStep.case_id)
        ids = list(session.scalars(wanted.where(FiledStep.done_at.is_(None), Case.permit_code.is_not(None))))
    for case_id in ids:
        carry_out(office, case_id)
    return len(ids)


def carry_out(office: Office, case_id: str) -> None:
    """Write what a short filing does into the history of its permit, once it is granted and paid; harmless as often as it is asked."""
    with read_session(office.engine) as session:
        row = session.get(FiledStep, case_id)
    if row is None or row.done_at is not None:
        return
    step = load_case(office, CLOCK, row.reference)
    effect = effect_of(step.assessment, row.reference)
    if step.so_far.issued is None or effect is None:
        return
    back, now = comes_back(step.assessment), office.now()

    def entries(permit: Loaded) -> Sequence[h.Entry]:
        if any(e.reference == row.reference for e in permit.so_far.permit.steps):
            return []
        more = {"at": now, **_in_languages(office, step), **_new_document(office, permit, effect)}
        made: list[h.Entry] = [effect.model_copy(update=more)]
        if amount := min(back, permit.so_far.paid):
            because = say("{title} ({reference})", title=effect.title, reference=row.reference)
            key = f"{row.reference}-back"
            made.append(h.RefundDue(at=now, who="office", role="office", amount=amount, because=because, key=key))
        return made

    def done(session: Session, permit_case: Case, made: Sequence[h.Entry]) -> Sequence[h.Entry]:
        session.get_one(FiledStep, case_id).done_at = now
        if made and effect.does == "transfers":
            offer_permit(office, session, permit_case, step)
        for entry in made:
            if isinstance(entry, PermitStep) and entry.permit_sha256:
                key = f"{entry.reference}-document"
                held = session.get(HeldPermit, permit_case.id)
                holder = (held and held.holder_id) or ""
                put_out(session, permit_case, key, entry.title, entry.permit_sha256, now, holder=holder)
        return made

    act(office, CLOCK, row.permit, "", entries, finish=done)
    deliver_soon(office)


def _in_languages(office: Office, step: Loaded) -> dict[str, dict[str, Any]]:
    """What a short filing is called and what the permit says from then on, in each language in which its edition says itself."""
    titles, says = dict[str, str](), dict[str, dict[str, str]]()
    for language in step.rulebook.edition.translations:
        with speaking(catalogue(language), language):
            rules = rulebook(office, step.case.edition_sha256)
            titles[language] = rules.edition.title
            if rules.step and (told := says_of(rules.step, step.sheet.values)):
                says[language] = told
    return {"title_in": titles, "says_in": says}


def _new_document(office: Office, permit: Loaded, effect: PermitStep) -> dict[str, str]:
    """The code and the PDF of the document that replaces the one before; nothing for another step."""
    if effect.does != "replaces" or permit.so_far.granted is None:
        return {}
    code = new_code()
    return {"code": code, "permit_sha256": office.vault.put(permit_paper(office, permit, code, permit.so_far.granted))}
