"""Tests of the routes. What they ask within their own process is answered on one event loop that stays."""

import functools
from collections.abc import Iterator
from contextlib import contextmanager

import httpx2
from anyio.from_thread import BlockingPortal, start_blocking_portal
from starlette.testclient import TestClient
from starlette.types import ASGIApp

from tests import at_end


@functools.cache
def _portal() -> BlockingPortal:
    """A thread with a loop; the library would begin one for each request, a fifth of what a row of the route table takes."""
    opened = start_blocking_portal()
    portal = opened.__enter__()
    at_end(opened.__exit__, None, None, None)
    return portal


@contextmanager
def _that_stays(self: TestClient) -> Iterator[BlockingPortal]:
    yield self.portal or _portal()


TestClient._portal_factory = _that_stays  # type: ignore[method-assign]


class _Whole(httpx2.BaseTransport):
    """Answers a request in one task, whole; the library's own client, which can stream, goes eight times between threads for each."""

    def __init__(self, app: ASGIApp, raises: bool) -> None:
        self.answering = httpx2.ASGITransport(app, raise_app_exceptions=raises, client=("testclient", 50000))  # type: ignore[arg-type]

    def handle_request(self, request: httpx2.Request) -> httpx2.Response:
        return _portal().call(self.answered, request)

    async def answered(self, request: httpx2.Request) -> httpx2.Response:
        answer = await self.answering.handle_async_request(request)
        content = b"".join([part async for part in answer.stream])  # type: ignore[union-attr]
        return httpx2.Response(answer.status_code, headers=answer.headers, stream=httpx2.ByteStream(content))


def asking(app: ASGIApp, raises: bool = False) -> httpx2.Client:
    """A client that asks an application within this process and takes each answer whole; with ``raises`` what fails in the application
    is raised here, else it is a 500."""
    return httpx2.Client(transport=_Whole(app, raises), base_url="http://testserver", follow_redirects=True)
