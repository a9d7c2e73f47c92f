"""Reading what arrived: a queue in the database, read beside the requests, fair between people, first what somebody looks at.

A file is kept and named before it is read; until then it *is being read*. A stop loses nothing: what was taken and not finished is
taken again. Without the threads of a server (in a command, in the demo) files are read where they are kept.
"""

from __future__ import annotations

import os
import threading
import time
from collections.abc import Callable, Collection, Iterable
from typing import NamedTuple

import structlog
from sqlalchemy import case, delete, func, or_, select, update
from sqlalchemy.orm import Session

from jolly_clerk.core.facts.alike import signs_of
from jolly_clerk.core.facts.reading import PageText, Reading
from jolly_clerk.core.say import say, speaking
from jolly_clerk.office.errors import TooOften
from jolly_clerk.office.events import files_read
from jolly_clerk.office.lifetimes import TAKEN, after
from jolly_clerk.office.office import Office, new_id
from jolly_clerk.reading.read import READER, scans_can_be_read, scans_of, with_page_text
from jolly_clerk.store.beside import PageSign, ToRead
from jolly_clerk.store.database import Busy, read_session, write_session
from jolly_clerk.store.tables import StoredReading

log = structlog.get_logger()
#: so many files of one person wait at most
MOST_WAITING = 400
#: a file at which the reader stopped so often is not read
MOST_TRIES = 2
#: while the text of many pages is read, its owner is told after so many
TOLD_EACH = 10
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
                job = take(self.office, self.me)
                if job is None:
                    with self.came:
                        self.came.wait(IDLE)
                    continue
                with speaking(self.office.texts):
                    done = work(self.office, job)
                if not self.over.is_set():
                    done()
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
        row = session.get(ToRead, sha256)
        if row is not None and row.page == 0:
            continue
        if row is not None:
            row.page, row.taken_by, row.taken_until = 0, "", None
            continue
        if waiting >= MOST_WAITING:
            raise TooOften(say("Many of your files are still being read. Wait a moment, then send the others."), 30)
        session.add(ToRead(sha256=sha256, person_id=person_id, put_at=office.now(), wanted=False, taken_by="", tries=0, page=0))
        waiting += 1


class Job(NamedTuple):
    """A file whose fast facts are read, or the scanned page (from 1) of one whose text is."""

    sha256: str
    page: int = 0


def work(office: Office, job: Job) -> Callable[[], None]:
    """Read what a job asks for; what comes back keeps it. Raises nothing for any content."""
    path = office.vault.path(job.sha256)
    if not job.page:
        found = office.readers.read(path)
        return lambda: finish(office, job.sha256, found)
    kept = _kept(office, job.sha256)
    text = office.readers.read_page(path, kept.type, job.page) if kept else None
    return lambda: finish_page(office, job, text)


def take(office: Office, me: str) -> Job | None:
    """Take the next file: one that somebody waits for, then the first of each person in turn; text of scans comes after all fast facts.
    None if nothing waits."""
    now = office.now()
    free = or_(ToRead.taken_until.is_(None), ToRead.taken_until < now)
    with read_session(office.engine) as session:
        if not session.scalar(select(func.count()).select_from(ToRead).where(free)):
            return None
    with write_session(office.engine) as session:
        busy = select(ToRead.person_id, func.count().label("n")).where(~free).group_by(ToRead.person_id).subquery()
        slow = case((ToRead.page > 0, 1), else_=0)
        turn = func.row_number().over(partition_by=ToRead.person_id, order_by=(slow, ToRead.wanted.desc(), ToRead.put_at))
        turns = (turn + func.coalesce(busy.c.n, 0)).label("turn")
        waiting = select(ToRead.sha256, ToRead.wanted, slow.label("slow"), turns, ToRead.put_at)
        waiting = waiting.outerjoin(busy, busy.c.person_id == ToRead.person_id).where(free)
        rows = waiting.subquery()
        first = (
            select(rows.c.sha256).order_by(rows.c.slow, rows.c.wanted.desc(), rows.c.turn, rows.c.put_at, rows.c.sha256).limit(1)
        )
        sha256: str | None = session.scalar(first)
        if sha256 is None:
            return None
        row = session.get_one(ToRead, sha256)
        row.taken_by, row.taken_until, row.tries = me, after(now, TAKEN), row.tries + 1
        if row.tries > MOST_TRIES:
            if row.page:
                _page_done(office, session, row, None)
            else:
                _put_reading(office, session, _not_read(office, sha256, say("its reader stopped")))
                session.delete(row)
            return None
        return Job(sha256, row.page)


def finish(office: Office, sha256: str, found: Reading, last: bool = False) -> None:
    """Keep what was read; one that could not be read is tried once more unless this is its ``last`` time. Then the text of its scans
    follows."""
    with write_session(office.engine) as session:
        row = session.get(ToRead, sha256)
        if found.opens == "not read" and row is not None and row.tries < MOST_TRIES and not last:
            row.taken_by, row.taken_until, row.put_at = "", None, office.now()
            return
        owner = row.person_id if row else ""
        if row is not None:
            session.delete(row)
            session.flush()
        keep_reading(office, session, owner, found)
        if owner:
            files_read(office, session, owner)


def keep_reading(office: Office, session: Session, person_id: str, found: Reading) -> None:
    """Keep a reading, in the caller's write; the text of its scanned pages is put into the queue if it can be read here."""
    if found.scans == "waiting" and not scans_can_be_read():
        found = found.model_copy(update={"scans": "not installed"})
    _put_reading(office, session, found)
    if found.scans == "waiting" and session.get(ToRead, found.sha256) is None:
        session.add(
            ToRead(
                sha256=found.sha256, person_id=person_id, put_at=office.now(), wanted=False, taken_by="", tries=0,
                page=scans_of(found)[0],
            )
        )  # fmt: skip


def finish_page(office: Office, job: Job, text: PageText | None) -> None:
    """Keep the text of a scanned page; the next one waits in its turn."""
    with write_session(office.engine) as session:
        row = session.get(ToRead, job.sha256)
        if row is not None and row.page == job.page:
            _page_done(office, session, row, text)


def _page_done(office: Office, session: Session, row: ToRead, text: PageText | None) -> None:
    stored = session.get(StoredReading, (row.sha256, READER))
    if stored is None:
        session.delete(row)
        return
    kept = Reading.model_validate_json(stored.reading)
    scans = scans_of(kept)
    found = with_page_text(kept, row.page, text or PageText(lines=(), words=0, language="", turn=0))
    _put_reading(office, session, found)
    later = [no for no in scans if no > row.page]
    if row.person_id and (not later or len(later) % TOLD_EACH == 0):
        files_read(office, session, row.person_id)
    if later:
        row.page, row.taken_by, row.taken_until, row.put_at, row.tries = later[0], "", None, office.now(), 0
    else:
        session.delete(row)


def _kept(office: Office, sha256: str) -> Reading | None:
    with read_session(office.engine) as session:
        stored = session.get(StoredReading, (sha256, READER))
        return Reading.model_validate_json(stored.reading) if stored else None


def _put_reading(office: Office, session: Session, found: Reading) -> None:
    row = session.get(StoredReading, (found.sha256, found.reader))
    is_new = row is None
    if row is None:
        row = StoredReading(sha256=found.sha256, reader=found.reader)
        session.add(row)
    row.reading, row.read_at = found.model_dump_json(), office.now()
    if is_new or found.scans != "waiting":  # not anew with each page
        session.execute(delete(PageSign).where(PageSign.sha256 == found.sha256))
        session.add_all(PageSign(sha256=found.sha256, page=page, sign=sign) for page, sign in set(signs_of(found)))


def _not_read(office: Office, sha256: str, why: str) -> Reading:
    path = office.vault.path(sha256)
    size = path.stat().st_size if path.exists() else 0
    return Reading(sha256=sha256, reader=READER, size=size, type="unknown type", opens="not read", trouble=why)


def being_read(session: Session, hashes: Collection[str]) -> set[str]:
    """Which of these files wait or are being read, the text of their scans aside."""
    waiting = select(ToRead.sha256).where(ToRead.sha256.in_(hashes), ToRead.page == 0)
    return set(session.scalars(waiting)) if hashes else set()


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
        finish(office, sha256, _not_read(office, sha256, say("it was not read in time")), last=True)


def _still(office: Office, hashes: Collection[str]) -> set[str]:
    with read_session(office.engine) as session:
        return being_read(session, hashes)
