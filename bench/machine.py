"""Read what nobody made for it: files of the usual kinds that lie about on the machine, each content once.

``python -m bench.machine [folder…] [--most N]`` prints how many were read of each ending and how, and what a reader could not bear.
"""

from __future__ import annotations

import argparse
import hashlib
import sys
import time
from collections import Counter, defaultdict
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path

from jolly_clerk.core.dossier.model import Attachment
from jolly_clerk.core.facts.file_findings import file_findings
from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.reading.fence import Readers

ENDINGS = frozenset(
    (
        "pdf", "png", "jpg", "jpeg", "tif", "tiff", "gif", "bmp", "webp", "svg", "ps", "eml", "zip", "whl", "gz", "odt", "docx", "xlsx",
        "ttf", "txt", "html", "json", "xml", "csv", "md", "so", "pyc",
    )
)  # fmt: skip
NOT_IN = ("/proc", "/sys", "/dev", "/tmp")
MOST_BYTES = 200_000_000


@dataclass(slots=True)
class Walked:
    """What came of the files: by ending how they opened, the slowest, and what no reader should say of any."""

    opened: dict[str, Counter[str]] = field(default_factory=lambda: defaultdict(Counter))
    slowest: list[tuple[float, str]] = field(default_factory=list)
    unbearable: list[str] = field(default_factory=list)


def files_under(folders: list[Path], most: int) -> list[Path]:
    """At most so many files of each ending, each content once, chosen by their hash and so spread over the machine."""
    found: dict[str, dict[str, Path]] = defaultdict(dict)
    for folder in folders:
        for path in folder.rglob("*"):
            ending = path.suffix.lower().lstrip(".")
            if ending in ENDINGS and not str(path).startswith(NOT_IN) and path.is_file() and not path.is_symlink():
                found[ending][hashlib.sha256(str(path).encode()).hexdigest()] = path
    chosen: dict[str, Path] = {}
    for by_path in found.values():
        taken = 0
        for _, path in sorted(by_path.items()):
            if taken < most and 0 < path.stat().st_size < MOST_BYTES:
                content = hashlib.sha256(path.read_bytes()).hexdigest()
                taken += content not in chosen
                chosen.setdefault(content, path)
    return list(chosen.values())


def walk(paths: list[Path]) -> Walked:
    """Read the files with as many readers as there are cores, as they would be read on arrival."""
    readers, walked = Readers(), Walked()

    def read(path: Path) -> tuple[Path, Reading, float]:
        began = time.monotonic()
        return path, readers.read(path), time.monotonic() - began

    try:
        with ThreadPoolExecutor(readers.count) as pool:
            for path, found, took in pool.map(read, paths):
                walked.opened[path.suffix.lower()][found.opens] += 1
                walked.slowest = sorted([*walked.slowest, (took, f"{path} ({found.said()})")], reverse=True)[:5]
                named = Attachment(id="a1", slot="none", name=path.name, sha256=found.sha256, size=found.size)
                said = [f.text for f in file_findings(named, found)]
                if found.opens == "not read" or "Error" in found.trouble or any("Error" in text for text in said):
                    walked.unbearable.append(f"{path}: {found.trouble or said}")
    finally:
        readers.end()
    return walked


def main() -> None:
    """Walk and print."""
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument(
        "folders", nargs="*", type=Path, default=[Path("/usr"), Path("/etc"), Path("/var"), Path(".venv"), Path("frontend")]
    )
    asked.add_argument("--most", type=int, default=300, help="at most so many of each ending")
    told = asked.parse_args()
    began = time.monotonic()
    paths = files_under([folder for folder in told.folders if folder.is_dir()], told.most)
    walked = walk(paths)
    for ending, opened in sorted(walked.opened.items()):
        print(f"{ending:6} {opened.total():5}  " + ", ".join(f"{how} {count}" for how, count in opened.most_common()))
    print(f"{len(paths)} files in {time.monotonic() - began:.0f} s; the slowest:")
    for took, name in walked.slowest:
        print(f"  {took:5.1f} s  {name}")
    print(f"not borne by a reader: {len(walked.unbearable)}")
    for name in walked.unbearable:
        print(f"  {name}")
    sys.exit(1 if walked.unbearable else 0)


if __name__ == "__main__":
    main()
