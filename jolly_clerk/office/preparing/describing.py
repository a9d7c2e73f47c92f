"""Telling something of a file: a description, its day, its language, its number among volumes, of which file it is the translation."""

from __future__ import annotations

from jolly_clerk.core.dossier.describing import described, fault_of_told
from jolly_clerk.core.dossier.model import Dossier, FileTold
from jolly_clerk.core.say import say
from jolly_clerk.office.errors import Invalid, NotFound
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.preparing.drafts import OpenDraft, change_draft
from jolly_clerk.office.rules.rulebooks import office_calendar


def describe(office: Office, who: Who, draft_id: str, attachment: str, told: FileTold, seen: int | None = None) -> OpenDraft:
    """Tell something of a file. Raises NotFound, Invalid with the field."""
    told = told.model_copy(update={"description": " ".join(told.description.split())})
    today = office_calendar(office).local_day(office.now())

    def put(dossier: Dossier) -> Dossier:
        field, sentence = fault_of_told(dossier, attachment, told, today)
        if field:
            raise Invalid(sentence, field)
        made = described(dossier, attachment, told)
        if made is None:
            raise NotFound(say("This file is not in the draft."))
        return made

    return change_draft(office, who, draft_id, put, seen)
