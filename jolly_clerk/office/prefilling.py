"""Taking an entry of a register over into a draft; what is altered afterwards is flagged."""

from __future__ import annotations

from typing import Any

from jolly_clerk.core.dossier.model import Prefilled
from jolly_clerk.office.drafts import OpenDraft, change_draft, open_draft
from jolly_clerk.office.errors import NotFound
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.registers import keep_answer, outer, register_of
from jolly_clerk.standins.registers import NoAnswer


def take_over(office: Office, who: Who, draft_id: str, name: str, key: str) -> OpenDraft:
    """Fill in what a register knows about ``key``. If it does not answer, the draft says so and the way on is by hand."""
    now = open_draft(office, who, draft_id)
    register = register_of(now.rulebook, name)
    try:
        row = keep_answer(office, now.rulebook, name, key, who.id)
    except NoAnswer:
        silent = tuple(dict.fromkeys((*now.dossier.by_hand, name)))
        return change_draft(office, who, draft_id, None, by_hand=silent)
    if row is None:
        raise NotFound(
            f"{register.title}: there is no entry {key[:40]}. Type it by hand; the officer will look.", register.asked_by
        )
    told = outer(register, row)
    answers: dict[str, Any] = {p: dict(g) if isinstance(g, dict) else g for p, g in now.dossier.answers.items()}
    filled = []
    for place, node in now.rulebook.questions.items():
        source, _, column = (node.question.register_ or "").partition(".")
        if source == name and not node.part.each and told.get(column):
            answers.setdefault(node.part.id, {})[node.question.id] = told[column]
            filled.append(Prefilled(place=place, source=name, key=key, value=told[column], at=office.now()))
    filled_now = {p.place for p in filled}
    others = tuple(p for p in now.dossier.prefilled if p.source != name and p.place not in filled_now)
    still_silent = tuple(n for n in now.dossier.by_hand if n != name)
    return change_draft(office, who, draft_id, None, answers=answers, prefilled=(*others, *filled), by_hand=still_silent)
