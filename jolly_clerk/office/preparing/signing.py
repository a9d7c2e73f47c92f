"""Signing a draft, ticking its declarations, insisting on it, and putting a place of an answer back to what was filed."""

from __future__ import annotations

from jolly_clerk.core.dossier.changing import put_back, tick
from jolly_clerk.core.dossier.model import Signing
from jolly_clerk.core.dossier.signing import covered, signed
from jolly_clerk.core.say import say
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.preparing.drafts import OpenDraft, change_draft, open_draft

#: so many letters make a reason
LEAST_REASON = 10


def sign(office: Office, who: Who, draft_id: str, name: str, seen: int | None = None) -> OpenDraft:
    """Sign the declaration with a typed name; the exact text signed is kept with the time."""
    need_name(name)
    there = open_draft(office, who, draft_id)
    if there.access.counter:
        raise NotAllowed(say("The office never signs for anybody: note how the applicant consents."))
    signing = Signing(
        name=name.strip(),
        at=office.now().replace(microsecond=0),
        text=there.rulebook.edition.signature.text,
        covers=covered(there.dossier),  # what was read: if it is changed meanwhile, it is signed anew
    )
    return change_draft(office, who, draft_id, lambda dossier: signed(dossier, signing), seen)


def need_name(name: str) -> None:
    """Raise Invalid unless this can be the name of whoever signs."""
    if len(name.strip()) < 2 or len(name) > 120:
        raise Invalid(say("Sign with your full name, as you would write it."), "signature")


def unsign(office: Office, who: Who, draft_id: str, seen: int | None = None) -> OpenDraft:
    """Take the signature back while it is a draft."""
    return change_draft(office, who, draft_id, lambda dossier: dossier.model_copy(update={"signature": None}), seen)


def declare(office: Office, who: Who, draft_id: str, declaration: str, ticked: bool, seen: int | None = None) -> OpenDraft:
    """Tick a declaration, or take the tick back; its exact text is kept with the time."""
    now = open_draft(office, who, draft_id)
    said = next((d.declaration for d in now.rulebook.declarations if d.declaration.declare == declaration), None)
    if said is None:
        raise NotFound(say("There is no such declaration here."))
    text, at = said.text, office.now().replace(microsecond=0) if ticked else None
    return change_draft(office, who, draft_id, lambda dossier: tick(dossier, declaration, text, at), seen)


def drop_change(office: Office, who: Who, draft_id: str, place: str, seen: int | None = None) -> OpenDraft:
    """In an answer: put one place back to what was filed."""
    now = open_draft(office, who, draft_id)
    if now.case is None:
        raise Invalid(say("Nothing was filed yet that could be put back."))
    filed = now.history.versions[-1].dossier
    return change_draft(office, who, draft_id, lambda dossier: put_back(dossier, filed, place), seen)


def insist(office: Office, who: Who, draft_id: str, reason: str, seen: int | None = None) -> OpenDraft:
    """File though it is not needed, where the law lets one: why; an empty reason takes it back. Raises Invalid where it does not."""
    decided = open_draft(office, who, draft_id).assessment.way_in
    reason = " ".join(reason.split())[:1000]
    if reason and (decided is None or not decided.insist):
        raise Invalid(say("Here one cannot insist: see what the way in says."))
    if reason and len(reason) < LEAST_REASON:
        raise Invalid(say("Say in a few words why it is to be filed all the same."), "insists")
    return change_draft(office, who, draft_id, lambda dossier: dossier.model_copy(update={"insists": reason}), seen)
