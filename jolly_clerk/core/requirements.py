"""What must be there or must hold, each with its standing and why.

The machine proposes a standing; a given one, drawn from the history, wins as long as the evidence
that it was given on has not changed.
"""

from __future__ import annotations

import ast
import hashlib
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal

from jolly_clerk.core.absence import UNKNOWN, is_absent
from jolly_clerk.core.dossier.differences import raw_answers, said_answer
from jolly_clerk.core.dossier.model import Attachment, Dossier
from jolly_clerk.core.facts.agreement import AgreementView, agreement
from jolly_clerk.core.facts.findings import Finding, slot_findings
from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.facts.stated import stated
from jolly_clerk.core.fees.sheet import FeeSheet
from jolly_clerk.core.form import Sheet, count_fault, question_at
from jolly_clerk.core.history import Judged, RegisterAsked, RequirementAdded
from jolly_clerk.core.lifecycle import CaseSoFar
from jolly_clerk.core.rulebook.compiled import (
    CompiledAgree,
    CompiledEither,
    CompiledMust,
    CompiledPrerequisite,
    CompiledSlot,
    Rulebook,
)
from jolly_clerk.core.rulebook.dates import CALENDAR
from jolly_clerk.core.rulebook.evaluate import working
from jolly_clerk.core.rulebook.expressions import Expression
from jolly_clerk.core.rulebook.model import Slot
from jolly_clerk.core.say import day as said_day
from jolly_clerk.core.say import money, say, things

Standing = Literal["met", "wanting", "in doubt", "to read", "waived", "not asked", "not known yet"]
Kind = Literal["answer", "document", "rule", "agreement", "prerequisite", "signature", "fee", "added"]


#: so many places are remembered with each rulebook
MOST_PLACES = 5000


@dataclass(frozen=True, slots=True)
class Place:
    """Somewhere a link can go: a question (``works.area``), a slot (``documents.site_plan``), ``signature`` or ``fee``."""

    ref: str
    label: str


@dataclass(frozen=True, slots=True)
class Given:
    """A standing that an officer gave. ``holds`` is False when the evidence changed since."""

    standing: Standing
    who: str
    at: datetime
    reason: str
    holds: bool


@dataclass(frozen=True, slots=True)
class Offer:
    """A catalogue entry for the wording of a point, with the values of this case put in."""

    id: str
    title: str
    text: str


@dataclass(frozen=True, slots=True)
class Requirement:
    """One line of the checklist. ``standing`` is the given one if it holds, else the proposed one.

    One that does not stop filing is what a third party delivers, or what has a time of its own after filing. ``item``
    (``persons.2``) is the repeat that it is made for, ``lane`` the lane in which it is judged, ``named`` the office's name
    for the file of a document.
    """

    id: str
    kind: Kind
    title: str
    group: str
    says: str
    article: str
    proposed: Standing
    given: Given | None
    standing: Standing
    because: str
    put_right: str
    places: tuple[Place, ...]
    findings: tuple[Finding, ...]
    files: tuple[Attachment, ...]
    table: AgreementView | None = None
    stops_filing: bool = True
    item: str = ""
    lane: str = ""
    named: str = ""

    @property
    def asked(self) -> bool:
        """True if it counts: neither not asked nor still hanging on an open question."""
        return self.proposed not in ("not asked", "not known yet") or (self.given is not None and self.given.holds)

    @property
    def judged(self) -> bool:
        """True if an officer gave a standing that still holds."""
        return self.given is not None and self.given.holds


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


@dataclass(frozen=True, slots=True)
class _One:
    """What a requirement is made for: the whole filing, or one item of a part that repeats."""

    values: Mapping[str, Any]
    part: str = ""
    number: str = ""
    label: str = ""

    @property
    def own(self) -> str:
        """``persons.2``, or nothing for the whole."""
        return f"{self.part}.{self.number}" if self.number else ""

    def id(self, base: str) -> str:
        """The id of a requirement: with the item's lasting number."""
        return f"{base}.{self.number}" if self.number else base

    def title(self, base: str) -> str:
        """The title of a requirement: with what the item is called."""
        return f"{base}: {self.label}" if self.label else base


class _Maker:
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

    def each(self, part: str | None) -> Iterator[_One]:
        """The whole filing, or every item of a part."""
        if part is None:
            yield _One(self.sheet.values)
            return
        for own in self.sheet.items.get(part, []) if isinstance(self.sheet.values[part], list) else ():
            number = own.item["id"]
            yield _One(own, part, number, self.sheet.called(part, number))

    def at(self, ref: str, one: _One) -> str:
        """A place of the rulebook as the place of one item."""
        head, _, rest = ref.partition(".")
        if head == "documents":
            compiled = self.rulebook.slots.get(rest)
            return f"{ref}.{one.number}" if compiled and one.part and compiled.slot.for_each == one.part else ref
        return f"{head}.{one.number}.{rest}" if rest and one.part == head else ref

    def files(self, slot: str) -> tuple[Attachment, ...]:
        return tuple(self.in_slot.get(slot, ()))

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
        return _evidence(self.dossier, self.case, self.fees, places, self.flat, self.in_slot)

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

    def must(self, compiled: CompiledMust, one: _One) -> Requirement:
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
        files = tuple(a for ref in at if ref.startswith("documents.") for a in self.files(ref.removeprefix("documents.")))
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

    def why(self, rule: Expression, one: _One) -> str:
        """Why a rule holds: its working, or for a bare yes or no what was answered."""
        bare = rule.tree.operand if isinstance(rule.tree, ast.UnaryOp) else rule.tree
        if isinstance(bare, (ast.Name, ast.Attribute)):
            return f"{self.why_not(rule, one)}."
        return f"{working(rule.tree, one.values, rule.functions)} holds."

    def stated(self, at: Sequence[str]) -> str:
        told = [said_answer(self.rulebook, ref, self.sheet.raw.get(ref)) for ref in at if not ref.startswith("documents.")]
        text = "; ".join(t for t in told if t)
        return f"Stated: {text}. Nobody has judged it yet." if text else "Nothing is stated yet."

    def not_asked(self, when: Any, asked: Any, one: _One) -> tuple[Standing, str]:
        if asked is UNKNOWN:
            return "not known yet", self.hangs_on(self.sheet.deciding(when, one.own))
        return "not asked", f"Not asked: {self.why_not(when, one)}."

    def why_not(self, when: Any, one: _One) -> str:
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

    def slot(self, compiled: CompiledSlot, one: _One) -> Requirement:
        slot, name = compiled.slot, one.id(compiled.slot.slot)
        ref = f"documents.{name}"
        files = self.files(name)
        findings: list[Finding] = []
        asked = True if compiled.when is None else compiled.when.holds(one.values)
        stops = slot.delivered_by is None and compiled.until is None
        if asked is not True:
            (proposed, because), put_right = self.not_asked(compiled.when, asked, one), ""
        elif not files:
            proposed, because, put_right = self.empty_slot(compiled, one)
        else:
            others = [other for a in files for other in self.same[a.sha256] if other.slot != name]
            findings = [*slot_findings(slot, files, self.readings, others), *self.days_of(compiled, one, files)]
            worst = {f.weight for f in findings}
            proposed = "wanting" if "fault" in worst else "in doubt" if "look" in worst else "to read"
            faults = [f.text for f in findings if f.weight != "note"]
            because = " ".join(faults) or f"{things(len(files), 'file')} attached, read without findings."
            put_right = " ".join(faults)
            stops = True
        if not files and proposed == "wanting":
            files = tuple(a for other in slot.may_be_in for a in self.files(one.id(other)))
            if files:
                proposed, because, put_right = "to read", f"Nothing of its own; it may stand in “{files[0].name}”.", ""
        return self.made(
            ref,
            "document",
            one.title(slot.title),
            "documents",
            slot.says,
            slot.article,
            proposed,
            because,
            put_right,
            [ref],
            findings,
            files,
            stops_filing=stops,
            item=one.own,
            named=self.named(compiled, one),
        )

    def named(self, compiled: CompiledSlot, one: _One) -> str:
        """The office's name for the file of a slot; empty while an answer that it is made of is open."""
        text = compiled.named
        if text is None or any(not isinstance(p, str) and is_absent(p.value(one.values)) for p in text.pieces):
            return ""
        return "-".join(text.fill(one.values).split())

    def days_of(self, compiled: CompiledSlot, one: _One, files: Sequence[Attachment]) -> Iterator[Finding]:
        """Whether each file is young enough and still valid, by the days that it bears; a day that is not found is said."""
        slot = compiled.slot
        for attachment in files:
            reading = self.readings.get(attachment.sha256)
            if reading is None or reading.opens != "yes":
                continue
            if slot.issued and compiled.issued:
                yield from self.issued(slot, compiled.issued.value(one.values), attachment, reading)
            if slot.valid and compiled.valid:
                yield from self.valid(slot, compiled.valid.value(one.values), attachment, reading)

    def issued(self, slot: Slot, event: Any, attachment: Attachment, reading: Reading) -> Iterator[Finding]:
        assert slot.issued is not None
        fact = stated(next(f for f in slot.facts if f.id == slot.issued.fact), reading)
        if fact is None:
            yield Finding("note", "The day on which it was issued was not found.", attachment.id)
        elif not is_absent(event):
            oldest = slot.issued.within.limit(event, self.sheet.values[CALENDAR], True, "stays")
            if fact.value < oldest:
                text = f"It bears {said_day(fact.value)}; it may not be older than {said_day(oldest)}."
                yield Finding("fault", text, attachment.id, fact.page)
            elif fact.value > event:
                yield Finding(
                    "look", f"It bears {said_day(fact.value)}, which is after {said_day(event)}.", attachment.id, fact.page
                )

    def valid(self, slot: Slot, on: Any, attachment: Attachment, reading: Reading) -> Iterator[Finding]:
        assert slot.valid is not None
        fact = stated(next(f for f in slot.facts if f.id == slot.valid.fact), reading)
        if fact is None:
            yield Finding("note", "The day until which it is valid was not found.", attachment.id)
        elif not is_absent(on) and fact.value < on:
            text = f"It is valid until {said_day(fact.value)}; it has to be on {said_day(on)}."
            yield Finding("fault", text, attachment.id, fact.page)

    def empty_slot(self, compiled: CompiledSlot, one: _One) -> tuple[Standing, str, str]:
        """Why nothing stands in a slot that is asked: its standing, because, and what would put it right."""
        slot = compiled.slot
        if slot.optional:
            return "not asked", "Optional; nothing is attached.", ""
        group = next((e for e in self.rulebook.eithers if slot.slot in e.either.slots), None)
        if group:
            return "not asked", f"{group.either.title}: {self.group_said(group)}", ""
        if compiled.until is not None and slot.until is not None:
            return self.still_to_come(slot, compiled.until.value(one.values))
        if slot.delivered_by:
            said = f"{slot.delivered_by} sends this straight to the office; nothing has come yet."
            return "wanting", said, f"Ask {slot.delivered_by} to send it: {one.title(slot.title)}. {slot.says}"
        return "wanting", "Nothing is attached.", f"Attach: {one.title(slot.title)}. {slot.says}"

    def still_to_come(self, slot: Slot, event: Any) -> tuple[Standing, str, str]:
        """A document with a time of its own: not asked before that is over."""
        calendar, until = self.sheet.values[CALENDAR], slot.until
        if is_absent(event) or calendar is None or until is None:
            return "not known yet", "The time for it depends on an open question.", ""
        last = until.within.limit(event, calendar, until.before is not None, until.if_closed)
        if self.sheet.values["case.today"] <= last:
            return "not asked", f"It may still come, until {said_day(last)}.", ""
        return "wanting", f"The time for it ended on {said_day(last)}; nothing is attached.", f"Attach: {slot.title}. {slot.says}"

    def group_said(self, group: CompiledEither) -> str:
        filled = [self.rulebook.slots[s].slot.title for s in group.either.slots if self.files(s)]
        least = group.either.at_least
        return f"{things(len(filled), 'document')} of {least} that {'is' if least == 1 else 'are'} enough" + (
            f", {', '.join(filled)}." if filled else "."
        )

    def either(self, group: CompiledEither) -> Requirement:
        """Several slots of which some have to be filled; each file is judged in its own slot."""
        either, values = group.either, self.sheet.values
        titles = [self.rulebook.slots[s].slot.title for s in either.slots]
        refs = [f"documents.{s}" for s in either.slots]
        asked = True if group.when is None else group.when.holds(values)
        filled = sum(1 for s in either.slots if self.files(s))
        put_right = ""
        if asked is not True:
            proposed, because = self.not_asked(group.when, asked, _One(values))
        elif filled >= either.at_least:
            proposed, because = "met", self.group_said(group)
        else:
            proposed, because = "wanting", self.group_said(group)
            put_right = f"Attach at least {either.at_least} of: {', '.join(titles)}. {either.says}"
        return self.made(
            either.id, "document", either.title, "documents", either.says, either.article, proposed, because, put_right, refs
        )

    def agreement(self, compiled: CompiledAgree, one: _One) -> Requirement:
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
        files = tuple(a for ref in at if ref.startswith("documents.") for a in self.files(ref.removeprefix("documents.")))
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
            (proposed, because), put_right = self.not_asked(compiled.when, asked, _One(values)), ""
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


def evidence(dossier: Dossier, case: CaseSoFar, fees: FeeSheet, places: Sequence[str]) -> str:
    """What a judgement looked at, as a short hash: the answers and files at its places. Readings are left out,
    so reading a file again never changes a standing that was given."""
    in_slot: dict[str, list[Attachment]] = {}
    for a in dossier.attachments:
        in_slot.setdefault(a.slot, []).append(a)
    return _evidence(dossier, case, fees, places, raw_answers(dossier), in_slot)


def _evidence(
    dossier: Dossier,
    case: CaseSoFar,
    fees: FeeSheet,
    places: Sequence[str],
    flat: Mapping[str, Any],
    in_slot: Mapping[str, Sequence[Attachment]],
) -> str:
    looked: list[str] = []
    for ref in places:
        looked.append(ref)
        if ref.startswith("documents."):
            looked += sorted(f"{a.sha256} {a.name}" for a in in_slot.get(ref[len("documents.") :], ()))
        elif ref == "signature":
            signed = dossier.signature
            looked.append(f"{signed.name}\n{signed.at.isoformat()}\n{signed.text}" if signed else "")
        elif ref == "fee":
            looked += [str(fees.total("at filing").amount), str(case.came_for_filing)]
        else:
            looked.append(str(flat.get(ref, "")))
    return hashlib.sha256("\0".join(looked).encode()).hexdigest()[:16]
