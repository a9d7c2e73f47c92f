"""Copies of the office, taken from the browser: into the folder that the settings name, one at a time, while everybody works."""

from __future__ import annotations

import fcntl
import os
import shutil
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import structlog

from jolly_clerk.core.say import say
from jolly_clerk.office.errors import NotReady
from jolly_clerk.office.keeping.backup import back_up
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.running.changes import need_lead, note_change
from jolly_clerk.store.database import write_session

log = structlog.get_logger()
#: so many bytes stay free on the disk of the copies
FREE = 1_000_000_000
LOCK = ".taking"


def folder_of_copies(office: Office) -> Path:
    """Where copies go: the folder of the settings, or ``copies`` within the office."""
    return Path(office.settings.copies) if office.settings.copies else office.folder / "copies"


def on_the_same_disk(office: Office) -> bool:
    """True if a disk that breaks takes the office and its copies together."""
    folder = folder_of_copies(office)
    there = next((f for f in (folder, *folder.parents) if f.exists()), office.folder)
    return there.stat().st_dev == office.folder.stat().st_dev


def is_taking(office: Office) -> bool:
    """True while a copy is being taken, by whichever process."""
    lock = folder_of_copies(office) / LOCK
    if not lock.exists():
        return False
    with lock.open("r+") as file:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            return True
    return False


def _in_background(work: Callable[[], None]) -> None:
    threading.Thread(target=work, name="copy", daemon=True).start()


def take_copy(office: Office, who: Who, run: Callable[[Callable[[], None]], None] | None = None) -> None:
    """Begin to take a copy; ``run`` says how, in the background by default. How it went stands on the page of the office.

    Raises NotAllowed for everybody but a lead, NotReady while one is being taken, or without the room or the folder for it.
    """
    need_lead(who)
    folder = folder_of_copies(office)
    try:
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    except OSError as error:
        raise NotReady(say("The folder {folder} cannot be written: {why}.", folder=folder, why=error.strerror)) from None
    if is_taking(office):
        raise NotReady(say("A copy is being taken already."))
    needed = sum(f.stat().st_size for f in _whole(office)) + FREE
    if (free := shutil.disk_usage(folder).free) < needed:
        told = {"free": f"{free / 1e9:.1f}", "needed": f"{needed / 1e9:.1f}"}
        raise NotReady(say("There is no room for it: {free} GB are free, {needed} GB are needed.", **told))
    (run or _in_background)(lambda: _take(office, who, folder))


def _whole(office: Office) -> Iterator[Path]:
    copies = folder_of_copies(office)
    return (f for f in office.folder.rglob("*") if f.is_file() and copies not in f.parents)


def _take(office: Office, who: Who, folder: Path) -> None:
    with _taking(folder) as ours:
        if not ours:  # another process was faster
            return
        to = folder / f"{office.now():%Y-%m-%d-%H%M%S}.tar"
        try:
            back_up(office, to, who.id)
            to.chmod(0o600)
        except Exception as error:
            log.exception("no copy", to=str(to))
            why = (error.strerror if isinstance(error, OSError) else "") or type(error).__name__
            with write_session(office.engine) as session:
                note_change(office, session, who.id, "no copy", str(to), say("No copy was made: {why}", why=why))


@contextmanager
def _taking(folder: Path) -> Iterator[bool]:
    """Hold the lock of the folder; false if another holds it. It falls with the process."""
    with os.fdopen(os.open(folder / LOCK, os.O_RDWR | os.O_CREAT, 0o600), "r+") as file:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            yield False
        else:
            yield True
