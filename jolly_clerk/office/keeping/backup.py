"""A copy of the whole office while it runs, and an office made from such a copy."""

from __future__ import annotations

import io
import json
import shutil
import sqlite3
import tarfile
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path

from jolly_clerk.core.say import say
from jolly_clerk.office.errors import Invalid
from jolly_clerk.office.keeping.verifying import verify
from jolly_clerk.office.office import Office, open_office
from jolly_clerk.office.settings import FILE

MANIFEST = "backup.json"


def back_up(office: Office, to: Path) -> int:
    """Write the office into one TAR file: the database as of one instant, then every file it names. Returns how many files.

    Files are never changed once kept, so those that the copied database names are all there, whatever is filed meanwhile.
    """
    copy = to.with_name(to.name + ".db")
    partial = to.with_name(to.name + ".part")
    try:
        with sqlite3.connect(office.folder / "office.db") as source, sqlite3.connect(copy) as target:
            source.backup(target)
        count = 0
        with tarfile.open(partial, "w") as tar:
            tar.add(copy, "office.db")
            for path, name in _files(office):
                tar.add(path, name)
                count += 1
            about = json.dumps({"made": datetime.now(UTC).isoformat(), "files": count}).encode()
            info = tarfile.TarInfo(MANIFEST)
            info.size = len(about)
            tar.addfile(info, io.BytesIO(about))
        partial.replace(to)
        return count
    finally:
        copy.unlink(missing_ok=True)
        partial.unlink(missing_ok=True)


def _files(office: Office) -> Iterator[tuple[Path, str]]:
    for folder in ("vault", "registers", "post-room"):
        for path in sorted((office.folder / folder).rglob("*")):
            if path.is_file() and not path.name.endswith(".part"):
                yield path, str(path.relative_to(office.folder))
    if (office.folder / FILE).is_file():
        yield office.folder / FILE, FILE


def restore(archive: Path, folder: Path) -> list[str]:
    """Make an office from a copy, in a new folder; returns what ``verify`` finds wrong, nothing if all is well."""
    if folder.exists() and any(folder.iterdir()):
        raise Invalid(say("{folder} is not empty; restore into a new folder.", folder=folder))
    building = folder.with_name(folder.name + ".restoring")
    shutil.rmtree(building, ignore_errors=True)
    try:
        with tarfile.open(archive) as tar:
            if MANIFEST not in tar.getnames():
                raise Invalid(say("{archive} is no whole copy of an office: its last part is missing.", archive=archive))
            tar.extractall(building, filter="data")
    except (tarfile.TarError, OSError) as error:
        shutil.rmtree(building, ignore_errors=True)
        raise Invalid(say("{archive} cannot be read: {error}", archive=archive, error=error)) from None
    (building / MANIFEST).unlink()
    if folder.exists():
        folder.rmdir()
    building.rename(folder)
    office = open_office(folder)
    try:
        return list(verify(office))
    finally:
        office.close()
