"""How fast the machine is just now. Others who share it slow it down by up to five times from one minute to the next, and each figure
with it, so a figure is told beside what it comes to at the pace of a quiet machine."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import TypeVar

T = TypeVar("T")
#: seconds of the processor that a million additions take where nobody else is at work (seen on this kind of machine: 0.048 to 0.060)
QUIET = 0.06


def slower() -> float:
    """How many times as long as on a quiet machine a fixed piece of work takes now; at least 1."""
    began, total = time.process_time(), 0
    for n in range(1_000_000):
        total += n
    return max(1.0, (time.process_time() - began) / QUIET)


def paced(work: Callable[[], T]) -> tuple[T, float]:
    """What the work gives, and how many times as long the machine took before and after it: the lesser of both, which flatters least.
    What the machine did in between is not seen, so a long work's figure is no more than near."""
    before = slower()
    done = work()
    return done, min(before, slower())


def at_pace(rate: float, times: float) -> str:
    """How many a second, here and on a quiet machine."""
    return f"{rate:.0f} at {times:.1f}, so {rate * times:.0f}"
