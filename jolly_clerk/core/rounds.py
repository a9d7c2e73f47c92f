"""The letters of a case and their answers, as far as its history has told them."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import date, datetime
from typing import Literal

from jolly_clerk.core import history as h

PointState = Literal["open", "answered", "closed", "asked again"]


@dataclass(slots=True)
class PointSoFar:
    """A point with where it stands now."""

    asked: h.AskedPoint
    state: PointState = "open"
    words: str = ""
    again: str = ""


@dataclass(slots=True)
class RoundSoFar:
    """A letter and its answers. ``paused_from`` is the instant of the letter that arrived, None while none has;
    ``posting_missed`` the day on which a printed one was to leave by post and by the end of which nobody had ticked it;
    ``replaced_at`` is when another letter took its place."""

    no: int
    version: int
    sent_at: datetime
    due: date
    points: dict[int, PointSoFar]
    letter_sha256: str
    paused_from: datetime | None
    extended: bool = False
    posted: bool = False
    posting_missed: date | None = None
    due_at: datetime | None = None
    received: date | None = None
    answered_at: datetime | None = None
    answer_version: int = 0
    note: str = ""
    replaced_at: datetime | None = None


@dataclass(slots=True)
class LaneSoFar:
    """What the history says of the lane of one site: its rounds, the order of its points, its outcome."""

    rounds: list[RoundSoFar] = field(default_factory=list)
    arranged: tuple[tuple[str, ...], ...] = ()
    accepted: h.Accepted | None = None
    ended: h.Ended | None = None
