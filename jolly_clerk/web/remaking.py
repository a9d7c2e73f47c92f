"""Routes that put files of a draft into another shape, and back; and what is told of a file."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Literal

from fastapi import Response
from fastapi.responses import JSONResponse
from pydantic import BaseModel, Field

from jolly_clerk.core.dossier.model import FileTold
from jolly_clerk.office.preparing import blank_forms, describing, dockets, remaking
from jolly_clerk.reading.making import How
from jolly_clerk.web.applicant import Applicant, changed
from jolly_clerk.web.asking import Seen, TheOffice
from jolly_clerk.web.cases import served
from jolly_clerk.web.changed import DraftChanged
from jolly_clerk.web.turns import router_of

router = router_of("/api/drafts/{draft}", "applicant")


class RemakeFiles(BaseModel):
    """What is made of which files of one slot: *together* one PDF of several (or of a picture), *turned* clockwise by ``degrees``,
    *smaller* with fewer dots, *apart* two files, cut before a sheet."""

    how: How
    files: list[Annotated[str, Field(max_length=40)]] = Field(min_length=1, max_length=remaking.MOST_TOGETHER)
    degrees: Literal[90, 180, 270] = 90
    before: int = Field(default=2, ge=2, le=10_000)


@router.post("/remade", response_model=DraftChanged)
def remake(draft: str, body: RemakeFiles, office: TheOffice, who: Applicant, seen: Seen) -> JSONResponse:
    """Put files into another shape, in their place."""
    how = (body.how, body.files, body.degrees, body.before)
    return changed(office, who, draft, seen, lambda: remaking.remake(office, who, draft, *how, seen))


@router.delete("/remade/{attachment}", response_model=DraftChanged)
def put_back(draft: str, attachment: str, office: TheOffice, who: Applicant, seen: Seen) -> JSONResponse:
    """Put the files back of which one was made."""
    return changed(office, who, draft, seen, lambda: remaking.put_back(office, who, draft, attachment, seen))


class DescribeFile(BaseModel):
    """What is told of a file; ``language`` is a code, ``volume`` 0 for a document of one file, ``translates`` the id of its original."""

    description: str = Field(default="", max_length=1000)
    dated: date | None = None
    language: str = Field(default="", max_length=10)
    volume: int = Field(default=0, ge=0, le=1000)
    translates: str = Field(default="", max_length=40)


@router.put("/files/{attachment}", response_model=DraftChanged)
def describe(draft: str, attachment: str, body: DescribeFile, office: TheOffice, who: Applicant, seen: Seen) -> JSONResponse:
    """Tell something of a file besides its name."""
    told = FileTold(**body.model_dump())
    return changed(office, who, draft, seen, lambda: describing.describe(office, who, draft, attachment, told, seen))


class NewDocket(BaseModel):
    """What comes by post, and to which slot it belongs."""

    slot: str = Field(max_length=60)
    what: str = Field(max_length=1000)


@router.post("/dockets", response_model=DraftChanged)
def add_docket(draft: str, body: NewDocket, office: TheOffice, who: Applicant, seen: Seen) -> JSONResponse:
    """Say that something comes by post: it gets a docket."""
    return changed(office, who, draft, seen, lambda: dockets.add(office, who, draft, body.slot, body.what, seen))


@router.delete("/dockets/{docket}", response_model=DraftChanged)
def remove_docket(draft: str, docket: str, office: TheOffice, who: Applicant, seen: Seen) -> JSONResponse:
    """It does not come by post after all."""
    return changed(office, who, draft, seen, lambda: dockets.remove(office, who, draft, docket, seen))


@router.get("/dockets/{docket}", response_class=Response)
def docket_of_draft(draft: str, docket: str, office: TheOffice, who: Applicant) -> Response:
    """The docket to be printed, as a PDF."""
    return served(dockets.sheet_of_draft(office, who, draft, docket), "application/pdf", f"{docket[:20]}.pdf")


@router.get("/forms/{slot}", response_class=Response)
def blank_form(draft: str, slot: str, office: TheOffice, who: Applicant) -> Response:
    """The office's blank form for a slot, filled in as far as is known, as a PDF with fields."""
    content = blank_forms.form_of_draft(office, who, draft, slot[:60])
    return served(content, "application/pdf", f"{slot[:40]}.pdf", inline=False)
