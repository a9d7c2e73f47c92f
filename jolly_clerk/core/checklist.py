"""The whole checklist of a case: answers, rules, agreements, documents, prerequisites, declarations, the signature, the fee."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import cached_property

from jolly_clerk.core.absence import UNKNOWN
from jolly_clerk.core.documents import DocumentMaker
from jolly_clerk.core.dossier.differences import said_answer
from jolly_clerk.core.dossier.model import Declared
from jolly_clerk.core.facts.agreement import Agreement, agreement
from jolly_clerk.core.facts.findings import Finding
from jolly_clerk.core.form import count_fault, question_at
from jolly_clerk.core.history import RequirementAdded
from jolly_clerk.core.making import One
from jolly_clerk.core.requirements import Requirement, Standing, Words
from jolly_clerk.core.rulebook.compiled import CompiledAgree, CompiledDeclaration, CompiledMust, CompiledPrerequisite
from jolly_clerk.core.rulebook.model import Declaration
from jolly_clerk.core.say import money


class Checklist(DocumentMaker):
    """Makes the whole checklist of a case."""

    def all(self) -> tuple[Requirement, ...]:
        """Every requirement in the rulebook's order: parts, documents, declarations, signature, fee."""
        rules = self.rulebook
        found: list[Requirement] = []
        for part in rules.parts:
            found += self.answers(part)
            musts, agrees, prerequisites = rules.rules_of[part]
            found += [self.must(m, one) for m in musts for one in self.each(m.must.each)]
            found += [self.agreement(a, one) for a in agrees for one in self.each(a.agree.each)]
            found += [self.prerequisite(p) for p in prerequisites]
        found += [self.slot(s, one) for s in rules.slots.values() for one in self.each(s.slot.for_each)]
        found += [self.either(e) for e in rules.eithers]
        found += [self.declaration(d) for d in rules.declarations]
        found.append(self.signature())
        if self.case.filed is not None:
            found.append(self.fee())
            found += [self.added(entry) for entry in self.case.added]
        return tuple(found)

    def answers(self, part: str) -> Iterator[Requirement]:
        """One requirement for each question that is asked and open, or was asked about before; one for too few or too many repeats."""
        fault = count_fault(self.sheet, self.rulebook.parts[part])
        if fault:
            title = self.rulebook.parts[part].title
            yield self.made(f"answer.{part}", "answer", title, [part], _wanting, self.count_words, (part, fault))
        own = self.looked_at.get(part, set())
        for place in self.sheet.places_in(part) if own else ():
            if place in own and self.sheet.asked[place] is not False:
                node = question_at(self.rulebook, place)
                label, of = node.question.ask if node else place, (place, part)
                yield self.made(f"answer.{place}", "answer", label, [place], self.answer_proposed, self.answer_words, of)

    @cached_property
    def looked_at(self) -> dict[str, set[str]]:
        """The places of answers that have a line of their own, by part: what is wanting, and what was judged or asked about."""
        found: dict[str, set[str]] = {}
        judged = [id_.removeprefix("answer.") for id_ in (*self.case.given, *self.pointed) if id_.startswith("answer.")]
        for place in (*self.sheet.wanting, *judged):
            found.setdefault(place.partition(".")[0], set()).add(place)
        return found

    def count_words(self, _: Standing, part: str, fault: str) -> Words:
        return Words(part, "So many are asked.", "", fault, fault, self.where([part]))

    def answer_proposed(self, place: str, _: str) -> Standing:
        return "wanting" if place in self.sheet.wanting else "met"

    def answer_words(self, _: Standing, place: str, part: str) -> Words:
        node, complaint = question_at(self.rulebook, place), self.sheet.faults.get(place)
        raw = said_answer(self.rulebook, place, self.sheet.raw.get(place))
        because = complaint or (f"Answered: {raw}." if place in self.sheet.raw else "It was left open.")
        says, article = "This question is asked and has to be answered.", (node.question.article if node else None) or ""
        put_right = complaint or f"Answer “{node.question.ask if node else place}”."
        return Words(part, says, article, because, put_right, self.where([place]))

    def must(self, compiled: CompiledMust, one: One) -> Requirement:
        """A rule over the answers, or something that only a person can judge."""
        must, at = compiled.must, self.at(compiled.must.at, one)
        of = (compiled, one, at)
        return self.made(one.id(must.id), "rule", one.title(must.title), at, self.must_proposed, self.must_words, of)

    def must_proposed(self, compiled: CompiledMust, one: One, _: Sequence[str]) -> Standing:
        asked = self.asked(compiled.when, one)
        if asked is not True:
            return "not known yet" if asked is UNKNOWN else "not asked"
        if compiled.rule is None:
            return "to read"
        holds = compiled.rule.holds(one.values)
        if holds is UNKNOWN:
            return "not known yet"
        return "met" if holds else "in doubt" if compiled.must.otherwise_is == "look" else "wanting"

    def must_words(self, proposed: Standing, compiled: CompiledMust, one: One, at: Sequence[str]) -> Words:
        must, rule, put_right = compiled.must, compiled.rule, ""
        asked = self.asked(compiled.when, one)
        findings: tuple[Finding, ...] = ()
        if asked is not True:
            because = self.not_asked(compiled.when, asked, one)
        elif rule is None:
            because = self.stated(at)
        elif proposed == "not known yet":
            because = self.hangs_on(self.sheet.deciding(rule, one.own))
        elif proposed == "met":
            because = self.why(rule, one)
        else:
            because = put_right = compiled.otherwise.fill(one.values) if compiled.otherwise else must.says
            findings = (Finding("look" if proposed == "in doubt" else "fault", because, ""),)
        where, files = self.where(at), self.files_at(at)
        return Words(must.part, must.says, must.article, because, put_right, where, findings, files, item=one.own)

    def stated(self, at: Sequence[str]) -> str:
        told = [said_answer(self.rulebook, ref, self.sheet.raw.get(ref)) for ref in at if not ref.startswith("documents.")]
        text = "; ".join(t for t in told if t)
        return f"Stated: {text}. Nobody has judged it yet." if text else "Nothing is stated yet."

    def agreement(self, compiled: CompiledAgree, one: One) -> Requirement:
        """One fact that several places state: met if they agree, in doubt if one is out, to read if too few state it."""
        agree, at = compiled.agree, self.at(compiled.at, one)
        of = (compiled, one, at)
        return self.made(
            one.id(agree.id), "agreement", one.title(agree.title), at, self.agreement_proposed, self.agreement_words, of
        )

    def compared(self, compiled: CompiledAgree, one: One) -> Agreement:
        return agreement(compiled.agree, self.sheet, self.in_slot, self.readings, self.registers, one.number)

    def agreement_proposed(self, compiled: CompiledAgree, one: One, _: Sequence[str]) -> Standing:
        asked = self.asked(compiled.when, one)
        if asked is not True:
            return "not known yet" if asked is UNKNOWN else "not asked"
        holds = self.compared(compiled, one).holds
        return "to read" if holds is None else "met" if holds else "in doubt"

    def agreement_words(self, proposed: Standing, compiled: CompiledAgree, one: One, at: Sequence[str]) -> Words:
        agree, asked = compiled.agree, self.asked(compiled.when, one)
        table, put_right = None, ""
        findings: list[Finding] = []
        if asked is not True:
            because = self.not_asked(compiled.when, asked, one)
        else:
            table = self.compared(compiled, one).view()
            said = "; ".join(f"{s.label}: {s.said}" for s in table.statements if s.state != "not stated")
            if proposed == "to read":
                because = f"{said or 'Nothing is stated yet'}. Too few places state it to be compared."
                unread = [s for s in table.statements if s.state == "not found"]
                findings = [Finding("look", f"{s.label}: {s.said}.", s.file, s.page) for s in unread]
            elif proposed == "met":
                because = f"{said}. They agree {table.tolerance}."
            else:
                because = put_right = f"{agree.title} differs. {said}."
                findings = [Finding("look", f"{s.label} says {s.said}.", s.file, s.page) for s in table.statements if s.odd]
        where, files = self.where(at), self.files_at(at)
        return Words(agree.part, agree.says, agree.article, because, put_right, where, tuple(findings), files, table, one.own)

    def added(self, entry: RequirementAdded) -> Requirement:
        at = [entry.requirement]
        return self.made(entry.requirement, "added", entry.title, at, _to_read, self.added_words, (entry, at), lane=entry.lane)

    def added_words(self, _: Standing, entry: RequirementAdded, at: Sequence[str]) -> Words:
        return Words("added", entry.text, "", "Asked by the officer's own hand.", entry.text, self.where(at))

    def prerequisite(self, compiled: CompiledPrerequisite) -> Requirement:
        """Another case that has to stand in a certain state, by what is known of it."""
        wanted = compiled.prerequisite
        at = [self.rulebook.edition.registers[wanted.register_].asked_by]
        proposed, words = self.prerequisite_proposed, self.prerequisite_words
        return self.made(wanted.id, "prerequisite", wanted.title, at, proposed, words, (compiled, at))

    def prerequisite_proposed(self, compiled: CompiledPrerequisite, at: Sequence[str]) -> Standing:
        return self.looked_up(compiled, at)[0]

    def prerequisite_words(self, _: Standing, compiled: CompiledPrerequisite, at: Sequence[str]) -> Words:
        wanted, (_, because, put_right) = compiled.prerequisite, self.looked_up(compiled, at)
        return Words(wanted.part, wanted.says, wanted.article, because, put_right, self.where(at))

    def looked_up(self, compiled: CompiledPrerequisite, at: Sequence[str]) -> tuple[Standing, str, str]:
        """The standing of a prerequisite, why, and what puts it right."""
        wanted, whole = compiled.prerequisite, One(self.sheet.values)
        register = self.rulebook.edition.registers[wanted.register_]
        reference = str(self.sheet.raw.get(at[0]) or "").strip()
        states = " or ".join(f"“{s}”" for s in wanted.states)
        told = self.registers.get(wanted.register_)
        asked = self.asked(compiled.when, whole)
        put_right = f"Name the reference of a case that is {states}."
        if asked is not True:
            return "not known yet" if asked is UNKNOWN else "not asked", self.not_asked(compiled.when, asked, whole), ""
        if not reference:
            return "wanting", "No reference is named.", put_right
        if told is None or told.key.casefold() != reference.casefold() or told.trouble:
            return "in doubt", f"{reference} was not looked up.", put_right
        if told.row is None:
            return "wanting", f"{register.title}: there is no {reference} of yours.", put_right
        if told.row.get("state") in wanted.states:
            return "met", f"{told.row[register.key]} is “{told.row['state']}”.", ""
        because = f"{told.row[register.key]} is “{told.row.get('state')}”; it has to be {states}."
        return "wanting", because, f"{because} Bring that case on first, or name another."

    def declaration(self, compiled: CompiledDeclaration) -> Requirement:
        """Something to be declared or consented to, ticked on its own."""
        said, at = compiled.declaration, [f"declarations.{compiled.declaration.declare}"]
        proposed, words = self.declaration_proposed, self.declaration_words
        return self.made(at[0], "declaration", said.title, at, proposed, words, (compiled, at), lane="")

    def ticked(self, said: Declaration) -> Declared | None:
        return next((d for d in self.dossier.declared if d.id == said.declare), None)

    def declaration_proposed(self, compiled: CompiledDeclaration, _: Sequence[str]) -> Standing:
        asked, said = self.asked(compiled.when, One(self.sheet.values)), compiled.declaration
        if asked is not True:
            return "not known yet" if asked is UNKNOWN else "not asked"
        ticked = self.ticked(said)
        if ticked is None:
            return "not asked" if said.optional else "wanting"
        return "met" if ticked.text == said.text else "wanting"

    def declaration_words(self, proposed: Standing, compiled: CompiledDeclaration, at: Sequence[str]) -> Words:
        said, whole, put_right = compiled.declaration, One(self.sheet.values), ""
        ticked, asked = self.ticked(said), self.asked(compiled.when, whole)
        if asked is not True:
            because = self.not_asked(compiled.when, asked, whole)
        elif ticked is None:
            because = "Not ticked; it may be left out." if said.optional else "It is not ticked."
            put_right = "Tick it if you agree." if said.optional else ""
        elif proposed == "met":
            because = f"Ticked, {ticked.at:%d %b %Y %H:%M}."
        else:
            because = "Another text was ticked than the one asked."
        if proposed == "wanting":
            put_right = f"Read “{said.title}” and tick it."
        return Words("signature", said.text, said.article, because, put_right, self.where(at))

    def signature(self) -> Requirement:
        """The declaration, signed as it is worded now."""
        return self.made(
            "signature", "signature", "Declaration signed", ["signature"], self.signature_proposed, self.signature_words, ()
        )

    def signature_proposed(self) -> Standing:
        signed = self.dossier.signature
        return "met" if signed and signed.text == self.rulebook.edition.signature.text else "wanting"

    def signature_words(self, proposed: Standing) -> Words:
        rule, signed = self.rulebook.edition.signature, self.dossier.signature
        because = "The declaration is not signed."
        if signed:
            told = f"Signed by {signed.name}, {signed.at:%d %b %Y %H:%M}."
            because = told if proposed == "met" else "Another text was signed than the one asked."
        put_right = "" if proposed == "met" else "Read the declaration and sign it with your name."
        return Words("signature", rule.text, rule.article, because, put_right, self.where(["signature"]))

    def fee(self) -> Requirement:
        """What is due at filing, paid."""
        return self.made("fee.at_filing", "fee", "Fee due at filing is paid", ["fee"], self.fee_proposed, self.fee_words, ())

    def fee_proposed(self) -> Standing:
        due = self.fees.total("at filing").amount
        return "not known yet" if due is None else "met" if self.case.paid_for_filing >= due else "wanting"

    def fee_words(self, _: Standing) -> Words:
        due, paid = self.fees.total("at filing").amount, self.case.paid_for_filing
        currency, put_right = self.fees.currency, ""
        lines = [line for line in self.fees.lines if line.stage == "at filing"]
        if due is None:
            because = self.hangs_on(list(dict.fromkeys(p for line in lines for p in line.depends_on)))
        elif paid >= due:
            over = paid - due
            because = f"{money(paid, currency)} paid, {money(due, currency)} due."
            when = "was paid back on acceptance" if self.case.accepted else "is paid back on acceptance"
            because += f" {money(over, currency)} {when}." if over else ""
        else:
            missing = money(due - paid, currency)
            because = f"{money(due, currency)} is due and {money(paid, currency)} is paid; {missing} is open."
            put_right = f"Pay {missing}."
        says = "What is due at filing is reckoned again from the answers as they stand now."
        return Words("fees", says, ", ".join(x.article for x in lines), because, put_right, self.where(["fee"]))


def _wanting(*_: object) -> Standing:
    return "wanting"


def _to_read(*_: object) -> Standing:
    return "to read"
