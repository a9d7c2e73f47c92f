"""The application: routes, headers, and the built front end."""

from __future__ import annotations

import re
import sys
from collections.abc import AsyncIterator, Awaitable, Callable, Sequence
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any

from fastapi import FastAPI, Request, Response
from fastapi.dependencies.models import Dependant
from fastapi.middleware.gzip import GZipMiddleware
from fastapi.responses import FileResponse, JSONResponse
from fastapi.routing import APIRoute
from fastapi.staticfiles import StaticFiles

from jolly_clerk.core.say import say, speaking
from jolly_clerk.office.events import Feed
from jolly_clerk.office.office import Office
from jolly_clerk.texts import LANGUAGES, catalogue
from jolly_clerk.web import (
    accounts,
    applicant,
    baskets,
    cases,
    contact,
    counter,
    events,
    feeds,
    figures,
    firms,
    guests,
    inviting,
    issuing,
    mandates,
    meetings,
    moves,
    officer,
    owning,
    packages,
    permits,
    pile,
    problems,
    public,
    register,
    remaking,
    rules,
    running,
    sign_in,
    signing_sheet,
    tables,
    till,
    tokens,
    town,
    transfers,
    uploads,
)
from jolly_clerk.web.asking import COOKIE, the_session
from jolly_clerk.web.bounds import Bounds
from jolly_clerk.web.minding import SWITCHES, Health, LooksThread, Minder, Pace, log_requests, read_editions

STATIC = Path(__file__).parent / "static"
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


def create_app(office: Office | None = None) -> FastAPI:
    """The application over an office; without one it can only tell its OpenAPI document."""

    @asynccontextmanager
    async def life(app: FastAPI) -> AsyncIterator[None]:
        if office is None:
            yield
            return
        app.state.feed, app.state.streams = Feed(office), 0
        sys.setswitchinterval(SWITCHES)
        read_editions(office)
        threads = (app.state.feed, LooksThread(office), Minder(office, pace))
        for thread in threads:
            thread.start()
        yield
        for thread in threads:
            thread.stop()
        office.close()

    pace = Pace()
    told = "/api/openapi.json" if office is None or office.demo else None  # a real office prints it by command
    app = FastAPI(title="Jolly Clerk", version="1", docs_url=None, redoc_url=None, openapi_url=told, lifespan=life)
    secure = office is not None and office.settings.base_url.startswith("https:")
    app.state.office = office
    problems.install(app)
    log_requests(app, pace)
    app.add_middleware(Bounds, office=lambda: app.state.office)
    app.add_middleware(GZipMiddleware, minimum_size=1500)

    @app.middleware("http")
    async def headers(request: Request, call_next: Callable[[Request], Awaitable[Response]]) -> Response:
        language = _wanted_language(request)
        with speaking(catalogue(language) if language else office.texts if office else None, language):
            response = await call_next(request)
        for name, value in HEADERS.items():
            response.headers.setdefault(name, value)
        if secure:
            response.headers.setdefault("Strict-Transport-Security", "max-age=31536000")
        if request.url.path.startswith("/api/"):
            response.headers.setdefault("Cache-Control", "no-store")
        elif request.url.path.startswith("/assets/"):
            response.headers.setdefault("Cache-Control", "public, max-age=31536000, immutable")
        return response

    routers = (
        sign_in.router,
        accounts.router,
        public.router,
        applicant.router,
        pile.router,
        tables.router,
        town.router,
        guests.router,
        inviting.router,
        mandates.router,
        issuing.router,
        remaking.router,
        signing_sheet.router,
        transfers.router,
        baskets.router,
        cases.router,
        packages.router,
        running.router,
        tokens.router,
        contact.router,
        firms.router,
        officer.router,
        owning.router,
        permits.router,
        permits.mine,
        register.router,
        rules.router,
        till.router,
        feeds.router,
        figures.router,
        counter.router,
        moves.router,
        meetings.router,
        events.router,
        uploads.router,
    )
    for router in routers:
        app.include_router(router)

    _tell_security(app, [route for router in routers for route in router.routes if isinstance(route, APIRoute)])
    tried = Health(office) if office else None

    @app.get("/health", tags=["health"])
    def health() -> JSONResponse:
        """Alive: its database takes a row, its vault a file, its clock is not behind; else 503 with what is broken."""
        found = tried() if tried else {"status": "ok"}
        return JSONResponse(found, 200 if found["status"] == "ok" else 503)

    if STATIC.is_dir():
        _front_end(app)
    return app


def _tell_security(app: FastAPI, routes: Sequence[APIRoute]) -> None:
    """Let the OpenAPI document say how one is known: by the session of a browser, or by a token; and where nobody has to be."""
    plain = app.openapi

    def asks(of: Dependant) -> bool:
        return of.call is the_session or any(asks(inner) for inner in of.dependencies)

    def openapi() -> dict[str, Any]:
        made = plain()
        if "security" not in made:
            made["security"] = [{"session": []}, {"token": []}]
            made.setdefault("components", {})["securitySchemes"] = {
                "session": {"type": "apiKey", "in": "cookie", "name": COOKIE},
                "token": {
                    "type": "http",
                    "scheme": "bearer",
                    "description": str(say("A token of the account page, with a scope and an end.")),
                },
            }
            for route in routes:
                if route.include_in_schema and not asks(route.dependant):
                    for method in route.methods or ():
                        made["paths"][route.path_format][method.lower()]["security"] = []
        return made

    app.openapi = openapi  # type: ignore[method-assign]


#: what is said to one person alone, and never kept in the words in which it was said
_SAID_TO_ONE = re.compile(r"/api/(drafts|kinds|my-cases|session)(/|$)")


def _wanted_language(request: Request) -> str:
    """The language in which the page wants what is shown, if there is a catalogue of it; empty for that of the office.

    What is written into the history of a case is said in the office's own language, whoever does it.
    """
    language = request.headers.get("x-language", "")
    shown = request.method == "GET" or (
        _SAID_TO_ONE.match(request.url.path) and not request.url.path.endswith(("/filing", "/answers"))
    )
    return language if shown and language in LANGUAGES else ""


def _front_end(app: FastAPI) -> None:
    app.mount("/assets", StaticFiles(directory=STATIC / "assets"), name="assets")

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> Response:
        """Every other address is a page of the front end, which knows its own ways."""
        if path.startswith("api/"):
            return problems.answer(
                problems.Problem(title=say("Nothing is here"), status=404, detail=say("There is no such address."))
            )
        icon = STATIC / "favicon.svg"
        if path == "favicon.svg" and icon.is_file():
            return FileResponse(icon)
        return FileResponse(STATIC / "index.html", headers={"Cache-Control": "no-cache"})
