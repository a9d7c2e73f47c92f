"""The fee sheet: every line with its amount, or what it may be, and its working.

Source: the scenario, *Money* and *What is not known yet*: a line is rounded half up to the cent
when its base is finished, and every later operation starts from the rounded amount.
"""

from __future__ import annotations

import ast
from collections.abc import Iterator, Mapping
from dataclasses import replace
from decimal import Decimal
from functools import partial
from typing import Any

from jolly_clerk.core.absence import NONE, UNKNOWN, is_absent
from jolly_clerk.core.currency import CENT, coin_of, to_coin
from jolly_clerk.core.fees.bases import Bases
from jolly_clerk.core.fees.changes import DOES, Within, may_lower, set_by_hand, sum_of_known
from jolly_clerk.core.fees.lines import STAGES, ZERO, Base, FeeSheet, Line, Made, State, fixed, in_coins, stage_total
from jolly_clerk.core.fees.splitting import rest_of_line, rounding_line
from jolly_clerk.core.fees.working import items_working, told_changes, told_waived, why
from jolly_clerk.core.form import Sheet, compute
from jolly_clerk.core.history import FeeSet
from jolly_clerk.core.in_words import number
from jolly_clerk.core.rulebook.compiled import CompiledChange, CompiledLine
from jolly_clerk.core.rulebook.expressions import Expression
from jolly_clerk.core.rulebook.fee_lines import rules_of
from jolly_clerk.core.rulebook.functions import rounded
from jolly_clerk.core.say import say
from jolly_clerk.core.values import Value


def fee_sheet(sheet: Sheet, by_hand: Mapping[str, FeeSet] | None = None) -> FeeSheet:
    """Work out every line of the rulebook over the answers of ``sheet``.

    ``by_hand`` are the lines that the office waived or set; a share of another line is still taken from that line's own base.
    """
    return reckon(sheet, by_hand or {})[0]


def reckon(sheet: Sheet, by_hand: Mapping[str, FeeSet]) -> tuple[FeeSheet, Mapping[str, Value]]:
    """The fee sheet, and every name with its value as it stands after the last line: the computed answers that read fees among them."""
    reckoner = Reckoner(sheet, by_hand)
    lines, e = tuple(reckoner.lines()), sheet.rulebook.edition
    coin = coin_of(e.currency)
    charged = [line for line in lines if not line.told_only]
    stages = [stage for stage in STAGES if any(line.stage == stage for line in charged)]
    if e.rounding or any(compiled.line.finer for compiled in sheet.rulebook.lines):
        brought = [made for stage in stages if (made := rounding_line(stage, charged, e.rounding, coin))]
        lines, charged = (*lines, *brought), [*charged, *brought]
    totals = tuple(stage_total(stage, charged, coin) for stage in stages)
    return FeeSheet(e.currency, lines, totals), reckoner.values


#: an open line that may come to more amounts than this shows only the least and the most
_MOST_POSSIBLE = 32


class Reckoner(Bases):
    """Works through the lines in their order; a rule of a line may name those above."""

    def __init__(self, sheet: Sheet, by_hand: Mapping[str, FeeSet]) -> None:
        super().__init__(sheet)
        self.by_hand = by_hand
        parts = sheet.rulebook.parts
        #: the parts in which nobody is named yet, though somebody has to be
        self.empty = [
            p for p, items in sheet.items.items() if not items and parts[p].at_least and isinstance(sheet.values[p], list)
        ]

    def lines(self) -> Iterator[Line]:
        """Every line, one that falls due twice as two; and, once the lines that they read are there, the computed answers that read fees."""
        rulebook = self.sheet.rulebook
        coin, late = coin_of(rulebook.edition.currency), list(rulebook.late)
        for n, compiled in enumerate(rulebook.lines):
            line, base = self.line(compiled)
            if coin != CENT and not compiled.line.finer:
                line = in_coins(line, coin)
            self.values[f"base.{line.id}"] = base
            if compiled.line.falls_due is None:
                if line.id in self.by_hand:
                    line = set_by_hand(line, self.by_hand[line.id])
                self.values[f"fee.{line.id}"] = UNKNOWN if line.amount is None and line.state == "open" else line.amount
                self.hanging[line.id] = line.depends_on
                yield line
            else:
                yield from self.twice(compiled, line)
            while late and late[0][0] <= n + 1:
                compute(self.values, late.pop(0)[1])
        for _at, node in late:
            compute(self.values, node)

    def twice(self, compiled: CompiledLine, line: Line) -> list[Line]:
        """A line that falls due twice, as two; lines below know it as one, as it is charged in all."""
        first = compiled.figures["first"]
        assert isinstance(first, Decimal)
        made = [set_by_hand(x, self.by_hand[x.id]) if x.id in self.by_hand else x for x in rest_of_line(line, compiled, first)]
        is_open = any(x.amount is None and x.state == "open" for x in made)
        self.values[f"fee.{line.id}"] = UNKNOWN if is_open else sum_of_known([x.amount for x in made])
        self.hanging[line.id] = tuple(dict.fromkeys(p for x in made for p in x.depends_on))
        return made

    def line(self, compiled: CompiledLine) -> tuple[Line, Value]:
        """A line as the rules have it, and its base; nothing of it is set by hand yet."""
        said = compiled.line
        if self.empty and (unnamed := self.unnamed(compiled)):
            # nothing is named yet of which at least one is needed: what is not known is never told as nothing
            base = Base(None, ZERO, unnamed, str)
            made = Made("open", None, ZERO, None, (), unnamed, lambda: say("depends on an open question"))
        else:
            base, made = self.over_items(compiled) if said.each else self.one(compiled, self.values)
        share = self.figure(compiled, "comes_back", self.values)
        line = Line(
            said.line, said.title, said.stage, said.article, made.state, made.amount, made.low, made.high, made.possible,
            made.depends_on, made.notes, made.working, share if isinstance(share, Decimal) else Decimal(0), said.told_only, said.bond,
        )  # fmt: skip
        if line.state == "open" and not line.depends_on:
            line = replace(line, trouble=self.trouble(compiled))
        return line, ZERO if made.state == "not asked" else UNKNOWN if base.amount is None else base.amount

    def unnamed(self, compiled: CompiledLine) -> tuple[str, ...]:
        """The parts that a line counts and in which nobody is named yet, though somebody has to be."""
        if compiled.when is not None and compiled.when.holds(self.values) is False:
            return ()
        counted = {compiled.line.each, *(name for rule in rules_of(compiled) for name in rule.reads)}
        return tuple(part for part in self.empty if part in counted)

    def one(self, compiled: CompiledLine, values: Mapping[str, Any]) -> tuple[Base, Made]:
        """A line, or one item of it."""
        base = self.base(compiled, values)
        asked = True if compiled.when is None else compiled.when.holds(values)
        if asked is False:
            return base, fixed("not asked", ZERO, lambda: self.because_not(compiled, values))
        if base.amount is NONE:
            return base, fixed("not asked", ZERO, lambda: say("what it is calculated from is not asked"))
        depends = base.depends_on if asked is True else (*base.depends_on, *self.deciding(compiled.when))
        if base.amount is None:
            low = ZERO if asked is UNKNOWN or any(may_lower(c) for c in compiled.changes) else base.low
            possible = base.possible if asked is True else tuple(sorted({ZERO, *base.possible})) if base.possible else ()
            return base, Made(
                "open", None, low, max(possible, default=None), possible, tuple(dict.fromkeys(depends)), base.working
            )
        made = self.changed(compiled, base, values)
        if asked is True:
            return base, made
        possible = tuple(sorted({ZERO, *made.possible}))
        low, high = min(ZERO, made.low), None if made.high is None else max(ZERO, made.high)
        depends = tuple(dict.fromkeys((*depends, *made.depends_on)))
        return base, Made("open", None, low, high, possible, depends, lambda: say("depends on an open question"))

    def over_items(self, compiled: CompiledLine) -> tuple[Base, Made]:
        """A line that is made for every repeat of a part: the sum, held within `all_at_least` and `all_at_most`."""
        part = compiled.line.each or ""
        items = self.values[part]
        if items is NONE:
            nothing = Base(NONE, ZERO, (), str)
            return nothing, fixed("not asked", ZERO, lambda: say("what it is calculated from is not asked"))
        if items is UNKNOWN:
            depends = tuple(self.sheet.deciding(self.sheet.rulebook.part_when[part]))
            return Base(None, ZERO, depends, str), Made(
                "open", None, ZERO, None, (), depends, lambda: say("depends on an open question")
            )
        found = [self.one(compiled, Within(own, self.values)) for own in self.sheet.items[part]]
        amounts = [base.amount for base, made in found if made.state != "not asked"]
        whole = None if any(a is None for a in amounts) else sum(amounts, ZERO)
        base = Base(whole, ZERO, (), str)
        made = [m for _, m in found]
        depends = tuple(dict.fromkeys(p for m in made for p in m.depends_on))
        low, high, bound = self.held(compiled, sum((m.low for m in made), ZERO), sum_of_known([m.high for m in made]))
        if any(m.state == "open" for m in made):
            return base, Made("open", None, low, high, (), depends, lambda: say("depends on open questions"))
        notes = tuple(dict.fromkeys(note for m in made for note in m.notes))
        asked = [m for m in made if m.state != "not asked"]
        if made and not asked:
            return base, made[0]._replace(notes=notes)
        state: State = "waived" if asked and all(m.state == "waived" for m in asked) else "settled"
        return base, fixed(state, low, lambda: items_working(asked, low, bound, compiled.coin), notes)

    def held(self, compiled: CompiledLine, low: Decimal, high: Decimal | None) -> tuple[Decimal, Decimal | None, str]:
        least, most = (self.figure(compiled, name, self.values) for name in ("all_at_least", "all_at_most"))
        bound = ""
        if least is not None and not is_absent(least) and low < least:
            low, bound = to_coin(least, compiled.coin), say("at least")
            high = None if high is None else max(high, low)
        if most is not None and not is_absent(most):
            most = to_coin(most, compiled.coin)
            if low > most:
                low, bound = most, say("at most")
            high = most if high is None or high > most else high
        return low, high, bound

    def changed(self, compiled: CompiledLine, base: Base, values: Mapping[str, Any]) -> Made:
        """Apply the changes in their order; one whose condition is unknown is tried both ways."""
        if not compiled.changes:
            return fixed("settled", base.amount, base.working)
        held: list[tuple[CompiledChange, Any, Decimal]] = []
        depends: dict[str, None] = {}
        # each amount that it may come to, and whether one of the exemptions, of which the first that holds is made, was made on it
        amounts, may_be_waived = {(base.amount, False)}, False
        for change in compiled.changes:
            if change.exemption and all(exempt for _, exempt in amounts):
                continue
            holds = True if change.when is None else change.when.holds(values)
            if holds is False:
                continue
            if holds is UNKNOWN:
                depends.update(dict.fromkeys(self.deciding(change.when)))
            if change.does == "waived":
                if holds is True and not any(change.exemption and exempt for _, exempt in amounts):
                    note = say("{title} (art. {article})", title=change.change.title, article=change.change.article)
                    return fixed("waived", ZERO, partial(told_waived, base, note), (note,))
                may_be_waived = True
                continue
            stays = {(amount, exempt) for amount, exempt in amounts if change.exemption and exempt}
            after = [(amount, self.after(compiled, change, amount, values), exempt) for amount, exempt in amounts - stays]
            if any(found is UNKNOWN for _, found, _ in after):
                figure = change.figure
                open_now = self.deciding(figure) if isinstance(figure, Expression) else ()
                return Made("open", None, ZERO, None, (), tuple(dict.fromkeys((*depends, *open_now))), base.working)
            if holds is True and len(amounts) == 1 and after[0][1] is not NONE:
                held.append((change, after[0][0], after[0][1]))
            made = {(before if found is NONE else found, change.exemption or exempt) for before, found, exempt in after}
            amounts = made | stays if holds is True else amounts | made
        may_be = {amount for amount, _ in amounts}
        possible = tuple(sorted(may_be | {ZERO} if may_be_waived else may_be))
        if len(possible) == 1:
            notes = tuple(say("{title} (art. {article})", title=c.change.title, article=c.change.article) for c, _, _ in held)
            return fixed(
                "settled",
                possible[0],
                lambda: told_changes(base, held, lambda c, before: self.figure_told(c, before, values), compiled.coin),
                notes,
            )
        listed = possible if len(possible) <= _MOST_POSSIBLE else ()
        return Made("open", None, possible[0], possible[-1], listed, tuple(depends), base.working)

    def after(self, compiled: CompiledLine, change: CompiledChange, amount: Decimal, values: Mapping[str, Any]) -> Value:
        """The amount after one change; UNKNOWN if its figure is, NONE if that is not asked."""
        figure = self.figure_of(change, amount, values)
        if is_absent(figure):
            return figure
        exact = DOES[change.does](amount, figure)
        said = change.change
        if said.rounded is None and said.to is None:
            return to_coin(exact, compiled.coin)
        return to_coin(rounded(exact, said.to or compiled.coin, said.rounded or "nearest"), compiled.coin)

    def figure_of(self, change: CompiledChange, amount: Decimal, values: Mapping[str, Any]) -> Value:
        """The figure of a change; its rule may name the line so far."""
        if isinstance(change.figure, Decimal):
            return change.figure
        return change.figure.value({**self.values, **values, "amount_so_far": amount})

    def figure_told(self, change: CompiledChange, amount: Decimal, values: Mapping[str, Any]) -> str:
        """The figure of a change over an amount, as it came about."""
        if isinstance(change.figure, Decimal):
            return number(change.figure)
        told = self.told(change.figure, {**self.values, **values, "amount_so_far": amount})
        return f"({told})" if isinstance(change.figure.tree, (ast.BinOp, ast.IfExp)) else told

    def because_not(self, compiled: CompiledLine, values: Mapping[str, Any]) -> str:
        rule = compiled.when
        return say("not asked: {why}", why=why(self.sheet, rule, values, False)) if rule else say("not asked")
