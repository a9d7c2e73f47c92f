"""Errors as RFC 9457 problem documents, with the exact place and the way on."""

from __future__ import annotations

import errno
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel
from sqlalchemy.exc import DBAPIError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from starlette.exceptions import HTTPException

from jolly_clerk.core.say import _, say
from jolly_clerk.office import errors as e
from jolly_clerk.store.database import Busy, ClockBehind

STATUS = {
    e.NotAllowed: 403,
    e.NotRecognised: 403,
    e.NotFound: 404,
    e.Stale: 412,
    e.NotReady: 409,
    e.Leaving: 409,
    e.Invalid: 422,
    e.TooLarge: 413,
    e.TooOften: 429,
}


class ProblemReason(BaseModel):
    """One thing in the way, and the place that puts it right (a ref like ``works.area``)."""

    text: str
    place: str = ""
    label: str = ""


class Problem(BaseModel):
    """A problem document (RFC 9457). ``place`` is a ref; ``reasons`` are all that is in the way; ``reference`` is a case that leads on,
    ``step`` the number of a step that is ready and has to be taken back first."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    place: str = ""
    reasons: list[ProblemReason] = []
    reference: str = ""
    step: int = 0


def answer(problem: Problem) -> JSONResponse:
    """A problem as it is sent."""
    return JSONResponse(problem.model_dump(), problem.status, media_type="application/problem+json")


def _printable(text: str) -> str:
    return text.encode("utf-8", "replace").decode()


async def _office_error(_: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, e.OfficeError)
    reasons = [
        ProblemReason(text=r.text, place=r.place.ref if r.place else "", label=r.place.label if r.place else "")
        for r in error.reasons
    ]
    status = next(code for kind, code in STATUS.items() if isinstance(error, kind))
    detail = _printable(error.detail)
    told = {"title": say(error.title), "detail": detail, "place": _printable(error.place), "reference": error.reference}
    step = error.step if isinstance(error, e.Leaving) else 0
    made = answer(Problem(status=status, reasons=reasons, step=step, **told))
    if isinstance(error, e.TooOften):
        made.headers["Retry-After"] = str(error.wait)
    return made


async def _invalid(_: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, RequestValidationError)
    reasons = []
    for problem in error.errors():
        place = ".".join(str(p) for p in problem["loc"] if p != "body")
        reasons.append(ProblemReason(text=_printable(str(problem["msg"])), place=_printable(place)))
    first = reasons[0]
    return answer(Problem(title=say("This is not right yet"), status=422, detail=first.text, place=first.place, reasons=reasons))


class Refused(HTTPException):
    """A request refused before or while it is read, with its problem document."""

    def __init__(self, status: int, title: str, detail: str) -> None:
        super().__init__(status, title)
        self.problem = Problem(title=title, status=status, detail=detail)


async def _http(_: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, HTTPException)
    if isinstance(error, Refused):
        return answer(error.problem)
    made = answer(Problem(title=str(error.detail), status=error.status_code, detail=str(error.detail)))
    made.headers.update(error.headers or {})
    return made


#: what SQLite and PostgreSQL say when a disk is full, and when nothing may be written
FULL, READ_ONLY = ("disk is full", "no space left"), ("readonly", "read-only")


async def _database(request: Request, error: Exception) -> JSONResponse:
    """The database does not take it: its disk is full, it may not be written, or it is busy."""
    said = str(getattr(error, "orig", error)).lower()
    if any(words in said for words in FULL):
        return _no_room()
    if any(words in said for words in READ_ONLY):
        return _not_writable()
    return await _busy(request, error)


async def _disk(request: Request, error: Exception) -> JSONResponse:
    """The disk does not take it."""
    assert isinstance(error, OSError)
    if error.errno in (errno.ENOSPC, errno.EDQUOT):
        return _no_room()
    if error.errno in (errno.EROFS, errno.EACCES, errno.EPERM):
        return _not_writable()
    return await _unforeseen(request, error)


def _no_room() -> JSONResponse:
    detail = say("The disk of the office is full. Nothing was kept; please try again when there is room.")
    return answer(Problem(title=say("No room"), status=507, detail=detail))


def _not_writable() -> JSONResponse:
    detail = say("The office can be read, but nothing can be written just now. Nothing was kept.")
    return answer(Problem(title=say("Nothing can be written"), status=503, detail=detail))


async def _clock_behind(_: Request, error: Exception) -> JSONResponse:
    detail = say("The clock of the office stands before what happened last. Nothing was kept; somebody must put it right first.")
    return answer(Problem(title=say("The clock is wrong"), status=503, detail=detail))


async def _busy(_: Request, error: Exception) -> JSONResponse:
    detail = say("The office has much to do just now. Nothing was kept; please try again in a moment.")
    busy = answer(Problem(title=say("Too busy just now"), status=503, detail=detail))
    busy.headers["Retry-After"] = "5"
    return busy


async def _unforeseen(_: Request, error: Exception) -> JSONResponse:
    detail = say("Something went wrong on our side. Nothing that was confirmed is lost. Please try again.")
    return answer(Problem(title=say("This did not work"), status=500, detail=detail))


def install(app: FastAPI) -> None:
    """Answer every error of the application with a problem document."""
    app.add_exception_handler(e.OfficeError, _office_error)
    app.add_exception_handler(RequestValidationError, _invalid)
    app.add_exception_handler(HTTPException, _http)
    for busy in (Busy, PoolTimeout):
        app.add_exception_handler(busy, _busy)
    app.add_exception_handler(DBAPIError, _database)
    app.add_exception_handler(ClockBehind, _clock_behind)
    app.add_exception_handler(OSError, _disk)
    app.add_exception_handler(Exception, _unforeseen)

    told = app.openapi

    def openapi() -> dict[str, Any]:
        document = told()
        own = Problem.model_json_schema(ref_template=f"{SCHEMAS}{{model}}")
        document["components"]["schemas"] |= {**own.pop("$defs"), "Problem": own}
        return document

    app.openapi = openapi  # type: ignore[method-assign]


SCHEMAS = "#/components/schemas/"
#: named, not given as a model: a model of each answer of each route would cost a quarter of the start
RESPONSES: dict[int | str, dict[str, Any]] = {
    code: {"description": text, "content": {"application/problem+json": {"schema": {"$ref": f"{SCHEMAS}Problem"}}}}
    for code, text in (
        (401, _("Nobody is signed in")),
        (403, _("Not this person's to do")),
        (404, _("Nothing there that this person may see")),
        (409, _("Something is in the way")),
        (412, _("Somebody changed the same thing since it was seen")),
        (413, _("More than can be taken at once")),
        (422, _("What was sent cannot be taken")),
        (429, _("Tried too often of late; Retry-After tells the seconds to wait")),
        (428, _("The revision last seen is missing")),
        (507, _("The disk of the office is full; nothing was kept")),
        (503, _("Too much to do just now; nothing was kept")),
    )
}
