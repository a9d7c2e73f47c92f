"""The line for a filing of which the way in says that it is not needed, and on which the applicant insists."""

from __future__ import annotations

from jolly_clerk.core.checklist.case_at_hand import CaseAtHand, CaseLine, Item
from jolly_clerk.core.checklist.requirement import Explanation, Standing
from jolly_clerk.core.rulebook.compiled import CompiledBranch
from jolly_clerk.core.say import say


class WithinOrderLine(CaseLine):
    """Whether what is filed falls under the order at all: an officer looks, since the applicant insists."""

    def __init__(self, case: CaseAtHand, whole: Item, decided: CompiledBranch) -> None:
        at = [place for place in case.rulebook.way_in_asks if place in case.sheet.raw]
        super().__init__(case, whole, "within-order", "rule", say("Within the order"), at)
        self.decided = decided

    def propose(self) -> Standing:
        return "in doubt"

    def explain(self, proposed: Standing) -> Explanation:
        branch = self.decided.branch
        because = self.decided.because.fill(self.case.sheet.values).strip()
        told = say("{because} The applicant insists: {reason}", because=because, reason=self.case.dossier.insists)
        says = say("What is filed falls under the order.")
        return Explanation(
            self.at[0].partition(".")[0] if self.at else "", says, branch.article, told, "", self.case.where(self.at)
        )
