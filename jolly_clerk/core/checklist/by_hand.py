"""Lines that an officer added: what the rules did not foresee."""

from __future__ import annotations

from jolly_clerk.core.checklist.case_at_hand import CaseAtHand, CaseLine, Item
from jolly_clerk.core.checklist.requirement import Explanation, Standing
from jolly_clerk.core.history import RequirementAdded
from jolly_clerk.core.say import say


class AddedLine(CaseLine):
    """Something asked by the officer's own hand."""

    def __init__(self, case: CaseAtHand, whole: Item, entry: RequirementAdded) -> None:
        super().__init__(case, whole, entry.requirement, "added", entry.title, [entry.requirement], lane=entry.lane)
        self.entry = entry

    def propose(self) -> Standing:
        return "to read"

    def explain(self, proposed: Standing) -> Explanation:
        because, where = say("Asked by the officer's own hand."), self.case.where(self.at)
        return Explanation("added", self.entry.text, "", because, self.entry.text, where)
