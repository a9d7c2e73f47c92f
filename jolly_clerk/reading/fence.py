"""Readers in processes of their own, fenced by time and memory: a file can hurt its reader, never the server."""

from __future__ import annotations

import contextlib
import hashlib
import json
import os
import queue
import selectors
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from jolly_clerk.core.facts.reading import PageText, Reading
from jolly_clerk.core.say import say
from jolly_clerk.reading.binding import Bound, Bundle
from jolly_clerk.reading.making import Remade, Remake
from jolly_clerk.reading.read import READER
from jolly_clerk.reading.spreadsheet import Cells

#: seconds of CPU for a file and for the text of one of its pages; on the wall it may take some times as long
SECONDS, PAGE_SECONDS = 30.0, 10.0
#: seconds for each step of a page, which may take some times as long as well
STEP_SECONDS = 6.0
#: so many times as long it may take on the wall, where the machine has more to do
WALL = 4
#: seconds in which a reader has to be ready, which count for no file, and after which its time is looked at
READY, LOOKS_EACH = 60.0, 0.5
_TICKS = os.sysconf("SC_CLK_TCK")


class _Worker:
    def __init__(self, nice: int, wall: int) -> None:
        self.ready, self.wall = False, wall
        self.process = subprocess.Popen(
            [sys.executable, "-m", "jolly_clerk.reading.worker", str(nice)],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            start_new_session=True,  # what it starts ends with it
            env={key: value for key, value in os.environ.items() if key in ("PATH", "LANG", "PYTHONPATH", "HOME")},
            text=True,
            bufsize=1,
        )

    def read(self, told: dict[str, object], seconds: float) -> dict[str, object] | str:
        """What was read as a mapping, or why there is nothing."""
        assert self.process.stdin and self.process.stdout
        try:
            if not self.ready:
                if not self._line(READY * self.wall, READY):
                    return say("its reader stopped")
                self.ready = True
            self.process.stdin.write(json.dumps(told) + "\n")
            self.process.stdin.flush()
        except OSError:
            return say("its reader stopped")
        line = self._line(seconds * self.wall, seconds)
        if line is None:
            return say("it took longer than {seconds} seconds", seconds=f"{seconds:.0f}")
        if not line:
            return say("its reader stopped")
        found: dict[str, object] = json.loads(line)
        return str(found["trouble"]) if found.get("trouble") and not found.keys() & {"sha256", "rows"} else found

    def _line(self, wall: float, cpu: float) -> str | None:
        """The next line, empty if the reader ended; None if it took more seconds on the wall or of the processors' time."""
        assert self.process.stdout
        until, spent = time.monotonic() + wall, self._spent()
        with selectors.DefaultSelector() as waiting:
            waiting.register(self.process.stdout, selectors.EVENT_READ)
            while not waiting.select(min(LOOKS_EACH, cpu)):
                if time.monotonic() > until or self._spent() - spent > cpu:
                    return None
        return self.process.stdout.readline()

    def _spent(self) -> float:
        """Seconds of the processors' time that the reader and the programs it started have taken."""
        try:
            parts = Path(f"/proc/{self.process.pid}/stat").read_text().rpartition(")")[2].split()
        except OSError:
            return 0.0
        return sum(int(parts[n]) for n in (11, 12, 13, 14)) / _TICKS

    def kill(self) -> None:
        """Stop it, and whatever program it started."""
        with contextlib.suppress(ProcessLookupError):
            os.killpg(self.process.pid, signal.SIGKILL)

    def end(self) -> None:
        self.kill()
        self.process.wait()
        for pipe in (self.process.stdin, self.process.stdout):
            if pipe:
                with contextlib.suppress(OSError):  # what it never took is gone with it
                    pipe.close()


class Readers:
    """As many readers as there are cores, started when first needed; a reader that failed is replaced. ``nice`` is by how much they stand
    back behind whoever waits for a page, ``wall`` how many times the processor's time a file may take on the wall; ``seconds`` and
    ``page_seconds`` are that time for a file and for the text of a page. ``waits`` is called by whoever is about to wait for a reader."""

    def __init__(
        self,
        count: int | None = None,
        seconds: float = SECONDS,
        nice: int = 0,
        wall: int = WALL,
        page_seconds: float = PAGE_SECONDS,
        waits: Callable[[], None] = lambda: None,
    ) -> None:
        self.seconds, self.nice, self.wall, self.page_seconds = seconds, nice, wall, page_seconds
        self.count, self.waits = count or os.cpu_count() or 1, waits
        self._free: queue.LifoQueue[_Worker | None] = queue.LifoQueue()
        for _ in range(self.count):
            self._free.put(None)
        self._lock = threading.Lock()
        self._busy: set[_Worker | None] = set()

    def read(self, path: Path) -> Reading:
        """Read a file. Waits for a free reader; a file that cannot be read gives a reading that says so."""
        found = self._ask({"path": str(path)}, self.seconds)
        return self._not_read(path, found) if isinstance(found, str) else Reading.model_validate(found)

    def read_page(self, path: Path, kind: str, no: int) -> PageText:
        """The text of one scanned page of a file of this type; nothing of one that cannot be read in time."""
        found = self._ask({"path": str(path), "type": kind, "page": no, "step": STEP_SECONDS * self.wall}, self.page_seconds)
        if isinstance(found, str):
            return PageText(lines=(), words=0, language="", turn=0)
        return PageText.model_validate(found)

    def bind(self, bundle: Bundle) -> Bound:
        """Bind papers into one PDF. If the reader cannot, all of them are told as failed."""
        found = self._ask({"bundle": bundle.model_dump()}, self.seconds)
        if isinstance(found, str):
            return Bound(failed=list(range(len(bundle.papers))))
        return Bound.model_validate(found)

    def remake(self, asked: Remake) -> Remade:
        """Put files into another shape, or tell why they cannot be."""
        found = self._ask({"remake": asked.model_dump()}, self.seconds)
        if isinstance(found, str):
            return Remade(refused=say("This file could not be changed: {why}.", why=found))
        return Remade.model_validate(found)

    def cells(self, path: Path) -> Cells:
        """The cells of a spreadsheet, or why there are none."""
        found = self._ask({"table": str(path)}, self.seconds)
        if isinstance(found, str):
            return Cells(trouble=say("This table could not be read: {why}.", why=found))
        return Cells.model_validate(found)

    def _ask(self, told: dict[str, object], seconds: float) -> dict[str, object] | str:
        self.waits()
        worker = used = self._free.get()
        found: dict[str, object] | str = say("its reader stopped")
        try:
            worker = used = worker or _Worker(self.nice, self.wall)
            with self._lock:
                self._busy.add(used)
            found = worker.read(told, seconds)
            if isinstance(found, str):
                worker.end()
                worker = None
        finally:
            with self._lock:
                self._busy.discard(used)
            self._free.put(worker)
        return found

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
            self._free.put(worker or _Worker(self.nice, self.wall))

    def kill(self) -> None:
        """Stop the readers that are reading, whatever they read; each is told as stopped and replaced by the next file."""
        with self._lock:
            for worker in self._busy:
                if worker is not None:
                    worker.kill()

    def end(self) -> None:
        """Stop all readers."""
        for _ in range(self.count):
            worker = self._free.get()
            if worker:
                worker.end()
        for _ in range(self.count):
            self._free.put(None)
