"""The registers stand-in: each register is a CSV file in a folder; one beside which lies ``NAME.silent`` does not answer.
Beside it may lie its map, ``NAME.geojson``."""

from __future__ import annotations

import csv
from pathlib import Path

from jolly_clerk.core.ports import NoAnswer, as_key

MOST_ROWS = 200_000


class RegisterFolder:
    """Looks into the registers of a folder. A row is a mapping of column to text."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._kept: dict[str, tuple[float, list[dict[str, str]]]] = {}

    def rows(self, name: str) -> list[dict[str, str]]:
        """All rows of a register. Raises NoAnswer if it is silent, missing or unreadable."""
        file = self.folder / f"{name}.csv"
        if (self.folder / f"{name}.silent").exists():
            raise NoAnswer(name)
        try:
            stamp = file.stat().st_mtime
            kept = self._kept.get(name)
            if kept is None or kept[0] != stamp:
                with file.open(encoding="utf-8-sig", newline="") as lines:
                    reader = csv.DictReader(lines)
                    found = [
                        {k.strip(): (v or "").strip() for k, v in row.items() if isinstance(k, str)}
                        for row, _ in zip(reader, range(MOST_ROWS), strict=False)
                    ]
                kept = self._kept[name] = (stamp, found)
        except (OSError, UnicodeDecodeError, csv.Error) as error:
            raise NoAnswer(f"{name}: {error}") from None
        return kept[1]

    def entry(self, name: str, column: str, key: str) -> dict[str, str] | None:
        """The row whose ``column`` is ``key``, whatever its capitals; None if there is none."""
        wanted = as_key(key)
        return next((row for row in self.rows(name) if as_key(row.get(column, "")) == wanted), None) if wanted else None

    def search(self, name: str, words: str, columns: list[str], most: int = 8) -> list[dict[str, str]]:
        """Rows in which each of the words stands in one of the columns."""
        wanted = as_key(words).split()
        found: list[dict[str, str]] = []
        for row in self.rows(name) if wanted else ():
            text = as_key(" ".join(row.get(c, "") for c in columns))
            if all(word in text for word in wanted):
                found.append(row)
                if len(found) == most:
                    break
        return found

    def map_of(self, name: str) -> bytes | None:
        """The map that lies beside a register; None if there is none."""
        try:
            return (self.folder / f"{name}.geojson").read_bytes()
        except OSError:
            return None
