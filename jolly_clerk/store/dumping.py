"""The database as one file, and back: by SQLite's own copy, or by PostgreSQL's ``pg_dump`` and ``pg_restore``."""

from __future__ import annotations

import shutil
import sqlite3
import subprocess
from pathlib import Path

from sqlalchemy import Engine, create_engine, inspect
from sqlalchemy.engine import make_url

from jolly_clerk.core.say import say
from jolly_clerk.store.database import is_postgres

#: what the copy is called in an archive, by engine
SQLITE_NAME, POSTGRES_NAME = "office.db", "office.dump"
#: where Debian keeps the programs of its versions
DEBIAN = Path("/usr/lib/postgresql")


class CannotDump(OSError):
    """The program of PostgreSQL is missing or failed; its text says why."""


def dump(engine: Engine, to: Path) -> str:
    """Write the database as of one instant into a file; returns what the file is called in an archive. Raises CannotDump."""
    if not is_postgres(engine):
        with sqlite3.connect(str(engine.url.database)) as source, sqlite3.connect(to) as target:
            source.backup(target)
        return SQLITE_NAME
    _run("pg_dump", "--format=custom", "--no-owner", f"--file={to}", f"--dbname={libpq(engine.url)}")
    return POSTGRES_NAME


def load(file: Path, url: str) -> None:
    """Fill an empty PostgreSQL database from a dump. Raises CannotDump."""
    _run("pg_restore", "--no-owner", "--exit-on-error", "--single-transaction", f"--dbname={libpq(url)}", str(file))


def is_empty(url: str) -> bool:
    """True if a database holds no tables."""
    engine = create_engine(url)
    try:
        return not inspect(engine).get_table_names()
    finally:
        engine.dispose()


def libpq(url: object) -> str:
    """The URL of a database as PostgreSQL's own programs take it."""
    return make_url(str(url) if isinstance(url, str) else url).set(drivername="postgresql").render_as_string(hide_password=False)  # type: ignore[arg-type]


def _run(program: str, *words: str) -> None:
    there = shutil.which(program)
    found = sorted(DEBIAN.glob(f"*/bin/{program}"), key=lambda p: int(p.parts[-3]))
    if there is None and not found:
        raise CannotDump(say("{program} is not installed (apt-get install postgresql-client)", program=program))
    done = subprocess.run([str(found[-1]) if found else str(there), *words], capture_output=True, text=True)
    if done.returncode:
        raise CannotDump(f"{program}: {done.stderr.strip()[-400:]}")
