"""Routes of the applicant: drafts, files, filing, paying, answering."""

from __future__ import annotations

from decimal import Decimal
from typing import Annotated, Any

from fastapi import APIRouter, Depends, File, Form, Query, UploadFile
from pydantic import BaseModel, Field

from jolly_clerk.office import (
    answering,
    attaching,
    drafts,
    endings,
    filing,
    lists,
    looking,
    paying,
    prefilling,
    registers,
    signing,
)
from jolly_clerk.office.errors import NotAllowed
from jolly_clerk.office.office import Who
from jolly_clerk.standins.terminal import Outcome
from jolly_clerk.web.asking import Asker, TheOffice
from jolly_clerk.web.problems import RESPONSES

router = APIRouter(prefix="/api", tags=["applicant"], responses=RESPONSES)


def the_applicant(who: Asker) -> Who:
    """The applicant who asks; others are refused."""
    if who.role != "applicant":
        raise NotAllowed("This belongs to applicants.")
    return who


Applicant = Annotated[Who, Depends(the_applicant)]


class DraftRow(BaseModel):
    """A draft in the list of one's own."""

    id: str
    kind: str
    kind_title: str
    title: str
    own_reference: str
    kept_at: str
    left: int
    next: str


class Started(BaseModel):
    """The id of a new draft."""

    id: str


class Begin(BaseModel):
    """Which kind to begin, and what the way in was told."""

    kind: str = Field(pattern="^[A-Z]{2}$")
    answers: dict[str, dict[str, Any]] = {}


class Keep(BaseModel):
    """What was typed. What is left out stays as it is. ``counter`` is the one last seen."""

    counter: int | None = None
    answers: dict[str, dict[str, Any] | list[dict[str, Any]]] | None = None
    note: str | None = Field(default=None, max_length=4000)
    own_reference: str | None = Field(default=None, max_length=80)
    words: dict[int, str] | None = None


class Sign(BaseModel):
    """A typed signature."""

    name: str = Field(max_length=200)


class Tick(BaseModel):
    """A declaration ticked, or not any more."""

    ticked: bool


class FileIt(BaseModel):
    """File, or send the answers. ``take_gaps`` says that the listed gaps were read."""

    counter: int | None = None
    take_gaps: bool = False


class Filed(BaseModel):
    """The reference of the case."""

    reference: str


class Drop(BaseModel):
    """Which place to put back to what was filed."""

    place: str = Field(max_length=120)


class PayNow(BaseModel):
    """``prepay`` pays what may be paid now for a later stage as well."""

    prepay: bool = False


class Reason(BaseModel):
    """Why."""

    reason: str = Field(default="", max_length=4000)


class TakeOver(BaseModel):
    """The key of a register entry."""

    key: str = Field(max_length=120)


class TerminalOut(BaseModel):
    """A payment at the terminal."""

    key: str
    reference: str
    amount: Decimal
    currency: str
    state: str
    said: str


class TerminalIn(BaseModel):
    """What came of a payment; ``amount`` if it is another than was asked."""

    outcome: Outcome
    amount: Annotated[Decimal, Field(gt=0, max_digits=12, decimal_places=2)] | None = None


@router.get("/drafts")
def my_drafts(office: TheOffice, who: Applicant) -> list[DraftRow]:
    """What one is preparing."""
    return [
        DraftRow(
            id=d.draft.id,
            kind=d.draft.kind,
            kind_title=d.rulebook.edition.title,
            title=d.assessment.title,
            own_reference=d.draft.own_reference,
            kept_at=d.draft.kept_at.isoformat(),
            left=len(d.assessment.left),
            next=d.assessment.next_applicant,
        )
        for d in drafts.drafts_of(office, who)
    ]


@router.post("/drafts", status_code=201)
def begin(body: Begin, office: TheOffice, who: Applicant) -> Started:
    """Begin a filing."""
    return Started(id=drafts.start_draft(office, who, body.kind, body.answers))


@router.get("/drafts/{draft}")
def one_draft(draft: str, office: TheOffice, who: Applicant) -> looking.DraftView:
    """A draft with everything that is said about it."""
    return looking.draft_view(drafts.open_draft(office, who, draft))


@router.put("/drafts/{draft}")
def keep(draft: str, body: Keep, office: TheOffice, who: Applicant) -> looking.DraftView:
    """Keep what was typed."""
    kept = drafts.keep(office, who, draft, body.counter, body.answers, body.note, body.own_reference, body.words)
    return looking.draft_view(kept)


@router.delete("/drafts/{draft}", status_code=204)
def throw_away(draft: str, office: TheOffice, who: Applicant) -> None:
    """Throw a draft away."""
    drafts.throw_away(office, who, draft)


@router.post("/drafts/{draft}/files", status_code=201)
def attach(
    draft: str,
    office: TheOffice,
    who: Applicant,
    slot: Annotated[str, Form(max_length=60)],
    file: Annotated[UploadFile, File()],
) -> looking.DraftView:
    """Attach a file to a slot; it is read at once."""
    name, most = file.filename or "", office.settings.most_upload_mb * 1_000_000
    attaching.too_large(office, attaching.clean_name(name), file.size or 0)
    content = file.file.read(most + 1)
    return looking.draft_view(attaching.attach(office, who, draft, slot, name, content))


@router.delete("/drafts/{draft}/files/{attachment}")
def detach(draft: str, attachment: str, office: TheOffice, who: Applicant) -> looking.DraftView:
    """Take a file out of a draft."""
    return looking.draft_view(attaching.detach(office, who, draft, attachment))


@router.post("/drafts/{draft}/signature")
def sign(draft: str, body: Sign, office: TheOffice, who: Applicant) -> looking.DraftView:
    """Sign the declaration."""
    return looking.draft_view(signing.sign(office, who, draft, body.name))


@router.delete("/drafts/{draft}/signature")
def unsign(draft: str, office: TheOffice, who: Applicant) -> looking.DraftView:
    """Take the signature back."""
    return looking.draft_view(signing.unsign(office, who, draft))


@router.put("/drafts/{draft}/declarations/{declaration}")
def declare(draft: str, declaration: str, body: Tick, office: TheOffice, who: Applicant) -> looking.DraftView:
    """Tick a declaration, or take the tick back."""
    return looking.draft_view(signing.declare(office, who, draft, declaration, body.ticked))


@router.post("/drafts/{draft}/drop")
def drop(draft: str, body: Drop, office: TheOffice, who: Applicant) -> looking.DraftView:
    """In an answer: put one place back to what was filed."""
    return looking.draft_view(signing.drop_change(office, who, draft, body.place))


@router.post("/drafts/{draft}/filing", status_code=201)
def file_draft(draft: str, body: FileIt, office: TheOffice, who: Applicant) -> Filed:
    """File a draft. With gaps that were not accepted it answers 409 and lists them."""
    return Filed(reference=filing.file(office, who, draft, body.counter, body.take_gaps))


@router.post("/drafts/{draft}/answers", status_code=201)
def send_answers(draft: str, body: FileIt, office: TheOffice, who: Applicant) -> Filed:
    """Send the answers to a letter as the next version."""
    return Filed(reference=answering.send_answers(office, who, draft, body.counter))


@router.get("/my-cases")
def my_cases(office: TheOffice, who: Applicant) -> list[lists.Row]:
    """One's cases, what waits for one first."""
    return list(lists.my_cases(office, who))


@router.post("/cases/{reference}/answering", status_code=201)
def begin_answering(
    reference: str, office: TheOffice, who: Applicant, lane: Annotated[str, Query(max_length=60)] = ""
) -> Started:
    """The draft in which the letter of a case, or of one of its lanes, is answered."""
    return Started(id=answering.begin_answering(office, who, reference, lane))


@router.post("/cases/{reference}/payments", status_code=201)
def ask_payment(reference: str, body: PayNow, office: TheOffice, who: Applicant) -> TerminalOut:
    """Ask the terminal for what is open on a case."""
    return _terminal(paying.ask_payment(office, who, reference, body.prepay))


@router.post("/terminal/{key}")
def terminal(key: str, body: TerminalIn, office: TheOffice, who: Applicant) -> TerminalOut:
    """The stand-in terminal says what came of a payment."""
    return _terminal(paying.terminal_says(office, who, key, body.outcome, body.amount))


def _terminal(at: paying.AtTerminal) -> TerminalOut:
    return TerminalOut(key=at.key, reference=at.reference, amount=at.amount, currency=at.currency, state=at.state, said=at.said)


@router.get("/drafts/{draft}/registers/{name}")
def search_register(
    draft: str, name: str, office: TheOffice, who: Applicant, words: Annotated[str, Query(max_length=100)] = ""
) -> registers.Found:
    """Look into a register that the form is filled in from."""
    return registers.search(office, drafts.open_draft(office, who, draft).rulebook, name, words, who.id)


@router.post("/drafts/{draft}/registers/{name}")
def take_over(draft: str, name: str, body: TakeOver, office: TheOffice, who: Applicant) -> looking.DraftView:
    """Fill in what a register knows about an entry."""
    return looking.draft_view(prefilling.take_over(office, who, draft, name, body.key))


@router.post("/cases/{reference}/taking-back", status_code=201)
def take_back(reference: str, body: Reason, office: TheOffice, who: Applicant) -> Started:
    """Take a filing back before checking began; it is a draft again."""
    return Started(id=endings.take_back(office, who, reference, body.reason))


@router.post("/cases/{reference}/withdrawal")
def withdraw(reference: str, body: Reason, office: TheOffice, who: Applicant) -> looking.CaseView:
    """Withdraw an application."""
    return looking.case_view(office, who, endings.withdraw(office, who, reference, body.reason))
