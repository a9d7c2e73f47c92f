"""One office: its database, vault, readers, clock and letterhead. Every use case takes it first."""

from __future__ import annotations

import secrets
import threading
import uuid
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path

from sqlalchemy import Engine

from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.mandates import Mandate
from jolly_clerk.core.ports import PostRoom, Registers, Terminal, TextMessages
from jolly_clerk.core.roles import Role, RoleInfo, about
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.say import Catalogue
from jolly_clerk.core.time.calendar import Calendar
from jolly_clerk.office.settings import DATABASE, Settings, read_settings, settings_stamp
from jolly_clerk.reading.fence import Readers
from jolly_clerk.standins.post_room import PostFolder
from jolly_clerk.standins.registers import RegisterFolder
from jolly_clerk.standins.terminal import PageTerminal
from jolly_clerk.standins.text_messages import TextFolder
from jolly_clerk.store.database import open_database
from jolly_clerk.store.turns import TurnsByName, stand_aside
from jolly_clerk.store.vault import Vault
from jolly_clerk.texts import catalogue


@dataclass(frozen=True, slots=True)
class Who:
    """A person who is signed in. ``kinds`` are those that somebody of the office is limited to, none means all; ``confirmed`` tells
    that the mail address is known to be the person's, ``guest`` that the person came by an invitation and has no password yet.
    ``mandates`` are those in force by which the person acts for others. Whoever acts as a firm bears its id and name; ``hand`` and
    ``hand_name`` are then the person."""

    id: str
    name: str
    role: Role
    kinds: tuple[str, ...] = ()
    confirmed: bool = True
    guest: bool = False
    mandates: tuple[Mandate, ...] = ()
    hand: str = ""
    hand_name: str = ""

    @property
    def signs(self) -> str:
        """The id of the person who does something, also for a firm: histories name it."""
        return self.hand or self.id

    @property
    def first_name(self) -> str:
        """The name by which a greeting calls the person."""
        return self.name.partition(" ")[0]

    @property
    def may(self) -> RoleInfo:
        """What the role may do at all."""
        return about(self.role)

    @property
    def sees_all(self) -> bool:
        """True for the roles that may read every case."""
        return self.may.sees_all

    @property
    def is_officer(self) -> bool:
        """True for the roles that judge cases."""
        return self.may.moves == "officer"


@dataclass
class BeingReady:
    """A step that is made ready at ``made_at`` and leaves later: which one, in which lane, and what goes out with it."""

    move: str
    lane: str
    made_at: datetime
    leaves_at: datetime
    out: dict[str, str] = field(default_factory=dict)


@dataclass
class Office:
    """The running office. With ``ready`` a step is not done but kept until it leaves, and the clock stands at that instant.

    ``mail_waits`` wakes the mail thread of the server; without one, mail is sent where it is put out. ``terminal_key`` is shared with the
    payment terminal, which signs its notices with it.
    """

    folder: Path
    engine: Engine
    vault: Vault
    readers: Readers
    post_room: PostRoom
    now: Callable[[], datetime]
    registers: Registers
    terminal: Terminal | None
    text_messages: TextMessages
    settings: Settings
    terminal_key: str = ""
    demo: bool = False
    sending: threading.Lock = field(default_factory=threading.Lock)
    turns: TurnsByName = field(default_factory=TurnsByName)
    mail_waits: threading.Event | None = None
    readings: dict[tuple[str, str, datetime], Reading] = field(default_factory=dict)
    rulebooks: dict[str, Rulebook] = field(default_factory=dict)
    calendars: dict[str, Calendar] = field(default_factory=dict)
    calendar_of: dict[str, str] = field(default_factory=dict)
    all_can_be_found: bool = False
    looks: object | None = None
    reading_queue: object | None = None
    tidied_at: datetime | None = None
    ready: BeingReady | None = None
    settings_of: float = 0.0

    @property
    def takes_cards(self) -> bool:
        """True if there is a payment terminal. The stand-in takes the applicant's own word, so it exists in the demo only."""
        return self.terminal is not None

    @property
    def name(self) -> str:
        """The name of the office, as it stands in the letterhead."""
        return self.settings.name

    @property
    def texts(self) -> Catalogue:
        """The texts of the language that the office speaks."""
        return catalogue(self.settings.language)

    @property
    def address(self) -> str:
        """The address of the office."""
        return self.settings.address

    def look_at_settings(self) -> None:
        """Read the settings again if another process changed them."""
        stamp = settings_stamp(self.folder)
        if stamp != self.settings_of:
            self.settings, self.settings_of = read_settings(self.folder), stamp

    def close(self) -> None:
        """Stop the readers and close the database."""
        self.readers.end()
        self.engine.dispose()


def open_office(
    folder: Path,
    now: Callable[[], datetime] | None = None,
    demo: bool = False,
    post_room: PostRoom | None = None,
    registers: Registers | None = None,
    terminal: Terminal | None = None,
    text_messages: TextMessages | None = None,
    database: str = "",
) -> Office:
    """Open the office that lives in ``folder``, making it if it is not there yet; what is not given lies in folders beside it.
    ``database`` is the URL of another database than the one that its settings name."""
    folder.mkdir(parents=True, exist_ok=True)
    with suppress(OSError):
        folder.chmod(0o700)  # what lies in it is nobody's else on this machine
    settings = read_settings(folder)
    key = settings.terminal_key or (secrets.token_hex(32) if demo else "")
    return Office(
        folder=folder,
        engine=open_database(database or settings.database or folder / DATABASE),
        vault=Vault(folder / "vault"),
        readers=Readers(
            nice=settings.reader_nice, wall=settings.reader_wall, page_seconds=settings.reader_page_seconds, waits=stand_aside
        ),
        post_room=post_room or PostFolder(folder / "post-room"),
        now=now or (lambda: datetime.now(UTC)),
        registers=registers or RegisterFolder(folder / "registers"),
        terminal=terminal or (PageTerminal(key) if demo else None),
        terminal_key=key,
        text_messages=text_messages or TextFolder(folder / "text-messages"),
        settings=settings,
        demo=demo,
        settings_of=settings_stamp(folder),
    )


def new_id() -> str:
    """An id that nobody can guess."""
    return uuid.uuid4().hex
