"""Routes: uploads by the open tus protocol (1.0.0, with creation and termination), resumable after any interruption."""

from __future__ import annotations

import base64
import binascii
from typing import Annotated

from fastapi import Header, Request, Response
from starlette.concurrency import run_in_threadpool
from starlette.requests import ClientDisconnect

from jolly_clerk.core.say import say
from jolly_clerk.office.errors import Invalid, Stale
from jolly_clerk.office.preparing import uploading
from jolly_clerk.web.applicant import Applicant
from jolly_clerk.web.asking import TheOffice
from jolly_clerk.web.problems import Problem, Refused, answer
from jolly_clerk.web.turns import router_of

router = router_of("/api/uploads", "uploads")
VERSION, PIECES = "1.0.0", "application/offset+octet-stream"
HEADERS = {"Tus-Resumable": VERSION, "Cache-Control": "no-store"}
Tus = Annotated[str, Header(alias="Tus-Resumable", max_length=20)]


def _told(metadata: str) -> dict[str, str]:
    """The metadata of an upload: pairs of a name and a base64 value, with commas between them."""
    told: dict[str, str] = {}
    for pair in metadata.split(","):
        name, _, value = pair.strip().partition(" ")
        try:
            told[name] = base64.b64decode(value, validate=True).decode()
        except (binascii.Error, UnicodeDecodeError):
            raise Invalid(say("Upload-Metadata is no list of names with base64 values.")) from None
    return told


def _need_version(version: str) -> None:
    if version != VERSION:
        raise Refused(412, say("This cannot be taken"), say("Uploads are taken by tus {version}.", version=VERSION))


@router.post("", status_code=201, response_class=Response)
def begin(
    office: TheOffice,
    who: Applicant,
    version: Tus,
    length: Annotated[int, Header(alias="Upload-Length", ge=0, le=10**12)],
    metadata: Annotated[str, Header(alias="Upload-Metadata", max_length=4000)],
) -> Response:
    """Begin an upload: ``draft``, ``slot`` and ``name`` stand in ``Upload-Metadata``. What is too large is refused before it is sent.

    A file without a byte is attached at once, as the protocol sends nothing more of it.
    """
    _need_version(version)
    told = _told(metadata)
    draft, slot, name = (told.get(key, "") for key in ("draft", "slot", "name"))
    upload = uploading.begin_upload(office, who, draft[:40], slot[:60], name, length)
    if length == 0:  # nothing follows
        uploading.finish_upload(office, who, uploading.find_upload(office, who, upload)[0])
    return Response(status_code=201, headers={**HEADERS, "Location": f"/api/uploads/{upload}", "Upload-Offset": "0"})


@router.head("/{upload}", response_class=Response)
def how_far(upload: str, office: TheOffice, who: Applicant) -> Response:
    """How much of an upload has come."""
    found, came = uploading.find_upload(office, who, upload)
    return Response(headers={**HEADERS, "Upload-Offset": str(came), "Upload-Length": str(found.length)})


@router.patch("/{upload}", status_code=204, response_class=Response)
async def add(
    upload: str,
    request: Request,
    office: TheOffice,
    who: Applicant,
    version: Tus,
    offset: Annotated[int, Header(alias="Upload-Offset", ge=0, le=10**12)],
) -> Response:
    """Add to an upload from where it stopped. With the last piece the file is attached to its draft."""
    _need_version(version)
    if request.headers.get("content-type") != PIECES:
        raise Refused(415, say("This cannot be taken"), say("Pieces come as {kind}.", kind=PIECES))
    found, _ = await run_in_threadpool(uploading.find_upload, office, who, upload)
    try:
        file = await run_in_threadpool(uploading.receive, office, found, offset)
    except Stale as stale:
        return answer(Problem(title=say(stale.title), status=409, detail=stale.detail))
    came = offset
    try:
        async for piece in request.stream():
            await run_in_threadpool(uploading.add_piece, found, file, piece)
    except ClientDisconnect:
        return Response(status_code=204, headers=HEADERS)  # what came is kept
    finally:
        came = await run_in_threadpool(uploading.keep, file)
    if uploading.is_whole(found, came):
        await run_in_threadpool(uploading.finish_upload, office, who, found)
    return Response(status_code=204, headers={**HEADERS, "Upload-Offset": str(came)})


@router.delete("/{upload}", status_code=204, response_class=Response)
def give_up(upload: str, office: TheOffice, who: Applicant) -> Response:
    """Give an upload up."""
    found, _ = uploading.find_upload(office, who, upload)
    uploading.end_upload(office, found.id)
    return Response(status_code=204, headers=HEADERS)
