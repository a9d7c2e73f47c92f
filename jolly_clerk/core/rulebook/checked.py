"""What every part of the compiler shares: the faults found so far, the scope, and the compiling of rules, figures and texts."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace
from decimal import Decimal

from jolly_clerk.core.currency import coin_of
from jolly_clerk.core.rulebook import model as m
from jolly_clerk.core.rulebook import types
from jolly_clerk.core.rulebook.choices import missing_rows, never_chosen, no_choices, table_calls
from jolly_clerk.core.rulebook.compiled import ComputedValue, Fault, Figure, Path
from jolly_clerk.core.rulebook.complaints import turned_round
from jolly_clerk.core.rulebook.dates import Function
from jolly_clerk.core.rulebook.expressions import Expression, compile_expression
from jolly_clerk.core.rulebook.lookups import keys_of, lookups
from jolly_clerk.core.rulebook.mending import Hints
from jolly_clerk.core.rulebook.scope import ExpressionError, Scope
from jolly_clerk.core.rulebook.texts import Text, compile_text
from jolly_clerk.core.say import say

#: the days of the case's own steps, by the names that rules have for them: the last letter, its answers, the last payment
STEPS = ("case.checked", "case.accepted", "case.handed_over", "letter.sent", "letter.received", "answer.received", "paid.on")
#: the filing day, today, and the day of the grant (today as long as there is none)
#: and how often more time was given
CASE_NAMES = {
    "case.filed": types.DATE, "case.today": types.DATE, "case.issued": types.DATE, "case.extensions": types.NUMBER,
    # the steps of the case, each none as long as it has not happened
    **dict.fromkeys(STEPS, types.DATE),
}  # fmt: skip


class Checked:
    """An edition under the check: ``scope`` is what its rules may name, ``faults`` all that was found."""

    def __init__(self, edition: m.Edition) -> None:
        self.e = edition
        self.faults: list[Fault] = []
        lists = {name: {o.id: o.title for o in options} for name, options in edition.lists.items()}
        asked = [(p, q) for p in edition.parts for q in p.questions if q.options in lists]
        self.options = {f"{p.id}.{q.id}": lists[q.options or ""] for p, q in asked}
        self.rows = dict(keys_of(edition))
        self.functions: dict[str, Function]
        self.functions, self.faults = lookups(edition)
        titles = {q.ask: f"{p.id}.{q.id}" for p in edition.parts for q in p.questions}
        self.hints = Hints(self.options, titles, tuple(line.line for line in edition.fees))
        self.scope = Scope(self.names(), self.items(), self.functions, self.hints)
        #: computed answers that read fees, each with the number of fee lines that stand before it
        self.late: tuple[tuple[int, ComputedValue], ...] = ()
        self.money = frozenset(f"{p.id}.{q.id}" for p in edition.parts for q in p.questions if q.type == "money")
        self.money |= frozenset(key_of(v) for v in edition.values if v.unit == edition.currency)

    def fault(self, path: Path, message: str, column: int = 0) -> None:
        """Note a fault, once."""
        made = Fault(path, message, column)
        if made not in self.faults:
            self.faults.append(made)

    def rule(self, source: str | None, path: Path, wanted: str, scope: Scope | None = None) -> Expression | None:
        """Compile a rule that has to give ``wanted``; None if there is none or it is faulty."""
        if source is None:
            return None
        try:
            made = compile_expression(source, scope or self.scope, wanted)
        except ExpressionError as error:
            self.fault(path, str(error), error.column)
            return None
        for told in never_chosen(made, self.options):
            self.fault(path, told)
        self.looked_up(made, path)
        return made

    def looked_up(self, rule: Expression, path: Path) -> None:
        """Fault tables that a rule asks about choices for which they have no row, or whose rows name what is no choice."""
        for call in table_calls(rule, self.options, self.e.tables):
            table = self.e.tables[call.table]
            if told := turned_round(call.table, call.arguments, table.of, self.options):
                self.fault(path, told)
                continue
            odd = list(no_choices(call, table, self.options))
            for n, told in odd:
                self.fault(("tables", call.table, "rows", n), told)
            if not odd and table.otherwise is None and (told := missing_rows(call, self.options, self.rows[call.table])):
                self.fault(("tables", call.table), told)

    def figure(self, said: Decimal | str | None, path: Path, scope: Scope | None = None) -> Figure | None:
        """A plain number as it is, a rule compiled."""
        return said if said is None or isinstance(said, Decimal) else self.rule(said, path, types.NUMBER, scope)

    def text(
        self, source: str | None, path: Path, extra: Mapping[str, str] | None = None, scope: Scope | None = None
    ) -> Text | None:
        """Compile a text with answers in braces."""
        if source is None:
            return None
        within = scope or self.scope
        if extra:
            within = replace(within, names={**within.names, **extra})
        try:
            return compile_text(source, within, self.money, self.options, coin_of(self.e.currency))
        except ExpressionError as error:
            self.fault(path, str(error), error.column)
            return None

    def names(self) -> dict[str, str]:
        """Every name of the edition with its type."""
        names = dict(CASE_NAMES)
        for part in self.e.parts:
            if part.each:
                names[part.id] = types.ITEMS + part.id
                names[f"{part.id}.position"] = types.LIST + types.NUMBER
            for q in part.questions:
                kind = types.answer_type(q.type, f"{part.id}.{q.id}")
                names[f"{part.id}.{q.id}"] = types.LIST + kind if part.each else kind
        # the type of a computed value is found by compiling its rule, in an order in which each is known
        # and a value may read fees: such a one is reckoned after the lines that it names
        waiting = list(self.e.values)
        fees = {f"{what}.{line.line}": types.NUMBER for line in self.e.fees for what in ("fee", "base")}
        inner: dict[str, dict[str, str]] = {p.id: self.columns(p) for p in self.e.parts if p.each}
        for _ in range(len(waiting) + 1):
            still = []
            for v in waiting:
                scope = Scope({**names, **fees, **self.own(v.each, inner)}, {**self.items(), **inner}, self.functions, self.hints)
                try:
                    kind = self.kind_of(v, scope)
                except ExpressionError:
                    still.append(v)
                    continue
                names[key_of(v)] = types.LIST + kind if v.each else kind
                if v.each in inner:
                    inner[v.each][v.id] = kind
            waiting = still
        for v in waiting:
            names.setdefault(key_of(v), types.ANY)
            if v.each in inner:
                inner[v.each].setdefault(v.id, types.ANY)
        self.inner = inner
        return names

    def kind_of(self, value: m.Value, scope: Scope) -> str:
        """The type that a computed answer has."""
        if value.limit is None:
            return compile_expression(value.rule or "", scope).gives
        event = compile_expression(value.limit.after or value.limit.before or "", scope).gives
        return types.MOMENT if value.limit.within.in_hours else event if event == types.ANY else types.DATE

    def columns(self, part: m.Part) -> dict[str, str]:
        """What an item of a repeating part has, with types."""
        own = {q.id: types.answer_type(q.type, f"{part.id}.{q.id}") for q in part.questions}
        return own | {"position": types.NUMBER}

    def own(self, part: str | None, inner: Mapping[str, Mapping[str, str]] | None = None) -> dict[str, str]:
        """The names that mean one item's own values within a part that repeats."""
        columns = (self.inner if inner is None else inner).get(part or "", {})
        return {f"{part}.{name}": kind for name, kind in columns.items()}

    def scope_in(self, part: str | None, extra: Mapping[str, str] | None = None) -> Scope:
        """The scope within one item of a part that repeats; the whole scope without a part."""
        if part is None and not extra:
            return self.scope
        return replace(self.scope, names={**self.scope.names, **self.own(part), **(extra or {})})

    def items(self) -> dict[str, dict[str, str]]:
        """The columns of the parts that repeat and of the questions that have rows."""
        inner = getattr(self, "inner", None) or {p.id: self.columns(p) for p in self.e.parts if p.each}
        rows = {
            f"{p.id}.{q.id}": {c.id: types.answer_type(c.type, "") for c in q.columns} | {"position": types.NUMBER}
            for p in self.e.parts
            for q in p.questions
            if q.type == "rows"
        }
        return inner | rows

    def repeated(self, part: str | None, path: Path, key: str = "each") -> None:
        """Fault an ``each`` that names no part that repeats."""
        if part is not None and part not in self.inner:
            repeats: Iterator[str] = (p.id for p in self.e.parts if p.each)
            self.fault(
                (*path, key),
                say(
                    "`{part}` is no part that repeats (one with `each: true`); those are {repeats}",
                    part=part,
                    repeats=", ".join(repeats) or say("none"),
                ),
            )


def key_of(value: m.Value) -> str:
    """How a computed answer is called: ``id``, or ``part.id`` for one of each repeat."""
    return f"{value.each}.{value.id}" if value.each else value.id
