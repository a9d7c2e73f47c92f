"""Files kept by their content: written to a temporary name, synced, renamed, before any row names them."""

from __future__ import annotations

import hashlib
import io
import os
import re
import tempfile
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path
from typing import IO

from jolly_clerk.core.say import say

#: bytes that are taken at a time
PIECE = 1_000_000
_SHA256 = re.compile(r"[0-9a-f]{64}")


class Vault:
    """A folder of files by SHA-256."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        folder.mkdir(parents=True, exist_ok=True)

    def path(self, sha256: str) -> Path:
        """Where a file lies. Raises ValueError for what is no SHA-256: names are never used as paths."""
        if not _SHA256.fullmatch(sha256):
            raise ValueError(say("this is no SHA-256"))
        return self.folder / sha256[:2] / sha256

    def put(self, content: bytes) -> str:
        """Keep ``content`` and return its SHA-256; the same content twice is kept once."""
        sha256 = hashlib.sha256(content).hexdigest()
        return sha256 if self.path(sha256).exists() else self.take(io.BytesIO(content))[0]

    def take(self, content: IO[bytes]) -> tuple[str, int]:
        """Keep what an open file holds, piece by piece, and return its SHA-256 and its size in bytes."""
        digest, size = hashlib.sha256(), 0
        handle, temporary = tempfile.mkstemp(dir=self.folder, prefix="incoming-")
        try:
            with os.fdopen(handle, "wb") as file:
                while piece := content.read(PIECE):
                    digest.update(piece)
                    file.write(piece)
                    size += len(piece)
                file.flush()
                os.fsync(file.fileno())
            self._rename(Path(temporary), digest.hexdigest())
        finally:
            Path(temporary).unlink(missing_ok=True)
        return digest.hexdigest(), size

    def take_file(self, file: Path) -> tuple[str, int]:
        """Keep a file that lies elsewhere; one whose content is there already is only read. Returns its SHA-256 and its size."""
        with file.open("rb") as content:
            sha256 = hashlib.file_digest(content, "sha256").hexdigest()
            if self.path(sha256).exists():
                return sha256, content.tell()
            content.seek(0)
            return self.take(content)

    def _rename(self, temporary: Path, sha256: str) -> None:
        target = self.path(sha256)
        if target.exists():
            return
        target.parent.mkdir(exist_ok=True)
        temporary.replace(target)
        folder = os.open(target.parent, os.O_RDONLY)
        try:
            os.fsync(folder)
        finally:
            os.close(folder)

    def get(self, sha256: str) -> bytes:
        """The content of a file. Raises FileNotFoundError."""
        return self.path(sha256).read_bytes()

    def check(self, sha256: str) -> str:
        """Empty if the file is there and whole, else what is wrong."""
        try:
            content = self.get(sha256)
        except OSError:
            return say("is missing from the vault")
        return "" if hashlib.sha256(content).hexdigest() == sha256 else say("does not have the content it was kept under")

    def all(self) -> Iterator[str]:
        """Every SHA-256 in the vault."""
        for path in self.folder.glob("??/*"):
            if _SHA256.fullmatch(path.name):
                yield path.name

    def remove(self, sha256: str) -> None:
        """Remove a file for good; one that is not there is gone already."""
        self.path(sha256).unlink(missing_ok=True)

    def tidy(self, before: float) -> int:
        """Remove what came in half and was left before an instant (seconds since 1970); returns how many."""
        count = 0
        for path in self.folder.glob("incoming-*"):
            with suppress(OSError):
                if path.stat().st_mtime < before:
                    path.unlink()
                    count += 1
        return count
