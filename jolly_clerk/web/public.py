"""Routes for everybody: what can be applied for, the way in, the check of a permit."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Any

from fastapi import Header, Path, Query, Request, Response
from pydantic import BaseModel
from starlette.concurrency import run_in_threadpool

from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.rulebook.needs import begun_by_itself, find_by_need
from jolly_clerk.core.say import say, speaking
from jolly_clerk.letters.render import render
from jolly_clerk.office.cases import notices
from jolly_clerk.office.desk import reviewing
from jolly_clerk.office.post.letterhead import paper_words
from jolly_clerk.office.preparing import way_in
from jolly_clerk.office.rules.rulebooks import kinds, office_calendar, published
from jolly_clerk.office.views.form import Form, form_of
from jolly_clerk.web.asking import TheOffice
from jolly_clerk.web.cases import PDF, served
from jolly_clerk.web.turns import router_of

router = router_of("/api", "public")


class KindOut(BaseModel):
    """A kind of application that can be filed."""

    kind: str
    sub_kind_of: str
    title: str
    about: str
    law: str
    edition: str
    in_force: date
    has_way_in: bool
    found_by: tuple[str, ...] = ()


class WayInAnswers(BaseModel):
    """What was answered on the way in, by part and question."""

    answers: dict[str, dict[str, Any] | list[dict[str, Any]]] = {}


@router.get("/separator.pdf", response_class=Response, responses=PDF)
def separator(office: TheOffice) -> Response:
    """A sheet to lay between papers before they are scanned together; a pile is cut at it."""
    text = say("Lay this sheet between papers before you scan them together. The pile is cut at it.")
    return served(render("separator", {"office": office.name, "text": text, **paper_words()}), "application/pdf", "separator.pdf")


@router.get("/kinds")
def all_kinds(office: TheOffice, need: Annotated[str, Query(max_length=200)] = "") -> list[KindOut]:
    """What can be applied for, before one signs in; with a ``need`` in plain words those that fit it, the best first."""
    today = office_calendar(office).local_day(office.now())
    offered = begun_by_itself(kinds(office, today))
    if need.strip():
        return [_kind(found.rulebook, found.words) for found in find_by_need(need, offered)]
    return [_kind(r) for r in offered]


def _kind(r: Rulebook, found_by: tuple[str, ...] = ()) -> KindOut:
    return KindOut(
        kind=r.edition.kind,
        sub_kind_of=r.edition.sub_kind_of or "",
        title=r.edition.title,
        about=r.edition.about.strip(),
        law=r.edition.law,
        edition=r.edition.id,
        in_force=r.edition.in_force,
        has_way_in=bool(r.branches),
        found_by=found_by,
    )


class ClosedDay(BaseModel):
    """A day on which the office is closed, and why."""

    day: date
    why: str


@router.get("/closed-days/{year}")
def closed_days(year: Annotated[int, Path(ge=1900, le=2200)], office: TheOffice) -> list[ClosedDay]:
    """The days of a year on which the office is closed, for whoever chooses a day; asked anew each time, since a lead may declare one."""
    return [ClosedDay(day=day, why=why) for day, why in office_calendar(office).closed_in(year).items()]


@router.get("/editions/{sha256}/form")
def form(sha256: Annotated[str, Path(pattern="^[0-9a-f]{64}$")], office: TheOffice, response: Response) -> Form:
    """The form of an edition. It never changes, so it is fetched once."""
    response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
    with speaking(office.texts):  # one for everybody, with its translations
        return form_of(published(office, sha256))


@router.post("/kinds/{kind}/way-in")
def ask_way_in(kind: str, body: WayInAnswers, office: TheOffice) -> way_in.WayInView:
    """What the way in says to some answers; nothing is kept."""
    return way_in.ask(office, kind, body.answers)


@router.post("/kinds/{kind}/way-in/letter", response_class=Response, responses={200: {"content": {"application/pdf": {}}}})
def way_in_letter(kind: str, body: WayInAnswers, office: TheOffice) -> Response:
    """The letter that can be kept."""
    return Response(
        way_in.letter(office, kind, body.answers), media_type="application/pdf", headers={"Cache-Control": "no-store"}
    )


@router.get("/permits/{code}")
def check_permit(code: str, office: TheOffice) -> reviewing.PublicPermit:
    """What anybody may know who has a permit's code."""
    return reviewing.check_permit(office, code)


class NoticeTaken(BaseModel):
    """What was made of a notice: booked, noted, not placed, or known already."""

    made: notices.Made


@router.post("/terminal/notices")
async def terminal_notice(
    request: Request,
    office: TheOffice,
    order: Annotated[str, Header(alias="Notice-Order", max_length=80)],
    time: Annotated[int, Header(alias="Notice-Time", ge=0, le=10**11)],
    signed: Annotated[str, Header(alias="Notice-Signature", max_length=200)],
) -> NoticeTaken:
    """Where a payment terminal tells what came of an order, signed; see ``docs/formats.md``."""
    body = await request.body()
    return NoticeTaken(made=await run_in_threadpool(notices.receive, office, order, time, body, signed))
