"""What happened to a case: the entries of its history, each a plain value with the day it happened.

Each entry carries what was relied on, and every date that somebody was told.
"""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from typing import Annotated, Literal

from pydantic import AwareDatetime, Field, TypeAdapter

from jolly_clerk.core.dossier.model import Plain, Version

Role = Literal["applicant", "officer", "lead", "reviewer", "auditor", "rule-keeper", "office", "payment terminal", "post room"]
GivenStanding = Literal["met", "wanting", "in doubt", "waived"]


class Happened(Plain):
    """Base of all entries: when, who (a person's id, or a stand-in's name) and in which role."""

    at: AwareDatetime
    who: str
    role: Role


class Filed(Happened):
    """The filing: the version, the edition that decides it, and the amount told to be due at filing."""

    what: Literal["filed"] = "filed"
    version: int = 1
    edition: str
    edition_sha256: str = ""
    calendar_version: str = ""
    due_at_filing: Decimal
    dossier_hash: str = ""


class Paid(Happened):
    """Money came in. ``key`` is the terminal's own number of the payment; the same key counts once."""

    what: Literal["paid"] = "paid"
    amount: Decimal = Field(gt=0)
    means: Literal["card", "transfer", "cheque", "cash"]
    key: str
    receipt: str = ""


class PaidBack(Happened):
    """Money went back to the applicant."""

    what: Literal["paid back"] = "paid back"
    amount: Decimal = Field(gt=0)
    because: str
    key: str


class CheckingBegan(Happened):
    """The officer's own word that checking begins."""

    what: Literal["checking began"] = "checking began"


class Judged(Happened):
    """A standing given to a requirement; None takes it back. ``evidence`` identifies what was looked at."""

    what: Literal["judged"] = "judged"
    requirement: str
    standing: GivenStanding | None
    reason: str = ""
    version: int
    evidence: str = ""


class PointWorded(Happened):
    """The officer's words for the point that a wanting requirement will become."""

    what: Literal["point worded"] = "point worded"
    requirement: str
    text: str


class AskedPoint(Plain):
    """One point as the letter asked it. ``places`` are refs like ``works.area`` or ``documents.site_plan``."""

    no: int
    requirement: str
    title: str
    text: str
    places: tuple[str, ...]
    article: str = ""


class LetterSent(Happened):
    """A correction letter went out: its points and the due date that was told."""

    what: Literal["letter sent"] = "letter sent"
    round: int
    version: int
    points: tuple[AskedPoint, ...]
    due: date
    letter_sha256: str = ""


class LetterReturned(Happened):
    """The letter of a round came back: it never paused the clock."""

    what: Literal["letter returned"] = "letter returned"
    round: int


class LetterSentAgain(Happened):
    """The same letter went out again; the pause and the applicant's period begin now."""

    what: Literal["letter sent again"] = "letter sent again"
    round: int
    due: date


class Extended(Happened):
    """The one extension of the applicant's period, with the new due date that was told."""

    what: Literal["extended"] = "extended"
    round: int
    due: date


class Answered(Happened):
    """The answers to a round, as a new version. ``words`` maps a point's number to the applicant's words."""

    what: Literal["answered"] = "answered"
    round: int
    version: int
    words: dict[int, str] = {}
    note: str = ""
    dossier_hash: str = ""


class PointClosed(Happened):
    """An answered point was found good."""

    what: Literal["point closed"] = "point closed"
    round: int
    no: int


class PointAskedAgain(Happened):
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


class Accepted(Happened):
    """The intake is complete; ``target`` is the decision day that was told."""

    what: Literal["accepted"] = "accepted"
    target: date
    letter_sha256: str = ""


Entry = Annotated[
    Filed
    | Paid
    | PaidBack
    | CheckingBegan
    | Judged
    | PointWorded
    | LetterSent
    | LetterReturned
    | LetterSentAgain
    | Extended
    | Answered
    | PointClosed
    | PointAskedAgain
    | ChangeTaken
    | Accepted,
    Field(discriminator="what"),
]
ENTRY: TypeAdapter[Entry] = TypeAdapter(Entry)


class History(Plain):
    """The entries in the order in which they happened, and the filed versions."""

    entries: tuple[Entry, ...] = ()
    versions: tuple[Version, ...] = ()


NO_HISTORY = History()
