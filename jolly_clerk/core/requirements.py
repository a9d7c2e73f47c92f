"""What must be there or must hold, each with its standing and why.

The machine proposes a standing; a given one, drawn from the history, wins as long as the evidence
that it was given on has not changed.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal

from jolly_clerk.core.absence import UNKNOWN
from jolly_clerk.core.dossier.differences import raw_answers, said_answer
from jolly_clerk.core.dossier.model import Attachment, Dossier
from jolly_clerk.core.facts.findings import Finding, slot_findings
from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.fees.sheet import FeeSheet
from jolly_clerk.core.form import Sheet
from jolly_clerk.core.history import Judged
from jolly_clerk.core.lifecycle import CaseSoFar
from jolly_clerk.core.rulebook.compiled import CompiledMust, CompiledSlot, Rulebook
from jolly_clerk.core.rulebook.evaluate import working
from jolly_clerk.core.say import money, things

Standing = Literal["met", "wanting", "in doubt", "to read", "waived", "not asked", "not known yet"]
Kind = Literal["answer", "document", "rule", "signature", "fee"]


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
    """One line of the checklist. ``standing`` is the given one if it holds, else the proposed one."""

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
) -> tuple[Requirement, ...]:
    """The whole checklist in the rulebook's order: parts, documents, signature, fee."""
    make = _Maker(rulebook, dossier, sheet, fees, case, readings)
    found: list[Requirement] = []
    for part in rulebook.parts:
        found += make.answers(part)
        found += [make.must(m) for m in rulebook.musts if m.must.part == part]
    found += [make.slot(s) for s in rulebook.slots.values()]
    found.append(make.signature())
    if case.filed is not None:
        found.append(make.fee())
    return tuple(found)


class _Maker:
    def __init__(
        self,
        rulebook: Rulebook,
        dossier: Dossier,
        sheet: Sheet,
        fees: FeeSheet,
        case: CaseSoFar,
        readings: Mapping[str, Reading],
    ) -> None:
        self.rulebook, self.dossier, self.sheet = rulebook, dossier, sheet
        self.fees, self.case, self.readings = fees, case, readings
        self.flat = raw_answers(dossier)
        self.pointed = {p.asked.requirement for r in case.rounds for p in r.points.values()}

    def place(self, ref: str) -> Place:
        return Place(ref, self.rulebook.label(ref))

    def files(self, slot: str) -> tuple[Attachment, ...]:
        return tuple(a for a in self.dossier.attachments if a.slot == slot)

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
    ) -> Requirement:
        judged = self.case.given.get(id_)
        given = self.given(judged, lambda: evidence(self.dossier, self.case, self.fees, places, self.flat)) if judged else None
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
        )

    def given(self, judged: Judged, now: Callable[[], str]) -> Given | None:
        assert judged.standing is not None
        holds = judged.evidence in ("", now())
        return Given(judged.standing, judged.who, judged.at, judged.reason, holds)

    def answers(self, part: str) -> Iterator[Requirement]:
        """One requirement for each question that is asked and open, or was asked about before."""
        for place, asked in self.sheet.asked.items():
            id_ = f"answer.{place}"
            if not place.startswith(f"{part}.") or asked is False:
                continue
            fault = self.sheet.faults.get(place)
            node = self.rulebook.questions.get(place)
            optional = node.question.optional if node else False
            is_open = place not in self.sheet.raw
            wanting = asked is True and (fault is not None or (is_open and not optional))
            if not wanting and id_ not in self.case.given and id_ not in self.pointed:
                continue
            label = node.question.ask if node else place
            raw = said_answer(self.rulebook, place, self.sheet.raw.get(place))
            because = fault or ("It was left open." if is_open else f"Answered: {raw}.")
            yield self.made(
                id_,
                "answer",
                label,
                part,
                "This question is asked and has to be answered.",
                (node.question.article if node else None) or "",
                "wanting" if wanting else "met",
                because,
                fault or f"Answer “{label}”.",
                [place],
            )

    def must(self, compiled: CompiledMust) -> Requirement:
        must, values = compiled.must, self.sheet.values
        proposed: Standing
        put_right = ""
        findings: tuple[Finding, ...] = ()
        asked = True if compiled.when is None else compiled.when.holds(values)
        if asked is not True:
            proposed, because = self.not_asked(compiled.when, asked)
        elif compiled.rule is None:
            proposed, because = "to read", self.stated(must.at)
        else:
            holds = compiled.rule.holds(values)
            if holds is UNKNOWN:
                proposed, because = "not known yet", self.hangs_on(self.sheet.deciding(compiled.rule))
            elif holds:
                proposed, because = "met", f"{working(compiled.rule.tree, values, compiled.rule.functions)} holds."
            else:
                proposed = "in doubt" if must.otherwise_is == "look" else "wanting"
                because = put_right = compiled.otherwise.fill(values) if compiled.otherwise else must.says
                findings = (Finding("look" if proposed == "in doubt" else "fault", because, ""),)
        files = tuple(a for ref in must.at if ref.startswith("documents.") for a in self.files(ref.removeprefix("documents.")))
        return self.made(
            must.id,
            "rule",
            must.title,
            must.part,
            must.says,
            must.article,
            proposed,
            because,
            put_right,
            must.at,
            findings,
            files,
        )

    def stated(self, at: Sequence[str]) -> str:
        told = [said_answer(self.rulebook, ref, self.sheet.raw.get(ref)) for ref in at if not ref.startswith("documents.")]
        text = "; ".join(t for t in told if t)
        return f"Stated: {text}. Nobody has judged it yet." if text else "Nothing is stated yet."

    def not_asked(self, when: Any, asked: Any) -> tuple[Standing, str]:
        if asked is UNKNOWN:
            return "not known yet", self.hangs_on(self.sheet.deciding(when))
        return "not asked", f"Not asked: {self.why_not(when)}."

    def why_not(self, when: Any) -> str:
        told = []
        for name in sorted(when.reads):
            if name in self.rulebook.questions:
                answer = said_answer(self.rulebook, name, self.sheet.raw.get(name)) or "not asked"
                told.append(f"{self.rulebook.questions[name].question.ask.rstrip('?')}: {answer}")
        return "; ".join(told) or working(when.tree, self.sheet.values, when.functions)

    def hangs_on(self, places: list[str]) -> str:
        return "Depends on " + (" and ".join(f"“{self.rulebook.label(p)}”" for p in places) or "an open question") + "."

    def slot(self, compiled: CompiledSlot) -> Requirement:
        slot = compiled.slot
        ref = f"documents.{slot.slot}"
        files = self.files(slot.slot)
        proposed: Standing
        put_right, findings = "", []
        asked = True if compiled.when is None else compiled.when.holds(self.sheet.values)
        if asked is not True:
            proposed, because = self.not_asked(compiled.when, asked)
        elif not files:
            proposed = "not asked" if slot.optional else "wanting"
            because = "Optional; nothing is attached." if slot.optional else "Nothing is attached."
            put_right = "" if slot.optional else f"Attach: {slot.title}. {slot.says}"
        else:
            findings = slot_findings(slot, files, self.readings)
            worst = {f.weight for f in findings}
            proposed = "wanting" if "fault" in worst else "in doubt" if "look" in worst else "to read"
            faults = [f.text for f in findings if f.weight != "note"]
            because = " ".join(faults) or f"{things(len(files), 'file')} attached, read without findings."
            put_right = " ".join(faults)
        return self.made(
            ref,
            "document",
            slot.title,
            "documents",
            slot.says,
            slot.article,
            proposed,
            because,
            put_right,
            [ref],
            findings,
            files,
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
        due, paid = self.fees.total("at filing"), self.case.paid
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
            because += f" {money(over, currency)} is paid back on acceptance." if over else ""
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


def evidence(
    dossier: Dossier, case: CaseSoFar, fees: FeeSheet, places: Sequence[str], flat: Mapping[str, Any] | None = None
) -> str:
    """What a judgement looked at, as a short hash: the answers and files at its places. Readings are left out,
    so reading a file again never changes a standing that was given."""
    flat = raw_answers(dossier) if flat is None else flat
    looked: list[Any] = []
    for ref in places:
        if ref.startswith("documents."):
            looked.append([ref, sorted((a.sha256, a.name) for a in dossier.attachments if f"documents.{a.slot}" == ref)])
        elif ref == "signature":
            looked.append([ref, dossier.signature.model_dump(mode="json") if dossier.signature else None])
        elif ref == "fee":
            looked.append([ref, str(fees.total("at filing").amount), str(sum(p.amount for p in case.payments))])
        else:
            looked.append([ref, str(flat.get(ref, ""))])
    return hashlib.sha256(json.dumps(looked, sort_keys=True).encode()).hexdigest()[:16]
