"""Whose turn it is: one after the other, in the order in which they came.

A plain lock may go to whoever happens to ask at the moment it is let go; under a crowd somebody then waits until the patience ends.
"""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Iterator
from contextlib import contextmanager
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
