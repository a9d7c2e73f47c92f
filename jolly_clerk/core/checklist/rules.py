"""Lines for rules over the answers, and for what only a person can judge."""

from __future__ import annotations

from jolly_clerk.core.absence import UNKNOWN
from jolly_clerk.core.checklist.case_at_hand import CaseAtHand, CaseLine, Item
from jolly_clerk.core.checklist.left_side import left_side
from jolly_clerk.core.checklist.requirement import Explanation, Standing
from jolly_clerk.core.dossier.differences import said_answer
from jolly_clerk.core.facts.file_findings import Finding
from jolly_clerk.core.rulebook.compiled import CompiledMust
from jolly_clerk.core.say import say


class RuleLine(CaseLine):
    """A rule of the edition: it holds, or it does not; one without a condition is for a person to judge."""

    def __init__(self, case: CaseAtHand, rule: CompiledMust, item: Item) -> None:
        must = rule.must
        super().__init__(case, item, item.id(must.id), "rule", must.title, case.at(must.at, item))
        self.rule = rule

    def propose(self) -> Standing:
        asked = self.case.asked(self.rule.when, self.of)
        if asked is not True:
            return "not known yet" if asked is UNKNOWN else "not asked"
        if self.rule.rule is None:
            return "to read"
        holds = self.rule.rule.holds(self.of.values)
        if holds is UNKNOWN:
            return "not known yet"
        return "met" if holds else "in doubt" if self.rule.must.otherwise_is == "look" else "wanting"

    def asks(self) -> str:
        return self.rule.must.asks or ""

    def cell(self) -> str:
        if self.rule.rule is not None:
            return left_side(self.rule.rule, self.of.values, self.case.rulebook.words)
        return self._told()

    def explain(self, proposed: Standing) -> Explanation:
        case, must, rule, put_right = self.case, self.rule.must, self.rule.rule, ""
        asked = case.asked(self.rule.when, self.of)
        findings: tuple[Finding, ...] = ()
        if asked is not True:
            because = case.not_asked(self.rule.when, asked, self.of)
        elif rule is None:
            because = self._stated()
        elif proposed == "not known yet":
            because = case.hangs_on(case.sheet.deciding(rule, self.of.own))
        elif proposed == "met":
            because = case.why(rule, self.of)
        else:
            because = put_right = self.rule.otherwise.fill(case.sheet.told(self.of.own)) if self.rule.otherwise else must.says
            findings = (Finding("look" if proposed == "in doubt" else "fault", because, ""),)
        files, where = case.files_at(self.at), case.where(self.at)
        return Explanation(must.part, must.says, must.article, because, put_right, where, findings, files, item=self.of.own)

    def _stated(self) -> str:
        text = self._told()
        return say("Stated: {text}. Nobody has judged it yet.", text=text) if text else say("Nothing is stated yet.")

    def _told(self) -> str:
        """The answers at its places, in words."""
        case = self.case
        told = [said_answer(case.rulebook, ref, case.sheet.raw.get(ref)) for ref in self.at if not ref.startswith("documents.")]
        return "; ".join(t for t in told if t)
