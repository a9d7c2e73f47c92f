"""The last entry that was written, kept outside the database as well: so that a database that lost its end is named."""

from __future__ import annotations

import json
import os
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import NamedTuple

from sqlalchemy.orm import Session

from jolly_clerk.core.say import say
from jolly_clerk.store.tables import Head, HistoryEntry

FILE = "last-entry.json"


class Last(NamedTuple):
    """The last entry: of which case, its number, its hash, and when it was written."""

    case_id: str
    no: int
    hash: str
    at: datetime


def note_last(folder: Path, head: Head, at: datetime) -> None:
    """Note the last entry beside the database, after it was committed. That it cannot be noted hurts nobody."""
    told = {"case_id": head.case_id, "no": head.count, "hash": head.hash, "at": at.astimezone(UTC).isoformat()}
    new = folder / f"{FILE}.{os.getpid()}"
    try:
        new.write_text(json.dumps(told), "utf-8")
        new.replace(folder / FILE)
    except OSError:
        return


def last_noted(folder: Path) -> Last | None:
    """What was noted last; None if nothing was, or if it cannot be read."""
    try:
        told = json.loads((folder / FILE).read_text("utf-8"))
        return Last(told["case_id"], told["no"], told["hash"], datetime.fromisoformat(told["at"]))
    except (OSError, ValueError, KeyError, TypeError):
        return None


def verify_last(session: Session, folder: Path) -> Iterator[str]:
    """What is wrong if the database does not hold the entry that was noted outside it."""
    last = last_noted(folder)
    if last is None:
        return
    found = session.get(HistoryEntry, (last.case_id, last.no))
    head = session.get(Head, last.case_id)
    if found is None and head is not None and head.count >= last.no:
        return  # the history itself shows that its end is cut off
    if found is None or found.hash != last.hash:
        yield say(
            "the database lost what was written last: an entry of {day} {time} UTC is not in it (was office.db-wal deleted, or an older "
            "copy put in its place?)",
            day=last.at.date(),
            time=f"{last.at:%H:%M:%S}",
        )
