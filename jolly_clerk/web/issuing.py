"""Routes of what comes without being asked for by the office: issuers, asked by whoever applies, who send by a link, seen by all who see the
filing; and what the applicant adds later."""

from __future__ import annotations

from datetime import date
from typing import Annotated

from fastapi import File, Form, Query, UploadFile
from pydantic import BaseModel, Field

from jolly_clerk.office.preparing import adding, attaching, delivering, drafts, issuing
from jolly_clerk.web.applicant import Applicant, Filed, FileDraft
from jolly_clerk.web.asking import Asker, Seen, TheOffice
from jolly_clerk.web.turns import router_of

router = router_of("/api", "issuers")
Of = Annotated[str, Field(max_length=40)]


class AskIssuer(BaseModel):
    """Who is asked for what: ``of`` is the id of a draft or the reference of a case, ``slot`` the place of the document, ``wanted_by`` the
    day until when (two weeks from now without one)."""

    of: Of
    slot: str = Field(max_length=60)
    mail: str = Field(max_length=300)
    name: str = Field(max_length=200)
    words: str = Field(default="", max_length=1000)
    wanted_by: date | None = None


@router.get("/issuers")
def asked_of(office: TheOffice, who: Asker, of: Annotated[str, Query(max_length=40)]) -> list[issuing.Asked]:
    """What issuers were asked for a draft or a case, and how it stands with each."""
    return issuing.asked_of(office, who, of)


@router.post("/issuers")
def ask(body: AskIssuer, office: TheOffice, who: Applicant) -> list[issuing.Asked]:
    """Ask an issuer for one document."""
    return issuing.ask(office, who, body.of, body.slot, body.mail, body.name, body.words, body.wanted_by)


@router.post("/issuers/{request}/again", status_code=204)
def ask_again(request: str, office: TheOffice, who: Applicant) -> None:
    """Send an issuer a new link."""
    issuing.ask_again(office, who, request)


@router.delete("/issuers/{request}", status_code=204)
def take_back(request: str, office: TheOffice, who: Applicant) -> None:
    """Ask an issuer no more."""
    issuing.take_back(office, who, request)


class Added(BaseModel):
    """Where it went: into the ``draft`` of answers that are being prepared, or nothing for a new version."""

    draft: str


@router.post("/cases/{reference}/later", status_code=201)
def add_later(
    reference: str,
    office: TheOffice,
    who: Applicant,
    slot: Annotated[str, Form(max_length=60)],
    name: Annotated[str, Form(max_length=200)],
    file: Annotated[UploadFile, File()],
) -> Added:
    """Add a document that may come later, signed with a typed name."""
    attaching.too_large(office, attaching.clean_name(file.filename or ""), file.size or 0)
    return Added(draft=adding.add(office, who, reference, slot, file.filename or "", file.file, name))


class BegunAdding(BaseModel):
    """The draft in which something is added; ``answers`` tells that it is that of the answers which are being prepared."""

    id: str
    answers: bool


@router.post("/cases/{reference}/additions", status_code=201)
def begin_adding(reference: str, office: TheOffice, who: Applicant, adds: Annotated[str, Query(max_length=80)]) -> BegunAdding:
    """The draft in which a repeat of a part (by its id) or the answer to a question (by its place) is added to a case."""
    id_ = adding.begin(office, who, reference, adds)
    return BegunAdding(id=id_, answers=not drafts.open_draft(office, who, id_).draft.adds)


@router.post("/drafts/{draft}/addition", status_code=201)
def send_addition(draft: str, body: FileDraft, office: TheOffice, who: Applicant, seen: Seen) -> Filed:
    """Send what a draft adds to its case as a new version; what it costs is due at once. With something left it answers 409 and lists it."""
    return Filed(reference=adding.send(office, who, draft, seen))


@router.get("/deliver/{secret}")
def wanted(secret: str, office: TheOffice) -> delivering.Wanted:
    """What an issuer is asked for by this link."""
    return delivering.wanted(office, secret[:100])


@router.post("/deliver/{secret}/opened", status_code=204)
def note_opened(secret: str, office: TheOffice) -> None:
    """Note that an issuer opened the link."""
    delivering.note_opened(office, secret[:100])


@router.post("/deliver/{secret}", status_code=201)
def deliver(
    secret: str,
    office: TheOffice,
    name: Annotated[str, Form(max_length=200)],
    firm: Annotated[str, Form(max_length=200)],
    shown: Annotated[bool, Form()] = False,
    statement: Annotated[str, Form(max_length=20_000)] = "",
    anyway: Annotated[bool, Form()] = False,
    file: Annotated[UploadFile | None, File()] = None,
) -> delivering.Delivered:
    """Send one document, or a statement, straight to the office: the link has then done its work."""
    if file is not None:
        attaching.too_large(office, attaching.clean_name(file.filename or ""), file.size or 0)
    content = file.file if file is not None else None
    sent = delivering.Sent(name, firm, shown, file.filename or "" if file else "", content, statement, anyway)
    return delivering.deliver(office, secret[:100], sent)
