"""The application: routes, headers, and the built front end."""

from __future__ import annotations

import sys
from collections.abc import AsyncIterator, Sequence
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any

from fastapi import FastAPI, Response
from fastapi.dependencies.models import Dependant
from fastapi.middleware.gzip import GZipMiddleware
from fastapi.responses import FileResponse, JSONResponse
from fastapi.routing import APIRoute

from jolly_clerk.core.say import say
from jolly_clerk.office.events import Feed
from jolly_clerk.office.office import Office
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
from jolly_clerk.web.assets import Assets
from jolly_clerk.web.bounds import Bounds
from jolly_clerk.web.headers import Headers
from jolly_clerk.web.minding import SWITCHES, Health, Logged, LooksThread, Minder, Pace, read_editions

STATIC = Path(__file__).parent / "static"
#: how hard answers are packed: half the time of the usual 9, and a tenth more bytes
PACKED = 4


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
    app.add_middleware(Logged, pace=pace)
    app.add_middleware(Bounds, office=lambda: app.state.office)
    app.add_middleware(GZipMiddleware, minimum_size=1500, compresslevel=PACKED)
    app.add_middleware(Headers, texts=lambda: office.texts if office else None, secure=secure)

    # the first that fits a path serves it: what is asked for most stands first
    routers = (
        officer.router,
        cases.router,
        moves.router,
        events.router,
        uploads.router,
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
        packages.router,
        running.router,
        tokens.router,
        contact.router,
        firms.router,
        owning.router,
        permits.router,
        permits.mine,
        register.router,
        rules.router,
        till.router,
        feeds.router,
        figures.router,
        counter.router,
        meetings.router,
    )
    for router in routers:  # the routes as they are: to include a router is to make each of its routes once more
        app.router.routes.extend(router.routes)

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


def _front_end(app: FastAPI) -> None:
    app.mount("/assets", Assets(directory=STATIC / "assets"), name="assets")

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
