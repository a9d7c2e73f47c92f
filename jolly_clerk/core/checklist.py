"""The whole checklist of a case: answers, rules, agreements, documents, prerequisites, the signature, the fee."""

from __future__ import annotations

import ast
from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import Any

from jolly_clerk.core.absence import UNKNOWN
from jolly_clerk.core.documents import DocumentMaker, One
from jolly_clerk.core.dossier.differences import raw_answers, said_answer
from jolly_clerk.core.dossier.model import Attachment, Dossier
from jolly_clerk.core.facts.agreement import AgreementView, agreement
from jolly_clerk.core.facts.findings import Finding
from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.fees.sheet import FeeSheet
from jolly_clerk.core.form import Sheet, count_fault, question_at
from jolly_clerk.core.history import Judged, RegisterAsked, RequirementAdded
from jolly_clerk.core.lifecycle import CaseSoFar
from jolly_clerk.core.requirements import MOST_PLACES, Given, Kind, Place, Requirement, Standing, evidence_at
from jolly_clerk.core.rulebook.compiled import (
    CompiledAgree,
    CompiledMust,
    CompiledPrerequisite,
    Rulebook,
)
from jolly_clerk.core.rulebook.evaluate import working
from jolly_clerk.core.rulebook.expressions import Expression
from jolly_clerk.core.say import money, say


def requirements(
    rulebook: Rulebook,
    dossier: Dossier,
    sheet: Sheet,
    fees: FeeSheet,
    case: CaseSoFar,
    readings: Mapping[str, Reading],
    registers: Mapping[str, RegisterAsked],
) -> tuple[Requirement, ...]:
    """The whole checklist in the rulebook's order: parts, documents, signature, fee."""
    make = _Maker(rulebook, dossier, sheet, fees, case, readings, registers)
    found: list[Requirement] = []
    for part in rulebook.parts:
        found += make.answers(part)
        found += [make.must(m, one) for m in rulebook.musts if m.must.part == part for one in make.each(m.must.each)]
        found += [make.agreement(a, one) for a in rulebook.agrees if a.agree.part == part for one in make.each(a.agree.each)]
        found += [make.prerequisite(p) for p in rulebook.prerequisites if p.prerequisite.part == part]
    found += [make.slot(s, one) for s in rulebook.slots.values() for one in make.each(s.slot.for_each)]
    found += [make.either(e) for e in rulebook.eithers]
    found.append(make.signature())
    if case.filed is not None:
        found.append(make.fee())
        found += [make.added(entry) for entry in case.added]
    return tuple(found)


class _Maker(DocumentMaker):
    def __init__(
        self,
        rulebook: Rulebook,
        dossier: Dossier,
        sheet: Sheet,
        fees: FeeSheet,
        case: CaseSoFar,
        readings: Mapping[str, Reading],
        registers: Mapping[str, RegisterAsked],
    ) -> None:
        self.rulebook, self.dossier, self.sheet = rulebook, dossier, sheet
        self.fees, self.case, self.readings, self.registers = fees, case, readings, registers
        self.flat = raw_answers(dossier)
        self.ones: dict[str | None, tuple[One, ...]] = {}
        self.in_slot: dict[str, list[Attachment]] = {}
        self.same: dict[str, list[Attachment]] = {}
        for a in dossier.attachments:
            self.in_slot.setdefault(a.slot, []).append(a)
            self.same.setdefault(a.sha256, []).append(a)
        rounds = (*case.rounds, *(r for lane in case.lanes.values() for r in lane.rounds))
        self.pointed = {p.asked.requirement for r in rounds for p in r.points.values()}

    def place(self, ref: str) -> Place:
        found = self.rulebook.kept.get(ref)
        if found is None:
            found = Place(ref, self.rulebook.label(ref))
            if len(self.rulebook.kept) < MOST_PLACES:
                self.rulebook.kept[ref] = found
        return found

    def each(self, part: str | None) -> tuple[One, ...]:
        """The whole filing, or every item of a part."""
        found = self.ones.get(part)
        if found is None:
            found = self.ones[part] = tuple(self._items(part)) if part else (One(self.sheet.values),)
        return found

    def _items(self, part: str) -> Iterator[One]:
        for own in self.sheet.items.get(part, []) if isinstance(self.sheet.values[part], list) else ():
            number = own.item["id"]
            yield One(own, part, number, self.sheet.called(part, number))

    def at(self, ref: str, one: One) -> str:
        """A place of the rulebook as the place of one item."""
        head, _, rest = ref.partition(".")
        if head == "documents":
            compiled = self.rulebook.slots.get(rest)
            return f"{ref}.{one.number}" if compiled and one.part and compiled.slot.for_each == one.part else ref
        return f"{head}.{one.number}.{rest}" if rest and one.part == head else ref

    def files(self, slot: str) -> tuple[Attachment, ...]:
        return tuple(self.in_slot.get(slot, ()))

    def files_at(self, places: Sequence[str]) -> tuple[Attachment, ...]:
        """The files in those of the places that are slots."""
        return tuple(a for ref in places if ref.startswith("documents.") for a in self.files(ref.removeprefix("documents.")))

    def made(
        self,
        id_: str,
        kind: Kind,
        title: str,
        group: str,
        says: str,
        article: str,
        proposed: Standing,
        because: str,
        put_right: str,
        places: Sequence[str],
        findings: Sequence[Finding] = (),
        files: Sequence[Attachment] = (),
        table: AgreementView | None = None,
        stops_filing: bool = True,
        item: str = "",
        lane: str | None = None,
        named: str = "",
    ) -> Requirement:
        judged = self.case.given.get(id_)
        given = self.given(judged, lambda: self.evidence(places)) if judged else None
        standing = given.standing if given and given.holds else proposed
        where = tuple(self.place(p) for p in places)
        return Requirement(
            id_,
            kind,
            title,
            group,
            says,
            article,
            proposed,
            given,
            standing,
            because,
            put_right,
            where,
            tuple(findings),
            tuple(files),
            table,
            stops_filing,
            item,
            self.rulebook.lane_of(places[0]) if lane is None else lane,
            named,
        )

    def evidence(self, places: Sequence[str]) -> str:
        return evidence_at(self.dossier, self.case, self.fees, places, self.flat, self.in_slot)

    def given(self, judged: Judged, now: Callable[[], str]) -> Given | None:
        assert judged.standing is not None
        holds = judged.evidence in ("", now())
        return Given(judged.standing, judged.who, judged.at, judged.reason, holds)

    def answers(self, part: str) -> Iterator[Requirement]:
        """One requirement for each question that is asked and open, or was asked about before; one for too few or too many repeats."""
        fault = count_fault(self.sheet, self.rulebook.parts[part])
        if fault:
            yield self.made(
                f"answer.{part}",
                "answer",
                self.rulebook.parts[part].title,
                part,
                "So many are asked.",
                "",
                "wanting",
                fault,
                fault,
                [part],
            )
        for place in self.sheet.places_in(part):
            id_, asked = f"answer.{place}", self.sheet.asked[place]
            if asked is False:
                continue
            complaint = self.sheet.faults.get(place)
            node = question_at(self.rulebook, place)
            optional = place in self.sheet.may_stay_open
            is_open = place not in self.sheet.raw
            wanting = asked is True and (complaint is not None or (is_open and not optional))
            if not wanting and id_ not in self.case.given and id_ not in self.pointed:
                continue
            label = node.question.ask if node else place
            raw = said_answer(self.rulebook, place, self.sheet.raw.get(place))
            because = complaint or ("It was left open." if is_open else f"Answered: {raw}.")
            yield self.made(
                id_,
                "answer",
                label,
                part,
                "This question is asked and has to be answered.",
                (node.question.article if node else None) or "",
                "wanting" if wanting else "met",
                because,
                complaint or f"Answer “{label}”.",
                [place],
            )

    def must(self, compiled: CompiledMust, one: One) -> Requirement:
        must, values = compiled.must, one.values
        at = [self.at(ref, one) for ref in must.at]
        proposed: Standing
        put_right = ""
        findings: tuple[Finding, ...] = ()
        asked = True if compiled.when is None else compiled.when.holds(values)
        if asked is not True:
            proposed, because = self.not_asked(compiled.when, asked, one)
        elif compiled.rule is None:
            proposed, because = "to read", self.stated(at)
        else:
            holds = compiled.rule.holds(values)
            if holds is UNKNOWN:
                proposed, because = "not known yet", self.hangs_on(self.sheet.deciding(compiled.rule, one.own))
            elif holds:
                proposed, because = "met", self.why(compiled.rule, one)
            else:
                proposed = "in doubt" if must.otherwise_is == "look" else "wanting"
                because = put_right = compiled.otherwise.fill(values) if compiled.otherwise else must.says
                findings = (Finding("look" if proposed == "in doubt" else "fault", because, ""),)
        files = self.files_at(at)
        return self.made(
            one.id(must.id),
            "rule",
            one.title(must.title),
            must.part,
            must.says,
            must.article,
            proposed,
            because,
            put_right,
            at,
            findings,
            files,
            item=one.own,
        )

    def why(self, rule: Expression, one: One) -> str:
        """Why a rule holds: its working, or for a bare yes or no what was answered."""
        bare = rule.tree.operand if isinstance(rule.tree, ast.UnaryOp) else rule.tree
        if isinstance(bare, (ast.Name, ast.Attribute)):
            return f"{self.why_not(rule, one)}."
        return f"{working(rule.tree, one.values, rule.functions)} holds."

    def stated(self, at: Sequence[str]) -> str:
        told = [said_answer(self.rulebook, ref, self.sheet.raw.get(ref)) for ref in at if not ref.startswith("documents.")]
        text = "; ".join(t for t in told if t)
        return f"Stated: {text}. Nobody has judged it yet." if text else "Nothing is stated yet."

    def not_asked(self, when: Any, asked: Any, one: One) -> tuple[Standing, str]:
        if asked is UNKNOWN:
            return "not known yet", self.hangs_on(self.sheet.deciding(when, one.own))
        return "not asked", f"Not asked: {self.why_not(when, one)}."

    def why_not(self, when: Any, one: One) -> str:
        told = []
        for name in sorted(when.reads):
            if name in self.rulebook.questions:
                answer = said_answer(self.rulebook, name, self.sheet.raw.get(self.at(name, one))) or "not asked"
                told.append(f"{self.rulebook.questions[name].question.ask.rstrip('?')}: {answer}")
            elif name in self.rulebook.value_titles:
                told.append(f"{self.rulebook.value_titles[name]}: {say(one.values[name])}")
        return "; ".join(told) or working(when.tree, one.values, when.functions)

    def hangs_on(self, places: list[str]) -> str:
        return "Depends on " + (" and ".join(f"“{self.rulebook.label(p)}”" for p in places) or "an open question") + "."

    def agreement(self, compiled: CompiledAgree, one: One) -> Requirement:
        """One fact that several places state: met if they agree, in doubt if one is out, to read if too few state it."""
        agree = compiled.agree
        proposed: Standing
        table, findings, put_right = None, [], ""
        slots = [ref.partition(".")[0] for ref in agree.places]
        at = [self.at(ref, one) for ref in agree.places if ref in self.rulebook.questions]
        at += [self.at(f"documents.{slot}", one) for slot in dict.fromkeys(slots) if slot in self.rulebook.slots]
        asked = True if compiled.when is None else compiled.when.holds(one.values)
        if asked is not True:
            proposed, because = self.not_asked(compiled.when, asked, one)
        else:
            table = agreement(agree, self.sheet, self.in_slot, self.readings, self.registers, one.number)
            said = "; ".join(f"{s.label}: {s.said}" for s in table.statements if s.state != "not stated")
            if table.holds is None:
                proposed = "to read"
                because = f"{said or 'Nothing is stated yet'}. Too few places state it to be compared."
                findings = [
                    Finding("look", f"{s.label}: {s.said}.", s.file, s.page) for s in table.statements if s.state == "not found"
                ]
            elif table.holds:
                proposed, because = "met", f"{said}. They agree {table.tolerance}."
            else:
                proposed = "in doubt"
                because = put_right = f"{agree.title} differs. {said}."
                findings = [Finding("look", f"{s.label} says {s.said}.", s.file, s.page) for s in table.statements if s.odd]
        files = self.files_at(at)
        return self.made(
            one.id(agree.id),
            "agreement",
            one.title(agree.title),
            agree.part,
            agree.says,
            agree.article,
            proposed,
            because,
            put_right,
            at,
            findings,
            files,
            table,
            item=one.own,
        )

    def added(self, entry: RequirementAdded) -> Requirement:
        return self.made(
            entry.requirement,
            "added",
            entry.title,
            "added",
            entry.text,
            "",
            "to read",
            "Asked by the officer's own hand.",
            entry.text,
            [entry.requirement],
            lane=entry.lane,
        )

    def prerequisite(self, compiled: CompiledPrerequisite) -> Requirement:
        """Another case that has to stand in a certain state, by what is known of it."""
        wanted, values = compiled.prerequisite, self.sheet.values
        register = self.rulebook.edition.registers[wanted.register_]
        reference = str(self.flat.get(register.asked_by) or "").strip()
        states = " or ".join(f"“{s}”" for s in wanted.states)
        told = self.registers.get(wanted.register_)
        asked = True if compiled.when is None else compiled.when.holds(values)
        proposed: Standing = "wanting"
        put_right = f"Name the reference of a case that is {states}."
        if asked is not True:
            (proposed, because), put_right = self.not_asked(compiled.when, asked, One(values)), ""
        elif not reference:
            because = "No reference is named."
        elif told is None or told.key.casefold() != reference.casefold() or told.trouble:
            proposed, because = "in doubt", f"{reference} was not looked up."
        elif told.row is None:
            because = f"{register.title}: there is no {reference} of yours."
        elif told.row.get("state") in wanted.states:
            proposed, because, put_right = "met", f"{told.row[register.key]} is “{told.row['state']}”.", ""
        else:
            because = f"{told.row[register.key]} is “{told.row.get('state')}”; it has to be {states}."
            put_right = f"{because} Bring that case on first, or name another."
        return self.made(
            wanted.id,
            "prerequisite",
            wanted.title,
            wanted.part,
            wanted.says,
            wanted.article,
            proposed,
            because,
            put_right,
            [register.asked_by],
        )

    def signature(self) -> Requirement:
        rule = self.rulebook.edition.signature
        signed = self.dossier.signature
        proposed: Standing = "met" if signed and signed.text == rule.text else "wanting"
        because = "The declaration is not signed."
        if signed:
            zone_said = f"{signed.at:%d %b %Y %H:%M}"
            because = (
                f"Signed by {signed.name}, {zone_said}." if proposed == "met" else "Another text was signed than the one asked."
            )
        return self.made(
            "signature",
            "signature",
            "Declaration signed",
            "signature",
            rule.text,
            rule.article,
            proposed,
            because,
            "" if proposed == "met" else "Read the declaration and sign it with your name.",
            ["signature"],
        )

    def fee(self) -> Requirement:
        due, paid = self.fees.total("at filing"), self.case.paid_for_filing
        currency = self.fees.currency
        proposed: Standing = "met"
        put_right = ""
        if due.amount is None:
            proposed = "not known yet"
            open_places = [p for line in self.fees.lines if line.stage == "at filing" for p in line.depends_on]
            because = self.hangs_on(list(dict.fromkeys(open_places)))
        elif paid >= due.amount:
            over = paid - due.amount
            because = f"{money(paid, currency)} paid, {money(due.amount, currency)} due."
            when = "was paid back on acceptance" if self.case.accepted else "is paid back on acceptance"
            because += f" {money(over, currency)} {when}." if over else ""
        else:
            proposed = "wanting"
            because = f"{money(due.amount, currency)} is due and {money(paid, currency)} is paid; {money(due.amount - paid, currency)} is open."
            put_right = f"Pay {money(due.amount - paid, currency)}."
        articles = ", ".join(line.article for line in self.fees.lines if line.stage == "at filing")
        return self.made(
            "fee.at_filing",
            "fee",
            "Fee due at filing is paid",
            "fees",
            "What is due at filing is reckoned again from the answers as they stand now.",
            articles,
            proposed,
            because,
            put_right,
            ["fee"],
        )
