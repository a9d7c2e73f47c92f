"""Reading what arrived: a queue in the database, read beside the requests, fair between people, first what somebody looks at.

A file is kept and named before it is read; until then it *is being read*. A stop loses nothing: what was taken and not finished is
taken again. Without the threads of a server (in a command, in the demo) files are read where they are kept.
"""

from __future__ import annotations

import os
import threading
import time
from collections.abc import Collection, Iterable

import structlog
from sqlalchemy import delete, func, or_, select, update
from sqlalchemy.orm import Session

from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.say import say, speaking
from jolly_clerk.office.errors import TooOften
from jolly_clerk.office.events import files_read
from jolly_clerk.office.lifetimes import TAKEN, after
from jolly_clerk.office.office import Office, new_id
from jolly_clerk.reading.read import READER
from jolly_clerk.store.beside import ToRead
from jolly_clerk.store.database import Busy, read_session, write_session
from jolly_clerk.store.tables import StoredReading

log = structlog.get_logger()
#: so many files of one person wait at most
MOST_WAITING = 400
#: a file at which the reader stopped so often is not read
MOST_TRIES = 2
#: seconds for which filing waits for readings, how often it looks, and how many may wait at once
PATIENCE, LOOKS_EACH, MOST_WAITERS = 60.0, 0.2, 8
#: seconds after which another process is looked after
IDLE = 1.0


class ReadingQueue:
    """The threads of one server process that read what waits, as many as there are readers."""

    def __init__(self, office: Office, count: int | None = None) -> None:
        self.office, self.me = office, new_id()
        self.over, self.came = threading.Event(), threading.Condition()
        self.waiters = threading.BoundedSemaphore(MOST_WAITERS)
        self.threads = [
            threading.Thread(target=self._run, name=f"reading {n}", daemon=True) for n in range(count or os.cpu_count() or 1)
        ]

    def start(self) -> None:
        """Begin; what an earlier process took and did not finish is taken again."""
        with write_session(self.office.engine) as session:
            session.execute(update(ToRead).values(taken_by="", taken_until=None))
        self.office.reading_queue = self
        for thread in self.threads:
            thread.start()

    def stop(self) -> None:
        """End at once: a file that is being read is read again later."""
        self.office.reading_queue = None
        self.over.set()
        self.wake()
        self.office.readers.kill()
        for thread in self.threads:
            thread.join(timeout=1)

    def wake(self) -> None:
        """Something was put into the queue."""
        with self.came:
            self.came.notify_all()

    def _run(self) -> None:
        while not self.over.is_set():
            try:
                sha256 = take(self.office, self.me)
                if sha256 is None:
                    with self.came:
                        self.came.wait(IDLE)
                    continue
                with speaking(self.office.texts):
                    found = self.office.readers.read(self.office.vault.path(sha256))
                if not self.over.is_set():
                    finish(self.office, sha256, found)
            except Busy:
                continue
            except Exception as error:
                log.error("reading failed", error=type(error).__name__)
                self.over.wait(IDLE)


def enqueue(office: Office, session: Session, person_id: str, hashes: Iterable[str]) -> None:
    """Put files into the queue, in the caller's write; those that were read or wait already stay as they are.

    Raises TooOften if too many of this person's wait.
    """
    waiting = session.scalar(select(func.count()).select_from(ToRead).where(ToRead.person_id == person_id)) or 0
    for sha256 in hashes:
        if session.get(ToRead, sha256) is not None:
            continue
        if waiting >= MOST_WAITING:
            raise TooOften(say("Many of your files are still being read. Wait a moment, then send the others."), 30)
        session.add(ToRead(sha256=sha256, person_id=person_id, put_at=office.now(), wanted=False, taken_by="", tries=0))
        waiting += 1


def take(office: Office, me: str) -> str | None:
    """Take the next file: one that somebody waits for, then the first of each person in turn. None if nothing waits."""
    now = office.now()
    free = or_(ToRead.taken_until.is_(None), ToRead.taken_until < now)
    with read_session(office.engine) as session:
        if not session.scalar(select(func.count()).select_from(ToRead).where(free)):
            return None
    with write_session(office.engine) as session:
        busy = select(ToRead.person_id, func.count().label("n")).where(~free).group_by(ToRead.person_id).subquery()
        turn = func.row_number().over(partition_by=ToRead.person_id, order_by=(ToRead.wanted.desc(), ToRead.put_at))
        waiting = select(ToRead.sha256, ToRead.wanted, (turn + func.coalesce(busy.c.n, 0)).label("turn"), ToRead.put_at)
        waiting = waiting.outerjoin(busy, busy.c.person_id == ToRead.person_id).where(free)
        rows = waiting.subquery()
        first = select(rows.c.sha256).order_by(rows.c.wanted.desc(), rows.c.turn, rows.c.put_at, rows.c.sha256).limit(1)
        sha256: str | None = session.scalar(first)
        if sha256 is None:
            return None
        row = session.get_one(ToRead, sha256)
        row.taken_by, row.taken_until, row.tries = me, after(now, TAKEN), row.tries + 1
        if row.tries > MOST_TRIES:
            _put_reading(office, session, _not_read(office, sha256, say("its reader stopped")))
            session.delete(row)
            return None
    return sha256


def finish(office: Office, sha256: str, found: Reading) -> None:
    """Keep what was read."""
    with write_session(office.engine) as session:
        _put_reading(office, session, found)
        owner = session.scalar(select(ToRead.person_id).where(ToRead.sha256 == sha256))
        if owner:
            files_read(office, session, owner)
        session.execute(delete(ToRead).where(ToRead.sha256 == sha256))


def _put_reading(office: Office, session: Session, found: Reading) -> None:
    row = session.get(StoredReading, (found.sha256, found.reader))
    if row is None:
        row = StoredReading(sha256=found.sha256, reader=found.reader)
        session.add(row)
    row.reading, row.read_at = found.model_dump_json(), office.now()


def _not_read(office: Office, sha256: str, why: str) -> Reading:
    path = office.vault.path(sha256)
    size = path.stat().st_size if path.exists() else 0
    return Reading(sha256=sha256, reader=READER, size=size, type="unknown type", opens="not read", trouble=why)


def being_read(session: Session, hashes: Collection[str]) -> set[str]:
    """Which of these files wait or are being read."""
    return set(session.scalars(select(ToRead.sha256).where(ToRead.sha256.in_(hashes)))) if hashes else set()


def wait_until_read(office: Office, hashes: Collection[str]) -> None:
    """Wait until these files are read, which come first now; a file that is not read in a minute is *not read*, and told so.

    Raises Busy if too many wait already.
    """
    queue = office.reading_queue
    if not isinstance(queue, ReadingQueue):
        return
    if not _still(office, hashes):
        return
    if not queue.waiters.acquire(blocking=False):
        raise Busy
    try:
        with write_session(office.engine) as session:
            session.execute(update(ToRead).where(ToRead.sha256.in_(hashes)).values(wanted=True))
        until = time.monotonic() + PATIENCE
        while (left := _still(office, hashes)) and time.monotonic() < until:
            time.sleep(LOOKS_EACH)
    finally:
        queue.waiters.release()
    for sha256 in left:
        finish(office, sha256, _not_read(office, sha256, say("it was not read in time")))


def _still(office: Office, hashes: Collection[str]) -> set[str]:
    with read_session(office.engine) as session:
        return being_read(session, hashes)
