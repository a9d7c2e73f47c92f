"""Routes of a case that both sides use: looking, opening, writing, papers, files. A GET changes nothing that a person can see."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import Form, Response, UploadFile
from fastapi.responses import JSONResponse

from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.desk import talking
from jolly_clerk.office.keeping.looks import looked
from jolly_clerk.office.post import papers
from jolly_clerk.office.post.slips import payment_slip
from jolly_clerk.office.preparing import dockets
from jolly_clerk.office.preparing.inviting import note_look
from jolly_clerk.office.views.case import CaseSummary, CaseView, summary
from jolly_clerk.office.views.case import file_of_case as file_of_case_view
from jolly_clerk.office.views.kept import KeptView, kept_file, kept_view
from jolly_clerk.office.views.opened import Opened, opened
from jolly_clerk.web.asking import Asker, Seen, TheOffice
from jolly_clerk.web.bodies import Number
from jolly_clerk.web.changed import CaseChanged, case_changed, whole_case
from jolly_clerk.web.turns import router_of

router = router_of("/api", "cases")
SHOWN = {"pdf": "application/pdf", "png": "image/png", "jpeg": "image/jpeg"}
PDF: dict[int | str, dict[str, Any]] = {200: {"content": {"application/pdf": {}}, "description": "The PDF"}}


@router.get("/cases/{reference}", response_model=CaseView)
def look(reference: str, office: TheOffice, who: Asker) -> JSONResponse:
    """A case as this person may see it; its revision stands in ``ETag``."""
    loaded = load_case(office, who, reference)
    looked(office, who, "case", reference)
    note_look(office, loaded.access)
    return whole_case(office, who, loaded)


@router.get("/cases/{reference}/summary")
def glance(reference: str, office: TheOffice, who: Asker) -> CaseSummary:
    """A case at a glance, for the margin of a list."""
    glanced = summary(office, who, reference)
    looked(office, who, "summary", reference)
    return glanced


@router.post("/cases/{reference}/opened")
def open_case(reference: str, office: TheOffice, who: Asker) -> Opened:
    """Note that this person opened the case; tells who else has it open."""
    return opened(office, who, reference)


@router.post("/cases/{reference}/talk", status_code=204)
def read_talk(reference: str, office: TheOffice, who: Asker) -> None:
    """Note that the messages are open before somebody who may answer them."""
    talking.read_talk(office, who, reference)


@router.post("/cases/{reference}/messages", status_code=201, response_model=CaseChanged)
def write(
    reference: str,
    office: TheOffice,
    who: Asker,
    seen: Seen,
    text: Annotated[str, Form(max_length=4000)],
    files: list[UploadFile] | None = None,
) -> JSONResponse:
    """Write a message in the case, with files."""
    most = office.settings.most_upload_mb * 1_000_000 + 1
    sent = [(f.filename or "", f.file.read(most)) for f in (files or [])[: talking.MOST_FILES + 1]]
    return case_changed(office, who, seen, talking.write(office, who, reference, text, sent), 201)


@router.get("/cases/{reference}/papers/{no}", response_class=Response, responses=PDF)
def paper(reference: str, no: Number, office: TheOffice, who: Asker) -> Response:
    """The receipt or letter that goes with an entry of the history."""
    name, content = papers.paper(office, load_case(office, who, reference), no)
    looked(office, who, "paper", reference, name)
    return served(content, "application/pdf", name)


@router.get("/cases/{reference}/dockets/{docket}", response_class=Response, responses=PDF)
def docket(reference: str, docket: str, office: TheOffice, who: Asker) -> Response:
    """The docket of something that comes by post, as a PDF."""
    content, name = dockets.sheet_of_case(office, who, reference, docket[:20]), f"{docket[:20]}.pdf"
    looked(office, who, "paper", reference, name)
    return served(content, "application/pdf", name)


@router.get("/cases/{reference}/payment-slip", response_class=Response, responses=PDF)
def slip(reference: str, office: TheOffice, who: Asker) -> Response:
    """The slip to pay what is open by transfer, by cheque or in cash."""
    content, name = payment_slip(office, load_case(office, who, reference)), f"{reference}-payment-slip.pdf"
    looked(office, who, "paper", reference, name)
    return served(content, "application/pdf", name)


@router.get("/cases/{reference}/due.ics", response_class=Response, responses={200: {"content": {"text/calendar": {}}}})
def due_date(reference: str, office: TheOffice, who: Asker) -> Response:
    """The applicant's due date as a calendar file."""
    content = papers.due_date_file(office, load_case(office, who, reference))
    looked(office, who, "calendar", reference)
    return served(content, "text/calendar", f"{reference}.ics", inline=False)


@router.get("/cases/{reference}/files/{sha256}", response_class=Response)
def file_of_case(reference: str, sha256: str, office: TheOffice, who: Asker) -> Response:
    """A file of a case, by its content."""
    attachment = file_of_case_view(office, who, reference, sha256)
    looked(office, who, "file", reference, attachment.name)
    return file_answer(office.vault.get(attachment.sha256), attachment.name)


@router.get("/kept/{reference}")
def kept(reference: str, office: TheOffice, who: Asker) -> KeptView:
    """A case that came from elsewhere and is kept as it came."""
    found = kept_view(office, who, reference)
    looked(office, who, "case", reference)
    return found


@router.get("/kept/{reference}/files/{sha256}", response_class=Response)
def file_of_kept(reference: str, sha256: str, office: TheOffice, who: Asker) -> Response:
    """A file of a case that is kept as it came."""
    file = kept_file(office, who, reference, sha256)
    looked(office, who, "file", reference, file.name)
    return file_answer(office.vault.get(file.sha256), file.name)


def file_answer(content: bytes, name: str) -> Response:
    """What can be shown is shown by its true type; everything else is only ever a download."""
    from jolly_clerk.reading.read import true_type

    media = SHOWN.get(true_type(content))
    return served(content, media or "application/octet-stream", name, inline=media is not None)


def served(content: bytes, media: str, name: str, inline: bool = True) -> Response:
    """Content as the answer to a request, under its name; the browser does not keep it."""
    from urllib.parse import quote

    how = "inline" if inline else "attachment"
    headers = {"Content-Disposition": f"{how}; filename*=UTF-8''{quote(name)}", "Cache-Control": "no-store"}
    return Response(content, media_type=media, headers=headers)
