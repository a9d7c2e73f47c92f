"""Which of several serving processes minds the clock, the mail and the reading of files: the one that holds the lease.

On SQLite it is a lock on a file beside the database, on PostgreSQL a lock of a connection that is kept open. Either falls by itself when
its process ends, however it ends.
"""

from __future__ import annotations

import fcntl
from pathlib import Path
from typing import IO

from sqlalchemy import Connection, Engine, text
from sqlalchemy.exc import DBAPIError

from jolly_clerk.store.database import is_postgres

#: the lock of the minder on PostgreSQL
MINDER = 0x4A44
FILE = "minder.lock"


class Lease:
    """The lease of an office: taken by one process at a time."""

    def __init__(self, engine: Engine, folder: Path) -> None:
        self.engine, self.file = engine, folder / FILE
        self._file: IO[str] | None = None
        self._connection: Connection | None = None

    def holds(self) -> bool:
        """Take the lease if it is free; true if this process holds it now."""
        return self._on_postgres() if is_postgres(self.engine) else self._on_file()

    def _on_file(self) -> bool:
        if self._file is not None:
            return True
        try:
            file = self.file.open("w")
        except OSError:  # where nothing can be written there is nothing to mind
            return False
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            file.close()
            return False
        self._file = file
        return True

    def _on_postgres(self) -> bool:
        try:
            if self._connection is not None:
                self._connection.execute(text("select 1"))  # the lock goes with its connection
                self._connection.rollback()
                return True
            connection = self.engine.connect()
            got = bool(connection.scalar(text("select pg_try_advisory_lock(:lock)"), {"lock": MINDER}))
            connection.rollback()
        except DBAPIError:
            self._connection = None
            return False
        if got:
            self._connection = connection
        else:
            connection.close()
        return got

    def release(self) -> None:
        """Give it back."""
        if self._file is not None:
            self._file.close()
            self._file = None
        if self._connection is not None:
            self._connection.invalidate()  # its end gives the lock back
            self._connection.close()
            self._connection = None
