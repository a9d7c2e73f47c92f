"""The database, SQLite or PostgreSQL: opened, brought up to date, and written in short transactions, one after the other."""

from __future__ import annotations

import functools
import json
import sqlite3
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, Final, TypeVar, TypeVarTuple
from weakref import WeakKeyDictionary

from pydantic_core import from_json
from sqlalchemy import Connection, CursorResult, Engine, Select, bindparam, create_engine, event, inspect, select
from sqlalchemy.orm import Session, class_mapper

from jolly_clerk.core.values import Json
from jolly_clerk.store.tables import Counter
from jolly_clerk.store.turns import Turns

MIGRATIONS = Path(__file__).parent / "migrations"
Ts = TypeVarTuple("Ts")
Row = TypeVar("Row")


#: so many connections are kept, and so many more lent: together more than there are threads that serve requests
KEPT, MORE = 16, 64
#: seconds that a write waits for its turn, and that a look waits for a connection
PATIENCE = 20
_POOL: Final[dict[str, Any]] = {"pool_size": KEPT, "max_overflow": MORE, "pool_timeout": PATIENCE}
_HERE = threading.local()
_TURNS: WeakKeyDictionary[Engine, Turns] = WeakKeyDictionary()


class Busy(Exception):
    """The turn of a write did not come in time; nothing was kept, and trying again is harmless."""


class ClockBehind(Busy):
    """The clock of this machine stands before what happened last; nothing is written until it is put right."""


def open_database(where: Path | str) -> Engine:
    """Open (or make) the database and bring its tables up to date: a file of SQLite, or the URL of a PostgreSQL database
    (``postgresql+psycopg://…``).

    On both engines one write follows the other: SQLite's own lock does it, and on PostgreSQL a lock that every writer takes first.
    So a rule that holds inside a write on one holds on the other.
    """
    if isinstance(where, str) and where.startswith(SQLITE):
        where = Path(where.removeprefix(SQLITE))
    engine = _sqlite(where) if isinstance(where, Path) else _postgres(where)
    _TURNS[engine] = Turns()
    migrate(engine)
    return engine


SQLITE = "sqlite:///"


def read_json(text: str) -> Json:
    """JSON that is kept, read three times as fast as by the standard library, which reads what the other does not (a lone surrogate)."""
    try:
        return from_json(text)
    except ValueError:
        return json.loads(text)


def _sqlite(file: Path) -> Engine:
    engine = create_engine(f"sqlite:///{file}", connect_args={"timeout": PATIENCE}, json_deserializer=read_json, **_POOL)

    @event.listens_for(engine, "connect")
    def _settings(connection: sqlite3.Connection, _: object) -> None:
        connection.isolation_level = None
        for pragma in ("journal_mode=WAL", "synchronous=FULL", "foreign_keys=ON", "busy_timeout=20000"):
            connection.execute(f"PRAGMA {pragma}")

    @event.listens_for(engine, "begin")
    def _begin(connection: Connection) -> None:
        kind = connection.get_execution_options().get("begin", "DEFERRED")
        connection.connection.cursor().execute(f"BEGIN {kind}")

    return engine


#: the lock that a writer takes on PostgreSQL, kept until its transaction ends
ONE_WRITER = 0x4A43


def _postgres(url: str) -> Engine:
    engine = create_engine(url, pool_pre_ping=True, isolation_level="READ COMMITTED", json_deserializer=read_json, **_POOL)

    @event.listens_for(engine, "begin")
    def _begin(connection: Connection) -> None:
        if connection.get_execution_options().get("begin") == "IMMEDIATE":
            connection.exec_driver_sql(f"set local lock_timeout = '{PATIENCE}s'")
            connection.exec_driver_sql(f"select pg_advisory_xact_lock({ONE_WRITER})")
        else:
            connection.exec_driver_sql("set transaction isolation level repeatable read")

    return engine


def is_postgres(engine: Engine) -> bool:
    """True if the office's database is PostgreSQL."""
    return engine.dialect.name == "postgresql"


def migrate(engine: Engine) -> None:
    """Run the migrations that are missing."""
    newest = max(file.name.partition("_")[0] for file in (MIGRATIONS / "versions").glob("[0-9]*.py"))
    with engine.connect() as connection:
        made = inspect(connection).has_table("alembic_version")
        if made and connection.exec_driver_sql("select version_num from alembic_version").scalar() == newest:
            return
    from alembic import command  # loaded only when there is something to migrate: it takes a quarter of a second
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    with engine.connect().execution_options(begin="IMMEDIATE") as connection, connection.begin():
        config.attributes["connection"] = connection
        command.upgrade(config, "head")


def _alone() -> None:
    """Raise RuntimeError if this thread is writing: a second connection inside a write is how all of them lock each other out."""
    if getattr(_HERE, "writes", False):
        raise RuntimeError("a write takes no second connection; hand its session on")


@contextmanager
def write_session(engine: Engine) -> Iterator[Session]:
    """A short write: everything or nothing. The lock is taken at once, so no reading in it goes stale.

    The writers of this process stand in one queue and take a connection only when it is their turn. Nothing inside may take a
    second connection: hand the session on. Raises Busy if the turn does not come in time.
    """
    _alone()
    if getattr(_HERE, "look", None) is not None:
        raise RuntimeError("a look writes nothing; write when it is over")
    turn = _TURNS[engine]
    if not turn.acquire(timeout=PATIENCE):
        raise Busy
    _HERE.writes = True
    try:
        with _immediate(engine) as session:
            yield session
    finally:
        _HERE.writes = False
        turn.release()


@functools.cache
def _by_key(entity: type[Any]) -> Select[Any]:
    """The row of a table with the key ``key_0``, ``key_1`` …"""
    columns = class_mapper(entity).primary_key
    return select(entity).where(*(column == bindparam(f"key_{n}") for n, column in enumerate(columns)))


class _Session(Session):
    """A session that looks a row up by its key with a statement that is made once; the library makes one anew each time, which costs as
    much as the look itself."""

    def get(self, entity: type[Row], ident: object, **how: object) -> Row | None:  # type: ignore[override]
        """The row with a key, or None."""
        keys = ident if isinstance(ident, tuple) else (ident,)
        if any(how.values()) or class_mapper(entity).identity_key_from_primary_key(keys) in self.identity_map:
            return super().get(entity, ident, **how)  # type: ignore[arg-type]
        return self.scalars(_by_key(entity), {f"key_{n}": key for n, key in enumerate(keys)}).first()  # type: ignore[arg-type]


@contextmanager
def _immediate(engine: Engine) -> Iterator[Session]:
    with (
        engine.connect().execution_options(begin="IMMEDIATE") as connection,
        connection.begin(),
        _Session(bind=connection, expire_on_commit=False) as session,
    ):
        yield session
        session.flush()


@contextmanager
def read_session(engine: Engine) -> Iterator[Session]:
    """A look at one consistent state, that of :func:`one_look` if one is under way; inside a write its own session is used instead."""
    _alone()
    there: Session | None = getattr(_HERE, "look", None)
    if there is not None and there.get_bind() is engine:
        yield there
        return
    with _Session(engine, expire_on_commit=False) as session:
        yield session


def query(session: Session, statement: Select[*Ts], **values: object) -> CursorResult[*Ts]:
    """What a query of columns gives, sent past the session's bookkeeping of objects, which costs twice as much as the query. The statement
    is made once and kept; ``values`` are those of its parameters.
    """
    if session.new or session.dirty or session.deleted:
        session.flush()
    return session.connection().execute(statement, values)


@contextmanager
def one_look(engine: Engine) -> Iterator[Session]:
    """A look in which every other one of this thread joins, so that what many places read is read at one instant and on one connection.

    Nothing is written meanwhile: a write inside would not be seen by the look that goes on. Raises RuntimeError if it is tried.
    """
    with read_session(engine) as session:
        before, _HERE.look = getattr(_HERE, "look", None), session
        try:
            yield session
        finally:
            _HERE.look = before


def shrink_log(engine: Engine) -> None:
    """Give back the room of SQLite's write-ahead log, which grows as long as somebody always reads; whoever reads now is waited for."""
    if is_postgres(engine):
        return
    connection = engine.raw_connection()
    try:
        connection.cursor().execute("PRAGMA wal_checkpoint(TRUNCATE)")
    finally:
        connection.close()


def next_number(session: Session, name: str) -> int:
    """The next number of a counter, without a gap: it is rolled back with the caller's transaction."""
    counter = session.scalars(select(Counter).where(Counter.name == name)).first()
    if counter is None:
        counter = Counter(name=name, last=0)
        session.add(counter)
    counter.last += 1
    session.flush()
    return counter.last
