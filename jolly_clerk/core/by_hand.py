"""The entries of a history that an officer makes by hand: something asked besides, a clerical error put right, a fee set and settled."""

from __future__ import annotations

from decimal import Decimal
from typing import Literal

from pydantic import Field

from jolly_clerk.core.happened import Happened, InLane


class RequirementAdded(InLane):
    """Something that the rules did not foresee, asked by the officer's own hand.

    ``places`` are what may answer it besides words: a slot of its own (``documents.added-1``), or an answer. ``about`` is the place of a
    change that nobody asked for, ``version`` the one in which it was made.
    """

    what: Literal["requirement added"] = "requirement added"
    requirement: str
    title: str
    text: str
    places: tuple[str, ...] = Field(default=(), exclude_if=lambda kept: not kept)
    about: str = Field(default="", exclude_if=lambda kept: not kept)
    version: int = Field(default=0, exclude_if=lambda kept: not kept)


class PutRight(Happened):
    """An officer put a plain clerical error in an answer right, as a new version: what it said, what it says, and why."""

    what: Literal["clerical error"] = "clerical error"
    place: str
    label: str
    was: str
    now: str
    reason: str
    version: int
    dossier_hash: str = ""
    letter_sha256: str = ""


class FeeSet(Happened):
    """A fee line waived (``amount`` 0) or set by hand. Above the limit it counts only when a second person confirms it."""

    what: Literal["fee set"] = "fee set"
    line: str
    amount: Decimal = Field(ge=0)
    was: Decimal
    waived: bool = False
    reason: str
    needs_second: bool = False


class FeeSettled(Happened):
    """The second person's word about a fee that was set by hand."""

    what: Literal["fee settled"] = "fee settled"
    line: str
    confirmed: bool
    reason: str = ""
