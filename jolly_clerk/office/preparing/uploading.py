"""Uploads that go on where they broke off: begun with their size, sent in pieces, attached when the last piece is here.

What has come lies in ``uploads/`` in the folder of the office; how much that is says its size, whatever was acknowledged.
"""

from __future__ import annotations

import fcntl
import os
from contextlib import suppress
from pathlib import Path
from typing import IO

from sqlalchemy import delete, func, select

from jolly_clerk.core.say import say
from jolly_clerk.office.errors import Invalid, NotFound, Stale, TooOften
from jolly_clerk.office.lifetimes import UPLOADS_KEPT, before
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.office.preparing.access import need_right
from jolly_clerk.office.preparing.attaching import attach, clean_name, takes, too_large
from jolly_clerk.office.preparing.drafts import open_draft
from jolly_clerk.office.preparing.pile import PILE, add_to_pile
from jolly_clerk.store.beside import Upload
from jolly_clerk.store.database import read_session, write_session

#: so many uploads of one person may be under way
MOST_UNDER_WAY = 50


def begin_upload(office: Office, who: Who, draft_id: str, slot: str, name: str, length: int) -> str:
    """Begin an upload into a slot of a draft; returns its id. ``length`` in bytes.

    Raises TooLarge if it is more than can be sent, or than the slot takes, before anything is sent; NotFound, Invalid, TooOften.
    """
    name = clean_name(name)
    too_large(office, name, length)
    draft = open_draft(office, who, draft_id)
    need_right(draft.access, "attach", "documents")
    if slot != PILE:
        takes(draft, slot, name, length)
    upload = Upload(id=new_id(), person_id=who.id, draft_id=draft_id, slot=slot, name=name, length=length, made_at=office.now())
    with write_session(office.engine) as session:
        count = session.scalar(select(func.count()).select_from(Upload).where(Upload.person_id == who.id)) or 0
        if count >= MOST_UNDER_WAY:
            raise TooOften(say("Many of your files are still on their way. Wait until some have arrived."), 60)
        session.add(upload)
        upload_id = upload.id
    folder = office.folder / FOLDER
    folder.mkdir(exist_ok=True)
    _file(office, upload_id).touch()
    return upload_id


FOLDER = "uploads"


def _file(office: Office, upload_id: str) -> Path:
    return office.folder / FOLDER / upload_id


def find_upload(office: Office, who: Who, upload_id: str) -> tuple[Upload, int]:
    """An upload of one's own, and how many bytes of it have come. Raises NotFound."""
    with read_session(office.engine) as session:
        upload = session.get(Upload, upload_id)
    if upload is None or upload.person_id != who.id or not _file(office, upload_id).is_file():
        raise NotFound(say("This upload is over, or was never begun. Send the file again."))
    return upload, _file(office, upload_id).stat().st_size


def receive(office: Office, upload: Upload, offset: int) -> IO[bytes]:
    """The file to which the next piece is added, for one sender at a time; :func:`keep` closes it.

    Raises Stale if as much has not come, or more, or if another piece is just being received.
    """
    file = _file(office, upload.id).open("ab")
    try:
        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        file.close()
        raise Stale(say("Another piece of this file is just being received.")) from None
    if (came := file.tell()) != offset:
        file.close()
        raise Stale(say("{count} bytes of this file have come; go on from there.", count=came))
    return file


def keep(file: IO[bytes]) -> int:
    """Keep what has come, also if the sender broke off; returns how many bytes that are in all."""
    file.flush()
    os.fsync(file.fileno())
    came = file.tell()
    file.close()
    return came


def add_piece(upload: Upload, file: IO[bytes], piece: bytes) -> None:
    """Add a piece. Raises Invalid if it is more than was announced."""
    if file.tell() + len(piece) > upload.length:
        raise Invalid(say("More of this file comes than was announced."))
    file.write(piece)


def finish_upload(office: Office, who: Who, upload: Upload) -> None:
    """Attach a file of which the last piece is here. The upload is over then, also if the slot does not take it (Invalid)."""
    try:
        with _file(office, upload.id).open("rb") as content:
            if upload.slot == PILE:
                add_to_pile(office, who, upload.draft_id, upload.name, content)
            else:
                attach(office, who, upload.draft_id, upload.slot, upload.name, content)
    finally:
        end_upload(office, upload.id)


def end_upload(office: Office, upload_id: str) -> None:
    """Give an upload up."""
    with write_session(office.engine) as session:
        session.execute(delete(Upload).where(Upload.id == upload_id))
    _file(office, upload_id).unlink(missing_ok=True)


def tidy_uploads(office: Office) -> None:
    """Give up what nobody went on with, and remove what belongs to no upload."""
    old = before(office.now(), UPLOADS_KEPT)
    with write_session(office.engine) as session:
        session.execute(delete(Upload).where(Upload.made_at < old))
        known = set(session.scalars(select(Upload.id)))
    for path in (office.folder / FOLDER).glob("*"):
        with suppress(OSError):
            if path.name not in known and path.stat().st_mtime < old.timestamp():
                path.unlink()


def is_whole(upload: Upload, came: int) -> bool:
    """True if all of a file is here."""
    return came >= upload.length
