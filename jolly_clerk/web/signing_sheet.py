"""Routes of a filing that is signed by hand: its sheet, and the scan of it."""

from __future__ import annotations

from typing import Annotated

from fastapi import File, Form, Response, UploadFile
from fastapi.responses import JSONResponse

from jolly_clerk.office.preparing import attaching, signing_sheet
from jolly_clerk.web.applicant import Applicant, changed
from jolly_clerk.web.asking import Seen, TheOffice
from jolly_clerk.web.cases import PDF, served
from jolly_clerk.web.changed import DraftChanged
from jolly_clerk.web.turns import router_of

router = router_of("/api/drafts/{draft}", "applicant")


@router.get("/signing-sheet", response_class=Response, responses=PDF)
def sheet(draft: str, office: TheOffice, who: Applicant) -> Response:
    """The sheet to sign a filing by hand, as it stands now."""
    return served(signing_sheet.sheet(office, who, draft), "application/pdf", "signing-sheet.pdf")


@router.post("/signing-sheet", response_model=DraftChanged)
def sign_by_sheet(
    draft: str,
    office: TheOffice,
    who: Applicant,
    seen: Seen,
    name: Annotated[str, Form(max_length=200)],
    file: Annotated[UploadFile, File()],
) -> JSONResponse:
    """Sign with the scan of the sheet."""
    called = file.filename or ""
    attaching.too_large(office, attaching.clean_name(called), file.size or 0)
    return changed(
        office, who, draft, seen, lambda: signing_sheet.sign_by_sheet(office, who, draft, name, called, file.file, seen)
    )
