"""An office carried over to another database: SQLite to PostgreSQL, or back. The files stay where they are."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from sqlalchemy import Connection, Engine, Table, func, insert, select, text

from jolly_clerk.core.say import say
from jolly_clerk.office.errors import Invalid
from jolly_clerk.office.keeping.verifying import verify
from jolly_clerk.office.office import Office, open_office
from jolly_clerk.office.settings import DATABASE, set_in_file
from jolly_clerk.store import beside, counter, ledger, meetings, permits, public, rules, running, till  # noqa: F401 their tables are carried
from jolly_clerk.store.database import is_postgres, open_database
from jolly_clerk.store.lease import Lease
from jolly_clerk.store.tables import Base, Case, Person

#: so many rows are carried at a time
AT_ONCE = 1_000


def move_to(office: Office, where: str) -> list[str]:
    """Carry an office over to an empty database (a URL of PostgreSQL, or ``sqlite``), verify it there, and name it in the settings.

    Nothing is written to the old database, which stays as it is; nobody may write to it meanwhile, which its write lock sees to.
    Returns what ``verify`` finds wrong in the new one; then the settings stay as they were. Raises Invalid if it is not empty, or while
    the office is served: the server would go on writing to the old one.
    """
    lease = Lease(office.engine, office.folder)
    if not lease.holds():
        raise Invalid(
            say("This office is being served, and what it is told would stay in the old database. Stop the server first.")
        )
    try:
        return _moved(office, where)
    finally:
        lease.release()


def _moved(office: Office, where: str) -> list[str]:
    target = open_database(office.folder / DATABASE if where == "sqlite" else where)
    try:
        if is_postgres(target) == is_postgres(office.engine):
            raise Invalid(say("The office is on this engine already."))
        _need_empty(target)
        with _alone(office.engine) as source, _alone(target) as to:
            for table in Base.metadata.sorted_tables:
                _carry(table, source, to)
            if is_postgres(target):
                _go_on_counting(to)
    finally:
        target.dispose()
    return _verified(office, where)


@contextmanager
def _alone(engine: Engine) -> Iterator[Connection]:
    """A connection that holds the write lock of its database."""
    with engine.connect().execution_options(begin="IMMEDIATE") as connection, connection.begin():
        yield connection


def _need_empty(engine: Engine) -> None:
    with engine.connect() as connection:
        for table in (Person, Case):
            if connection.scalar(select(func.count()).select_from(table)):
                raise Invalid(say("There is an office in this database already; name an empty one."))


def _carry(table: Table, source: Connection, to: Connection) -> None:
    for rows in _in_pieces(table, source):
        to.execute(insert(table), rows)


def _in_pieces(table: Table, source: Connection) -> Iterator[list[dict[str, object]]]:
    found = source.execution_options(yield_per=AT_ONCE).execute(select(table)).mappings()
    for piece in found.partitions():
        yield [dict(row) for row in piece]


def _go_on_counting(to: Connection) -> None:
    """Rows that are numbered by PostgreSQL go on after the last one that was carried over."""
    for table in Base.metadata.sorted_tables:
        if table.autoincrement_column is not None and "id" in table.c:
            last = to.scalar(select(func.max(table.c.id)))
            to.execute(
                text("select setval(pg_get_serial_sequence(:table, 'id'), :last)"), {"table": table.name, "last": last or 1}
            )


def _verified(office: Office, where: str) -> list[str]:
    moved = open_office(office.folder, office.now, office.demo, database=_url(office.folder, where))
    try:
        wrong = list(verify(moved))
    finally:
        moved.close()
    if not wrong:
        set_in_file(office.folder, "database", "" if where == "sqlite" else where)
    return wrong


def _url(folder: Path, where: str) -> str:
    return f"sqlite:///{folder / DATABASE}" if where == "sqlite" else where
