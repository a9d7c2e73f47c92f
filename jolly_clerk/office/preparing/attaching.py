"""Files of a draft: attached to a slot and read, taken out again; how content is kept and named."""

from __future__ import annotations

import io
import re
import unicodedata
from collections.abc import Sequence
from typing import IO, NamedTuple

from sqlalchemy import select

from jolly_clerk.core.dossier.changing import AlreadyThere
from jolly_clerk.core.dossier.changing import attach as put_in
from jolly_clerk.core.dossier.changing import detach as without
from jolly_clerk.core.dossier.changing import exchange as exchanged
from jolly_clerk.core.dossier.model import Attachment, Dossier
from jolly_clerk.core.say import say
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, TooLarge
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.preparing.access import need_right
from jolly_clerk.office.preparing.drafts import OpenDraft, change_draft, open_draft
from jolly_clerk.office.preparing.reading_queue import ReadingQueue, enqueue, keep_reading
from jolly_clerk.reading.read import READER
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import StoredFile, StoredReading

MOST_FILES = 200


def clean_name(name: str) -> str:
    """A file name without path parts and without what cannot be shown; at most 200 characters."""
    last = re.split(r"[/\\]", unicodedata.normalize("NFC", name))[-1]
    shown = "".join(c for c in last if unicodedata.category(c)[0] != "C").strip(" .")
    stem, dot, ending = shown.rpartition(".")
    if len(shown) > 200:
        shown = f"{stem[: 199 - len(ending)]}{dot}{ending[:20]}"
    return shown or say("file without a name")


def too_large(office: Office, name: str, size: int) -> None:
    """Raise TooLarge if a file has more than can be sent at once; ``size`` in bytes."""
    most = office.settings.most_upload_mb
    if size > most * 1_000_000:
        raise TooLarge(
            say(
                "“{name}” has {size} MB; at most {most} MB can be sent at once.",
                name=name,
                size=f"{size / 1000000.0:.0f}",
                most=most,
            )
        )


def already_there(name: str, place: str) -> Invalid:
    """What is told of a file that stands in its slot already."""
    return Invalid(say("“{name}” is in this slot already, with the same content.", name=name), place)


class NewFile(NamedTuple):
    """A file that arrives for a slot, which is the id of a document or, for one of a repeat, ``contract.2``."""

    slot: str
    name: str
    content: bytes | IO[bytes]


def attach(
    office: Office, who: Who, draft_id: str, slot: str, name: str, content: bytes | IO[bytes], seen: int | None = None
) -> OpenDraft:
    """Attach one file; see :func:`attach_all`."""
    return attach_all(office, who, draft_id, [NewFile(slot, name, content)], seen)


def attach_all(office: Office, who: Who, draft_id: str, files: Sequence[NewFile], seen: int | None = None) -> OpenDraft:
    """Attach files to their slots: kept first, then named in the draft; they are read beside the request where a server does it.

    Raises:
        TooLarge: one of them is larger than a file may be, or there are too many.
        Invalid: there is no such slot, somebody else delivers into it, or it holds this file already.
    """
    files = [NewFile(file.slot, clean_name(file.name), file.content) for file in files]
    open_now = open_draft(office, who, draft_id)
    need_right(open_now.access, "attach", "documents")
    for file in files:
        if isinstance(file.content, bytes):
            too_large(office, file.name, len(file.content))
        takes(open_now, file.slot)
    kept = keep_files(office, who, [file.content for file in files])
    versions = open_now.history.versions
    replaced = {old for file in files if (old := _replaced(open_now, file.slot))}

    def put(dossier: Dossier) -> Dossier:
        for (slot, name, _), (sha256, size) in zip(files, kept, strict=True):
            if len(dossier.attachments) >= MOST_FILES:
                raise TooLarge(say("There are {most_files} files here already; no more can be taken.", most_files=MOST_FILES))
            if not versions:  # nothing was filed yet: two photographs of one name are two
                name = free_name(dossier, slot, name, sha256)
            try:
                dossier = put_in(dossier, versions, slot, name, sha256, size)
            except AlreadyThere:
                raise already_there(name, f"documents.{slot}") from None
        kept_on = tuple(a for a in dossier.attachments if a.id not in replaced)
        return dossier.model_copy(update={"attachments": kept_on})

    return change_draft(office, who, draft_id, put, seen)


def free_name(dossier: Dossier, slot: str, name: str, sha256: str = "") -> str:
    """A name that no file of the slot has yet: ``scan (2).pdf``; the name as it is for the same content once more."""
    there = [a for a in dossier.attachments if a.slot == slot]
    if any(a.sha256 == sha256 for a in there):
        return name
    taken = {a.name for a in there}
    stem, dot, ending = name.rpartition(".")
    stem, tail = (stem, f"{dot}{ending}") if dot else (name, "")
    names = (f"{stem}{f' ({n})' if n > 1 else ''}{tail}" for n in range(1, MOST_FILES + 2))
    return next(free for free in names if free not in taken)


def filed_before(draft: OpenDraft, slot: str) -> list[Attachment]:
    """The files of a slot that stand in the version to which answers are prepared; none in a filing."""
    if draft.case is None or draft.assessment.case.filed is None or not draft.history.versions:
        return []
    return [a for a in draft.history.versions[-1].dossier.attachments if a.slot == slot]


def _replaced(draft: OpenDraft, slot: str) -> str:
    """The id of the one file that was filed in a slot and stands there yet: a new one takes its place in an answer. It can be put back."""
    filed = {a.id for a in filed_before(draft, slot)}
    there = [a.id for a in draft.dossier.attachments if a.slot == slot and a.id in filed]
    return there[0] if len(there) == 1 else ""


def asked_by_hand(draft: OpenDraft, slot: str) -> bool:
    """True for a slot that a letter which waits for its answer opened for something asked by hand."""
    rounds = (r for r in draft.assessment.common.all_rounds if r.answered_at is None)
    return slot.startswith("added-") and any(f"documents.{slot}" in p.asked.places for r in rounds for p in r.points.values())


def takes(draft: OpenDraft, slot: str, name: str = "", size: int = 0) -> None:
    """Raise Invalid if the applicant cannot put a file into this slot, TooLarge if it takes none of this size (in bytes)."""
    if asked_by_hand(draft, slot):
        return
    compiled = draft.rulebook.slot_at(slot)
    if compiled is None or draft.assessment.requirement(f"documents.{slot}") is None:
        raise Invalid(say("There is no such slot for documents."), f"documents.{slot[:40]}")
    if compiled.slot.delivered_by:
        raise Invalid(
            say(
                "{delivered_by} sends this straight to the office; it cannot be attached here.",
                delivered_by=compiled.slot.delivered_by,
            ),
            f"documents.{slot}",
        )
    if size > compiled.slot.accepts.most_bytes:
        raise TooLarge(
            say(
                "“{name}” has {size} MB; at most {most} is taken here.",
                name=name,
                size=f"{size / 1_000_000:.1f}",
                most=compiled.slot.accepts.size,
            ),
            f"documents.{slot}",
        )


def keep_files(office: Office, who: Who, contents: Sequence[bytes | IO[bytes]]) -> list[tuple[str, int]]:
    """Put contents into the vault and have those not known yet read; returns each one's SHA-256 and size in bytes.

    In a server they wait in the queue of readings; else they are read here, in fenced readers.
    """
    kept = [office.vault.take(io.BytesIO(c) if isinstance(c, bytes) else c) for c in contents]
    sizes = dict(kept)
    with read_session(office.engine) as session:
        known = set(
            session.scalars(select(StoredReading.sha256).where(StoredReading.sha256.in_(sizes), StoredReading.reader == READER))
        )
    unread = [sha256 for sha256 in sizes if sha256 not in known]
    queue = office.reading_queue if isinstance(office.reading_queue, ReadingQueue) else None
    found = [] if queue else office.readers.read_all([office.vault.path(sha256) for sha256 in unread])
    with write_session(office.engine) as session:
        for sha256, size in sizes.items():
            row = session.get(StoredFile, sha256)
            if row is None:
                session.add(StoredFile(sha256=sha256, size=size, kept_at=office.now()))
            else:  # it is under way again: what nothing names is kept for some days from now
                row.kept_at = office.now()
        for read in found:
            keep_reading(office, session, who.id, read)
        if queue:
            enqueue(office, session, who.id, unread)
    if queue:
        queue.wake()
    return kept


def exchange(office: Office, who: Who, draft_id: str, first: str, second: str, seen: int | None = None) -> OpenDraft:
    """Put two files of a draft into each other's slots."""
    versions = open_draft(office, who, draft_id).history.versions

    def put(dossier: Dossier) -> Dossier:
        changed = exchanged(dossier, versions, first, second)
        if changed is None:
            raise NotFound(say("This file is not in the draft."))
        return changed

    return change_draft(office, who, draft_id, put, seen)


def detach(office: Office, who: Who, draft_id: str, attachment: str, seen: int | None = None) -> OpenDraft:
    """Take a file out of a draft."""

    def take(dossier: Dossier) -> Dossier:
        if any(a.id == attachment and a.issuer for a in dossier.attachments):
            raise NotAllowed(say("This was sent straight to the office; it stays where it is."), "documents")
        left = without(dossier, attachment)
        if left is None:
            raise NotFound(say("This file is not in the draft."))
        return left

    return change_draft(office, who, draft_id, take, seen)
