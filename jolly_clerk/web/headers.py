"""What every answer carries: the headers that keep a page to itself, and the language in which it is said."""

from __future__ import annotations

import re
from collections.abc import Callable

from starlette.datastructures import Headers as Told
from starlette.datastructures import MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from jolly_clerk.core.say import Catalogue, speaking
from jolly_clerk.texts import LANGUAGES, catalogue

CSP = (
    "default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; "
    "font-src 'self' data:; worker-src 'self' blob:; object-src 'none'; base-uri 'none'; frame-ancestors 'none'; form-action 'self'"
)
HEADERS = {
    "Content-Security-Policy": CSP,
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "same-origin",
    "X-Frame-Options": "DENY",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Permissions-Policy": "camera=(), geolocation=(), microphone=(), payment=(), usb=()",
}


class Headers:
    """Middleware: says everything in the language that the page wants, else by what ``texts`` gives, the office's own; ``secure`` where
    browsers are to come by HTTPS alone."""

    def __init__(self, app: ASGIApp, texts: Callable[[], Catalogue | None], secure: bool) -> None:
        self.app, self.texts = app, texts
        self.headers = HEADERS | ({"Strict-Transport-Security": "max-age=31536000"} if secure else {})

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Serve a request."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return

        async def sent(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                for name, value in (self.headers | _kept(scope["path"])).items():
                    headers.setdefault(name, value)
            await send(message)

        language = _wanted_language(scope)
        with speaking(catalogue(language) if language else self.texts(), language):
            await self.app(scope, receive, sent)


def _kept(path: str) -> dict[str, str]:
    """How long a browser may keep what it was answered."""
    if path.startswith("/api/"):
        return {"Cache-Control": "no-store"}
    if path.startswith("/assets/"):
        return {"Cache-Control": "public, max-age=31536000, immutable"}
    return {}


#: what is said to one person alone, and never kept in the words in which it was said
_SAID_TO_ONE = re.compile(r"/api/(drafts|kinds|my-cases|session)(/|$)")


def _wanted_language(scope: Scope) -> str:
    """The language in which the page wants what is shown, if there is a catalogue of it; empty for that of the office.

    What is written into the history of a case is said in the office's own language, whoever does it.
    """
    language = Told(scope=scope).get("x-language", "")
    shown = scope["method"] == "GET" or (
        _SAID_TO_ONE.match(scope["path"]) and not scope["path"].endswith(("/filing", "/answers"))
    )
    return language if shown and language in LANGUAGES else ""
