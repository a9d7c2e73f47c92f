"""Undoing what was removed while preparing: a file that was taken out, a draft that was thrown away."""

from __future__ import annotations

from jolly_clerk.core.dossier.changing import AlreadyThere
from jolly_clerk.core.dossier.changing import attach as put_in
from jolly_clerk.core.dossier.model import Attachment, Dossier
from jolly_clerk.core.say import say
from jolly_clerk.office.errors import NotFound
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.preparing.access import shared_draft
from jolly_clerk.office.preparing.drafts import OpenDraft, change_draft, open_draft
from jolly_clerk.office.preparing.revisions import tell_of
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import Draft


def put_back_file(office: Office, who: Who, draft_id: str, attachment: str, seen: int | None = None) -> OpenDraft:
    """Put a file back into the slot from which it was taken; it gets a new id, as no id is given twice.

    Raises NotFound if it was not taken out of this draft, or is no longer kept.
    """
    versions = open_draft(office, who, draft_id).history.versions
    with read_session(office.engine) as session:
        taken = [Attachment.model_validate(raw) for raw in shared_draft(session, who, draft_id)[0].removed]
    file = next((a for a in reversed(taken) if a.id == attachment), None)
    if file is None or not office.vault.path(file.sha256).is_file():
        raise NotFound(say("This file is no longer kept. Choose it again."))

    def put(dossier: Dossier) -> Dossier:
        try:
            return put_in(dossier, versions, file.slot, file.name, file.sha256, file.size)
        except AlreadyThere:
            return dossier  # two windows undid the same

    return change_draft(office, who, draft_id, put, seen)


def bring_back(office: Office, who: Who, draft_id: str) -> OpenDraft:
    """Bring a draft back that was thrown away. Raises NotFound if it is gone or was never one's own."""
    with write_session(office.engine) as session:
        draft = session.get(Draft, draft_id)
        if draft is None or draft.owner_id != who.id:
            raise NotFound(say("This draft is no longer kept."))
        draft.thrown_away_at = None
        tell_of(office, session, draft)
    return open_draft(office, who, draft_id)
