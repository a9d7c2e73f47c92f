"""Another body that is asked about a case: the entries of the history, and how long it holds the case.

The office's period stands still from the asking until the answer, but not beyond the time that the body has.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime
from typing import TYPE_CHECKING, Literal

from pydantic import AwareDatetime, Field

from jolly_clerk.core.happened import Happened

if TYPE_CHECKING:
    from jolly_clerk.core.lifecycle import CaseSoFar


class BodyAsked(Happened):
    """The office asked another body: which one, what, and until when it has time. ``pauses`` tells that the office's period stands still.

    ``no`` numbers what was asked in the case, from 1; ``until`` is the last instant of its time.
    """

    what: Literal["body asked"] = "body asked"
    no: int = Field(ge=1)
    body: str
    text: str
    due: date
    until: AwareDatetime
    pauses: bool = True
    letter_sha256: str = ""


class BodyAnswered(Happened):
    """What another body answered has come, or the office goes on without it: ``text`` says what it told."""

    what: Literal["body answered"] = "body answered"
    of: int = Field(ge=1)
    text: str = ""


@dataclass(slots=True)
class BodySoFar:
    """What another body was asked, and when it answered; None while it has not."""

    asked: BodyAsked
    answered_at: datetime | None = None

    @property
    def holds_until(self) -> datetime:
        """When it stops to hold the case: with its answer, at the latest at the end of its time."""
        return min(self.answered_at or self.asked.until, self.asked.until)

    @property
    def back_at(self) -> datetime | None:
        """When the case came back from it: with the answer, or at the end of its time if that was earlier; None while it is out."""
        return None if self.answered_at is None else self.holds_until

    @property
    def last_day(self) -> date | None:
        """The last day that it held if it used all its time; None if it answered before, or is out."""
        return self.asked.due if self.answered_at is not None and self.answered_at >= self.asked.until else None


def fold_body_asked(case: CaseSoFar, entry: BodyAsked) -> None:
    """Another body is asked."""
    case.bodies.append(BodySoFar(entry))


def fold_body_answered(case: CaseSoFar, entry: BodyAnswered) -> None:
    """Another body answered."""
    case.bodies[entry.of - 1].answered_at = entry.at
