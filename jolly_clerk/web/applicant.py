"""Routes of the applicant: drafts, files, filing, paying, answering."""

from __future__ import annotations

from collections.abc import Callable
from decimal import Decimal
from typing import Annotated, Any

from fastapi import Depends, File, Form, Query, Request, Response, UploadFile
from fastapi.responses import JSONResponse
from pydantic import BaseModel, Field

from jolly_clerk.core.ports import Outcome
from jolly_clerk.core.say import say
from jolly_clerk.core.states import State
from jolly_clerk.core.urgency import Place
from jolly_clerk.office.cases import endings, lists, notices, paying
from jolly_clerk.office.cases.seeing import need_open
from jolly_clerk.office.desk import registers, talking
from jolly_clerk.office.errors import NotAllowed, NotFound
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.preparing import answering, attaching, drafts, filing, inviting, own, prefilling, signing, undoing
from jolly_clerk.office.preparing.reaching import is_recorded
from jolly_clerk.office.views.draft import DraftView
from jolly_clerk.web.asking import Asker, Seen, TheOffice, asked_of
from jolly_clerk.web.cases import file_answer
from jolly_clerk.web.changed import DraftChanged, draft_changed, draft_seen, whole_draft
from jolly_clerk.web.turns import router_of

router = router_of("/api", "applicant")


def the_applicant(request: Request, office: TheOffice, who: Asker) -> Who:
    """The applicant who asks, or whoever of the office records this filing for one; others are refused."""
    if who.may.moves != "applicant" and not (who.is_officer and is_recorded(office, **asked_of(request))):
        raise NotAllowed(say("This belongs to applicants."))
    return who


Applicant = Annotated[Who, Depends(the_applicant)]


class DraftRow(BaseModel):
    """A draft in the list of one's own."""

    id: str
    kind: str
    kind_title: str
    answers_case: str
    title: str
    state: State
    own_reference: str
    folder: str
    kept_at: str
    left: int
    next: str


class FoundOwn(BaseModel):
    """What was found of one's own."""

    drafts: list[DraftRow]
    cases: list[lists.Row]


class Started(BaseModel):
    """The id of a new draft."""

    id: str


class BeginFiling(BaseModel):
    """Which kind to begin, what the way in was told, and for which ``owner`` it is begun by a mandate (for oneself without)."""

    kind: str = Field(pattern="^[A-Z]{2}$")
    answers: dict[str, dict[str, Any] | list[dict[str, Any]]] = {}
    owner: str = Field(default="", max_length=40)


class KeepDraft(BaseModel):
    """What was typed. What is left out stays as it is."""

    answers: dict[str, dict[str, Any] | list[dict[str, Any]]] | None = None
    note: str | None = Field(default=None, max_length=4000)
    own_reference: str | None = Field(default=None, max_length=80)
    folder: str | None = Field(default=None, max_length=60)
    words: dict[int, str] | None = None


class SignDraft(BaseModel):
    """A typed signature."""

    name: str = Field(max_length=200)


class TickDeclaration(BaseModel):
    """A declaration ticked, or not any more."""

    ticked: bool


class FileDraft(BaseModel):
    """File, or send the answers. ``take_gaps`` says that the listed gaps were read, ``code`` is the one that came by text message."""

    take_gaps: bool = False
    code: str = Field(default="", max_length=20)


class Filed(BaseModel):
    """The reference of the case."""

    reference: str


class PutBack(BaseModel):
    """Which place to put back to what was filed."""

    place: str = Field(max_length=120)


class AskPayment(BaseModel):
    """``prepay`` pays what may be paid now for a later stage as well; ``debt`` pays one debt alone, by its key."""

    prepay: bool = False
    debt: str = Field(default="", max_length=40)


class Insist(BaseModel):
    """Why it is to be filed all the same."""

    reason: str = Field(max_length=2000)


class TakeBack(BaseModel):
    """Why."""

    reason: str = Field(default="", max_length=4000)


class FillFromRegister(BaseModel):
    """The key of a register entry, and the number of the repeat that it fills in, where its part repeats."""

    key: str = Field(max_length=120)
    item: int = Field(default=0, ge=0, le=1_000_000)


class TerminalOut(BaseModel):
    """A payment at the terminal."""

    key: str
    reference: str
    amount: Decimal
    currency: str
    state: str
    said: str
    address: str


class TerminalIn(BaseModel):
    """What came of a payment; ``amount`` if it is another than was asked."""

    outcome: Outcome
    amount: Annotated[Decimal, Field(gt=0, max_digits=12, decimal_places=2)] | None = None


@router.get("/drafts")
def my_drafts(office: TheOffice, who: Applicant) -> list[DraftRow]:
    """What one is preparing."""
    return [_row(d) for d in drafts.drafts_of(office, who)]


def _row(d: drafts.OpenDraft) -> DraftRow:
    return DraftRow(
        id=d.draft.id,
        kind=d.draft.kind,
        kind_title=d.rulebook.edition.title,
        answers_case=d.case.reference if d.case else "",
        title=d.assessment.title,
        state=d.assessment.state,
        own_reference=d.draft.own_reference,
        folder=d.draft.folder,
        kept_at=d.draft.kept_at.isoformat(),
        left=len(d.assessment.left),
        next=d.assessment.next_applicant,
    )


@router.get("/my-filings")
def find_own(office: TheOffice, who: Applicant, words: Annotated[str, Query(max_length=200)] = "") -> FoundOwn:
    """What one is preparing and has filed in which all the words stand."""
    found = own.find_own(office, who, words)
    return FoundOwn(drafts=[_row(d) for d in found.drafts], cases=list(found.cases))


@router.post("/drafts/like/{name}", status_code=201)
def begin_like(name: str, office: TheOffice, who: Applicant) -> Started:
    """Begin a filing with the answers of another of one's own, named by its draft or its reference."""
    return Started(id=own.begin_like(office, who, name))


@router.post("/drafts", status_code=201)
def begin(body: BeginFiling, office: TheOffice, who: Applicant) -> Started:
    """Begin a filing."""
    return Started(id=drafts.start_draft(office, who, body.kind, body.answers, owner=body.owner))


@router.get("/drafts/{draft}", response_model=DraftView)
def one_draft(draft: str, office: TheOffice, who: Applicant) -> JSONResponse:
    """A draft with everything that is said about it; its revision stands in ``ETag``."""
    found = drafts.open_draft(office, who, draft)
    inviting.note_look(office, found.access)
    return whole_draft(office, who, found)


def changed(
    office: Office, who: Who, draft: str, seen: int | None, change: Callable[[], drafts.OpenDraft], status: int = 200
) -> JSONResponse:
    """Make a change of a draft and tell what differs from the state that was seen."""
    before = draft_seen(office, who, draft, seen)
    return draft_changed(office, who, before, change(), status)


@router.put("/drafts/{draft}", response_model=DraftChanged)
def keep(draft: str, body: KeepDraft, office: TheOffice, who: Applicant, seen: Seen) -> JSONResponse:
    """Keep what was typed."""
    typed = (body.answers, body.note, body.own_reference, body.folder, body.words)
    return changed(office, who, draft, seen, lambda: drafts.keep(office, who, draft, seen, *typed))


@router.delete("/drafts/{draft}", status_code=204)
def throw_away(draft: str, office: TheOffice, who: Applicant, seen: Seen) -> None:
    """Throw a draft away."""
    drafts.throw_away(office, who, draft, seen)


@router.post("/drafts/{draft}/files", status_code=201, response_model=DraftChanged)
def attach(
    draft: str,
    office: TheOffice,
    who: Applicant,
    seen: Seen,
    slot: Annotated[str, Form(max_length=60)],
    file: Annotated[UploadFile, File()],
) -> JSONResponse:
    """Attach a file to a slot. It is kept and named at once, and read beside: until then it *is being read*."""
    name = file.filename or ""
    attaching.too_large(office, attaching.clean_name(name), file.size or 0)
    return changed(office, who, draft, seen, lambda: attaching.attach(office, who, draft, slot, name, file.file, seen), 201)


@router.get("/drafts/{draft}/files/{attachment}", response_class=Response)
def file_of_draft(draft: str, attachment: str, office: TheOffice, who: Applicant) -> Response:
    """A file of one's own draft."""
    for a in drafts.open_draft(office, who, draft).dossier.papers:
        if a.id == attachment:
            need_open(a)
            return file_answer(office.vault.get(a.sha256), a.name)
    raise NotFound(say("This file is not in the draft."))


@router.delete("/drafts/{draft}/files/{attachment}", response_model=DraftChanged)
def detach(draft: str, attachment: str, office: TheOffice, who: Applicant, seen: Seen) -> JSONResponse:
    """Take a file out of a draft."""
    return changed(office, who, draft, seen, lambda: attaching.detach(office, who, draft, attachment, seen))


@router.post("/drafts/{draft}/files/{attachment}/undo", response_model=DraftChanged)
def put_back_file(draft: str, attachment: str, office: TheOffice, who: Applicant, seen: Seen) -> JSONResponse:
    """Put a file back that was taken out of a draft."""
    return changed(office, who, draft, seen, lambda: undoing.put_back_file(office, who, draft, attachment, seen))


@router.post("/drafts/{draft}/undo", status_code=204)
def bring_back(draft: str, office: TheOffice, who: Applicant) -> None:
    """Bring a draft back that was thrown away."""
    undoing.bring_back(office, who, draft)


@router.post("/drafts/{draft}/signature", response_model=DraftChanged)
def sign(draft: str, body: SignDraft, office: TheOffice, who: Applicant, seen: Seen) -> JSONResponse:
    """Sign the declaration."""
    return changed(office, who, draft, seen, lambda: signing.sign(office, who, draft, body.name, seen))


@router.delete("/drafts/{draft}/signature", response_model=DraftChanged)
def unsign(draft: str, office: TheOffice, who: Applicant, seen: Seen) -> JSONResponse:
    """Take the signature back."""
    return changed(office, who, draft, seen, lambda: signing.unsign(office, who, draft, seen))


@router.put("/drafts/{draft}/declarations/{declaration}", response_model=DraftChanged)
def declare(draft: str, declaration: str, body: TickDeclaration, office: TheOffice, who: Applicant, seen: Seen) -> JSONResponse:
    """Tick a declaration, or take the tick back."""
    return changed(office, who, draft, seen, lambda: signing.declare(office, who, draft, declaration, body.ticked, seen))


@router.post("/drafts/{draft}/put-back", response_model=DraftChanged)
def put_back(draft: str, body: PutBack, office: TheOffice, who: Applicant, seen: Seen) -> JSONResponse:
    """In an answer: put one place back to what was filed."""
    return changed(office, who, draft, seen, lambda: signing.drop_change(office, who, draft, body.place, seen))


@router.post("/drafts/{draft}/filing", status_code=201)
def file_draft(draft: str, body: FileDraft, office: TheOffice, who: Applicant, seen: Seen) -> Filed:
    """File a draft. With gaps that were not accepted it answers 409 and lists them."""
    return Filed(reference=filing.file(office, who, draft, seen, body.take_gaps, body.code))


@router.post("/drafts/{draft}/answers", status_code=201)
def send_answers(draft: str, body: FileDraft, office: TheOffice, who: Applicant, seen: Seen) -> Filed:
    """Send the answers to a letter as the next version."""
    return Filed(reference=answering.send_answers(office, who, draft, seen))


@router.get("/my-cases")
def my_cases(office: TheOffice, who: Applicant) -> list[lists.PlacePage]:
    """The first of one's cases at each place, what waits for one first."""
    return list(lists.my_cases(office, who))


@router.get("/my-messages")
def my_messages(office: TheOffice, who: Applicant) -> list[talking.Unread]:
    """The messages of the office in one's cases that one has not seen yet, newest first."""
    return list(talking.unread(office, who))


@router.get("/my-cases/more")
def more_of_mine(office: TheOffice, who: Applicant, place: Place, after: Annotated[str, Query(max_length=80)]) -> lists.PlacePage:
    """The next of one's cases at a place, from where the page before ended."""
    return lists.more_of_mine(office, who, place, after)


@router.put("/drafts/{draft}/insisting", response_model=DraftChanged)
def insist(draft: str, body: Insist, office: TheOffice, who: Applicant, seen: Seen) -> JSONResponse:
    """Say why it is to be filed though the way in says that it is not needed; nothing takes it back."""
    return changed(office, who, draft, seen, lambda: signing.insist(office, who, draft, body.reason, seen))


@router.post("/cases/{reference}/answering", status_code=201)
def begin_answering(
    reference: str, office: TheOffice, who: Applicant, lane: Annotated[str, Query(max_length=60)] = ""
) -> Started:
    """The draft in which the letter of a case, or of one of its lanes, is answered."""
    return Started(id=answering.begin_answering(office, who, reference, lane))


@router.post("/cases/{reference}/payments", status_code=201)
def ask_payment(reference: str, body: AskPayment, office: TheOffice, who: Applicant) -> TerminalOut:
    """Ask the terminal for what is open on a case."""
    return at_terminal(paying.ask_payment(office, who, reference, body.prepay, body.debt))


@router.post("/terminal/{key}")
def terminal(key: str, body: TerminalIn, office: TheOffice, who: Applicant) -> TerminalOut:
    """Hold a card to the stand-in terminal of a demo, which tells the office what came of it."""
    return at_terminal(notices.at_stand_in(office, who, key, body.outcome, body.amount))


def at_terminal(at: paying.AtTerminal) -> TerminalOut:
    """A payment at the terminal as it is answered."""
    return TerminalOut(
        key=at.key,
        reference=at.reference,
        amount=at.amount,
        currency=at.currency,
        state=at.state,
        said=at.said,
        address=at.address,
    )


@router.get("/drafts/{draft}/registers/{name}")
def search_register(
    draft: str, name: str, office: TheOffice, who: Applicant, words: Annotated[str, Query(max_length=100)] = ""
) -> registers.Found:
    """Look into a register that the form is filled in from."""
    return registers.search(office, drafts.open_draft(office, who, draft).rulebook, name, words, who.id)


@router.post("/drafts/{draft}/registers/{name}", response_model=DraftChanged)
def fill_from_register(
    draft: str, name: str, body: FillFromRegister, office: TheOffice, who: Applicant, seen: Seen
) -> JSONResponse:
    """Fill in what a register knows about an entry."""
    return changed(office, who, draft, seen, lambda: prefilling.take_over(office, who, draft, name, body.key, seen, body.item))


@router.post("/cases/{reference}/taking-back", status_code=201)
def take_back(reference: str, body: TakeBack, office: TheOffice, who: Applicant, seen: Seen) -> Started:
    """Take a filing back before checking began; it is a draft again."""
    return Started(id=endings.take_back(office, who, reference, body.reason, seen))
