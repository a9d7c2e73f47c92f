"""Who reckons when. Python computes in one thread at a time: twenty requests that all reckon at once hold one another up at each look
into the database, and each takes longer than if they had come one after the other. So each waits for its turn."""

from __future__ import annotations

import functools
import inspect
import threading
import time
from collections import deque
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any, ParamSpec, TypeVar

from fastapi import APIRouter
from fastapi.routing import APIRoute

from jolly_clerk.web.problems import RESPONSES

#: how many requests reckon at once, and the seconds after which one that still does lets the next one begin beside it
AT_ONCE, TURN = 1, 0.2


class Turns:
    """Turns in the order of coming. Whoever has had its turn for ``turn`` seconds goes on, and the next one begins: what takes long,
    or waits for a lock, a file or another program, holds up nobody for longer than that."""

    def __init__(self, at_once: int = AT_ONCE, turn: float = TURN) -> None:
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
        try:
            yield
        finally:
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


TURNS = Turns()
_Asked = ParamSpec("_Asked")
_Answer = TypeVar("_Answer")


class InTurn(APIRoute):
    """A route whose function, unless it is asynchronous, waits for its turn."""

    def __init__(self, path: str, endpoint: Callable[..., Any], **options: Any) -> None:  # noqa: ANN401 - as the library
        super().__init__(path, endpoint if inspect.iscoroutinefunction(endpoint) else _in_turn(endpoint), **options)


def _in_turn(endpoint: Callable[_Asked, _Answer]) -> Callable[_Asked, _Answer]:
    @functools.wraps(endpoint)
    def asked(*values: _Asked.args, **named: _Asked.kwargs) -> _Answer:
        with TURNS.taken():
            return endpoint(*values, **named)

    return asked


def router_of(prefix: str, tag: str) -> APIRouter:
    """A router for routes of one subject: each in turn, each with the same problem documents."""
    return APIRouter(prefix=prefix, tags=[tag], responses=RESPONSES, route_class=InTurn)
