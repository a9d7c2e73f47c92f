"""Routes of a permit: its page, the short filings on it, and its inspections."""

from __future__ import annotations

from datetime import date
from typing import Annotated

from fastapi import Form, Path, Query, Response, UploadFile
from pydantic import AwareDatetime, BaseModel, Field

from jolly_clerk.core.inspections import Hour
from jolly_clerk.office.keeping.looks import looked
from jolly_clerk.office.permits import holding, inspecting, stepping
from jolly_clerk.office.views.permit import PermitPage, page_of, permit_document, permit_page
from jolly_clerk.web.applicant import Applicant, Started
from jolly_clerk.web.asking import Asker, Seen, TheOffice
from jolly_clerk.web.bodies import Number
from jolly_clerk.web.cases import PDF, file_answer, served
from jolly_clerk.web.turns import router_of

router = router_of("/api/cases/{reference}/permit", "permits")
mine = router_of("/api", "permits")
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


@mine.get("/my-permits")
def my_permits(office: TheOffice, who: Applicant) -> holding.PermitsOfMine:
    """The permits that are offered to oneself, and those of others that one holds."""
    return holding.permits_of(office, who)


@router.post("/offer", status_code=204)
def accept(reference: str, office: TheOffice, who: Applicant) -> None:
    """Accept a permit that was transferred to oneself."""
    holding.accept_permit(office, who, reference)


@router.delete("/offer", status_code=204)
def decline(reference: str, office: TheOffice, who: Applicant) -> None:
    """Decline a permit that was transferred to oneself."""
    holding.decline_permit(office, who, reference)


@router.get("/document", response_class=Response, responses=PDF)
def document(reference: str, office: TheOffice, who: Asker) -> Response:
    """The document that counts now, as a PDF."""
    name, content = permit_document(office, who, reference)
    looked(office, who, "paper", reference, name)
    return served(content, "application/pdf", name)


@router.get("/photographs/{sha256}", response_class=Response)
def photograph(reference: str, sha256: str, office: TheOffice, who: Asker) -> Response:
    """A photograph that was taken at an inspection, by its content."""
    photo = inspecting.photograph(office, who, reference, sha256)
    looked(office, who, "file", reference, photo.name)
    return file_answer(office.vault.get(photo.sha256), photo.name)


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
def give_up(reference: str, no: Number, office: TheOffice, who: Asker, seen: Seen) -> PermitPage:
    """Give up a booked inspection."""
    return page_of(office, who, inspecting.give_up(office, who, reference, no, seen))


@router.post("/inspections/{no}/result")
def hold(
    reference: str,
    no: Number,
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
