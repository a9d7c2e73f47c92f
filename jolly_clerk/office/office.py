"""One office: its database, vault, readers, clock and letterhead. Every use case takes it first."""

from __future__ import annotations

import uuid
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path

from sqlalchemy import Engine

from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.time.calendar import Calendar
from jolly_clerk.reading.fence import Readers
from jolly_clerk.standins.post_room import PostRoom
from jolly_clerk.store.database import open_database
from jolly_clerk.store.vault import Vault


@dataclass(frozen=True, slots=True)
class Who:
    """A person who is signed in."""

    id: str
    name: str
    role: str

    @property
    def is_officer(self) -> bool:
        """True for the roles that judge cases."""
        return self.role in ("officer", "lead")

    @property
    def sees_all(self) -> bool:
        """True for the roles that may read every case."""
        return self.role in ("officer", "lead", "reviewer", "auditor")


@dataclass
class Office:
    """The running office."""

    folder: Path
    engine: Engine
    vault: Vault
    readers: Readers
    post_room: PostRoom
    now: Callable[[], datetime]
    name: str = "Quillhaven One-Door Office"
    address: str = "1 Harbour Stairs, Quillhaven"
    demo: bool = False
    rulebooks: dict[str, Rulebook] = field(default_factory=dict)
    calendars: dict[str, Calendar] = field(default_factory=dict)

    def close(self) -> None:
        """Stop the readers and close the database."""
        self.readers.end()
        self.engine.dispose()


def open_office(folder: Path, now: Callable[[], datetime] | None = None, demo: bool = False) -> Office:
    """Open the office that lives in ``folder``, making it if it is not there yet."""
    folder.mkdir(parents=True, exist_ok=True)
    return Office(
        folder=folder,
        engine=open_database(folder / "office.db"),
        vault=Vault(folder / "vault"),
        readers=Readers(),
        post_room=PostRoom(folder / "post-room"),
        now=now or (lambda: datetime.now(UTC)),
        demo=demo,
    )


def new_id() -> str:
    """An id that nobody can guess."""
    return uuid.uuid4().hex
