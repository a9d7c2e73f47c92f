"""A filing that the office records: what came by post, by mail, or with a visitor; for whom, on which day it reached the office."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date, datetime
from typing import Final, Literal

from pydantic import AwareDatetime, Field

from jolly_clerk.core.happened import Happened
from jolly_clerk.core.in_words import day
from jolly_clerk.core.say import _, say

#: the moves by which the intake of a case is decided
DECIDING: Final = ("accept as complete", "do not accept", "put out of scope")
#: how a filing came that the office records
Came = Literal["post", "mail", "visit"]
CAME: Final[dict[Came, str]] = {"post": _("by post"), "mail": _("by mail"), "visit": _("with a visitor")}


class Recorded(Happened):
    """What a filing tells that the office recorded: how it ``came``, and the instant of the day on which it ``reached`` the office, which is
    its filing day. Both are empty for one that the applicant filed. One that was turned from another kind names that case, has reached the
    office when that one did, and its periods begin when it was turned."""

    came: Came | None = Field(default=None, exclude_if=lambda kept: kept is None)
    reached: AwareDatetime | None = Field(default=None, exclude_if=lambda kept: kept is None)
    turned_from: str = Field(default="", exclude_if=lambda kept: not kept)

    @property
    def filed_at(self) -> datetime:
        """The instant that counts as the filing: when it reached the office, else when it was filed."""
        return self.reached or self.at

    @property
    def begins_at(self) -> datetime:
        """The instant from which periods run."""
        return self.at if self.turned_from else self.filed_at

    @property
    def recorded_by(self) -> str:
        """The id of whoever of the office recorded it; empty if the applicant filed."""
        return self.who if self.came else ""


class ThingCame(Happened):
    """Something that was announced by a docket came: where it lies, and in which ``condition`` it is."""

    what: Literal["thing came"] = "thing came"
    docket: str
    title: str
    place: str
    condition: str = ""


class NoteWritten(Happened):
    """An internal note; the applicant never sees it. Of a telephone call it names the ``caller``."""

    what: Literal["note written"] = "note written"
    text: str
    caller: str = Field(default="", exclude_if=lambda kept: not kept)


def note_words(entry: NoteWritten, who: str) -> str:
    """What was noted, in words for the history; of a telephone call, whose."""
    if not entry.caller:
        return say("{who} noted: {text}", who=who, text=entry.text)
    return say("{who} noted a call of {caller}: {text}", who=who, caller=entry.caller, text=entry.text)


def thing_words(entry: ThingCame) -> str:
    """What came, in words for the history."""
    told = say("{docket} came: {title}. It lies at {place}.", docket=entry.docket, title=entry.title, place=entry.place)
    return f"{told} {entry.condition}".strip()


def recorded_words(entry: Recorded, who: str) -> str:
    """Who filed, in words for the history."""
    if entry.turned_from:
        return say(
            "Turned from {reference}, with the day on which that was filed; filed by {who}", reference=entry.turned_from, who=who
        )
    if entry.came is None:
        return say("Filed by {who}", who=who)
    reached = day((entry.reached or entry.at).date())
    return say("Recorded by {who}: it came {how} on {day}", who=who, how=say(CAME[entry.came]), day=reached)


def fault_of_recording(reached: date, today: date, name: str, address: str, known: bool) -> tuple[str, str]:
    """The field and the sentence of what is wrong when a filing is recorded; nothing if it can be. ``known`` tells that somebody with an
    account was chosen."""
    if reached > today:
        return "reached", say("The day on which it reached the office is not after today.")
    if known:
        return "", ""
    if not 2 <= len(name) <= 120:
        return "name", say("Name whoever applies.")
    if len(address) < 5:
        return "address", say("Somebody without an account gets printed letters: give the postal address.")
    return "", ""


def why_not_decide(entries: Iterable[Happened], who: str, move: str) -> str:
    """Why somebody of the office may not decide a case that they filled in for somebody; nothing if they may."""
    if move in DECIDING and any(isinstance(e, Recorded) and e.recorded_by == who for e in entries):
        return say("You filled this filing in for the applicant. Somebody else of the office decides it; you may check it.")
    return ""
