"""Routes of the office beside judging: registers, fees, points arranged, endings, hand-over, decisions, messages, notes."""

from __future__ import annotations

from decimal import Decimal
from typing import Annotated

from fastapi import APIRouter, Form, UploadFile
from pydantic import BaseModel, Field

from jolly_clerk.office import endings, handwork, looking, paying, reviewing, talking
from jolly_clerk.web.asking import Asker, TheOffice
from jolly_clerk.web.officer import Seen, SeenInLane, view_of
from jolly_clerk.web.problems import RESPONSES

router = APIRouter(prefix="/api/cases/{reference}", tags=["officer"], responses=RESPONSES)
Money = Annotated[Decimal, Field(ge=0, max_digits=12, decimal_places=2)]


class Arrange(SeenInLane):
    """The points of the next letter in their order; requirements in one group share a point."""

    groups: list[list[str]] = Field(max_length=200)


class Add(SeenInLane):
    """Something that the rules did not foresee."""

    title: str = Field(max_length=200)
    text: str = Field(max_length=4000)


class SetFee(Seen):
    """A fee line waived (no amount) or set."""

    line: str = Field(max_length=60)
    amount: Money | None = None
    reason: str = Field(max_length=2000)


class SettleFee(Seen):
    """The second person's word about a fee that was set."""

    line: str = Field(max_length=60)
    confirmed: bool
    reason: str = Field(default="", max_length=2000)


class Grounds(Seen):
    """The grounds of a decision, or conditions."""

    grounds: str = Field(default="", max_length=4000)


class LaneGrounds(SeenInLane):
    """The grounds on which a case, or one lane of it, is not accepted."""

    grounds: str = Field(default="", max_length=4000)


class HandOver(Seen):
    """To which reviewer."""

    to: str = Field(max_length=40)


class MoneyIn(BaseModel):
    """Money that came another way than by the terminal; ``mark`` is the number that stands on it."""

    amount: Money
    means: paying.Means
    mark: str = Field(max_length=80)


class Note(BaseModel):
    """An internal note."""

    text: str = Field(max_length=4000)


@router.post("/registers/{name}")
def ask_register(reference: str, name: str, body: Seen, office: TheOffice, who: Asker) -> looking.CaseView:
    """Ask a register again; its answer is kept as evidence."""
    return view_of(office, who, handwork.ask_register(office, who, reference, name, body.seen))


@router.post("/requirements")
def add_requirement(reference: str, body: Add, office: TheOffice, who: Asker) -> looking.CaseView:
    """Ask for something that the rules did not foresee."""
    return view_of(office, who, handwork.add_requirement(office, who, reference, body.title, body.text, body.seen, body.lane))


@router.post("/arrangement")
def arrange(reference: str, body: Arrange, office: TheOffice, who: Asker) -> looking.CaseView:
    """Order and merge the points of the next letter."""
    return view_of(office, who, handwork.arrange_points(office, who, reference, body.groups, body.seen, body.lane))


@router.post("/undo")
def undo(reference: str, body: Seen, office: TheOffice, who: Asker) -> looking.CaseView:
    """Take the own last step back."""
    return view_of(office, who, handwork.undo(office, who, reference, body.seen))


@router.post("/fees")
def set_fee(reference: str, body: SetFee, office: TheOffice, who: Asker) -> looking.CaseView:
    """Waive or set a fee line."""
    return view_of(office, who, handwork.set_fee(office, who, reference, body.line, body.amount, body.reason, body.seen))


@router.post("/fees/settlement")
def settle_fee(reference: str, body: SettleFee, office: TheOffice, who: Asker) -> looking.CaseView:
    """Confirm a fee that was set, as a second person."""
    done = handwork.settle_fee(office, who, reference, body.line, body.confirmed, body.reason, body.seen)
    return view_of(office, who, done)


@router.post("/letter/came-back")
def came_back(reference: str, body: SeenInLane, office: TheOffice, who: Asker) -> looking.CaseView:
    """The letter came back undelivered."""
    return view_of(office, who, handwork.letter_came_back(office, who, reference, body.seen, body.lane))


@router.post("/letter/again")
def send_again(reference: str, body: SeenInLane, office: TheOffice, who: Asker) -> looking.CaseView:
    """Send the letter that came back once more."""
    return view_of(office, who, handwork.send_again(office, who, reference, body.seen, body.lane))


@router.post("/more-time")
def more_time(reference: str, body: SeenInLane, office: TheOffice, who: Asker) -> looking.CaseView:
    """The one extension: asked for by the applicant, or given by an officer."""
    return view_of(office, who, handwork.more_time(office, who, reference, body.seen, body.lane))


@router.post("/not-accepted")
def do_not_accept(reference: str, body: LaneGrounds, office: TheOffice, who: Asker) -> looking.CaseView:
    """Do not accept the application."""
    return view_of(office, who, endings.do_not_accept(office, who, reference, body.grounds, body.seen, body.lane))


@router.post("/out-of-scope")
def out_of_scope(reference: str, body: Grounds, office: TheOffice, who: Asker) -> looking.CaseView:
    """The application does not belong here."""
    return view_of(office, who, endings.put_out_of_scope(office, who, reference, body.grounds, body.seen))


@router.post("/hand-over")
def hand_over(reference: str, body: HandOver, office: TheOffice, who: Asker) -> looking.CaseView:
    """Hand a complete case over to one reviewer."""
    return view_of(office, who, reviewing.hand_over(office, who, reference, body.to, body.seen))


@router.post("/grant")
def grant(reference: str, body: Grounds, office: TheOffice, who: Asker) -> looking.CaseView:
    """Grant the application, with conditions if there are any."""
    return view_of(office, who, reviewing.grant(office, who, reference, body.grounds, body.seen))


@router.post("/refusal")
def refuse(reference: str, body: Grounds, office: TheOffice, who: Asker) -> looking.CaseView:
    """Refuse the application."""
    return view_of(office, who, reviewing.refuse(office, who, reference, body.grounds, body.seen))


@router.post("/money")
def take_money(reference: str, body: MoneyIn, office: TheOffice, who: Asker) -> looking.CaseView:
    """Book money that came another way than by the terminal."""
    return view_of(office, who, paying.take_money(office, who, reference, body.amount, body.means, body.mark))


@router.post("/notes")
def note(reference: str, body: Note, office: TheOffice, who: Asker) -> looking.CaseView:
    """Write an internal note."""
    return view_of(office, who, talking.note(office, who, reference, body.text))


@router.post("/messages", status_code=201)
def write(
    reference: str,
    office: TheOffice,
    who: Asker,
    text: Annotated[str, Form(max_length=4000)],
    files: list[UploadFile] | None = None,
) -> looking.CaseView:
    """Write a message in the case, with files."""
    most = office.settings.most_upload_mb * 1_000_000 + 1
    sent = [(f.filename or "", f.file.read(most)) for f in (files or [])[: talking.MOST_FILES + 1]]
    return view_of(office, who, talking.write(office, who, reference, text, sent))
