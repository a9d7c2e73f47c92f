"""Taking an entry of a register over into a draft; what is altered afterwards is flagged."""

from __future__ import annotations

from jolly_clerk.core.dossier.changing import by_hand, fill_from_register, numbers_in
from jolly_clerk.core.ports import NoAnswer
from jolly_clerk.core.say import say
from jolly_clerk.office.desk.registers import keep_answer, outer, register_of
from jolly_clerk.office.errors import Invalid, NotFound
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.preparing.access import need_right
from jolly_clerk.office.preparing.drafts import OpenDraft, change_draft, open_draft


def take_over(office: Office, who: Who, draft_id: str, name: str, key: str, seen: int | None = None, item: int = 0) -> OpenDraft:
    """Fill in what a register knows about ``key``, into a repeat of its part where one is named. If it does not answer, the draft says so
    and the way on is by hand. Raises NotFound, NotAllowed, Invalid where the repeat is not there."""
    now = open_draft(office, who, draft_id)
    need_right(now.access, "fill")
    register = register_of(now.rulebook, name)
    part = now.rulebook.questions[register.asked_by].part
    if part.each != bool(item) or (item and item not in numbers_in(now.dossier.answers.get(part.id))):
        raise Invalid(say("This register fills in another part of the form."), register.asked_by)
    try:
        row = keep_answer(office, now.rulebook, name, key, who.id)
    except NoAnswer:
        return change_draft(office, who, draft_id, lambda dossier: by_hand(dossier, name), seen)
    if row is None:
        raise NotFound(
            say("{title}: there is no entry {key}. Type it by hand; the officer will look.", title=register.title, key=key[:40]),
            register.asked_by,
        )
    told, at = outer(register, row), office.now()
    return change_draft(
        office, who, draft_id, lambda dossier: fill_from_register(dossier, now.rulebook, name, key, told, at, item), seen
    )
