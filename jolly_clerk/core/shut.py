"""When an office was shut, and the entry that says so in a case."""

from __future__ import annotations

from datetime import date, time
from typing import Literal

from pydantic import AwareDatetime, Field, model_validator

from jolly_clerk.core.dossier.model import Plain
from jolly_clerk.core.happened import Happened
from jolly_clerk.core.in_words import day as said_day
from jolly_clerk.core.say import say


class Shut(Plain):
    """When the office was shut: a day, or hours of it (``begins`` and ``ends``), why, and by which article."""

    day: date
    begins: time | None = Field(default=None, exclude_if=lambda kept: kept is None)
    ends: time | None = Field(default=None, exclude_if=lambda kept: kept is None)
    reason: str
    article: str = ""

    @model_validator(mode="after")
    def _two_hours(self) -> Shut:
        if (self.begins is None) != (self.ends is None) or (self.begins and self.ends and self.begins >= self.ends):
            raise ValueError(say("hours begin before they end"))
        return self

    @property
    def said(self) -> str:
        """The day, with its hours, in words."""
        if self.begins and self.ends:
            hours = {"begins": f"{self.begins:%H:%M}", "ends": f"{self.ends:%H:%M}"}
            return say("{day}, {begins} to {ends}", day=said_day(self.day), **hours)
        return said_day(self.day)


class ClosureDeclared(Happened):
    """The office was shut. For this case the days up to ``until`` count as closed (one that lapsed on the day comes back, and the days in
    which it was over count as well); ``moved`` and ``moved_at`` are the told due dates that fell on them, by lane, as they are now."""

    what: Literal["closure declared"] = "closure declared"
    shut: Shut
    until: date
    moved: dict[str, date] = {}
    letter_sha256: str = Field(default="", exclude_if=lambda kept: not kept)
    moved_at: dict[str, AwareDatetime] = Field(default={}, exclude_if=lambda kept: not kept)
