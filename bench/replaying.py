"""Replay of many stored cases under another edition: cases a second on all cores, with the memory of the workers."""

from __future__ import annotations

import os
import shutil
import sqlite3
import sys
import time
from pathlib import Path

from jolly_clerk.office.rules.replaying import replay
from jolly_clerk.shelf.rulebooks import SHIPPED

OTHER = SHIPPED / "BW" / "2025-07-01.yaml"
TABLES = {"cases": "id", "versions": "case_id", "entries": "case_id", "heads": "case_id"}


def multiplied(folder: Path, count: int) -> Path:
    """A copy of an office in which the building works cases stand so often that there are at least ``count``."""
    copy = folder.with_name(f"office-{count}")
    shutil.copytree(folder, copy, ignore=shutil.ignore_patterns("vault"))
    (copy / "vault").symlink_to((folder / "vault").resolve())
    base = sqlite3.connect(copy / "office.db")
    base.execute("PRAGMA foreign_keys=OFF")
    own = [row[0] for row in base.execute("SELECT id FROM cases WHERE kind = 'BW'")]
    marks = ",".join("?" * len(own))
    for n in range(1, -(-count // len(own))):
        for table, key in TABLES.items():
            columns = [row[1] for row in base.execute(f"PRAGMA table_info({table})")]
            told = [f"{c} || '-{n}'" if c in (key, "reference") else "NULL" if c == "permit_code" else c for c in columns]
            base.execute(
                f"INSERT INTO {table} ({','.join(columns)}) SELECT {','.join(told)} FROM {table} WHERE {key} IN ({marks})", own
            )
    base.commit()
    base.close()
    return copy


def measure(folder: Path, count: int = 10_000) -> tuple[float, int, int, float]:
    """Cases a second, how many there were, how many differ, and the growth of the largest worker from the first tenth on (ratio)."""
    copy = multiplied(folder, count)
    began, differ, early, latest, done = time.perf_counter(), 0, 0, 0, 0
    for progress in replay(copy, OTHER):
        differ += sum(bool(case.differs) for case in progress.latest)
        done, latest = progress.done, max(latest, _largest_child())
        early = early if done > progress.of / 10 and early else latest
    taken = time.perf_counter() - began
    shutil.rmtree(copy)
    return done / taken, done, differ, latest / max(early, 1)


def _largest_child() -> int:
    """The resident memory of the largest child of this process, in kB; 0 where the machine does not tell."""
    found = 0
    for status in Path("/proc").glob("[0-9]*/status"):
        try:
            text = status.read_text()
        except OSError:
            continue
        if f"\nPPid:\t{os.getpid()}\n" in text and "VmRSS" in text:
            found = max(found, int(text.split("VmRSS:")[1].split()[0]))
    return found


if __name__ == "__main__":
    print(measure(Path(sys.argv[1]), int(sys.argv[2])))
