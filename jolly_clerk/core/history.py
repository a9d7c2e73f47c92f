"""What happened to a case: the entries of its history, each a plain value with the day it happened.

Each entry carries what was relied on, and every date that somebody was told.
"""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from typing import Annotated, Literal

from pydantic import AwareDatetime, Field, TypeAdapter

from jolly_clerk.core.by_hand import FeeSet as FeeSet
from jolly_clerk.core.by_hand import FeeSettled as FeeSettled
from jolly_clerk.core.by_hand import PutRight as PutRight
from jolly_clerk.core.by_hand import RequirementAdded as RequirementAdded
from jolly_clerk.core.delivering import CameLater as CameLater
from jolly_clerk.core.delivering import TakenOut as TakenOut
from jolly_clerk.core.dossier.model import Plain, Version
from jolly_clerk.core.ending import Ended as Ended
from jolly_clerk.core.ending import Granted as Granted
from jolly_clerk.core.ending import HandedOver as HandedOver
from jolly_clerk.core.ending import Lapsed as Lapsed
from jolly_clerk.core.ending import NotAccepted as NotAccepted
from jolly_clerk.core.ending import OutOfScope as OutOfScope
from jolly_clerk.core.ending import PermitIssued as PermitIssued
from jolly_clerk.core.ending import Refused as Refused
from jolly_clerk.core.ending import StepTakenBack as StepTakenBack
from jolly_clerk.core.ending import Withdrawn as Withdrawn
from jolly_clerk.core.happened import Attached as Attached
from jolly_clerk.core.happened import GivenStanding as GivenStanding
from jolly_clerk.core.happened import Happened as Happened
from jolly_clerk.core.happened import InLane as InLane
from jolly_clerk.core.happened import Worded
from jolly_clerk.core.money_entries import ChargedBack as ChargedBack
from jolly_clerk.core.money_entries import GoesBack as GoesBack
from jolly_clerk.core.money_entries import LapseUndone as LapseUndone
from jolly_clerk.core.money_entries import Means as Means
from jolly_clerk.core.money_entries import Moved as Moved
from jolly_clerk.core.money_entries import Paid as Paid
from jolly_clerk.core.money_entries import PaidBack as PaidBack
from jolly_clerk.core.money_entries import RefundDue as RefundDue
from jolly_clerk.core.money_entries import RefundPaid as RefundPaid
from jolly_clerk.core.other_bodies import BodyAnswered as BodyAnswered
from jolly_clerk.core.other_bodies import BodyAsked as BodyAsked
from jolly_clerk.core.owning import Assigned as Assigned
from jolly_clerk.core.owning import Reopened as Reopened
from jolly_clerk.core.permit_entries import PermitEntry as PermitEntry
from jolly_clerk.core.public_change import PublicEntryChanged as PublicEntryChanged
from jolly_clerk.core.reading_in import ReadIn as ReadIn
from jolly_clerk.core.recording import NoteWritten as NoteWritten
from jolly_clerk.core.recording import Recorded
from jolly_clerk.core.recording import ThingCame as ThingCame
from jolly_clerk.core.reviewing import ReviewAsked as ReviewAsked
from jolly_clerk.core.reviewing import ReviewEntry as ReviewEntry
from jolly_clerk.core.reviewing import SignedOff as SignedOff
from jolly_clerk.core.shut import ClosureDeclared as ClosureDeclared


class Filed(Recorded):
    """The filing: the version, the edition that decides it, and the amount told to be due at filing. ``to_set`` are lines that the rules
    could not work out: the office sets them, and until then nothing counts as paid. ``later`` is what of it falls due in later parts, by
    the keys of the debts."""

    what: Literal["filed"] = "filed"
    version: int = 1
    edition: str
    edition_sha256: str = ""
    calendar_version: str = ""
    due_at_filing: Decimal
    dossier_hash: str = ""
    to_set: tuple[str, ...] = Field(default=(), exclude_if=lambda kept: not kept)
    later: dict[str, Decimal] = Field(default={}, exclude_if=lambda kept: not kept)

    @property
    def due_at_once(self) -> Decimal:
        """What is to be paid in the time to pay: all but the later parts."""
        return self.due_at_filing - sum(self.later.values(), Decimal(0))


class CheckingBegan(Happened):
    """The officer's own word that checking begins, in every lane at once."""

    what: Literal["checking began"] = "checking began"


def overrules(standing: str | None, proposed: str) -> bool:
    """True if giving a standing overrules what the machine proposes: *met* over a fault or a doubt."""
    return standing == "met" and proposed in ("wanting", "in doubt")


class Judged(Happened):
    """A standing given to a requirement; None takes it back. ``evidence`` identifies what was looked at, ``proposed`` is what the
    machine proposed then, ``because`` its sentence, and ``reader`` the version that had read the files; ``with_rest`` that it was looked
    over in a list and confirmed with the others. Earlier entries have none of the four.
    """

    what: Literal["judged"] = "judged"
    requirement: str
    standing: GivenStanding | None
    reason: str = ""
    version: int
    evidence: str = ""
    proposed: str = ""
    because: str = ""
    reader: str = ""
    with_rest: bool = Field(default=False, exclude_if=lambda kept: not kept)

    @property
    def overrules(self) -> bool:
        """True if it was given over a fault or a doubt of the machine."""
        return overrules(self.standing, self.proposed)


class PointWorded(Happened):
    """The officer's words for the point that a wanting requirement will become."""

    what: Literal["point worded"] = "point worded"
    requirement: str
    text: str


class AskedPoint(Worded):
    """One point as the letter asked it. ``places`` are refs like ``works.area`` or ``documents.site_plan``.

    ``also`` are the further requirements that were merged into it.
    """

    no: int
    requirement: str
    title: str
    text: str
    places: tuple[str, ...]
    article: str = ""
    also: tuple[str, ...] = ()


class LetterSent(InLane):
    """A correction letter went out: its points and the due date that was told.

    ``due_at`` is the instant of a period in hours; ``received`` the day on which the letter counts as received, if that is not the one of
    its sending.
    """

    what: Literal["letter sent"] = "letter sent"
    round: int
    version: int
    points: tuple[AskedPoint, ...]
    due: date
    due_at: AwareDatetime | None = Field(default=None, exclude_if=lambda kept: kept is None)
    received: date | None = Field(default=None, exclude_if=lambda kept: kept is None)
    letter_sha256: str = ""


class LetterReturned(InLane):
    """The letter of a round came back: it never paused the clock."""

    what: Literal["letter returned"] = "letter returned"
    round: int


class LetterSentAgain(InLane):
    """A letter that came back went out again, written anew; the pause and the applicant's period begin now.

    One without ``letter_sha256`` went out as it was the first time (before 0.2.0).
    """

    what: Literal["letter sent again"] = "letter sent again"
    round: int
    due: date
    due_at: AwareDatetime | None = Field(default=None, exclude_if=lambda kept: kept is None)
    received: date | None = Field(default=None, exclude_if=lambda kept: kept is None)
    letter_sha256: str = ""


class LetterReplaced(InLane):
    """A letter that was wrong was replaced by another while its answers were out: its points as they are asked from now on, and the new due
    date. The clock went on standing still."""

    what: Literal["letter replaced"] = "letter replaced"
    round: int
    points: tuple[AskedPoint, ...]
    due: date
    due_at: AwareDatetime | None = Field(default=None, exclude_if=lambda kept: kept is None)
    received: date | None = Field(default=None, exclude_if=lambda kept: kept is None)
    letter_sha256: str = ""


class LetterPosted(InLane):
    """Somebody ticked that the printed letter of a round left by post on the day from which its time is counted."""

    what: Literal["letter posted"] = "letter posted"
    round: int


class PostingMissed(InLane):
    """By the end of its posting day nobody had ticked that the printed letter of a round left by post."""

    what: Literal["posting missed"] = "posting missed"
    round: int
    day: date


class Extended(InLane):
    """The one extension of the applicant's period, with the new due date that was told."""

    what: Literal["extended"] = "extended"
    round: int
    due: date
    due_at: AwareDatetime | None = Field(default=None, exclude_if=lambda kept: kept is None)
    letter_sha256: str = ""


class Answered(InLane):
    """The answers to a round, as a new version. ``words`` maps a point's number to the applicant's words."""

    what: Literal["answered"] = "answered"
    round: int
    version: int
    words: dict[int, str] = {}
    note: str = ""
    dossier_hash: str = ""


class PointClosed(InLane):
    """An answered point was found good."""

    what: Literal["point closed"] = "point closed"
    round: int
    no: int


class PointAskedAgain(InLane):
    """An answered point goes into the next letter."""

    what: Literal["point asked again"] = "point asked again"
    round: int
    no: int
    text: str


class ChangeTaken(Happened):
    """A change that nobody asked for was accepted as it is."""

    what: Literal["change taken"] = "change taken"
    place: str
    version: int


class Accepted(InLane):
    """The intake is complete; ``target`` is the decision day that was told (None while it waits for a payment), ``due`` what is to
    be paid after the check, ``later`` what of it falls due in later parts, by the keys of the debts.

    In a case with lanes it is one lane that is; ``completes`` tells whether the whole case is with it.
    """

    what: Literal["accepted"] = "accepted"
    target: date | None
    due: Decimal = Field(default=Decimal(0), ge=0)
    later: dict[str, Decimal] = Field(default={}, exclude_if=lambda kept: not kept)
    completes: bool = True
    pathway: str = ""
    letter_sha256: str = ""

    @property
    def due_at_once(self) -> Decimal:
        """What is to be paid in the time to pay: all but the later parts."""
        return self.due - sum(self.later.values(), Decimal(0))


class PointsArranged(InLane):
    """The order of the points of the next letter; requirements in one group share a point."""

    what: Literal["points arranged"] = "points arranged"
    groups: tuple[tuple[str, ...], ...]


class RegisterAsked(Happened):
    """A register was asked; its answer is kept as evidence. ``row`` is None if it has no such entry, ``trouble`` if it did not answer."""

    what: Literal["register asked"] = "register asked"
    name: str
    key: str
    row: dict[str, str] | None = None
    trouble: str = ""


class Undone(Happened):
    """An officer took back the own last step; ``of`` are the numbers of its entries."""

    what: Literal["undone"] = "undone"
    of: tuple[int, ...]


class MessageSent(Happened):
    """A message in the case, from either side, with files."""

    what: Literal["message sent"] = "message sent"
    text: str
    files: tuple[Attached, ...] = ()


class Reminded(InLane):
    """The clock job reminded the applicant of a period, or the holder of a day of what was granted, or a part of what is owed; ``due`` is the
    day it named, ``of`` the key of the debt."""

    what: Literal["reminded"] = "reminded"
    step: Literal["payment", "answers", "begin", "finish", "ends", "debt"]
    due: date
    of: str = Field(default="", exclude_if=lambda kept: not kept)
    letter_sha256: str = ""


class FeeRaised(Happened):
    """What is due at filing rose because it was not paid in time; ``due`` is the whole of it, as it was told."""

    what: Literal["fee raised"] = "fee raised"
    due: Decimal = Field(ge=0)
    because: str
    letter_sha256: str = ""


class TakenBack(Happened):
    """The applicant took the filing back before checking began: a draft again."""

    what: Literal["taken back"] = "taken back"
    reason: str


Entry = Annotated[
    Filed
    | Paid
    | PaidBack
    | RefundDue
    | RefundPaid
    | Moved
    | ChargedBack
    | LapseUndone
    | ClosureDeclared
    | BodyAsked
    | BodyAnswered
    | LetterReplaced
    | LetterPosted
    | PostingMissed
    | Assigned
    | Reopened
    | ThingCame
    | PublicEntryChanged
    | PermitEntry
    | ReadIn
    | ReviewEntry
    | CheckingBegan
    | Judged
    | PointWorded
    | LetterSent
    | LetterReturned
    | LetterSentAgain
    | Extended
    | Answered
    | CameLater
    | TakenOut
    | PointClosed
    | PointAskedAgain
    | ChangeTaken
    | Accepted
    | PointsArranged
    | RequirementAdded
    | PutRight
    | RegisterAsked
    | FeeSet
    | FeeSettled
    | Undone
    | StepTakenBack
    | MessageSent
    | NoteWritten
    | Reminded
    | FeeRaised
    | TakenBack
    | Withdrawn
    | NotAccepted
    | OutOfScope
    | Lapsed
    | HandedOver
    | Granted
    | PermitIssued
    | Refused,
    Field(discriminator="what"),
]
ENTRY: TypeAdapter[Entry] = TypeAdapter(Entry)


class History(Plain):
    """The entries in the order in which they happened, and the filed versions."""

    entries: tuple[Entry, ...] = ()
    versions: tuple[Version, ...] = ()


NO_HISTORY = History()
