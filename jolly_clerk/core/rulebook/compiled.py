"""An edition made ready to run: every rule compiled, every question in the order in which it can be decided."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date, datetime
from decimal import Decimal
from functools import cached_property
from typing import Any

from jolly_clerk.core.absence import UNKNOWN, is_absent
from jolly_clerk.core.rulebook import model as m
from jolly_clerk.core.rulebook.bands import BandStep
from jolly_clerk.core.rulebook.compiled_step import CompiledStep
from jolly_clerk.core.rulebook.debts import Debts
from jolly_clerk.core.rulebook.expressions import Expression
from jolly_clerk.core.rulebook.reasons import formula, reason
from jolly_clerk.core.rulebook.scope import Scope
from jolly_clerk.core.rulebook.telling import NO_WORDS, Glossary
from jolly_clerk.core.rulebook.texts import Text
from jolly_clerk.core.rulebook.types import YES_NO
from jolly_clerk.core.say import say
from jolly_clerk.core.values import Value

#: a plain number, or the rule that gives one
Figure = Decimal | Expression
Path = tuple[str | int, ...]


@dataclass(frozen=True, slots=True)
class Fault:
    """Something wrong in an edition: where (keys and positions from the top), what, and the column in a rule."""

    path: Path
    message: str
    column: int = 0


class RulebookFaults(ValueError):
    """An edition that is refused, with all its faults."""

    def __init__(self, faults: list[Fault]) -> None:
        super().__init__("; ".join(f"{'.'.join(map(str, f.path))}: {f.message}" for f in faults))
        self.faults = faults


@dataclass(frozen=True, slots=True)
class AskedQuestion:
    """A question with its part, its key ``part.question`` and its compiled conditions. ``option_when`` are the choices that are
    offered only while something holds; ``columns`` those of a question of rows."""

    part: m.Part
    question: m.Question
    key: str
    when: Expression | None
    options: Mapping[str, str]
    needed_when: Expression | None = None
    option_when: Mapping[str, Expression] = field(default_factory=dict)
    columns: tuple[AskedQuestion, ...] = ()
    usual: Expression | None = None

    def offered(self, values: Mapping[str, Any]) -> dict[str, str]:
        """The choices that are offered now; one whose condition is not known yet is offered."""
        return {
            id_: title
            for id_, title in self.options.items()
            if id_ not in self.option_when or self.option_when[id_].holds(values) is not False
        }


@dataclass(frozen=True, slots=True)
class ComputedValue:
    """A computed answer with its compiled rule, or with the event from which its limit is counted."""

    value: m.Value
    key: str
    rule: Expression

    def value_in(self, values: Mapping[str, Any]) -> Value:
        """What it comes to over ``values``; UNKNOWN where its limit cannot be counted."""
        found = self.rule.value(values)
        limit = self.value.limit
        if limit is None or is_absent(found):
            return found
        try:
            return limit.within.limit(found, values["case.calendar"], limit.before is not None, limit.if_closed)
        except (ValueError, AttributeError, TypeError, OverflowError):
            return UNKNOWN

    def working_in(self, values: Mapping[str, Any], words: Glossary) -> str:
        """How it came about: a formula, or for yes and no the reason."""
        limit, tree, functions = self.value.limit, self.rule.tree, self.rule.functions
        if limit is None and self.rule.gives == YES_NO:
            value = self.rule.holds(values)
            return reason(tree, values, functions, value is True, words)
        told = formula(tree, values, functions, words)
        if limit is None:
            return told
        moved = "" if limit.if_closed == "stays" else say(", if closed the {if_closed}", if_closed=say(limit.if_closed))
        way = say("{within} before {event}{moved}") if limit.before else say("{within} after {event}{moved}")
        return way.format(within=limit.within, event=told, moved=moved)


@dataclass(frozen=True, slots=True)
class PartItems:
    """The repeats of a part; they stand in the order before all that is asked of each."""

    part: m.Part
    key: str


Node = AskedQuestion | ComputedValue | PartItems


@dataclass(frozen=True, slots=True)
class CompiledSlot:
    """A slot with its compiled condition, the event of its own time, the days it is measured by, and the office's name for its file."""

    slot: m.Slot
    when: Expression | None
    until: Expression | None = None
    named: Text | None = None
    issued: Expression | None = None
    valid: Expression | None = None
    in_the_name_of: Expression | None = None


@dataclass(frozen=True, slots=True)
class CompiledEither:
    """Several slots of which some have to be filled, with the compiled condition."""

    either: m.Either
    when: Expression | None


@dataclass(frozen=True, slots=True)
class CompiledMust:
    """A must with its compiled condition, rule and complaint."""

    must: m.Must
    when: Expression | None
    rule: Expression | None
    otherwise: Text | None


@dataclass(frozen=True, slots=True)
class CompiledChange:
    """A change of a fee line with its compiled condition, what it does and with which figure.

    Of those that are an ``exemption`` only the first that holds is made.
    """

    change: m.Change
    when: Expression | None
    does: str
    figure: Figure
    exemption: bool = False


@dataclass(frozen=True, slots=True)
class CompiledBands:
    """One of several band tables with its compiled condition and what is counted."""

    when: Expression | None
    of: Expression
    bands: tuple[BandStep, ...]


@dataclass(frozen=True, slots=True)
class CompiledLine:
    """A fee line with its compiled condition and what its base is taken from.

    ``figures`` are the plain numbers or rules of ``flat``, ``adds``, ``price``, ``free``, ``rate``, ``at_least``, ``at_most``,
    ``all_at_least``, ``all_at_most``, ``comes_back``, ``sum`` (to which lines are topped up, or at which they are capped) and
    ``first`` (the share that falls due first), as far as it says them. ``coin`` is the step to which it is brought: that of the
    currency, or a finer one.
    """

    line: m.FeeLine
    when: Expression | None
    of: Expression | None
    bands: tuple[BandStep, ...]
    changes: tuple[CompiledChange, ...]
    figures: Mapping[str, Figure]
    coin: Decimal
    tables: tuple[CompiledBands, ...] = ()


@dataclass(frozen=True, slots=True)
class CompiledDebts:
    """How what is due in a stage is owed, with the compiled condition."""

    debts: Debts
    when: Expression | None


@dataclass(frozen=True, slots=True)
class CompiledBranch:
    """A branch of the way in with its compiled condition and reason."""

    branch: m.Branch
    when: Expression | None
    because: Text


@dataclass(frozen=True, slots=True)
class CompiledPathway:
    """A pathway with its compiled condition."""

    pathway: m.Pathway
    when: Expression | None


@dataclass(frozen=True, slots=True)
class CompiledAgree:
    """An agreement with its compiled condition, and the questions and slots at which it is looked for."""

    agree: m.Agree
    when: Expression | None
    at: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class CompiledPrerequisite:
    """Another case that is needed, with the compiled condition."""

    prerequisite: m.Prerequisite
    when: Expression | None


@dataclass(frozen=True, slots=True)
class CompiledDeclaration:
    """A declaration with the compiled condition."""

    declaration: m.Declaration
    when: Expression | None


@dataclass(frozen=True, slots=True)
class CompiledPeriods:
    """The conditions of the periods that are `instead`, by the name of the period, the event before which answers are in, when a letter
    goes by post, and the days from and to which what is granted is in force."""

    instead: Mapping[str, tuple[tuple[Expression, m.Instead], ...]] = field(default_factory=dict)
    at_latest: Expression | None = None
    printed: Expression | None = None
    starts: Expression | None = None
    ends: Expression | None = None

    def latest(self, clock: m.Clock, values: Mapping[str, Any]) -> date | None:
        """The last day for answers, counted backwards from its event; None if the edition says none or the event is not known."""
        said = clock.answers.at_latest
        event = self.at_latest.value(values) if self.at_latest else None
        if said is None or is_absent(event) or not isinstance(event, date):
            return None
        return said.within.before(event.date() if isinstance(event, datetime) else event, values["case.calendar"])


@dataclass(frozen=True)
class Rulebook:
    """A compiled edition, safe to share between threads. ``way_in_asks`` are the questions of the way in, in their order.

    ``kept`` remembers places that were worded; it changes nothing that can be seen.
    """

    edition: m.Edition
    parts: Mapping[str, m.Part]
    questions: Mapping[str, AskedQuestion]
    order: tuple[Node, ...]
    part_when: Mapping[str, Expression | None]
    slots: Mapping[str, CompiledSlot]
    eithers: tuple[CompiledEither, ...]
    musts: tuple[CompiledMust, ...]
    agrees: tuple[CompiledAgree, ...]
    prerequisites: tuple[CompiledPrerequisite, ...]
    declarations: tuple[CompiledDeclaration, ...]
    branches: tuple[CompiledBranch, ...]
    way_in_asks: tuple[str, ...]
    pathways: tuple[CompiledPathway, ...]
    lines: tuple[CompiledLine, ...]
    debts: tuple[CompiledDebts, ...]
    reasons: Mapping[str, tuple[m.Reason, Text]]
    case_title: Text
    #: computed answers that read fees, each with the number of lines that stand before it
    late: tuple[tuple[int, ComputedValue], ...]
    letters: Mapping[str, Mapping[str, Text]]
    scope: Scope
    money_names: frozenset[str] = field(default_factory=frozenset)
    periods: CompiledPeriods = field(default_factory=lambda: CompiledPeriods())
    words: Glossary = NO_WORDS
    step: CompiledStep | None = None
    kept: dict[tuple[object, str], Any] = field(default_factory=dict, compare=False, repr=False)

    @cached_property
    def computed(self) -> Mapping[str, ComputedValue]:
        """The computed answers by key."""
        early = {node.key: node for node in self.order if isinstance(node, ComputedValue)}
        return early | {node.key: node for _, node in self.late}

    @cached_property
    def asked_in(self) -> Mapping[str, frozenset[str]]:
        """The questions of each part."""
        return {id_: frozenset(q.id for q in part.questions) for id_, part in self.parts.items()}

    @cached_property
    def rules_of(self) -> Mapping[str, tuple[list[CompiledMust], list[CompiledAgree], list[CompiledPrerequisite]]]:
        """The musts, agreements and prerequisites of each part, in their order."""
        return {
            part: (
                [m for m in self.musts if m.must.part == part],
                [a for a in self.agrees if a.agree.part == part],
                [p for p in self.prerequisites if p.prerequisite.part == part],
            )
            for part in self.parts
        }

    @cached_property
    def value_titles(self) -> dict[str, str]:
        """The titles of the computed answers."""
        return {f"{v.each}.{v.id}" if v.each else v.id: v.title for v in self.edition.values}

    def clock_for(self, values: Mapping[str, Any]) -> m.Clock:
        """The periods of a case: where an edition says `instead`, the first that holds."""
        whole = self.edition.clock
        if not self.periods.instead and self.periods.at_latest is None and self.periods.printed is None:
            return whole
        update: dict[str, Any] = {}
        for name, variants in self.periods.instead.items():
            held = next((own for rule, own in variants if rule.holds(values) is True), None)
            if held is not None:
                told = {"within": held.within, "article": held.article}
                update[name] = getattr(whole, name).model_copy(update=told)
        printed, by_post = whole.answers.printed, self.periods.printed
        if printed and by_post and by_post.holds(values) is True:
            answers: m.AnswersClock = update.get("answers", whole.answers)
            update["answers"] = answers.model_copy(update={"received": printed.received, "posted": True})
        if latest := self.periods.latest(whole, values):
            update["latest_answers"] = latest
        return whole.model_copy(update=update)

    def lane_clock(self, whole: m.Clock) -> m.Clock:
        """The clock of a site's lane: that of the case, with the lane's check."""
        lanes = self.edition.lanes
        if lanes is None:
            return whole
        return whole.model_copy(update={"check": m.CheckClock(within=lanes.within, article=lanes.article)})

    def lane_of(self, ref: str) -> str:
        """The lane of a place: ``sites.2`` for what belongs to the second site, nothing for the common lane."""
        lanes = self.edition.lanes
        if lanes is None:
            return ""
        head, _, rest = ref.partition(".")
        if head == "documents":
            slot, _, number = rest.partition(".")
            own = number and slot in self.slots and self.slots[slot].slot.for_each == lanes.each
            return f"{lanes.each}.{number}" if own else ""
        number = rest.partition(".")[0]
        return f"{head}.{number}" if head == lanes.each and number and ref not in self.questions else ""

    def one(self, part: str) -> str:
        """What a repeat of a part is called, without its number."""
        return self.parts[part].one or self.parts[part].title

    def slot_at(self, name: str) -> CompiledSlot | None:
        """The slot of a file: ``permit``, or ``passport.2`` for one of each repeat; None if there is none."""
        slot, _, number = name.partition(".")
        found = self.slots.get(slot)
        return found if found and bool(number) == bool(found.slot.for_each) else None

    def reasons_for(self, target: str) -> list[tuple[m.Reason, Text]]:
        """The catalogue entries for a slot, a must, ``answer``, ``declarations``, ``signature`` or ``fee``."""
        return [pair for pair in self.reasons.values() if pair[0].for_ == target]

    def slot_title(self, ref: str) -> str:
        """The title of the slot at ``documents.site_plan``, with its item: ``Passport, Person 2``."""
        slot, _, number = ref.removeprefix("documents.").partition(".")
        if slot not in self.slots:
            return self.label(ref)
        title = self.slots[slot].slot.title
        return f"{title}, {self.one(self.slots[slot].slot.for_each or '')} {number}" if number else title

    def label(self, ref: str) -> str:
        """A place in words: ``The works, Floor area under it``."""
        head, _, rest = ref.partition(".")
        if head == "documents":
            known = rest.partition(".")[0] in self.slots
            return say("Documents, {title}", title=self.slot_title(ref)) if known else say("Documents")
        if head == "declarations":
            told = next((d.declaration.title for d in self.declarations if d.declaration.declare == rest), rest)
            return say("Promise and sign, {told}", told=told)
        if ref in self.questions:
            return f"{self.parts[head].title}, {self.questions[ref].question.ask}"
        number, _, question = rest.rpartition(".")
        if number and f"{head}.{question}" in self.questions:  # a part that repeats
            return f"{self.one(head)} {number}, {self.questions[f'{head}.{question}'].question.ask}"
        if head in self.parts:
            return self.parts[head].title
        return {"signature": say("Promise and sign"), "fee": say("Payment")}.get(head, ref)
