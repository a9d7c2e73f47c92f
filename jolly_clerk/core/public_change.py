"""What a lead decides of an entry of the public register: struck, corrected, or taken in again."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Literal

from jolly_clerk.core.happened import Happened
from jolly_clerk.core.say import say


class PublicEntryChanged(Happened):
    """A lead decided what the register says: ``struck`` takes the entry out, ``corrected`` are answers by label as they are to stand."""

    what: Literal["public entry changed"] = "public entry changed"
    struck: bool
    corrected: dict[str, str] = {}
    because: str


def fault_of_change(says: Sequence[tuple[str, str]] | None, struck: bool, wanted: Mapping[str, str], because: str) -> str:
    """Why an entry cannot be changed so; nothing if it can. ``says`` is what it says, None for one that was struck: that can only be
    taken in again."""
    if len(because.strip()) < 5:
        return say("Say by which decision, and why.")
    if says is None:
        return say("It was struck. Take it in again first.") if struck or wanted else ""
    labels = dict(says)
    if unknown := next((label for label in wanted if label not in labels), ""):
        return say("The entry says nothing of “{label}”.", label=unknown)
    if not struck and not any(text.strip() and text.strip() != labels[label] for label, text in wanted.items()):
        return say("Nothing of it would change.")
    return ""


def change_words(entry: PublicEntryChanged, who: str) -> str:
    """What was decided of an entry, in words for the history."""
    if entry.struck:
        return say("{who} struck it from the public register: {because}", who=who, because=entry.because)
    if not entry.corrected:
        return say("{who} took it into the public register again: {because}", who=who, because=entry.because)
    told = "; ".join(f"{label}: {text}" for label, text in entry.corrected.items())
    return say("{who} corrected the public register: {told}. {because}", who=who, told=told, because=entry.because)
