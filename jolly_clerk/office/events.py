"""What changed, told to open pages: which case or draft, at which revision, never what in it.

An event is written with the change itself; each serving process reads the new ones twice a second and hands them on to whoever may
see them. Who was away for a while takes up where it stopped, or is told to look at everything again.
"""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import structlog
from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from jolly_clerk.office.lifetimes import EVENTS_KEPT, before
from jolly_clerk.office.office import Office, Who
from jolly_clerk.store.beside import Event
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import Case

log = structlog.get_logger()
What = Literal["case", "draft", "files", "all"]
#: seconds between two readings of what is new
EACH = 0.5
#: so many events are read at a time
MOST = 500


@dataclass(frozen=True, slots=True)
class Told:
    """An event as a page is told: ``id`` goes back as ``Last-Event-ID``; *all* means that everything may have changed."""

    id: int
    what: What
    name: str = ""
    revision: int = 0


def case_changed(office: Office, session: Session, case: Case) -> None:
    """A case changed, in the caller's write."""
    session.add(
        Event(
            at=office.now(),
            what="case",
            name=case.reference,
            revision=case.entries,
            owner_id=case.applicant_id,
            kind=case.kind,
            handed=case.reviewer_id is not None,
        )
    )


def draft_changed(office: Office, session: Session, draft_id: str, revision: int, owner_id: str) -> None:
    """A draft changed, in the caller's write."""
    session.add(Event(at=office.now(), what="draft", name=draft_id, revision=revision, owner_id=owner_id, kind="", handed=False))


def files_read(office: Office, session: Session, owner_id: str) -> None:
    """A file of somebody's was read, in the caller's write."""
    session.add(Event(at=office.now(), what="files", name="", revision=0, owner_id=owner_id, kind="", handed=False))


def forget_old_events(office: Office) -> None:
    """Forget events that nobody takes up any more."""
    with write_session(office.engine) as session:
        session.execute(delete(Event).where(Event.at < before(office.now(), EVENTS_KEPT)))


def is_for(event: Event, who: Who) -> bool:
    """True if a person may know of an event: the own, and of cases whoever may see them."""
    if event.owner_id == who.id or any(m.covers(event.owner_id, event.kind) for m in who.mandates if event.kind and not m.cases):
        return True
    if event.what != "case" or not who.sees_all or (who.kinds and event.kind not in who.kinds):
        return False
    return event.handed or who.may.moves != "reviewer"


Listener = Callable[[Event], None]


class Feed:
    """Reads what is new as long as somebody listens, and hands it on."""

    def __init__(self, office: Office) -> None:
        self.office = office
        self.over, self.listened = threading.Event(), threading.Event()
        self._lock = threading.Lock()
        self._listeners: set[Listener] = set()
        self._last = 0
        self.thread = threading.Thread(target=self._run, name="events", daemon=True)

    def start(self) -> None:
        """Begin."""
        self._last = newest(self.office)
        self.thread.start()

    def stop(self) -> None:
        """End."""
        self.over.set()
        self.listened.set()
        self.thread.join(timeout=2)

    def listen(self, listener: Listener) -> None:
        """Hand events on to somebody, who must not take long."""
        with self._lock:
            if not self._listeners:
                self._last = newest(self.office)
            self._listeners.add(listener)
        self.listened.set()

    def leave(self, listener: Listener) -> None:
        """Hand nothing on any more."""
        with self._lock:
            self._listeners.discard(listener)
            if not self._listeners:
                self.listened.clear()

    def _run(self) -> None:
        while self.listened.wait() and not self.over.wait(EACH):
            try:
                for event in since(self.office, self._last):
                    self._last = event.id
                    with self._lock:
                        listeners = list(self._listeners)
                    for listener in listeners:
                        listener(event)
            except Exception as error:  # the next round reads them again
                log.error("events not read", error=type(error).__name__)


def newest(office: Office) -> int:
    """The id of the newest event."""
    with read_session(office.engine) as session:
        return session.scalar(select(func.max(Event.id))) or 0


def since(office: Office, last: int) -> list[Event]:
    """The events after one, oldest first."""
    with read_session(office.engine) as session:
        return list(session.scalars(select(Event).where(Event.id > last).order_by(Event.id).limit(MOST)))


def taken_up(office: Office, who: Who, last: int) -> list[Told]:
    """What somebody who was away since an event has missed; one *all* if that is too long ago or too much."""
    with read_session(office.engine) as session:
        oldest = session.scalar(select(func.min(Event.id))) or 0
    missed = since(office, last)
    if last > newest(office) or (oldest and last < oldest - 1) or len(missed) >= MOST:
        return [Told(newest(office), "all")]
    return [told(event) for event in missed if is_for(event, who)]


def told(event: Event) -> Told:
    """An event as a page is told."""
    what: What = "case" if event.what == "case" else "draft" if event.what == "draft" else "files"
    return Told(event.id, what, event.name, event.revision)
