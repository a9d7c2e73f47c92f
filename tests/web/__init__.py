"""Tests of the routes. What they ask within their own process is answered on one event loop that stays."""

import atexit
import functools
from collections.abc import Iterator
from contextlib import contextmanager

from anyio.from_thread import BlockingPortal, start_blocking_portal
from starlette.testclient import TestClient


@functools.cache
def _portal() -> BlockingPortal:
    """A thread with a loop; the library would begin one for each request, a fifth of what a row of the route table takes."""
    opened = start_blocking_portal()
    portal = opened.__enter__()
    atexit.register(opened.__exit__, None, None, None)
    return portal


@contextmanager
def _that_stays(self: TestClient) -> Iterator[BlockingPortal]:
    yield self.portal or _portal()


TestClient._portal_factory = _that_stays  # type: ignore[method-assign]
