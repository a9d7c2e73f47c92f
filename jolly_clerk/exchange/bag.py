"""BagIt folders (RFC 8493) in a ZIP: written with SHA-256, and read with bounds before anything of it is believed."""

from __future__ import annotations

import logging
import shutil
import zipfile
from collections.abc import Mapping
from pathlib import Path, PurePosixPath

from jolly_clerk.core.say import say

#: so many files and bytes are unpacked, and so many times what was sent
MOST_FILES, MOST_BYTES, MOST_TIMES = 5_000, 4_000_000_000, 400
PIECE = 1_000_000


class BadBag(ValueError):
    """What is no whole bag; the message says what is wrong with which file."""


def zip_of_bag(folder: Path, info: Mapping[str, str]) -> Path:
    """Make a bag of a folder whose payload lies in ``data``, and a ZIP of it beside; returns where the ZIP lies."""
    import bagit  # loaded with the first package

    logging.getLogger("bagit").setLevel(logging.ERROR)
    payload = folder / "data"
    for inner in payload.iterdir():  # the library makes the folder ``data`` itself
        inner.rename(folder / inner.name)
    payload.rmdir()
    bagit.make_bag(str(folder), dict(info), checksums=["sha256"])
    target = folder.with_suffix(".zip")
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED, compresslevel=6) as made:
        for path in sorted(folder.rglob("*")):
            if path.is_file():
                made.write(path, f"{folder.name}/{path.relative_to(folder).as_posix()}")
    shutil.rmtree(folder)
    return target


def unpacked_bag(file: Path, into: Path) -> Path:
    """Unpack a ZIP with a bag into an empty folder and check it whole; returns the folder of the bag.

    Raises BadBag: no ZIP, locked, too large, a name that leads elsewhere, a file that is missing, one too many, or one that was changed.
    """
    import bagit

    logging.getLogger("bagit").setLevel(logging.CRITICAL)
    try:
        with zipfile.ZipFile(file) as archive:
            top = _unpack(archive, into, file.stat().st_size)
    except zipfile.BadZipFile as error:
        raise BadBag(say("It is no ZIP archive, or a damaged one ({error}).", error=error)) from None
    except (NotImplementedError, RuntimeError, OSError, EOFError) as error:
        raise BadBag(say("It cannot be unpacked ({error}).", error=error)) from None
    folder = into / top
    if not (folder / "bagit.txt").is_file():
        raise BadBag(say("It holds no bag: bagit.txt is missing."))
    try:
        bag = bagit.Bag(str(folder))
        bag.info.pop("Payload-Oxum", None)  # the sum of all sizes names no file; the checksums do
        bag.validate()
    except bagit.BagValidationError as error:
        told = "; ".join(_fault(detail) for detail in error.details[:MOST_TOLD]) or str(error)
        raise BadBag(say("The bag is not whole: {why}.", why=told)) from None
    except (bagit.BagError, ValueError, OSError) as error:
        raise BadBag(say("The bag cannot be read: {why}.", why=error)) from None
    if not (folder / "manifest-sha256.txt").is_file():
        raise BadBag(say("The bag has no checksums by SHA-256."))
    return folder


#: so many files that are wrong are named
MOST_TOLD = 3


def _fault(detail: Exception) -> str:
    """What is wrong with one file of a bag."""
    import bagit

    path = getattr(detail, "path", "")
    if isinstance(detail, bagit.ChecksumMismatch):
        return say("{path} was changed, its checksum is another", path=path)
    if isinstance(detail, bagit.FileMissing):
        return say("{path} is missing", path=path)
    if isinstance(detail, bagit.UnexpectedFile):
        return say("{path} does not belong to it", path=path)
    return str(detail)


def _unpack(archive: zipfile.ZipFile, into: Path, sent: int) -> str:
    entries = [e for e in archive.infolist() if not e.is_dir()]
    if not entries:
        raise BadBag(say("The archive is empty."))
    if len(entries) > MOST_FILES:
        raise BadBag(say("It holds {count} files; {most} are taken.", count=len(entries), most=MOST_FILES))
    left, tops = min(MOST_BYTES, max(50_000_000, MOST_TIMES * sent)), set[str]()
    for entry in entries:
        path = PurePosixPath(entry.filename)
        if (
            path.is_absolute()
            or ".." in path.parts
            or "\\" in entry.filename
            or len(path.parts) < 2
            or (entry.external_attr >> 28) == 0xA
        ):
            raise BadBag(say("“{name}” in it leads elsewhere.", name=entry.filename[:100]))
        if entry.flag_bits & 1:
            raise BadBag(say("“{name}” in it is locked with a password.", name=entry.filename[:100]))
        tops.add(path.parts[0])
        to = into.joinpath(*path.parts)
        if to.exists():
            raise BadBag(say("“{name}” is in it twice.", name=entry.filename[:100]))
        to.parent.mkdir(parents=True, exist_ok=True)
        with archive.open(entry) as part, to.open("wb") as out:
            while piece := part.read(PIECE):
                left -= len(piece)
                if left < 0:
                    raise BadBag(say("It unpacks to more than can be taken."))
                out.write(piece)
    if len(tops) != 1:
        raise BadBag(say("It holds more than one folder."))
    return tops.pop()
