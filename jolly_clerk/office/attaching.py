"""Files of a draft: attached to a slot and read at once, taken out again; how content is kept and named."""

from __future__ import annotations

import re
import unicodedata

from sqlalchemy import select

from jolly_clerk.core.dossier.changing import AlreadyThere
from jolly_clerk.core.dossier.changing import attach as put_in
from jolly_clerk.core.dossier.changing import detach as without
from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.office.drafts import OpenDraft, change_draft, open_draft
from jolly_clerk.office.errors import Invalid, NotFound, TooLarge
from jolly_clerk.office.office import Office, Who
from jolly_clerk.store.database import reading, writing
from jolly_clerk.store.tables import StoredFile, StoredReading

MOST_FILES = 200


def clean_name(name: str) -> str:
    """A file name without path parts and without what cannot be shown; at most 200 characters."""
    last = re.split(r"[/\\]", unicodedata.normalize("NFC", name))[-1]
    shown = "".join(c for c in last if unicodedata.category(c)[0] != "C").strip(" .")
    stem, dot, ending = shown.rpartition(".")
    if len(shown) > 200:
        shown = f"{stem[: 199 - len(ending)]}{dot}{ending[:20]}"
    return shown or "file without a name"


def too_large(office: Office, name: str, size: int) -> None:
    """Raise TooLarge if a file has more than can be sent at once; ``size`` in bytes."""
    most = office.settings.most_upload_mb
    if size > most * 1_000_000:
        raise TooLarge(f"“{name}” has {size / 1e6:.0f} MB; at most {most} MB can be sent at once.")


def attach(office: Office, who: Who, draft_id: str, slot: str, name: str, content: bytes, seen: int | None = None) -> OpenDraft:
    """Attach a file to a slot: kept first, then read, then named in the draft."""
    name = clean_name(name)
    too_large(office, name, len(content))
    open_now = open_draft(office, who, draft_id)
    compiled = open_now.rulebook.slot_at(slot)
    if compiled is None or open_now.assessment.requirement(f"documents.{slot}") is None:
        raise Invalid("There is no such slot for documents.", f"documents.{slot[:40]}")
    if compiled.slot.delivered_by:
        raise Invalid(
            f"{compiled.slot.delivered_by} sends this straight to the office; it cannot be attached here.", f"documents.{slot}"
        )
    sha256, versions = keep_file(office, content), open_now.history.versions

    def put(dossier: Dossier) -> Dossier:
        if len(dossier.attachments) >= MOST_FILES:
            raise TooLarge(f"There are {MOST_FILES} files here already; no more can be taken.")
        try:
            return put_in(dossier, versions, slot, name, sha256, len(content))
        except AlreadyThere:
            raise Invalid(f"“{name}” is in this slot already, with the same content.", f"documents.{slot}") from None

    return change_draft(office, who, draft_id, put, seen)


def keep_file(office: Office, content: bytes) -> str:
    """Put content into the vault, read it in a fenced reader, and note both; returns its SHA-256."""
    sha256 = office.vault.put(content)
    with reading(office.engine) as session:
        known = session.scalars(select(StoredReading).where(StoredReading.sha256 == sha256)).first()
    found = None if known else office.readers.read(office.vault.path(sha256))
    with writing(office.engine) as session:
        session.merge(StoredFile(sha256=sha256, size=len(content), kept_at=office.now()))
        if found:
            row = StoredReading(sha256=sha256, reader=found.reader, reading=found.model_dump_json(), read_at=office.now())
            session.merge(row)
    return sha256


def detach(office: Office, who: Who, draft_id: str, attachment: str, seen: int | None = None) -> OpenDraft:
    """Take a file out of a draft."""

    def take(dossier: Dossier) -> Dossier:
        left = without(dossier, attachment)
        if left is None:
            raise NotFound("This file is not in the draft.")
        return left

    return change_draft(office, who, draft_id, take, seen)
