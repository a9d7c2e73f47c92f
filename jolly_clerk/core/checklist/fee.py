"""The line for what is due at filing."""

from __future__ import annotations

from decimal import Decimal

from jolly_clerk.core.checklist.case_at_hand import CaseAtHand, CaseLine, Item
from jolly_clerk.core.checklist.requirement import Explanation, Standing
from jolly_clerk.core.covering import added_since_acceptance
from jolly_clerk.core.fees.lines import ZERO
from jolly_clerk.core.in_words import money
from jolly_clerk.core.say import say


class FeeLine(CaseLine):
    """What is due at filing, reckoned again from the answers as they stand now, and paid."""

    def __init__(self, case: CaseAtHand, whole: Item) -> None:
        super().__init__(case, whole, "fee.at_filing", "fee", say("Fee due at filing is paid"), ["fee"])

    @property
    def due(self) -> Decimal | None:
        """What is due at filing; what came after the acceptance is none of the check's."""
        due = self.case.fees.total("at filing").amount
        return None if due is None else due - added_since_acceptance(self.case.case)

    def propose(self) -> Standing:
        due = self.due
        if due is None:
            return "not known yet"
        return "met" if self.case.case.paid_for_filing >= due - self.case.may_wait else "wanting"

    def explain(self, proposed: Standing) -> Explanation:
        fees, so_far = self.case.fees, self.case.case
        due, paid, put_right = self.due, so_far.paid_for_filing, ""
        lines = [line for line in fees.lines if line.stage == "at filing"]
        if due is None:
            because = self.case.hangs_on(list(dict.fromkeys(p for line in lines for p in line.depends_on)))
        elif paid >= due - self.case.may_wait:
            over = max(paid - due, ZERO)
            told = say("{paid} paid, {due} due.", paid=money(paid, fees.currency), due=money(due, fees.currency))
            back = ""
            if paid < due:
                back = say("The rest falls due in later parts, which hold nothing up here.")
            if over and so_far.accepted:
                back = say("{over} was paid back on acceptance.", over=money(over, fees.currency))
            elif over:
                back = say("{over} is paid back on acceptance.", over=money(over, fees.currency))
            because = f"{told} {back}".strip()
        else:
            missing = money(due - self.case.may_wait - paid, fees.currency)
            because = say(
                "{due} is due and {paid} is paid; {missing} is open.",
                due=money(due, fees.currency),
                paid=money(paid, fees.currency),
                missing=missing,
            )
            charged = ", ".join(f"{line.title} {money(line.amount)}" for line in lines if line.amount)
            put_right = say(
                "Please pay {missing}. {due} is due now ({lines}), {paid} is paid.",
                missing=missing,
                due=money(due, fees.currency),
                lines=charged,
                paid=money(paid, fees.currency),
            )
        says = say("What is due at filing is reckoned again from the answers as they stand now.")
        return Explanation(
            "fees",
            says,
            ", ".join(dict.fromkeys(x.article for x in lines if x.amount != 0)),
            because,
            put_right,
            self.case.where(self.at),
        )
