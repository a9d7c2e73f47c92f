"""How fast the machine is just now. Others who share it slow it down by up to five times from one minute to the next, and each figure
with it, so a figure is told beside what it comes to at the pace of a quiet machine.

The pace is taken all the time while something is measured, by a process of its own that does a fixed piece of work four times a second
and sleeps in between. What counts is the time of the processor that this piece takes, so waiting for a core that our own work holds is
no excuse. ``python -m bench.pace`` prints the pace until it is ended.
"""

from __future__ import annotations

import statistics
import subprocess
import sys
import tempfile
import time
from bisect import bisect_left
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TypeVar

T = TypeVar("T")
ROOT = Path(__file__).resolve().parents[1]
#: seconds of the processor that a million additions take where nobody else is at work (seen on this kind of machine: 0.048 to 0.060)
QUIET = 0.06
#: so many additions are one sample, and so many seconds lie between two
PIECE, EVERY = 50_000, 0.25
#: a pace is told from at least so many samples
FEWEST = 9


def slower() -> float:
    """How many times as long as on a quiet machine a fixed piece of work takes now; less than 1 where the machine is faster."""
    began, total = time.process_time(), 0
    for n in range(PIECE):
        total += n
    return (time.process_time() - began) / QUIET * (1_000_000 / PIECE)


class Pace:
    """The pace of the machine while this is open: ``with Pace() as pace: …``."""

    def __enter__(self) -> Pace:
        self._file = tempfile.NamedTemporaryFile(prefix="jolly-clerk-pace-")
        command = [sys.executable, "-m", "bench.pace"]
        self._process = subprocess.Popen(command, cwd=ROOT, stdout=self._file)
        return self

    def __exit__(self, *_: object) -> None:
        self._process.kill()
        self._process.wait()
        self._file.close()

    def between(self, began: float, ended: float) -> float:
        """How many times as long as on a quiet machine things took from one instant of ``time.monotonic`` to another: the median of the
        samples, with those next to it where they are few. At least 1: a fast machine makes no figure worse."""
        return middle(self._samples(), began, ended)

    def over(self, work: Callable[[], T]) -> tuple[T, float]:
        """What the work gives, and how many times as long as on a quiet machine things took meanwhile."""
        began = time.monotonic()
        done = work()
        return done, self.between(began, time.monotonic())

    def quietened(self, took: Sequence[tuple[float, float]]) -> list[float]:
        """Seconds that things took, given as the instant at which each ended and its seconds, as they were on a quiet machine: each by
        the pace of its own moment."""
        samples = self._samples()
        return [seconds / middle(samples, ended - seconds, ended) for ended, seconds in took]

    def _samples(self) -> list[tuple[float, float]]:
        """All that were taken, after a while if they are few yet."""
        while len(lines := Path(self._file.name).read_text("ascii").rpartition("\n")[0].splitlines()) < FEWEST:
            if self._process.poll() is not None:
                raise RuntimeError("the pace is not taken")
            time.sleep(EVERY)
        return [(float(at), float(times)) for at, times in (line.split() for line in lines)]


def middle(samples: Sequence[tuple[float, float]], began: float, ended: float) -> float:
    """The median of the samples between two instants and, where they are few, of those nearest to it; at least 1."""
    first, last = bisect_left(samples, (began, 0.0)), bisect_left(samples, (ended, 0.0))
    missing = max(0, FEWEST - (last - first))
    first = max(0, min(first - missing // 2, len(samples) - FEWEST))
    return max(1.0, statistics.median(times for _, times in samples[first : max(last, first + FEWEST)]))


def at_pace(rate: float, times: float) -> str:
    """How many a second, here and on a quiet machine."""
    return f"{rate:.0f} at {times:.1f}, so {rate * times:.0f}"


def main() -> None:
    """Print instants and paces."""
    while True:
        slower()  # the first after a sleep finds nothing where it was
        print(f"{time.monotonic():.3f} {slower():.3f}", flush=True)
        time.sleep(EVERY)


if __name__ == "__main__":
    main()
