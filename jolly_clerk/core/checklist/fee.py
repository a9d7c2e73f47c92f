"""The line for what is due at filing."""

from __future__ import annotations

from jolly_clerk.core.checklist.case_at_hand import CaseAtHand, CaseLine, Item
from jolly_clerk.core.checklist.requirement import Explanation, Standing
from jolly_clerk.core.in_words import money


class FeeLine(CaseLine):
    """What is due at filing, reckoned again from the answers as they stand now, and paid."""

    def __init__(self, case: CaseAtHand, whole: Item) -> None:
        super().__init__(case, whole, "fee.at_filing", "fee", "Fee due at filing is paid", ["fee"])

    def propose(self) -> Standing:
        due = self.case.fees.total("at filing").amount
        return "not known yet" if due is None else "met" if self.case.case.paid_for_filing >= due else "wanting"

    def explain(self, proposed: Standing) -> Explanation:
        fees, so_far = self.case.fees, self.case.case
        due, paid, put_right = fees.total("at filing").amount, so_far.paid_for_filing, ""
        lines = [line for line in fees.lines if line.stage == "at filing"]
        if due is None:
            because = self.case.hangs_on(list(dict.fromkeys(p for line in lines for p in line.depends_on)))
        elif paid >= due:
            over = paid - due
            because = f"{money(paid, fees.currency)} paid, {money(due, fees.currency)} due."
            when = "was paid back on acceptance" if so_far.accepted else "is paid back on acceptance"
            because += f" {money(over, fees.currency)} {when}." if over else ""
        else:
            missing = money(due - paid, fees.currency)
            because = f"{money(due, fees.currency)} is due and {money(paid, fees.currency)} is paid; {missing} is open."
            put_right = f"Pay {missing}."
        says = "What is due at filing is reckoned again from the answers as they stand now."
        return Explanation("fees", says, ", ".join(x.article for x in lines), because, put_right, self.case.where(self.at))
