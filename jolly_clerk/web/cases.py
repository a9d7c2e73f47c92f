"""Routes of a case that both sides use: looking, papers, files."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Response

from jolly_clerk.office import drafts, looking, papers
from jolly_clerk.office.casework import load_case
from jolly_clerk.office.errors import NotFound
from jolly_clerk.web.asking import Asker, TheOffice
from jolly_clerk.web.problems import RESPONSES

router = APIRouter(prefix="/api", tags=["cases"], responses=RESPONSES)
SHOWN = {"pdf": "application/pdf", "png": "image/png", "jpeg": "image/jpeg"}
PDF: dict[int | str, dict[str, Any]] = {200: {"content": {"application/pdf": {}}, "description": "The PDF"}}


@router.get("/cases/{reference}")
def look(reference: str, office: TheOffice, who: Asker) -> looking.CaseView:
    """A case as this person may see it."""
    return looking.look_at(office, who, reference)


@router.get("/cases/{reference}/papers/{no}", response_class=Response, responses=PDF)
def paper(reference: str, no: int, office: TheOffice, who: Asker) -> Response:
    """The receipt or letter that goes with an entry of the history."""
    name, content = papers.paper(office, load_case(office, who, reference), no)
    return _served(content, "application/pdf", name)


@router.get("/cases/{reference}/due.ics", response_class=Response, responses={200: {"content": {"text/calendar": {}}}})
def due_date(reference: str, office: TheOffice, who: Asker) -> Response:
    """The applicant's due date as a calendar file."""
    return _served(
        papers.due_date_file(office, load_case(office, who, reference)), "text/calendar", f"{reference}.ics", inline=False
    )


@router.get("/cases/{reference}/files/{sha256}", response_class=Response)
def file_of_case(reference: str, sha256: str, office: TheOffice, who: Asker) -> Response:
    """A file of a case, by its content."""
    attachment = looking.file_of_case(office, who, reference, sha256)
    return _file(office.vault.get(attachment.sha256), attachment.name)


@router.get("/drafts/{draft}/files/{attachment}", response_class=Response)
def file_of_draft(draft: str, attachment: str, office: TheOffice, who: Asker) -> Response:
    """A file of one's own draft."""
    for a in drafts.open_draft(office, who, draft).dossier.attachments:
        if a.id == attachment:
            return _file(office.vault.get(a.sha256), a.name)
    raise NotFound("This file is not in the draft.")


def _file(content: bytes, name: str) -> Response:
    """What can be shown is shown by its true type; everything else is only ever a download."""
    from jolly_clerk.reading.read import true_type

    media = SHOWN.get(true_type(content))
    return _served(content, media or "application/octet-stream", name, inline=media is not None)


def _served(content: bytes, media: str, name: str, inline: bool = True) -> Response:
    from urllib.parse import quote

    how = "inline" if inline else "attachment"
    headers = {"Content-Disposition": f"{how}; filename*=UTF-8''{quote(name)}", "Cache-Control": "no-store"}
    return Response(content, media_type=media, headers=headers)
