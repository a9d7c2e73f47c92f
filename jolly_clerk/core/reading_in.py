"""A case of another office of this program that was read in here: the entry that says so, and what it changes."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from jolly_clerk.core.dossier.model import Sha256
from jolly_clerk.core.happened import Happened
from jolly_clerk.core.meetings import fold_over
from jolly_clerk.core.say import say

if TYPE_CHECKING:
    from jolly_clerk.core.lifecycle import CaseSoFar


class ReadIn(Happened):
    """The case came as a package of another office: its name there and its reference, how many entries it had and the hash of the last,
    and the SHA-256 of the package. From here on the entries are this office's."""

    what: Literal["read in"] = "read in"
    office: str
    reference: str
    came_with: int
    last_hash: Sha256
    package_sha256: Sha256


def fold_read_in(case: CaseSoFar, entry: ReadIn) -> None:
    """Whoever had the case elsewhere does not have it here, and nobody takes back here what was done there."""
    case.officer = ""
    fold_over(case)
    case.undoable.clear()


def read_in_words(entry: ReadIn, who: str) -> str:
    """Where the case came from, in words for its history."""
    return say(
        "{who} read it in from {office}, where it was {reference}", who=who, office=entry.office, reference=entry.reference
    )
