"""Lines for agreements: one fact that several places state, the odd one out marked."""

from __future__ import annotations

from functools import cached_property

from jolly_clerk.core.absence import UNKNOWN
from jolly_clerk.core.checklist.case_at_hand import CaseAtHand, CaseLine, Item
from jolly_clerk.core.checklist.requirement import Explanation, Standing
from jolly_clerk.core.facts.agreement import Agreement, agreement
from jolly_clerk.core.facts.findings import Finding
from jolly_clerk.core.rulebook.compiled import CompiledAgree
from jolly_clerk.core.say import say


class AgreementLine(CaseLine):
    """Met if the places agree, in doubt if one is out, to read if too few of them state the fact."""

    def __init__(self, case: CaseAtHand, compiled: CompiledAgree, item: Item) -> None:
        agree = compiled.agree
        super().__init__(case, item, item.id(agree.id), "agreement", agree.title, case.at(compiled.at, item))
        self.compiled = compiled

    @cached_property
    def compared(self) -> Agreement:
        """What the places state, compared."""
        case = self.case
        return agreement(self.compiled.agree, case.sheet, case.in_slot, case.readings, case.registers, self.of.number)

    def propose(self) -> Standing:
        asked = self.case.asked(self.compiled.when, self.of)
        if asked is not True:
            return "not known yet" if asked is UNKNOWN else "not asked"
        holds = self.compared.holds
        return "to read" if holds is None else "met" if holds else "in doubt"

    def explain(self, proposed: Standing) -> Explanation:
        case, agree = self.case, self.compiled.agree
        asked = case.asked(self.compiled.when, self.of)
        table, put_right = None, ""
        findings: list[Finding] = []
        if asked is not True:
            because = case.not_asked(self.compiled.when, asked, self.of)
        else:
            table = self.compared.view()
            said = "; ".join(f"{s.label}: {s.said}" for s in table.statements if s.state != "not stated")
            if proposed == "to read":
                because = (
                    say("{said}. Too few places state it to be compared.", said=said)
                    if said
                    else say("Nothing is stated yet. Too few places state it to be compared.")
                )
                unread = [s for s in table.statements if s.state == "not found"]
                findings = [Finding("look", f"{s.label}: {s.said}.", s.file, s.page) for s in unread]
            elif proposed == "met":
                because = say("{said}. They agree {tolerance}.", said=said, tolerance=table.tolerance)
            elif self.compared.look:
                because = say("{said}. A look is wanted: {why}", said=said, why=self.compared.look)
                put_right = say(
                    "Tell in a few words why the names differ, or send a paper that shows it: {why}", why=self.compared.look
                )
                findings = [Finding("look", self.compared.look, s.file, s.page) for s in table.statements if s.odd]
            else:
                because = put_right = say("{title} differs. {said}.", title=agree.title, said=said)
                findings = [
                    Finding("look", say("{label} says {said}.", label=s.label, said=s.said), s.file, s.page)
                    for s in table.statements
                    if s.odd
                ]
        where, files = case.where(self.at), case.files_at(self.at)
        return Explanation(
            agree.part, agree.says, agree.article, because, put_right, where, tuple(findings), files, table, self.of.own
        )
