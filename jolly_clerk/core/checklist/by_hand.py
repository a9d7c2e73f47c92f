"""Lines that an officer added: what the rules did not foresee, with what may answer it."""

from __future__ import annotations

from collections.abc import Sequence

from jolly_clerk.core.checklist.case_at_hand import CaseAtHand, CaseLine, Item
from jolly_clerk.core.checklist.requirement import Explanation, Place, Standing
from jolly_clerk.core.history import RequirementAdded
from jolly_clerk.core.say import say

#: the slots that stand for something asked by hand, as ``documents.added-1``
OWN_SLOT = "documents.added-"


def places_of(rulebook_label: Sequence[Place], title: str) -> tuple[Place, ...]:
    """Places with a slot of its own called as what it was asked for."""
    return tuple(Place(p.ref, title) if p.ref.startswith(OWN_SLOT) else p for p in rulebook_label)


class AddedLine(CaseLine):
    """Something asked by the officer's own hand."""

    def __init__(self, case: CaseAtHand, whole: Item, entry: RequirementAdded) -> None:
        at = list(entry.places) or [entry.requirement]
        super().__init__(case, whole, entry.requirement, "added", entry.title, at, lane=entry.lane)
        self.entry = entry

    def propose(self) -> Standing:
        return "to read"

    def explain(self, proposed: Standing) -> Explanation:
        because = say("Asked by the officer's own hand.")
        where, files = places_of(self.case.where(self.at), self.entry.title), self.case.files_at(self.at)
        return Explanation("added", self.entry.text, "", because, self.entry.text, where, files=files)
