"""How much anybody may send: counted while it comes in, before anything reads it, and more only for whoever is signed in or has the link
of an issuer."""

from __future__ import annotations

import asyncio
import re
from collections.abc import Callable
from http.cookies import CookieError, SimpleCookie
from typing import NoReturn
from urllib.parse import urlsplit

from starlette.concurrency import run_in_threadpool
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from jolly_clerk.core.say import say
from jolly_clerk.office.office import Office
from jolly_clerk.office.people.directory import signed_in
from jolly_clerk.office.people.tokens import by_token, is_bearer
from jolly_clerk.office.preparing.delivering import may_deliver
from jolly_clerk.web.asking import COOKIE
from jolly_clerk.web.problems import Refused, answer

#: bytes that somebody unknown may send, and somebody who is signed in without a file
MOST_UNKNOWN, MOST_PLAIN = 64_000, 2_000_000
#: bytes beside the file itself in an upload
AROUND_A_FILE = 100_000
#: what bodies with files are
FILES = ("multipart/", "application/offset+octet-stream")
#: seconds that the next piece of a body may take
PATIENCE = 30.0
#: where an issuer sends a file
_DELIVERED = re.compile(r"/api/deliver/([\w-]{20,100})")
_NUL = re.compile(rb"(?<!\\)(?:\\\\)*\\u0000|\x00")


class Bounds:
    """Middleware: refuses a body that is too large (413), comes from nobody (401), or never ends (408), before it is read whole, and an
    address with a character that no database keeps (422)."""

    def __init__(self, app: ASGIApp, office: Callable[[], Office | None]) -> None:
        self.app, self.office = app, office

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Serve a request within the bounds."""
        if scope["type"] == "http" and ("\x00" in scope["path"] or b"%00" in scope["query_string"]):
            await answer(_no_text().problem)(scope, receive, send)
            return
        if scope["type"] != "http" or scope["method"] in ("GET", "HEAD", "OPTIONS") or self.office() is None:
            await self.app(scope, receive, send)
            return
        headers = {name.decode("latin-1"): value.decode("latin-1") for name, value in scope["headers"]}
        try:
            body = await self._bounded(scope["path"], headers, receive)
        except Refused as refused:
            await answer(refused.problem)(scope, receive, send)
            return
        told = False

        async def sent(message: Message) -> None:
            """What the application answers; if the body was refused meanwhile, that is said instead."""
            nonlocal told
            if body.refused is None:
                await send(message)
            elif not told:
                told = True
                await answer(body.refused.problem)(scope, receive, send)

        await self.app(scope, body, sent)

    async def _bounded(self, path: str, headers: dict[str, str], receive: Receive) -> _Counted:
        office = self.office()
        assert office is not None
        origin = headers.get("origin", "")
        if origin and urlsplit(origin).netloc not in (headers.get("host"), urlsplit(office.settings.base_url).netloc):
            raise Refused(403, say("You may not do this"), say("This request did not come from our own pages."))
        file = headers.get("content-type", "").lower().startswith(FILES)
        told = headers.get("content-length", "")
        length = int(told) if told.isascii() and told.isdigit() and len(told) < 16 else None
        if file or length is None or length > MOST_UNKNOWN:
            known = await run_in_threadpool(_known, office, headers)
            if not known and file and not await run_in_threadpool(_by_link, office, path):
                raise Refused(401, say("Please sign in."), say("Files are taken from whoever is signed in."))
            most = office.settings.most_upload_mb * 1_000_000 + AROUND_A_FILE if file else MOST_PLAIN if known else MOST_UNKNOWN
        else:
            most = MOST_UNKNOWN
        if length is not None and length > most:
            raise _too_large(most)
        return _Counted(receive, most, json=not file)


def _known(office: Office, headers: dict[str, str]) -> bool:
    """True if somebody is signed in, or sends a token that works."""
    if is_bearer(told := headers.get("authorization", "")):
        return by_token(office, told) is not None
    return signed_in(office, _cookie(headers.get("cookie", ""))) is not None


def _too_large(most: int) -> Refused:
    said = f"{most / 1_000_000:g}" if most >= 1_000_000 else f"{most / 1_000_000:.2f}"
    return Refused(413, say("This is too large"), say("At most {most} MB can be sent here.", most=said))


def _no_text() -> Refused:
    return Refused(422, say("This cannot be taken"), say("A text holds a character that cannot be kept."))


class _Counted:
    """The same body, counted piece by piece; text that no database keeps is refused at once. ``refused`` is why it ended early."""

    def __init__(self, receive: Receive, most: int, json: bool) -> None:
        self.receive, self.most, self.json = receive, most, json
        self.so_far, self.tail, self.whole = 0, b"", False
        self.refused: Refused | None = None

    async def __call__(self) -> Message:
        """The next piece."""
        if self.whole:  # what follows is only whether the client is still there
            return await self.receive()
        try:
            message = await asyncio.wait_for(self.receive(), PATIENCE)
        except TimeoutError:
            self.refuse(Refused(408, say("This took too long"), say("Nothing came for a while. Nothing was kept.")))
        if message["type"] == "http.request":
            self.count(message.get("body", b""))
            self.whole = not message.get("more_body", False)
        return message

    def count(self, piece: bytes) -> None:
        """Count a piece and look at its text."""
        self.so_far += len(piece)
        if self.so_far > self.most:
            self.refuse(_too_large(self.most))
        if self.json and _NUL.search(self.tail + piece):
            self.refuse(_no_text())
        self.tail = piece[-12:]

    def refuse(self, why: Refused) -> NoReturn:
        """End the body here."""
        self.refused = why
        raise why


def _by_link(office: Office, path: str) -> bool:
    """True if a file comes by a link of an issuer that works."""
    found = _DELIVERED.fullmatch(path)
    return found is not None and may_deliver(office, found[1])


def _cookie(header: str) -> str:
    try:
        found = SimpleCookie(header).get(COOKIE)
    except CookieError:
        return ""
    return found.value if found else ""
