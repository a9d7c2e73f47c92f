"""Readers in processes of their own, fenced by time and memory: a file can hurt its reader, never the server."""

from __future__ import annotations

import contextlib
import hashlib
import json
import os
import queue
import selectors
import subprocess
import sys
import threading
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.say import say
from jolly_clerk.reading.read import READER

SECONDS = 30.0


class _Worker:
    def __init__(self, nice: int) -> None:
        self.process = subprocess.Popen(
            [sys.executable, "-m", "jolly_clerk.reading.worker", str(nice)],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            env={key: value for key, value in os.environ.items() if key in ("PATH", "LANG", "PYTHONPATH", "HOME")},
            text=True,
            bufsize=1,
        )

    def read(self, path: Path, seconds: float) -> dict[str, object] | str:
        """The reading as a mapping, or why there is none."""
        assert self.process.stdin and self.process.stdout
        try:
            self.process.stdin.write(json.dumps(str(path)) + "\n")
            self.process.stdin.flush()
        except OSError:
            return say("its reader stopped")
        with selectors.DefaultSelector() as waiting:
            waiting.register(self.process.stdout, selectors.EVENT_READ)
            if not waiting.select(seconds):
                return say("it took longer than {seconds} seconds", seconds=f"{seconds:.0f}")
        line = self.process.stdout.readline()
        if not line:
            return say("its reader stopped")
        found: dict[str, object] = json.loads(line)
        return str(found["trouble"]) if "sha256" not in found else found

    def end(self) -> None:
        self.process.kill()
        self.process.wait()
        for pipe in (self.process.stdin, self.process.stdout):
            if pipe:
                with contextlib.suppress(OSError):  # what it never took is gone with it
                    pipe.close()


class Readers:
    """As many readers as there are cores, started when first needed; a reader that failed is replaced. ``nice`` is by how much they stand
    back behind whoever waits for a page."""

    def __init__(self, count: int | None = None, seconds: float = SECONDS, nice: int = 0) -> None:
        self.seconds, self.nice = seconds, nice
        self.count = count or os.cpu_count() or 1
        self._free: queue.LifoQueue[_Worker | None] = queue.LifoQueue()
        for _ in range(self.count):
            self._free.put(None)
        self._lock = threading.Lock()
        self._busy: set[_Worker | None] = set()

    def read(self, path: Path) -> Reading:
        """Read a file. Waits for a free reader; a file that cannot be read gives a reading that says so."""
        worker = used = self._free.get()
        found: dict[str, object] | str = say("its reader stopped")
        try:
            worker = used = worker or _Worker(self.nice)
            with self._lock:
                self._busy.add(used)
            found = worker.read(path, self.seconds)
            if isinstance(found, str):
                worker.end()
                worker = None
        finally:
            with self._lock:
                self._busy.discard(used)
            self._free.put(worker)
        if isinstance(found, str):
            return self._not_read(path, found)
        return Reading.model_validate(found)

    def read_all(self, paths: Sequence[Path]) -> list[Reading]:
        """Read files, as many at once as there are readers; in their order."""
        if len(paths) < 2:
            return [self.read(path) for path in paths]
        with ThreadPoolExecutor(self.count) as pool:
            return list(pool.map(self.read, paths))

    def _not_read(self, path: Path, why: str) -> Reading:
        content = path.read_bytes()
        sha256 = hashlib.sha256(content).hexdigest()
        return Reading(sha256=sha256, reader=READER, size=len(content), type="unknown type", opens="not read", trouble=why)

    def warm(self, count: int = 1) -> None:
        """Start readers ahead of the first file, which then need not wait for them."""
        taken = [self._free.get() for _ in range(min(count, self.count))]
        for worker in taken:
            self._free.put(worker or _Worker(self.nice))

    def kill(self) -> None:
        """Stop the readers that are reading, whatever they read; each is told as stopped and replaced by the next file."""
        with self._lock:
            for worker in self._busy:
                if worker is not None:
                    worker.process.kill()

    def end(self) -> None:
        """Stop all readers."""
        for _ in range(self.count):
            worker = self._free.get()
            if worker:
                worker.end()
        for _ in range(self.count):
            self._free.put(None)
