"""Files read once more: those that could not be read, and those that only an older reader has read.

Nothing that was given changes by it: a standing rests on the files themselves, not on their readings.
"""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from sqlalchemy import exists, or_, select

from jolly_clerk.office.office import Office
from jolly_clerk.office.preparing.reading_queue import keep_reading, work
from jolly_clerk.office.preparing.reading_queue import take as take_next
from jolly_clerk.reading.read import READER
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import StoredFile, StoredReading

#: how a kept reading tells that there is none
_FAILED = json.dumps({"opens": "not read"}, separators=(",", ":"))[1:-1]
#: so many files are read at once
BATCH = 32


@dataclass(frozen=True, slots=True)
class Again:
    """How far it is: files done of how many, and how many of these could be read."""

    done: int
    of: int
    read: int


def to_read_again(office: Office, every: bool = False) -> list[str]:
    """The files (SHA-256) that this reader has not read, or could not; with ``every`` all files that were ever read."""
    own = exists().where(StoredReading.sha256 == StoredFile.sha256, StoredReading.reader == READER)
    failed = exists().where(
        StoredReading.sha256 == StoredFile.sha256,
        StoredReading.reader == READER,
        StoredReading.reading.contains(_FAILED),
    )
    ever = exists().where(StoredReading.sha256 == StoredFile.sha256)
    wanted = select(StoredFile.sha256).where(ever).order_by(StoredFile.kept_at, StoredFile.sha256)
    if not every:
        wanted = wanted.where(or_(~own, failed))
    with read_session(office.engine) as session:
        return [sha256 for sha256 in session.scalars(wanted) if office.vault.path(sha256).exists()]


def read_again(office: Office, hashes: Sequence[str]) -> Iterator[Again]:
    """Read these files once more, some at a time; the text of their scans waits in the queue afterwards."""
    done = read = 0
    for start in range(0, len(hashes), BATCH):
        some = hashes[start : start + BATCH]
        found = office.readers.read_all([office.vault.path(sha256) for sha256 in some])
        with write_session(office.engine) as session:
            for reading in found:
                keep_reading(office, session, "", reading)
                read += reading.opens != "not read"
        done += len(some)
        yield Again(done, len(hashes), read)


def read_waiting_pages(office: Office) -> int:
    """Read what waits in the queue, text of scans and all, where no server does it; returns how many jobs that were."""
    count = 0
    while job := take_next(office, "command"):
        work(office, job)()
        count += 1
    return count
