"""The stream of events that open pages listen to (server-sent events): ids and revisions, never content."""

from __future__ import annotations

import asyncio
import json
from collections.abc import AsyncIterator
from typing import Annotated

from fastapi import Header, Request
from sse_starlette import EventSourceResponse, ServerSentEvent
from starlette.concurrency import run_in_threadpool

from jolly_clerk.core.numbers import whole_number
from jolly_clerk.core.say import say
from jolly_clerk.office.events import Feed, Told, is_for, newest, taken_up, told
from jolly_clerk.office.people.directory import signed_in
from jolly_clerk.store.beside import Event
from jolly_clerk.web.asking import Asker, Cookie, TheOffice
from jolly_clerk.web.bodies import Number
from jolly_clerk.web.problems import Refused
from jolly_clerk.web.turns import router_of

router = router_of("/api", "events")
#: seconds after which it is seen again whether the session still holds
STILL_SIGNED_IN = 30.0
#: so many events wait for a page that does not take them; then it is told to look at everything again
MOST_WAITING = 200
#: so many streams a process serves
MOST_STREAMS = 2_000


@router.get("/events", response_class=EventSourceResponse)
async def events(
    request: Request,
    office: TheOffice,
    who: Asker,
    cookie: Cookie,
    last: Annotated[str, Header(alias="Last-Event-ID", max_length=20)] = "",
    since: Number | None = None,
) -> EventSourceResponse:
    """What changes from now on, or after an event: ``{"what": "case", "name": REFERENCE, "revision": 7}``.

    That event is ``Last-Event-ID``, which a browser sends when it comes again, or else ``since``, for a page that begins."""
    feed: Feed | None = getattr(request.app.state, "feed", None)
    if feed is None or request.app.state.streams >= MOST_STREAMS:
        raise Refused(503, say("Too busy just now"), say("Changes are not told just now; the page looks by itself."))
    loop, waiting = asyncio.get_running_loop(), asyncio.Queue[Told](MOST_WAITING)

    def put(found: Told) -> None:
        if waiting.full():  # it will be told everything at once
            while not waiting.empty():
                waiting.get_nowait()
            found = Told(found.id, "all")
        waiting.put_nowait(found)

    def listener(event: Event) -> None:
        if is_for(event, who):
            loop.call_soon_threadsafe(put, told(event))

    async def stream() -> AsyncIterator[ServerSentEvent]:
        request.app.state.streams += 1
        await run_in_threadpool(feed.listen, listener)
        try:
            after = since if (known := whole_number(last)) is None else known
            missed = [] if after is None else await run_in_threadpool(taken_up, office, who, after)
            begin = await run_in_threadpool(newest, office)
            yield ServerSentEvent(data="{}", event="begin", id=str(begin if not missed else missed[0].id - 1))
            for found in missed:
                yield _sent(found)
            while True:
                try:
                    yield _sent(await asyncio.wait_for(waiting.get(), STILL_SIGNED_IN))
                except TimeoutError:
                    if await run_in_threadpool(signed_in, office, cookie) is None:
                        return
        finally:
            request.app.state.streams -= 1
            feed.leave(listener)

    return EventSourceResponse(stream(), ping=15, headers={"Cache-Control": "no-store"})


def _sent(found: Told) -> ServerSentEvent:
    data = json.dumps({"what": found.what, "name": found.name, "revision": found.revision})
    return ServerSentEvent(data=data, event="change", id=str(found.id))
