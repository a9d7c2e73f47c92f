"""Routes of a permit: its page, the short filings on it, and its inspections."""

from __future__ import annotations

from datetime import date
from typing import Annotated

from fastapi import APIRouter, Form, Path, Query, UploadFile
from pydantic import AwareDatetime, BaseModel, Field

from jolly_clerk.core.inspections import Hour
from jolly_clerk.office.keeping.looks import looked
from jolly_clerk.office.permits import inspecting, stepping
from jolly_clerk.office.views.permit import PermitPage, page_of, permit_page
from jolly_clerk.web.applicant import Started
from jolly_clerk.web.asking import Asker, Seen, TheOffice
from jolly_clerk.web.problems import RESPONSES

router = APIRouter(prefix="/api/cases/{reference}/permit", tags=["permits"], responses=RESPONSES)
VisitId = Annotated[str, Field(max_length=40)]


class BookInspection(BaseModel):
    """An inspection to be booked or moved: which, and the instant at which it begins."""

    visit: VisitId
    begins: AwareDatetime


@router.get("")
def page(reference: str, office: TheOffice, who: Asker) -> PermitPage:
    """How a permit stands, and what can be done with it."""
    looked(office, who, "case", reference)
    return permit_page(office, who, reference)


@router.post("/steps/{step}", status_code=201)
def begin_step(reference: str, step: Annotated[str, Path(max_length=2)], office: TheOffice, who: Asker) -> Started:
    """Begin a short filing on a permit, by its kind, or go on with the one that is being prepared."""
    return Started(id=stepping.begin_step(office, who, reference, step))


@router.get("/hours")
def hours(
    reference: str, office: TheOffice, who: Asker, visit: Annotated[str, Query(max_length=40)], first: date
) -> tuple[Hour, ...]:
    """The free hours for an inspection in the fourteen days from ``first`` on."""
    return inspecting.free_hours(office, who, reference, visit, first)


@router.post("/inspections")
def book(reference: str, body: BookInspection, office: TheOffice, who: Asker, seen: Seen) -> PermitPage:
    """Book an inspection, or move the one that is booked."""
    return page_of(office, who, inspecting.book(office, who, reference, body.visit, body.begins, seen))


@router.delete("/inspections/{no}")
def give_up(reference: str, no: int, office: TheOffice, who: Asker, seen: Seen) -> PermitPage:
    """Give up a booked inspection."""
    return page_of(office, who, inspecting.give_up(office, who, reference, no, seen))


@router.post("/inspections/{no}/result")
def hold(
    reference: str,
    no: int,
    office: TheOffice,
    who: Asker,
    seen: Seen,
    passed: Annotated[bool, Form()],
    words: Annotated[str, Form(max_length=2000)] = "",
    photographs: list[UploadFile] | None = None,
) -> PermitPage:
    """Tell what an inspection found, with photographs."""
    most = office.settings.most_upload_mb * 1_000_000 + 1
    taken = [(f.filename or "", f.file.read(most)) for f in (photographs or [])[: inspecting.MOST_PHOTOGRAPHS + 1]]
    return page_of(office, who, inspecting.hold(office, who, reference, no, passed, words, taken, seen))
