"""Routes: the moves of a case, each one row of a table: its address, its body, what is done, and a sentence about it."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from decimal import Decimal
from typing import Annotated, Any

from fastapi import APIRouter
from fastapi.responses import JSONResponse
from pydantic import BaseModel, Field

from jolly_clerk.core.history import GivenStanding, Means
from jolly_clerk.office.cases import endings, paying, refunding
from jolly_clerk.office.cases.casework import Loaded
from jolly_clerk.office.desk import checking, handwork, inquiring, reviewing, talking
from jolly_clerk.office.office import Office, Who
from jolly_clerk.web.asking import Asker, Seen, TheOffice
from jolly_clerk.web.changed import CaseChanged, case_changed
from jolly_clerk.web.problems import RESPONSES

router = APIRouter(prefix="/api/cases/{reference}", tags=["moves"], responses=RESPONSES)
Money = Annotated[Decimal, Field(ge=0, max_digits=12, decimal_places=3)]


class Nothing(BaseModel):
    """A move that needs no more words."""


class InLane(BaseModel):
    """In which lane it is done; nothing for the common one."""

    lane: str = Field(default="", max_length=60)


class JudgeRequirement(BaseModel):
    """Give a requirement its standing; null takes it back."""

    requirement: str = Field(max_length=120)
    standing: GivenStanding | None
    reason: str = Field(default="", max_length=2000)


class WordPoint(BaseModel):
    """The officer's words for a point."""

    requirement: str = Field(max_length=120)
    text: str = Field(max_length=4000)


class AskPointAgain(InLane):
    """Ask an answered point again, with new words if there are any."""

    no: int
    text: str = Field(default="", max_length=4000)


class ClosePoint(InLane):
    """An answered point is good."""

    no: int


class TakeChange(BaseModel):
    """Take a change that nobody asked for."""

    place: str = Field(max_length=120)


class AskAboutChange(TakeChange):
    """Ask about a change that nobody asked for."""

    text: str = Field(default="", max_length=4000)


class ArrangePoints(InLane):
    """The points of the next letter in their order; requirements in one group share a point."""

    groups: list[list[str]] = Field(max_length=200)


class AddRequirement(InLane):
    """Something that the rules did not foresee."""

    title: str = Field(max_length=200)
    text: str = Field(max_length=4000)


class SetFee(BaseModel):
    """A fee line waived (no amount) or set."""

    line: str = Field(max_length=60)
    amount: Money | None = None
    reason: str = Field(max_length=2000)


class SettleFee(BaseModel):
    """The second person's word about a fee that was set."""

    line: str = Field(max_length=60)
    confirmed: bool
    reason: str = Field(default="", max_length=2000)


class AskRegister(BaseModel):
    """Which register to ask."""

    name: str = Field(max_length=60)


class Grounds(BaseModel):
    """The grounds of a decision, or conditions."""

    grounds: str = Field(default="", max_length=4000)


class LaneGrounds(InLane):
    """The grounds on which a case, or one lane of it, is not accepted."""

    grounds: str = Field(default="", max_length=4000)


class HandOver(BaseModel):
    """To which reviewer."""

    to: str = Field(max_length=40)


class TakeMoney(BaseModel):
    """Money that came another way than by the terminal; ``mark`` is the number that stands on it, ``debt`` the one that it is
    for."""

    amount: Money
    means: Means
    mark: str = Field(max_length=80)
    value_day: date | None = None
    payer: str = Field(default="", max_length=200)
    account: str = Field(default="", max_length=60)
    debt: str = Field(default="", max_length=40)


class AskBody(BaseModel):
    """Another body that is asked, and what."""

    body: str = Field(max_length=200)
    text: str = Field(max_length=4000)


class BodyAnswered(BaseModel):
    """What another body answered; ``no`` is the number of what it was asked."""

    no: int = Field(ge=1, le=1000)
    text: str = Field(max_length=4000)


class ChargeBack(BaseModel):
    """A payment that was charged back, by its key, and what the bank told."""

    payment: str = Field(max_length=120)
    because: str = Field(max_length=300)


class WriteNote(BaseModel):
    """An internal note."""

    text: str = Field(max_length=4000)


class Withdraw(BaseModel):
    """Why, if one likes to say."""

    reason: str = Field(default="", max_length=4000)


UseCase = Callable[[Office, Who, str, Any, int | None], Loaded]
#: address below the case, body, what is done, what it is
MOVES: tuple[tuple[str, type[BaseModel], UseCase, str], ...] = (
    (
        "checking",
        Nothing,
        lambda o, w, r, b, seen: checking.begin_checking(o, w, r, seen),
        "Begin checking; the case is this officer's.",
    ),
    (
        "judgements",
        JudgeRequirement,
        lambda o, w, r, b, seen: checking.judge(o, w, r, b.requirement, b.standing, b.reason, seen),
        "Judge a requirement.",
    ),
    (
        "words",
        WordPoint,
        lambda o, w, r, b, seen: checking.word_point(o, w, r, b.requirement, b.text, seen),
        "Keep the words of a point.",
    ),
    (
        "letter",
        InLane,
        lambda o, w, r, b, seen: checking.send_letter(o, w, r, seen, b.lane),
        "Send the letter and pause the clock.",
    ),
    (
        "points/closed",
        ClosePoint,
        lambda o, w, r, b, seen: checking.close_point(o, w, r, b.no, seen, b.lane),
        "Close an answered point.",
    ),
    (
        "points/asked-again",
        AskPointAgain,
        lambda o, w, r, b, seen: checking.ask_again(o, w, r, b.no, b.text, seen, b.lane),
        "Ask an answered point again.",
    ),
    (
        "changes",
        TakeChange,
        lambda o, w, r, b, seen: checking.take_change(o, w, r, b.place, seen),
        "Take a change that nobody asked for.",
    ),
    (
        "questions",
        AskAboutChange,
        lambda o, w, r, b, seen: checking.ask_about(o, w, r, b.place, b.text, seen),
        "Ask about a change that nobody asked for.",
    ),
    ("acceptance", InLane, lambda o, w, r, b, seen: checking.accept(o, w, r, seen, b.lane), "Accept as complete."),
    (
        "registers",
        AskRegister,
        lambda o, w, r, b, seen: handwork.ask_register(o, w, r, b.name, seen),
        "Ask a register again; its answer is kept as evidence.",
    ),
    (
        "requirements",
        AddRequirement,
        lambda o, w, r, b, seen: handwork.add_requirement(o, w, r, b.title, b.text, seen, b.lane),
        "Ask for something that the rules did not foresee.",
    ),
    (
        "arrangement",
        ArrangePoints,
        lambda o, w, r, b, seen: handwork.arrange_points(o, w, r, b.groups, seen, b.lane),
        "Order and merge the points of the next letter.",
    ),
    ("undo", Nothing, lambda o, w, r, b, seen: handwork.undo(o, w, r, seen), "Take the own last step back."),
    (
        "fees",
        SetFee,
        lambda o, w, r, b, seen: handwork.set_fee(o, w, r, b.line, b.amount, b.reason, seen),
        "Waive or set a fee line.",
    ),
    (
        "fees/settlement",
        SettleFee,
        lambda o, w, r, b, seen: handwork.settle_fee(o, w, r, b.line, b.confirmed, b.reason, seen),
        "Confirm a fee that was set, as a second person.",
    ),
    (
        "letter/came-back",
        InLane,
        lambda o, w, r, b, seen: handwork.letter_came_back(o, w, r, seen, b.lane),
        "The letter came back.",
    ),
    (
        "letter/again",
        InLane,
        lambda o, w, r, b, seen: handwork.send_again(o, w, r, seen, b.lane),
        "Write the letter that came back anew.",
    ),
    (
        "letter/posted",
        InLane,
        lambda o, w, r, b, seen: inquiring.letter_posted(o, w, r, seen, b.lane),
        "The printed letter left by post on its day.",
    ),
    (
        "inquiries",
        AskBody,
        lambda o, w, r, b, seen: inquiring.ask_body(o, w, r, b.body, b.text, seen),
        "Ask another body about the case.",
    ),
    (
        "inquiries/answered",
        BodyAnswered,
        lambda o, w, r, b, seen: inquiring.body_answered(o, w, r, b.no, b.text, seen),
        "The answer of another body came.",
    ),
    (
        "more-time",
        InLane,
        lambda o, w, r, b, seen: handwork.more_time(o, w, r, seen, b.lane),
        "The one extension: asked for by the applicant, or given by an officer.",
    ),
    (
        "not-accepted",
        LaneGrounds,
        lambda o, w, r, b, seen: endings.do_not_accept(o, w, r, b.grounds, seen, b.lane),
        "Do not accept the application, or one lane of it.",
    ),
    (
        "out-of-scope",
        Grounds,
        lambda o, w, r, b, seen: endings.put_out_of_scope(o, w, r, b.grounds, seen),
        "The application does not belong here.",
    ),
    (
        "hand-over",
        HandOver,
        lambda o, w, r, b, seen: reviewing.hand_over(o, w, r, b.to, seen),
        "Hand a complete case over to a reviewer.",
    ),
    (
        "grant",
        Grounds,
        lambda o, w, r, b, seen: reviewing.grant(o, w, r, b.grounds, seen),
        "Grant it, with conditions if there are any.",
    ),
    ("refusal", Grounds, lambda o, w, r, b, seen: reviewing.refuse(o, w, r, b.grounds, seen), "Refuse the application."),
    (
        "money",
        TakeMoney,
        lambda o, w, r, b, seen: paying.take_money(o, w, r, b.amount, b.means, b.mark, b.value_day, b.payer, b.account, b.debt),
        "Book money that came another way than by the terminal.",
    ),
    (
        "charge-backs",
        ChargeBack,
        lambda o, w, r, b, seen: refunding.charge_back(o, w, r, b.payment, b.because, seen),
        "A payment was charged back, or a cheque bounced.",
    ),
    ("notes", WriteNote, lambda o, w, r, b, seen: talking.note(o, w, r, b.text), "Write an internal note."),
    ("withdrawal", Withdraw, lambda o, w, r, b, seen: endings.withdraw(o, w, r, b.reason, seen), "Withdraw an application."),
)


def _route(path: str, body_type: type[BaseModel], use_case: UseCase, says: str) -> None:
    def move(reference: str, body: Any, office: TheOffice, who: Asker, seen: Seen) -> JSONResponse:
        return case_changed(office, who, seen, use_case(office, who, reference, body, seen))

    move.__annotations__ |= {"body": body_type}
    move.__name__, move.__doc__ = path.replace("/", "_").replace("-", "_"), says
    router.post(f"/{path}", response_model=CaseChanged)(move)


for _path, _body, _use_case, _says in MOVES:
    _route(_path, _body, _use_case, _says)
