"""Whose turn it is: one after the other, in the order in which they came.

A plain lock may go to whoever happens to ask at the moment it is let go; under a crowd somebody then waits until the patience ends.
"""

from __future__ import annotations

import threading
import time
from collections import deque
from collections.abc import Iterator
from contextlib import contextmanager
from functools import partial
from weakref import WeakValueDictionary

#: seconds that somebody waits in turn for one thing before going on without
A_WHILE = 5.0


class Turns:
    """A lock that is handed to whoever has waited longest."""

    def __init__(self) -> None:
        self._short, self._taken = threading.Lock(), False
        self._waiting: deque[threading.Lock] = deque()

    def acquire(self, timeout: float) -> bool:
        """Wait for the turn; False if it did not come within ``timeout`` seconds."""
        with self._short:
            if not self._taken:
                self._taken = True
                return True
            mine = threading.Lock()
            mine.acquire()
            self._waiting.append(mine)
        stand_aside()
        if mine.acquire(timeout=timeout):
            return True
        with self._short:
            if mine in self._waiting:
                self._waiting.remove(mine)
                return False
        return True  # it came just as the patience ended

    def release(self) -> None:
        """Hand the turn on."""
        with self._short:
            if self._waiting:
                self._waiting.popleft().release()
            else:
                self._taken = False


class TurnsByName:
    """A turn for each thing that has a name; one that nobody waits for is forgotten."""

    def __init__(self) -> None:
        self._short = threading.Lock()
        self._kept: WeakValueDictionary[str, Turns] = WeakValueDictionary()

    @contextmanager
    def of(self, name: str) -> Iterator[None]:
        """Within it no other thread is within the same name; whoever waited ``A_WHILE`` goes on all the same: this spares work and
        guards nothing."""
        with self._short:
            turns = self._kept.setdefault(name, Turns())
        mine = turns.acquire(A_WHILE)
        try:
            yield
        finally:
            if mine:
                turns.release()


#: in each thread, what ends the timed turn that it has
_MINE = threading.local()


def stand_aside() -> None:
    """Whoever is about to wait for something else gives the turn to the next one, and goes on beside it when the waiting is over."""
    if (end := getattr(_MINE, "end", None)) is not None:
        end()


class TimedTurns:
    """``at_once`` turns in the order of coming. Whoever has had its turn for ``turn`` seconds, or stands aside, goes on, and the next one
    begins: what takes long, or waits for something else, holds up nobody for longer than that."""

    def __init__(self, at_once: int, turn: float) -> None:
        self.at_once, self.turn = at_once, turn
        self._lock = threading.Lock()
        self._began: dict[object, float] = {}
        self._waiting: deque[threading.Event] = deque()

    @property
    def waiting(self) -> int:
        """How many wait for their turn."""
        return len(self._waiting)

    @contextmanager
    def taken(self) -> Iterator[None]:
        """Wait for a turn, and have it."""
        me = threading.Event()
        with self._lock:
            self._waiting.append(me)
            seconds = self._call()
        while not me.wait(seconds):
            with self._lock:
                seconds = self._call()
        _MINE.end = partial(self._end, me)
        try:
            yield
        finally:
            _MINE.end = None
            self._end(me)

    def _end(self, me: threading.Event) -> None:
        with self._lock:
            self._began.pop(me, None)
            self._call()

    def _call(self) -> float:
        """Call whoever is next, as long as there is room; the seconds until the first turn is over."""
        now = time.monotonic()
        while self._waiting:
            if len(self._began) >= self.at_once:
                first = next(iter(self._began))  # they began in this order
                if (left := self._began[first] + self.turn - now) > 0:
                    return left
                del self._began[first]
            called = self._waiting.popleft()
            self._began[called] = now
            called.set()
        return self.turn
