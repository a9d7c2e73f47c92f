"""What the moves of a case are sent with: one body for each, bounded in every field."""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from typing import Annotated, Literal

from pydantic import BaseModel, Field

from jolly_clerk.core.history import GivenStanding, Means
from jolly_clerk.core.meetings import Result
from jolly_clerk.core.numbers import MOST_WHOLE
from jolly_clerk.office.desk import replacing

#: a whole number that a row of the database holds
Number = Annotated[int, Field(ge=0, le=MOST_WHOLE)]
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


class ConfirmRest(BaseModel):
    """The requirements that were looked over, each proposed as met."""

    requirements: list[Annotated[str, Field(max_length=120)]] = Field(min_length=1, max_length=2000)


class WordPoint(BaseModel):
    """The officer's words for a point."""

    requirement: str = Field(max_length=120)
    text: str = Field(max_length=4000)


class AskPointAgain(InLane):
    """Ask an answered point again, with new words if there are any."""

    no: Number
    text: str = Field(default="", max_length=4000)


class ClosePoint(InLane):
    """An answered point is good."""

    no: Number
    reason: str = Field(default="", max_length=2000)


class TakeChange(BaseModel):
    """Take a change that nobody asked for."""

    place: str = Field(max_length=120)


class PutRightBody(BaseModel):
    """A clerical error in an answer: its place, what it is to say, and why it is one."""

    place: str = Field(max_length=120)
    value: str = Field(max_length=2000)
    reason: str = Field(max_length=1000)


class AskAboutChange(TakeChange):
    """Ask about a change that nobody asked for."""

    text: str = Field(default="", max_length=4000)


class ArrangePoints(InLane):
    """The points of the next letter in their order; requirements in one group share a point."""

    groups: list[list[str]] = Field(max_length=200)


class AddRequirement(InLane):
    """Something that the rules did not foresee, and what may answer it besides words."""

    title: str = Field(max_length=200)
    text: str = Field(max_length=4000)
    answer: Literal["words", "file", "answer"] = "words"
    place: str = Field(default="", max_length=120)


class PointAnew(BaseModel):
    """A point of a letter that replaces another: its number there, or 0 with a title for a new one."""

    no: int = Field(ge=0, le=1000)
    text: str = Field(max_length=4000)
    title: str = Field(default="", max_length=200)
    file: bool = False


class ReplaceLetter(InLane):
    """The points that are asked from now on."""

    points: list[PointAnew] = Field(min_length=1, max_length=200)

    def words(self) -> list[replacing.NewWords]:
        """As the use case takes them."""
        return [replacing.NewWords(p.no, p.text, p.title, p.file) for p in self.points]


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


class AssignCase(BaseModel):
    """Which officer has the case from now on (nothing for nobody), and why."""

    to: str = Field(max_length=40)
    because: str = Field(default="", max_length=400)


class HandOver(BaseModel):
    """To which reviewer, who decides; ``beside`` are those who sign off first."""

    to: str = Field(max_length=40)
    beside: list[Annotated[str, Field(max_length=40)]] = Field(default=[], max_length=10)


class Words(BaseModel):
    """What somebody says in words."""

    words: str = Field(default="", max_length=4000)


class PutOn(BaseModel):
    """The meeting on whose agenda a case goes."""

    meeting: str = Field(max_length=40)


class TakeOff(BaseModel):
    """Why a case is taken off an agenda, if that helps."""

    because: str = Field(default="", max_length=400)


class WriteMinutes(BaseModel):
    """What a meeting came to in a case, and the words of the minutes."""

    result: Result
    words: str = Field(default="", max_length=2000)


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


class ReadyStep(BaseModel):
    """Which step that is ready."""

    step: Number


class TurnKind(BaseModel):
    """The kind into which a case is to be turned, and why; the applicant reads it."""

    kind: str = Field(pattern="^[A-Z]{2}$")
    grounds: str = Field(max_length=1000)


class WriteNote(BaseModel):
    """An internal note; of a telephone call with whoever called."""

    text: str = Field(max_length=4000)
    caller: str = Field(default="", max_length=120)


class Withdraw(BaseModel):
    """Why, if one likes to say."""

    reason: str = Field(default="", max_length=4000)
