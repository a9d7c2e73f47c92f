"""Lines for declarations, each ticked on its own, and for the signature."""

from __future__ import annotations

from collections.abc import Sequence

from jolly_clerk.core.absence import UNKNOWN
from jolly_clerk.core.checklist.case_at_hand import CaseAtHand, CaseLine, Item
from jolly_clerk.core.checklist.requirement import Explanation, Standing
from jolly_clerk.core.dossier.model import SIGNED, Declared
from jolly_clerk.core.in_words import all_of
from jolly_clerk.core.rulebook.compiled import CompiledDeclaration, Rulebook
from jolly_clerk.core.say import say


class DeclarationLine(CaseLine):
    """Something to be declared or consented to; another text than the one asked counts as not ticked."""

    def __init__(self, case: CaseAtHand, compiled: CompiledDeclaration) -> None:
        said = compiled.declaration
        ref = f"declarations.{said.declare}"
        super().__init__(case, case.each(None)[0], ref, "declaration", said.title, [ref], lane="")
        self.compiled = compiled

    @property
    def ticked(self) -> Declared | None:
        """The tick with the text that was ticked, if there is one."""
        declare = self.compiled.declaration.declare
        return next((d for d in self.case.dossier.declared if d.id == declare), None)

    def propose(self) -> Standing:
        asked, said = self.case.asked(self.compiled.when, self.of), self.compiled.declaration
        if asked is not True:
            return "not known yet" if asked is UNKNOWN else "not asked"
        if self.ticked is None:
            return "not asked" if said.optional else "wanting"
        return "met" if self.ticked.text == said.text else "wanting"

    def explain(self, proposed: Standing) -> Explanation:
        said, put_right = self.compiled.declaration, ""
        ticked, asked = self.ticked, self.case.asked(self.compiled.when, self.of)
        if asked is not True:
            because = self.case.not_asked(self.compiled.when, asked, self.of)
        elif ticked is None:
            because = say("Not ticked; it may be left out.") if said.optional else say("It is not ticked.")
            put_right = say("Tick it if you agree.") if said.optional else ""
        elif proposed == "met":
            because = say("Ticked, {at}.", at=self.case.moment(ticked.at))
        else:
            because = say("Another text was ticked than the one asked.")
        if proposed == "wanting":
            put_right = say("Read “{title}” and tick it.", title=said.title)
        return Explanation("signature", said.text, said.article, because, put_right, self.case.where(self.at))


def signed_before(rulebook: Rulebook, changed: Sequence[str]) -> str:
    """What is said of a signature that was given before something was changed."""
    return say(
        "Signed before this was changed: {what}. Sign again.", what=all_of([f"“{rulebook.label(place)}”" for place in changed])
    )


class SignatureLine(CaseLine):
    """The declaration, signed as it is worded now."""

    def __init__(self, case: CaseAtHand, whole: Item) -> None:
        super().__init__(case, whole, "signature", "signature", say("Declaration signed"), ["signature"])

    def propose(self) -> Standing:
        signed = self.case.dossier.signature
        as_worded = signed is not None and signed.text == self.case.rulebook.edition.signature.text
        if not as_worded or self.case.changed_since_signed:
            return "wanting"
        return "to read" if signed and signed.sheet else "met"  # what was signed by hand is looked at

    def explain(self, proposed: Standing) -> Explanation:
        rule, signed = self.case.rulebook.edition.signature, self.case.dossier.signature
        put_right = "" if proposed in ("met", "to read") else say("Read the declaration and sign it with your name.")
        if signed is None:
            because: str = say("The declaration is not signed.")
        elif signed.text != rule.text:
            because = say("Another text was signed than the one asked.")
        elif self.case.changed_since_signed:
            because = signed_before(self.case.rulebook, self.case.changed_since_signed)
        elif signed.sheet:
            told = {"name": signed.name, "file": signed.sheet.name, "at": self.case.moment(signed.at)}
            because = say("Signed by hand by {name}; “{file}” came {at}. Look whether it is signed.", **told)
        else:
            because = say("Signed by {name}, {at}.", name=signed.name, at=self.case.moment(signed.at))
        sheet = tuple(a for a in self.case.dossier.papers if a.id == SIGNED)
        return Explanation("signature", rule.text, rule.article, because, put_right, self.case.where(self.at), (), sheet)
