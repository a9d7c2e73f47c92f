"""Folders of tests, and what is made once for all processes of a run."""

from __future__ import annotations

import contextlib
import fcntl
import functools
import hashlib
import json
import os
import shutil
import sqlite3
import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from jolly_clerk.office.settings import DATABASE
from tests import BETWEEN, at_end

#: folders of the tests that run; they lie in memory, so they go as soon as their class is done
OF_TESTS: list[Path] = []


def new_folder(prefix: str = "jolly-clerk-test-", to_the_end: bool = False) -> Path:
    """A new folder for one test class; it goes when that is done (the runner clears it), or when the process ends."""
    folder = Path(tempfile.mkdtemp(prefix=prefix))
    at_end(shutil.rmtree, folder, True)
    if not to_the_end:
        OF_TESTS.append(folder)
    return folder


def clear_folders() -> None:
    """Remove the folders of the tests that ran."""
    while OF_TESTS:
        shutil.rmtree(OF_TESTS.pop(), ignore_errors=True)


@functools.cache
def for_all_processes() -> Path:
    """A folder that all processes of one run share, for what each of them would make again; of its own where one runs by itself."""
    return Path(os.environ[BETWEEN]) if BETWEEN in os.environ else new_folder(to_the_end=True)


def keep_file(kept: Path, content: bytes) -> None:
    new = kept.with_suffix(f".{os.getpid()}")
    new.write_bytes(content)
    new.replace(kept)


def made_once(name: str, make: Callable[[], bytes]) -> bytes:
    """What ``make`` makes under a name, the same each time: it is made once for all processes of a run."""
    kept = for_all_processes() / hashlib.sha256(name.encode()).hexdigest()
    if not kept.exists():
        keep_file(kept, make())
    return kept.read_bytes()


def copy_office(there: Path, here: Path) -> None:
    """Put an office on SQLite into a folder, also while it is used, or over one that is."""
    shutil.copytree(there, here, ignore=shutil.ignore_patterns(f"{DATABASE}*"), dirs_exist_ok=True)
    with (
        contextlib.closing(sqlite3.connect(there / DATABASE)) as source,
        contextlib.closing(sqlite3.connect(here / DATABASE)) as target,
    ):
        source.backup(target)


def office_made_once(name: str, make: Callable[[], tuple[Path, Any]]) -> tuple[Path, Any]:
    """A folder with an office as ``make`` leaves it, made once for all processes of a run, and what else that gives, as JSON."""
    folder = for_all_processes() / f"office-{name}"
    beside = folder.with_suffix(".json")
    with locked(folder.with_suffix(".lock")):
        if not folder.exists():
            there, names = make()
            copy_office(there, ready := folder.with_suffix(".making"))
            beside.write_text(json.dumps(names), "utf-8")
            ready.rename(folder)
    return folder, json.loads(beside.read_text("utf-8"))


@contextmanager
def locked(file: Path) -> Iterator[None]:
    """One process at a time."""
    file.parent.mkdir(exist_ok=True)
    with file.open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        yield
