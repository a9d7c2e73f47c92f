"""An edition made ready to run: every rule compiled, every question in the order in which it can be decided.

:func:`compile_edition` finds all faults of an edition at once and refuses it whole.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from decimal import Decimal

from jolly_clerk.core.rulebook import model as m
from jolly_clerk.core.rulebook import types
from jolly_clerk.core.rulebook.expressions import Expression, ExpressionError, Scope, compile_expression
from jolly_clerk.core.rulebook.functions import BUILT_IN, Function
from jolly_clerk.core.rulebook.texts import Text, compile_text

Path = tuple[str | int, ...]
CASE_NAMES = {"case.filed": types.DATE, "case.today": types.DATE}
LETTER_NAMES = {"count": types.TEXT, "due": types.TEXT, "once_more": types.TEXT, "target": types.TEXT}


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
    """A question with its part, its key ``part.question`` and its compiled condition."""

    part: m.Part
    question: m.Question
    key: str
    when: Expression | None
    options: Mapping[str, str]


@dataclass(frozen=True, slots=True)
class ComputedValue:
    """A computed answer with its compiled rule."""

    value: m.Value
    key: str
    rule: Expression


@dataclass(frozen=True, slots=True)
class CompiledSlot:
    """A slot with its compiled condition."""

    slot: m.Slot
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
    """A change of a fee line with its compiled condition."""

    change: m.Change
    when: Expression


@dataclass(frozen=True, slots=True)
class CompiledLine:
    """A fee line with its compiled condition and the expression that its base is taken from."""

    line: m.FeeLine
    when: Expression | None
    of: Expression | None
    bands: tuple[BandStep, ...]
    changes: tuple[CompiledChange, ...]


@dataclass(frozen=True, slots=True)
class BandStep:
    """One band, worked out: the amount at its lower end, then ``adds`` per started ``step`` above ``low``."""

    low: Decimal
    high: Decimal | None
    start: Decimal
    step: Decimal | None
    adds: Decimal


@dataclass(frozen=True)
class Rulebook:
    """A compiled edition. Made once per edition by :func:`compile_edition`; safe to share between threads."""

    edition: m.Edition
    parts: Mapping[str, m.Part]
    questions: Mapping[str, AskedQuestion]
    order: tuple[AskedQuestion | ComputedValue, ...]
    part_when: Mapping[str, Expression | None]
    slots: Mapping[str, CompiledSlot]
    musts: tuple[CompiledMust, ...]
    lines: tuple[CompiledLine, ...]
    reasons: Mapping[str, tuple[m.Reason, Text]]
    case_title: Text
    letters: Mapping[str, Mapping[str, Text]]
    scope: Scope
    money_names: frozenset[str] = field(default_factory=frozenset)

    def reasons_for(self, target: str) -> list[tuple[m.Reason, Text]]:
        """The catalogue entries for a slot, a must, ``answer``, ``signature`` or ``fee``."""
        return [pair for pair in self.reasons.values() if pair[0].for_ == target]

    def label(self, ref: str) -> str:
        """A place in words: ``The works, Floor area under it``."""
        head, _, rest = ref.partition(".")
        if head == "documents":
            return f"Documents, {self.slots[rest].slot.title}" if rest in self.slots else "Documents"
        if ref in self.questions:
            return f"{self.parts[head].title}, {self.questions[ref].question.ask}"
        return {"signature": "Promise and sign", "fee": "Payment"}.get(head, ref)


def compile_edition(edition: m.Edition) -> Rulebook:
    """Check and compile an edition. Raises :class:`RulebookFaults` with every fault found."""
    return _Compiler(edition).run()


class _Compiler:
    def __init__(self, edition: m.Edition) -> None:
        self.e = edition
        self.faults: list[Fault] = []
        self.scope = Scope({})
        self.money: frozenset[str] = frozenset()

    def fault(self, path: Path, message: str, column: int = 0) -> None:
        self.faults.append(Fault(path, message, column))

    def rule(self, source: str | None, path: Path, wanted: str, scope: Scope | None = None) -> Expression | None:
        if source is None:
            return None
        try:
            return compile_expression(source, scope or self.scope, wanted)
        except ExpressionError as error:
            self.fault(path, str(error), error.column)
            return None

    def text(self, source: str | None, path: Path, extra: Mapping[str, str] | None = None) -> Text | None:
        if source is None:
            return None
        scope = self.scope if not extra else Scope({**self.scope.names, **extra}, self.scope.items, self.scope.functions)
        try:
            return compile_text(source, scope, self.money)
        except ExpressionError as error:
            self.fault(path, str(error), error.column)
            return None

    def run(self) -> Rulebook:
        self.scope = Scope(self.names(), self.items(), self.functions())
        self.money = frozenset(f"{p.id}.{q.id}" for p in self.e.parts for q in p.questions if q.type == "money")
        self.money |= frozenset(v.id for v in self.e.values if v.unit == self.e.currency)
        self.unique_ids()
        part_when = {p.id: self.rule(p.when, ("parts", n, "when"), types.YES_NO) for n, p in enumerate(self.e.parts)}
        questions = dict(self.questions())
        values = [
            ComputedValue(v, v.id, rule)
            for n, v in enumerate(self.e.values)
            if (rule := self.rule(v.rule, ("values", n, "rule"), types.ANY))
        ]
        rulebook = Rulebook(
            edition=self.e,
            parts={p.id: p for p in self.e.parts},
            questions=questions,
            order=tuple(self.ordered(questions, part_when, values)),
            part_when=part_when,
            slots={
                s.slot: CompiledSlot(s, self.rule(s.when, ("documents", n, "when"), types.YES_NO))
                for n, s in enumerate(self.e.documents)
            },
            musts=tuple(self.musts()),
            lines=tuple(self.lines()),
            reasons=dict(self.reasons()),
            case_title=self.text(self.e.case_title, ("case_title",)) or compile_text("", self.scope),
            letters=self.letters(),
            scope=self.scope,
            money_names=self.money,
        )
        if self.faults:
            raise RulebookFaults(self.faults)
        return rulebook

    def names(self) -> dict[str, str]:
        names = dict(CASE_NAMES)
        for part in self.e.parts:
            if part.each:
                names[part.id] = types.ITEMS + part.id
            for q in part.questions:
                kind = types.ANSWER_TYPES[q.type]
                names[f"{part.id}.{q.id}"] = types.LIST + kind if part.each else kind
        # the type of a computed value is found by compiling its rule, in an order in which each is known
        waiting = list(self.e.values)
        for _ in range(len(waiting) + 1):
            still = []
            for v in waiting:
                try:
                    names[v.id] = compile_expression(v.rule, Scope(names, self.items(), self.functions())).gives
                except ExpressionError:
                    still.append(v)
            waiting = still
        for v in waiting:
            names.setdefault(v.id, types.ANY)
        return names

    def items(self) -> dict[str, dict[str, str]]:
        return {p.id: {q.id: types.ANSWER_TYPES[q.type] for q in p.questions} for p in self.e.parts if p.each}

    def functions(self) -> dict[str, Function]:
        made = {}
        for name, table in self.e.tables.items():
            columns = {*table.of, "is"}
            rows: dict[tuple[str, ...], Decimal] = {}
            for n, row in enumerate(table.rows):
                path: Path = ("tables", name, "rows", n)
                if set(row) != columns:
                    self.fault_once(path, f"a row of this table has {', '.join(sorted(columns))}")
                    continue
                key = tuple(row[c] for c in table.of)
                if key in rows:
                    self.fault_once(path, f"the row for {', '.join(key)} stands twice")
                try:
                    rows[key] = Decimal(row["is"])
                except ArithmeticError:
                    self.fault_once(path, f"{row['is']!r} is no number")
            made[name] = Function(
                name, _look_up(rows), (types.TEXT,) * len(table.of), types.NUMBER, f"{name}({', '.join(table.of)})"
            )
        return made

    def fault_once(self, path: Path, message: str) -> None:
        if not any(f.path == path and f.message == message for f in self.faults):
            self.fault(path, message)

    def unique_ids(self) -> None:
        def once(path: Path, ids: Iterable[str], what: str) -> None:
            seen: set[str] = set()
            for n, name in enumerate(ids):
                if name in seen:
                    self.fault((*path, n), f"the {what} {name!r} stands twice; every rule has an id of its own")
                seen.add(name)

        once(("parts",), (p.id for p in self.e.parts), "part")
        for n, p in enumerate(self.e.parts):
            once(("parts", n, "questions"), (q.id for q in p.questions), "question")
        once(("documents",), (s.slot for s in self.e.documents), "slot")
        once(("must",), (x.id for x in self.e.must), "must")
        once(("fees",), (x.line for x in self.e.fees), "fee line")
        once(("reasons",), (r.id for r in self.e.reasons), "reason")
        reserved = {"case", "documents", "signature", "fee", "answer", *BUILT_IN}
        tops = [
            *(("parts", n, p.id) for n, p in enumerate(self.e.parts)),
            *(("values", n, v.id) for n, v in enumerate(self.e.values)),
        ]
        for where, n, name in tops:
            if name in reserved or sum(1 for *_, other in tops if other == name) > 1:
                self.fault((where, n, "id"), f"{name!r} already means something; choose another id")

    def questions(self) -> Iterator[tuple[str, AskedQuestion]]:
        for pn, part in enumerate(self.e.parts):
            inner = self.scope
            if part.each:
                own = {f"{part.id}.{q.id}": types.ANSWER_TYPES[q.type] for q in part.questions}
                inner = Scope({**self.scope.names, **own}, self.scope.items, self.scope.functions)
            for qn, q in enumerate(part.questions):
                path: Path = ("parts", pn, "questions", qn)
                listed = q.type in ("one of", "several of")
                if listed and (q.options is None or q.options not in self.e.lists):
                    self.fault((*path, "options"), f"name one of the lists: {', '.join(self.e.lists) or 'none is defined'}")
                if not listed and q.options is not None:
                    self.fault((*path, "options"), f"a question of type {q.type!r} has no options")
                options = {o.id: o.title for o in self.e.lists.get(q.options or "", [])}
                when = self.rule(q.when, (*path, "when"), types.YES_NO, inner)
                yield f"{part.id}.{q.id}", AskedQuestion(part, q, f"{part.id}.{q.id}", when, options)

    def ordered(
        self,
        questions: Mapping[str, AskedQuestion],
        part_when: Mapping[str, Expression | None],
        values: list[ComputedValue],
    ) -> Iterator[AskedQuestion | ComputedValue]:
        nodes: dict[str, AskedQuestion | ComputedValue] = {**questions, **{v.key: v for v in values}}
        needs = {key: self.needs(node, part_when) for key, node in nodes.items()}
        done: dict[str, bool] = {}

        def place(key: str, trail: tuple[str, ...]) -> Iterator[AskedQuestion | ComputedValue]:
            if key in trail:
                circle = " needs ".join([*trail[trail.index(key) :], key])
                self.fault_once(self.path_of(nodes[key]), f"a circle: {circle}")
                return
            if key in done or key not in nodes:
                return
            for other in sorted(needs[key]):
                yield from place(other, (*trail, key))
            if key not in done:
                done[key] = True
                yield nodes[key]

        for key in nodes:
            yield from place(key, ())

    def needs(self, node: AskedQuestion | ComputedValue, part_when: Mapping[str, Expression | None]) -> set[str]:
        if isinstance(node, ComputedValue):
            read = set(node.rule.reads)
        else:
            outer = part_when[node.part.id]
            read = set(outer.reads if outer else ()) | set(node.when.reads if node.when else ())
        for part in self.e.parts:
            if part.id in read:
                read |= {f"{part.id}.{q.id}" for q in part.questions}
        return read

    def path_of(self, node: AskedQuestion | ComputedValue) -> Path:
        if isinstance(node, ComputedValue):
            return ("values", self.e.values.index(node.value), "rule")
        part = self.e.parts.index(node.part)
        return ("parts", part, "questions", node.part.questions.index(node.question), "when")

    def musts(self) -> Iterator[CompiledMust]:
        parts = {p.id for p in self.e.parts}
        places = self.places()
        for n, must in enumerate(self.e.must):
            path: Path = ("must", n)
            if must.part not in parts:
                self.fault((*path, "part"), f"no part is called {must.part!r}")
            for ref in must.at:
                if ref not in places:
                    self.fault((*path, "at"), f"{ref!r} is no place; write part.question or documents.slot")
            if must.rule and not must.otherwise:
                self.fault(path, "a must with a rule says what is wrong `otherwise`")
            yield CompiledMust(
                must,
                self.rule(must.when, (*path, "when"), types.YES_NO),
                self.rule(must.rule, (*path, "rule"), types.YES_NO),
                self.text(must.otherwise, (*path, "otherwise")),
            )

    def places(self) -> set[str]:
        asked = {f"{p.id}.{q.id}" for p in self.e.parts for q in p.questions} | {p.id for p in self.e.parts}
        return asked | {f"documents.{s.slot}" for s in self.e.documents} | {"signature"}

    def lines(self) -> Iterator[CompiledLine]:
        before: list[str] = []
        for n, line in enumerate(self.e.fees):
            path: Path = ("fees", n)
            if line.percent and line.percent.of not in before:
                self.fault((*path, "percent", "of"), f"{line.percent.of!r} is no line above this one")
            if line.at_least is not None and line.at_most is not None and line.at_least > line.at_most:
                self.fault((*path, "at_least"), "at_least is above at_most")
            before.append(line.line)
            shape = line.bands or line.steps
            source, key = (shape.of, "bands" if line.bands else "steps") if shape else (line.amount, "amount")
            yield CompiledLine(
                line,
                self.rule(line.when, (*path, "when"), types.YES_NO),
                self.rule(source, (*path, key, "of") if shape else (*path, key), types.NUMBER),
                tuple(self.bands(line.bands, (*path, "bands", "each"))) if line.bands else (),
                tuple(
                    CompiledChange(c, when)
                    for cn, c in enumerate(line.then)
                    if (when := self.rule(c.when, (*path, "then", cn, "when"), types.YES_NO))
                ),
            )

    def bands(self, bands: m.Bands, path: Path) -> Iterator[BandStep]:
        low, total, closed = Decimal(0), Decimal(0), False
        for n, band in enumerate(bands.each):
            if closed:
                self.fault((*path, n), "this band is never reached: the one before has no upper end")
                return
            if band.above is not None and band.above != low:
                self.fault((*path, n), f"this band begins above {band.above}, but the one before ends at {low}")
            if band.up_to is not None and band.up_to <= low:
                self.fault((*path, n), f"up_to {band.up_to} is not above {low}, where the band before ends")
                return
            if (band.per_started is None) != (band.adds is None) or (band.flat is None and band.adds is None):
                self.fault((*path, n), "a band says `flat`, or `per_started` with `adds`, or both")
                return
            start = total + (band.flat or 0)
            step = BandStep(low, band.up_to, start, band.per_started, band.adds or Decimal(0))
            yield step
            if band.up_to is None:
                closed = True
            else:
                total, low = amount_in_band(step, band.up_to), band.up_to
        if not closed:
            self.fault(path, f"no band says what holds above {low}; end with `above: {low}`")

    def reasons(self) -> Iterator[tuple[str, tuple[m.Reason, Text]]]:
        targets = {s.slot for s in self.e.documents} | {x.id for x in self.e.must} | {"answer", "signature", "fee"}
        for n, reason in enumerate(self.e.reasons):
            if reason.for_ not in targets:
                self.fault(("reasons", n, "for"), f"{reason.for_!r} is no slot, no must, and not answer, signature or fee")
            text = self.text(reason.says, ("reasons", n, "says"))
            if text:
                yield reason.id, (reason, text)

    def letters(self) -> dict[str, dict[str, Text]]:
        made: dict[str, dict[str, Text]] = {}
        for name in m.Letters.model_fields:
            letter = getattr(self.e.letters, name)
            made[name] = {
                key: text
                for key in m.LetterText.model_fields
                if (text := self.text(getattr(letter, key), ("letters", name, key), LETTER_NAMES))
            }
        return made


def amount_in_band(band: BandStep, value: Decimal) -> Decimal:
    """The amount of a band table at ``value``, which lies in ``band``."""
    return band.start + band.adds * steps_in_band(band, value)


def steps_in_band(band: BandStep, value: Decimal) -> Decimal:
    """How many steps of ``band`` have begun at ``value``."""
    return BUILT_IN["started"].call(value - band.low, band.step) if band.step else Decimal(0)


def _look_up(rows: Mapping[tuple[str, ...], Decimal]) -> Callable[..., Decimal]:
    def look_up(*key: str) -> Decimal:
        try:
            return rows[key]
        except KeyError:
            raise ValueError(f"no row for {', '.join(key)}") from None

    return look_up
