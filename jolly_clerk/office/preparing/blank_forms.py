"""The office's own blank forms, filled in with what a draft says already."""

from __future__ import annotations

from jolly_clerk.core.facts.form_fields import fields_of
from jolly_clerk.core.say import say
from jolly_clerk.letters.blank_form import Blank, blank_form
from jolly_clerk.office.errors import NotFound
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.preparing.drafts import open_draft


def form_of_draft(office: Office, who: Who, draft_id: str, slot: str) -> bytes:
    """The form of a slot (``child_form.2`` of the second repeat), as a PDF with fields. Raises NotFound where the office has none."""
    now = open_draft(office, who, draft_id)
    compiled = now.rulebook.slot_at(slot)
    if compiled is None or not compiled.slot.form:
        raise NotFound(say("The office has no form for this."))
    fields = fields_of(now.rulebook, compiled.slot, now.dossier.answers, slot.partition(".")[2])
    return blank_form(
        office.name,
        compiled.slot.title,
        compiled.slot.says,
        [Blank(f.id, f.ask, f.known, f.lines) for f in fields],
        say("Fill it in on the screen and attach it here, or print it. What you fill in on the screen is read field by field."),
    )
