"""What the public register says of a case: the answers that its rulebook calls public, how it was decided, from and until when.

A kind has a register if its edition says so (``public_register``); a case stands in it once it is granted, or decided. A lead strikes an
entry or corrects what it says by a decision with its reason, which stays in the history of the case.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from datetime import date
from typing import Literal

from jolly_clerk.core.form import Sheet
from jolly_clerk.core.happened import Happened
from jolly_clerk.core.history import Refused
from jolly_clerk.core.lifecycle import CaseSoFar
from jolly_clerk.core.permit import PermitView, permit_says
from jolly_clerk.core.public_change import PublicEntryChanged
from jolly_clerk.core.searching import folded
from jolly_clerk.core.time.calendar import DAY, Calendar

Outcome = Literal["granted", "refused"]


@dataclass(frozen=True, slots=True)
class PublicEntry:
    """A line of the register. ``says`` are labels and answers in words, ``place`` an address if one is public, ``map`` the register on
    whose map it is found; ``until`` is None for what does not end."""

    outcome: Outcome
    decided: date
    starts: date | None
    until: date | None
    says: tuple[tuple[str, str], ...]
    place: str
    map: str
    ended: Literal["", "cancelled", "finished"] = ""

    @property
    def words(self) -> str:
        """What it is searched by."""
        return folded(" ".join(value for _, value in self.says))


def public_entry(
    sheet: Sheet, case: CaseSoFar, permit: PermitView | None, calendar: Calendar, entries: Iterable[Happened]
) -> PublicEntry | None:
    """What the register says of a case; None if its kind has none, it is not decided, or it was struck."""
    said = sheet.rulebook.edition.public_register
    refused = case.ended if isinstance(case.ended, Refused) and said and said.enters == "decided" else None
    decided = case.granted or refused
    if said is None or decided is None:
        return None
    days = {d.what: d.day for d in permit.days} if permit else {}
    place, known_by = place_of(sheet)
    entry = PublicEntry(
        outcome="granted" if case.granted else "refused",
        decided=calendar.local_day(decided.at),
        starts=days.get("starts"),
        until=days.get("ends"),
        says=tuple(permit_says(sheet, case, public_only=True)),
        place=place,
        map=known_by,
    )
    told = ended_early(entry, case, calendar)
    stands: PublicEntry | None = told
    for change in entries:
        if isinstance(change, PublicEntryChanged):
            told = told if change.struck else corrected(stands or told, change.corrected)
            stands = None if change.struck else told
    return stands


def ended_early(entry: PublicEntry, case: CaseSoFar, calendar: Calendar) -> PublicEntry:
    """An entry as what ended the permit before its time leaves it: until when it was in force, and why no longer."""
    ended = min((step.starts for step in case.permit.did("ends")), default=None)
    finished = min((step.starts for step in case.permit.did("finished")), default=None)
    if ended is not None:
        return replace(entry, ended="cancelled", until=ended - DAY)
    return entry if finished is None else replace(entry, ended="finished", until=finished - DAY)


def place_of(sheet: Sheet) -> tuple[str, str]:
    """The address that is public, and the register that has it on its map; nothing if none is."""
    for node in sheet.rulebook.questions.values():
        name, _, column = (node.question.register_ or "").partition(".")
        if node.question.public and column == "address":
            return str(sheet.raw.get(node.key) or ""), name
    return "", ""


def corrected(entry: PublicEntry, as_they_stand: Mapping[str, str]) -> PublicEntry:
    """An entry with answers put right; labels that it does not have change nothing."""
    says = tuple((label, as_they_stand.get(label, value)) for label, value in entry.says)
    moved = next((now for (_, was), (_, now) in zip(entry.says, says, strict=True) if was == entry.place != now), entry.place)
    return replace(entry, says=says, place=moved)
