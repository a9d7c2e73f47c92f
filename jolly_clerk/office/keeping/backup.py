"""A copy of the whole office while it runs, and an office made from such a copy."""

from __future__ import annotations

import io
import json
import os
import shutil
import tarfile
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path

from sqlalchemy.exc import DatabaseError

from jolly_clerk.core.say import say
from jolly_clerk.core.things import things
from jolly_clerk.office.errors import Invalid
from jolly_clerk.office.keeping.erasing import RECORD, repeat_erasures
from jolly_clerk.office.keeping.verifying import verify
from jolly_clerk.office.office import Office, open_office
from jolly_clerk.office.running.changes import note_change
from jolly_clerk.office.settings import FILE, set_in_file
from jolly_clerk.store.database import write_session
from jolly_clerk.store.dumping import POSTGRES_NAME, SQLITE_NAME, dump, is_empty, load

MANIFEST = "backup.json"


def back_up(office: Office, to: Path, who: str = "") -> int:
    """Write the office into one TAR file: the database as of one instant, then every file it names. Returns how many files.
    ``who`` takes it, by id; nobody for a command.

    Files are never changed once kept, so those that the copied database names are all there, whatever is filed meanwhile.
    """
    copy = to.with_name(to.name + ".db")
    partial = to.with_name(to.name + ".part")
    try:
        name = dump(office.engine, copy)
        count = 0
        with tarfile.open(partial, "w") as tar:
            tar.add(copy, name)
            for path, called in _files(office):
                tar.add(path, called)
                count += 1
            about = json.dumps({"made": datetime.now(UTC).isoformat(), "files": count}).encode()
            info = tarfile.TarInfo(MANIFEST)
            info.size = len(about)
            tar.addfile(info, io.BytesIO(about))
        partial.replace(to)
        if (
            (office.folder / RECORD).is_file() and to.parent.resolve() != office.folder.resolve()
        ):  # beside the copies, so that an older one is brought up to it
            shutil.copyfile(office.folder / RECORD, to.with_name(RECORD))
        said = say("{file}, {files}, {size} MB", file=to.name, files=things(count, "file"), size=f"{to.stat().st_size / 1e6:.0f}")
        with write_session(office.engine) as session:
            note_change(office, session, who, "copy", str(to), said)
        return count
    finally:
        copy.unlink(missing_ok=True)
        partial.unlink(missing_ok=True)


def _files(office: Office) -> Iterator[tuple[Path, str]]:
    for folder in ("vault", "registers", "post-room"):
        for path in sorted((office.folder / folder).rglob("*")):
            if path.is_file() and not path.name.endswith(".part"):
                yield path, str(path.relative_to(office.folder))
    for name in (FILE, RECORD):
        if (office.folder / name).is_file():
            yield office.folder / name, name


#: a copy of SQLite, and a dump of PostgreSQL, begin with this
SQLITE, POSTGRES = b"SQLite format 3\x00", b"PGDMP"


def restore(archive: Path, folder: Path, erased: Path | None = None, database: str = "") -> list[str]:
    """Make an office from a copy, in a new folder; what was erased since the copy was made is erased again.

    A copy of an office on PostgreSQL goes into the empty ``database`` (a URL), which the settings of the new office then name.

    Returns what ``verify`` finds wrong, nothing if all is well. Raises Invalid, and leaves nothing behind, if the copy is not whole.
    """
    if folder.exists() and any(folder.iterdir()):
        raise Invalid(say("{folder} is not empty; restore into a new folder.", folder=folder))
    building = folder.with_name(folder.name + ".restoring")
    shutil.rmtree(building, ignore_errors=True)
    try:
        _unpack(archive, building)
        _fill(archive, building, database)
        office = open_office(building)
        try:
            repeat_erasures(office, erased or archive.with_name(RECORD))
            wrong = list(verify(office))
        finally:
            office.close()
    except (tarfile.TarError, OSError, DatabaseError, ValueError) as error:
        shutil.rmtree(building, ignore_errors=True)
        raise Invalid(say("{archive} cannot be read: {error}", archive=archive, error=error)) from None
    except Invalid:
        shutil.rmtree(building, ignore_errors=True)
        raise
    if folder.exists():
        folder.rmdir()
    building.rename(folder)
    return wrong


def _begins(file: Path, start: bytes) -> bool:
    if not file.is_file():
        return False
    with file.open("rb") as content:
        return content.read(len(start)) == start


def _fill(archive: Path, building: Path, database: str) -> None:
    """Fill the database of PostgreSQL from its dump, and name it in the settings; a file of SQLite stays as it is."""
    dumped = building / POSTGRES_NAME
    if not dumped.exists():
        if database:
            raise Invalid(say("{archive} is a copy of an office on SQLite; restore it, then use move-to.", archive=archive))
        return
    if not database:
        raise Invalid(
            say("{archive} is a copy of an office on PostgreSQL; name an empty database with --database.", archive=archive)
        )
    if not is_empty(database):
        raise Invalid(say("The database is not empty; name an empty one."))
    load(dumped, database)
    dumped.unlink()
    set_in_file(building, "database", database)


def _take_out(tar: tarfile.TarFile, to: Path) -> None:
    """Take out what a copy holds: plain files that lie in its folder. Anything else raises TarError. (Debian 12 ships Python 3.11.2, which
    has no filters of its own for this; they came with 3.11.4.)"""
    for member in tar:
        path = (to / member.name).resolve()
        content = tar.extractfile(member) if member.isreg() and path.is_relative_to(to.resolve()) else None
        if content is None:
            raise tarfile.TarError(member.name)
        path.parent.mkdir(parents=True, exist_ok=True)
        with content, path.open("wb") as file:
            shutil.copyfileobj(content, file)
        path.chmod(0o600)
        os.utime(path, (member.mtime, member.mtime))


def _unpack(archive: Path, building: Path) -> None:
    """Unpack a copy and see that everything that its manifest counts is there."""
    with tarfile.open(archive) as tar:
        names = tar.getnames()
        if MANIFEST not in names:
            raise Invalid(say("{archive} is no whole copy of an office: its last part is missing.", archive=archive))
        _take_out(tar, building)
    manifest = building / MANIFEST
    count = json.loads(manifest.read_text("utf-8")).get("files")
    manifest.unlink()
    there = len(names) - 2
    if not (_begins(building / SQLITE_NAME, SQLITE) or _begins(building / POSTGRES_NAME, POSTGRES)):
        raise Invalid(say("{archive} is no whole copy of an office: its database is missing or damaged.", archive=archive))
    if count != there:
        raise Invalid(
            say(
                "{archive} is no whole copy of an office: it holds {there} files of {count}.",
                archive=archive,
                there=there,
                count=count,
            )
        )
