"""Lines for agreements: one fact that several places state, the odd one out marked."""

from __future__ import annotations

from datetime import date
from functools import cached_property

from jolly_clerk.core.absence import UNKNOWN
from jolly_clerk.core.checklist.case_at_hand import CaseAtHand, CaseLine, Item
from jolly_clerk.core.checklist.requirement import Explanation, Standing
from jolly_clerk.core.facts.agreement import Agreement, agreement
from jolly_clerk.core.facts.file_findings import Finding
from jolly_clerk.core.in_words import short_day
from jolly_clerk.core.rulebook.compiled import CompiledAgree
from jolly_clerk.core.rulebook.model import Register
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

    @cached_property
    def unknown(self) -> list[Register]:
        """The registers that were asked for the fact and have no entry of what they were asked, where nothing but the form states it too."""
        if any(p.partition(".")[0] in self.case.rulebook.slots for p in self.compiled.agree.places):
            return []  # a paper may state it
        asked = ((p.partition(".")[0], self.case.registers.get(p.partition(".")[0])) for p in self.compiled.agree.places)
        registers = self.case.rulebook.edition.registers
        return [registers[name] for name, found in asked if found and not found.trouble and found.row is None]

    def propose(self) -> Standing:
        asked = self.case.asked(self.compiled.when, self.of)
        if asked is not True:
            return "not known yet" if asked is UNKNOWN else "not asked"
        holds = self.compared.holds
        if holds is None and self.unknown:
            return "in doubt"
        if holds is not False and self.compared.wants:
            return "in doubt"  # a paper that does not state what is asked of it, or states it twice
        return "to read" if holds is None else "met" if holds else "in doubt"

    def cell(self) -> str:
        found = next((f for f in self.compared.found if f.state == "stated"), None)
        if found is not None and isinstance(found.value, date):
            return short_day(found.value)
        statements = self.compared.view().statements
        return next((s.said for s in statements if s.state == "stated"), say("not found"))

    def wanted(self) -> list[Finding]:
        """The papers that want a look of their own, as findings."""
        return [Finding("look", text, one.file, one.fact.page if one.fact else 0) for one, text in self.compared.wants]

    def _not_known(self, register: Register) -> str:
        """What to do about an entry that a register does not have."""
        question = self.case.rulebook.questions[register.asked_by].question
        key = next(r.key for name, r in self.case.registers.items() if self.case.rulebook.edition.registers[name] is register)
        return say("“{title}” has no entry {key}. Correct “{ask}”.", title=register.title, key=key, ask=question.ask)

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
            if proposed == "in doubt" and self.compared.holds is None and self.unknown:
                because = say("{said}. A register does not know it.", said=said)
                put_right = " ".join(self._not_known(register) for register in self.unknown)
                findings = [Finding("look", put_right, "")]
            elif proposed == "to read":
                because = (
                    say("{said}. Too few places state it to be compared.", said=said)
                    if said
                    else say("Nothing is stated yet. Too few places state it to be compared.")
                )
                unread = [s for s in table.statements if s.state == "not found"]
                findings = [Finding("look", f"{s.label}: {s.said}.", s.file, s.page) for s in unread]
            elif proposed == "met":
                written = {s.said for s in table.statements if s.state == "stated"}
                within = table.tolerance if len(written) > 1 else say("exactly")
                because = say("{said}. They agree {tolerance}.", said=said, tolerance=within)
            elif self.compared.holds is not False:
                why = " ".join(text for _, text in self.compared.wants)
                if self.compared.holds:
                    because = say(
                        "{said}. They agree {tolerance}, but a look is wanted: {why}",
                        said=said,
                        tolerance=table.tolerance,
                        why=why,
                    )
                else:
                    because = say("{said}. A look is wanted: {why}", said=said or say("Nothing is stated yet"), why=why)
                put_right = say(
                    "“{title}”: {why} Send a paper that states it plainly, or say why it does not.", title=agree.title, why=why
                )
                findings = self.wanted()
            elif self.compared.look:
                because = say("{said}. A look is wanted: {why}", said=said, why=self.compared.look)
                put_right = say(
                    "Tell in a few words why the names differ, or send a paper that shows it: {why}", why=self.compared.look
                )
                findings = [Finding("look", self.compared.look, s.file, s.page) for s in table.statements if s.odd]
            else:
                because = say("{title} differs. {said}.", title=agree.title, said=said)
                put_right = say(
                    "“{title}” is not the same everywhere: {said}. Correct what is wrong, or say why they differ.",
                    title=agree.title,
                    said=said,
                )
                findings = [
                    Finding("look", say("{label} says {said}.", label=s.label, said=s.said), s.file, s.page)
                    for s in table.statements
                    if s.odd
                ]
        if proposed == "in doubt" and self.compared.holds is False:
            findings += self.wanted()
        where, files = (
            case.where(list(dict.fromkeys([*self.at, *(r.asked_by for r in self.unknown if asked is True)]))),
            case.files_at(self.at),
        )
        return Explanation(
            agree.part, agree.says, agree.article, because, put_right, where, tuple(findings), files, table, self.of.own
        )
