"""A PostgreSQL server for the tests, on a socket in a temporary folder: started once a run, gone with it."""

from __future__ import annotations

import functools
import itertools
import os
import shutil
import subprocess
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

#: where Debian keeps the programs of its versions
PROGRAMS = Path("/usr/lib/postgresql")
#: names the folder of the server's socket to the processes of one run
SOCKET = "JOLLY_CLERK_TEST_POSTGRES"
#: tells a test which engine it is to try
ENGINE = "JOLLY_CLERK_TEST_ENGINE"
_NUMBERS = itertools.count(1)


def programs() -> Path | None:
    """The folder of the newest PostgreSQL that is installed; None if there is none."""
    found = sorted(PROGRAMS.glob("*/bin/initdb"), key=lambda p: int(p.parts[-3]))
    return found[-1].parent if found else None


def _as_postgres(*command: str) -> list[str]:
    """A command as the user *postgres*, which its server asks for where one is root."""
    return ["runuser", "-u", "postgres", "--", *command] if os.geteuid() == 0 else list(command)


@contextmanager
def server() -> Iterator[str]:
    """A server that listens on nothing but a socket; gives its folder, or nothing where PostgreSQL is not installed."""
    there = programs()
    if there is None:
        yield ""
        return
    base = Path(tempfile.mkdtemp(prefix="jc-pg-"))
    if os.geteuid() == 0:
        shutil.chown(base, "postgres", "postgres")
    data = base / "data"
    quick = {  # nothing of it outlives the run
        "fsync": "off", "full_page_writes": "off", "synchronous_commit": "off", "autovacuum": "off", "wal_level": "minimal",
        "max_wal_senders": "0", "shared_buffers": "64MB", "max_connections": "300",
    }  # fmt: skip
    options = [word for name, value in quick.items() for word in ("-c", f"{name}={value}")]
    subprocess.run(
        _as_postgres(
            str(there / "initdb"), "-D", str(data), "-U", "jolly", "--locale=C", "--encoding=UTF8", "--auth=trust", "-N"
        ),
        check=True,
        capture_output=True,
        cwd="/",
    )
    started = subprocess.Popen(
        _as_postgres(str(there / "postgres"), "-D", str(data), "-k", str(base), "-c", "listen_addresses=", *options),
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
        cwd="/",
    )
    try:
        ready = [str(there / "pg_isready"), "-h", str(base), "-U", "jolly", "-t", "1"]
        for _ in range(300):
            if subprocess.run(ready, capture_output=True).returncode == 0:
                break
        yield str(base)
    finally:
        subprocess.run(
            _as_postgres(str(there / "pg_ctl"), "-D", str(data), "-m", "immediate", "stop"), capture_output=True, cwd="/"
        )
        started.wait(10)
        shutil.rmtree(base, ignore_errors=True)


def wanted() -> bool:
    """True if a test is to try PostgreSQL."""
    return os.environ.get(ENGINE) == "postgresql"


def url(name: str) -> str:
    """The URL of a database of the server of this run."""
    return f"postgresql+psycopg://jolly@/{name}?host={os.environ[SOCKET]}"


@functools.cache
def _admin() -> object:
    from sqlalchemy import create_engine

    return create_engine(url("postgres"), isolation_level="AUTOCOMMIT")


def _say(statement: str) -> None:
    with _admin().connect() as connection:  # type: ignore[attr-defined]
        connection.exec_driver_sql(statement)


def new_database(like: str = "template1", name: str = "") -> str:
    """A new database, a copy of another made file by file, which is the sooner way for small ones; returns its name."""
    name = name or f"t_{os.getpid()}_{next(_NUMBERS)}"
    _say(f'create database "{name}" template "{like}" strategy file_copy')
    return name


def is_used(name: str) -> bool:
    """True if somebody is connected to a database."""
    with _admin().connect() as connection:  # type: ignore[attr-defined]
        return bool(connection.exec_driver_sql("select count(*) from pg_stat_activity where datname = %s", (name,)).scalar())


def drop_database(name: str) -> None:
    """Drop a database with whoever is still connected to it."""
    _say(f'drop database if exists "{name}" with (force)')
