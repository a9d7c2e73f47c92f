"""What a fee line comes to before its changes: each of its shapes, rounded and held, with its working."""

from __future__ import annotations

import ast
from collections.abc import Callable, Mapping, Sequence
from decimal import Decimal
from typing import Any

from jolly_clerk.core.absence import NONE, UNKNOWN, is_absent
from jolly_clerk.core.currency import to_coin
from jolly_clerk.core.fees.changes import climb_of
from jolly_clerk.core.fees.lines import ZERO, Base
from jolly_clerk.core.fees.working import band_working, coins, rounded_way, why
from jolly_clerk.core.form import Sheet
from jolly_clerk.core.in_words import all_of, money_in, number
from jolly_clerk.core.rulebook.bands import BandStep, amount_in_band, steps_of
from jolly_clerk.core.rulebook.compiled import CompiledLine
from jolly_clerk.core.rulebook.expressions import Expression
from jolly_clerk.core.rulebook.fee_lines import rules_of
from jolly_clerk.core.rulebook.functions import rounded
from jolly_clerk.core.rulebook.reasons import formula
from jolly_clerk.core.rulebook.telling import shown
from jolly_clerk.core.say import _, say
from jolly_clerk.core.values import Value


class Bases:
    """Works out the bases of lines over what is known so far; a rule of a line may name those above."""

    def __init__(self, sheet: Sheet) -> None:
        self.sheet = sheet
        self.values = dict(sheet.values)
        self.hanging: dict[str, tuple[str, ...]] = {}

    def deciding(self, rule: Expression | None) -> tuple[str, ...]:
        """The open questions that decide a rule, those of the lines that it names among them."""
        found = dict.fromkeys(self.sheet.deciding(rule))
        for name in sorted(rule.reads) if rule else ():
            head, _, line = name.partition(".")
            if head in ("fee", "base"):
                found.update(dict.fromkeys(self.hanging.get(line, ())))
        return tuple(found)

    def figure(self, compiled: CompiledLine, name: str, values: Mapping[str, Any]) -> Value:
        """A number that the line says; None if it does not say it."""
        said = compiled.figures.get(name)
        return said.value(values) if isinstance(said, Expression) else said

    def base(self, compiled: CompiledLine, values: Mapping[str, Any]) -> Base:
        line = compiled.line
        if line.percent and line.percent.value is None:
            return self.percent(compiled, values)
        if line.top_up or line.cap:
            return self.over_lines(compiled, values)
        if line.flat is not None:
            return self.flat(compiled, values)
        if compiled.tables:
            return self.one_of_tables(compiled, values)
        assert compiled.of is not None
        value = compiled.of.value(values)
        if is_absent(value):
            return self.open_base(compiled, value, values)
        if compiled.bands:
            return self.in_bands(compiled, compiled.bands, compiled.of, value, values)
        if line.steps:
            return self.steps(compiled, value, values)
        if line.each_costs:
            return self.each_costs(compiled, value, values)
        if line.percent:
            return self.percent_of_value(compiled, value, values)
        rule = compiled.of
        return self.bounded(compiled, value, lambda: self.told(rule, values), values)

    def in_bands(
        self, compiled: CompiledLine, bands: Sequence[BandStep], counted: Expression, value: Decimal, values: Mapping[str, Any]
    ) -> Base:
        """The amount of a band table at a value."""
        band = next(b for b in bands if b.high is None or value <= b.high)
        how = lambda: band_working(band, value, self.told(counted, values), compiled.coin)  # noqa: E731
        return self.bounded(compiled, amount_in_band(band, value), how, values)

    def one_of_tables(self, compiled: CompiledLine, values: Mapping[str, Any]) -> Base:
        """The amount of the first of several band tables whose condition holds."""
        for table in compiled.tables:
            holds = True if table.when is None else table.when.holds(values)
            if holds is UNKNOWN:
                return self.hangs_on(None, table.when)
            if holds is True:
                value = table.of.value(values)
                return (
                    self.hangs_on(value, table.of)
                    if is_absent(value)
                    else self.in_bands(compiled, table.bands, table.of, value, values)
                )
        return self.hangs_on(NONE, None)

    def hangs_on(self, value: Value, *rules: Expression | Decimal | None) -> Base:
        """A base that hangs on the open questions of these rules, or (NONE) on what is not asked."""
        depends = dict.fromkeys(p for rule in rules if isinstance(rule, Expression) for p in self.deciding(rule))
        return Base(NONE if value is NONE else None, ZERO, tuple(depends), lambda: say("depends on an open question"))

    def each_costs(self, compiled: CompiledLine, value: Decimal, values: Mapping[str, Any]) -> Base:
        """A price for each one beyond those that are free: ``(12 − 2) [Nights] × 4.50``."""
        price, free = self.figure(compiled, "price", values), self.figure(compiled, "free", values)
        for figure, name in ((price, "price"), (free, "free")):
            if is_absent(figure):
                return self.hangs_on(figure, compiled.figures[name])
        paid, counts = max(value - free, ZERO), compiled.of
        assert counts is not None

        def how() -> str:
            counted = self.bracketed(counts, values)
            if free:
                beyond = f"{counted} − {self.told_figure(compiled, 'free', values)}"
                counted = f"({beyond})" if paid else f"({say('the higher of')} {all_of(['0', beyond])})"
            return f"{counted} × {self.told_figure(compiled, 'price', values)}"

        return self.bounded(compiled, paid * price, how, values)

    def percent_of_value(self, compiled: CompiledLine, value: Decimal, values: Mapping[str, Any]) -> Base:
        """A share of an answer: ``0.9 % of 44 547.00 [Cost of the works]``."""
        rate, counts = self.figure(compiled, "rate", values), compiled.of
        if is_absent(rate):
            return self.hangs_on(rate, compiled.figures["rate"])
        assert counts is not None
        told = lambda: say(  # noqa: E731
            "{rate} % of {of}", rate=self.told_figure(compiled, "rate", values), of=self.bracketed(counts, values)
        )
        return self.bounded(compiled, value * rate / 100, told, values)

    def over_lines(self, compiled: CompiledLine, values: Mapping[str, Any]) -> Base:
        """What is missing to a sum of other lines, or (below zero) what they come to beyond one."""
        shape = compiled.line.top_up or compiled.line.cap
        assert shape is not None
        amounts, most = [self.values[f"fee.{name}"] for name in shape.of], self.figure(compiled, "sum", values)
        if is_absent(most):
            return self.hangs_on(most, compiled.figures["sum"])
        if any(a is UNKNOWN for a in amounts):
            depends = tuple(dict.fromkeys(p for name in shape.of for p in self.hanging[name]))
            return Base(None, ZERO, depends, lambda: say("depends on an open question"))
        known = [(name, amount) for name, amount in zip(shape.of, amounts, strict=True) if amount is not NONE]
        if not known:
            return Base(NONE, ZERO, (), str)
        difference = most - sum((amount for _, amount in known), Decimal(0))
        top = compiled.line.top_up is not None
        exact = max(difference, ZERO) if top else min(difference, ZERO)

        def how() -> str:
            of = self.sum_told([(f"fee.{name}", amount) for name, amount in known], compiled.coin)
            told = f"{self.told_figure(compiled, 'sum', values)} − {of}"
            end = say("the higher of") if top else say("the lower of")
            return told if exact else f"{end} {all_of(['0', told])}"

        return self.bounded(compiled, exact, how, values)

    def sum_told(self, lines: Sequence[tuple[str, Decimal]], coin: Decimal) -> str:
        """``(96.00 [Meter] + 54.00 [Second meter])``: lines with their titles; one alone without brackets."""
        words = self.sheet.rulebook.words.names
        pieces = [f"{money_in(amount, coin)} [{words[name].label}]" for name, amount in lines]
        return pieces[0] if len(pieces) == 1 else f"({' + '.join(pieces).replace('+ −', '− ')})"

    def bracketed(self, rule: Expression, values: Mapping[str, Any]) -> str:
        """A rule as a formula, in brackets where it is a sum."""
        told = self.told(rule, values)
        return f"({told})" if isinstance(rule.tree, (ast.BinOp, ast.IfExp)) or told.startswith(("the ", "−")) else told

    def trouble(self, compiled: CompiledLine) -> str:
        """Why a line cannot be worked out."""
        owns = self.sheet.items[compiled.line.each] if compiled.line.each else [self.values]
        found = [
            why
            for own in owns
            for rule in rules_of(compiled)
            if (why := rule.trouble({**self.values, **own, "amount_so_far": ZERO}))
        ]
        return say("cannot be worked out: {why}", why=found[0] if found else say("what it rests on cannot"))

    def told(self, rule: Expression, values: Mapping[str, Any]) -> str:
        """A rule as a formula in the words of the form."""
        return formula(rule.tree, values, rule.functions, self.sheet.rulebook.words)

    def open_base(self, compiled: CompiledLine, value: Value, values: Mapping[str, Any]) -> Base:
        """A base that hangs on an open question, or (NONE) on one that is not asked."""
        least = self.figure(compiled, "at_least", values)
        known = least is not None and not is_absent(least)
        low = least if known else min((b.start for b in compiled.bands), default=ZERO)
        possible = () if value is NONE else self.looked_up(compiled)
        low = max(low, min(possible, default=low))
        depends = self.deciding(compiled.of)
        return Base(NONE if value is NONE else None, low, depends, lambda: say("depends on an open question"), possible)

    def looked_up(self, compiled: CompiledLine) -> tuple[Decimal, ...]:
        """All amounts that a plain look into a table or scale can give, as ``entry_fee(persons.age)``; empty for any other rule."""
        tree, edition = compiled.of.tree if compiled.of else None, self.sheet.rulebook.edition
        bounded = compiled.line.to or any(compiled.figures.get(name) is not None for name in ("at_least", "at_most"))
        if bounded or compiled.changes or compiled.bands or not (isinstance(tree, ast.Call) and isinstance(tree.func, ast.Name)):
            return ()
        name = tree.func.id
        if name in edition.scales:
            said = [step.is_ for step in edition.scales[name].steps]
        elif name in edition.tables:
            table = edition.tables[name]
            said = [row["is"] for row in table.rows] + ([table.otherwise] if table.otherwise else [])
        else:
            return ()
        return tuple(sorted({to_coin(Decimal(amount), compiled.coin) for amount in said}))

    def flat(self, compiled: CompiledLine, values: Mapping[str, Any]) -> Base:
        said = compiled.figures["flat"]
        if not isinstance(said, Decimal):
            value = said.value(values)
            if is_absent(value):
                return self.hangs_on(value, said)
            rule = said
            return self.bounded(compiled, value, lambda: self.told(rule, values), values)
        flat, coin = to_coin(said, compiled.coin), compiled.coin
        when = compiled.when
        if when is None:
            return Base(flat, flat, (), lambda: say("{flat}, fixed", flat=coins(flat, coin)))
        rule = when
        return Base(
            flat, flat, (), lambda: say("{flat}, because {why}", flat=coins(flat, coin), why=why(self.sheet, rule, values, True))
        )

    def steps(self, compiled: CompiledLine, value: Decimal, values: Mapping[str, Any]) -> Base:
        steps = compiled.line.steps
        assert steps is not None
        adds, free = self.figure(compiled, "adds", values), self.figure(compiled, "free", values)
        for figure, name in ((adds, "adds"), (free, "free")):
            if is_absent(figure):
                return self.hangs_on(figure, compiled.figures[name])
        climb, step = climb_of(steps)
        counted = steps_of(value - free, step, climb)

        counts = compiled.of
        assert counts is not None

        def how() -> str:
            word = {"started": _("each started {step}"), "full": _("each full {step}"), "evenly": _("each {step}")}[climb]
            each = say("{each} of {counted}", each=say(word, step=number(step)), counted=self.told(counts, values))
            if free:
                each = say("{each} beyond {free}", each=each, free=self.told_figure(compiled, "free", values))
            return f"{number(counted)} × {self.told_figure(compiled, 'adds', values)} [{each}]"

        return self.bounded(compiled, counted * adds, how, values)

    def percent(self, compiled: CompiledLine, values: Mapping[str, Any]) -> Base:
        share = compiled.line.percent
        assert share is not None
        which = "fee" if share.after_changes else "base"
        amounts = [self.values[f"{which}.{name}"] for name in share.lines]
        rate = self.figure(compiled, "rate", values)
        rule = compiled.figures["rate"]
        depends = tuple(dict.fromkeys(p for name in share.lines for p in self.hanging[name]))
        if is_absent(rate):
            depends = (*depends, *(self.deciding(rule) if isinstance(rule, Expression) else ()))
            return Base(NONE if rate is NONE else None, ZERO, depends, lambda: say("depends on an open question"))
        if any(a is UNKNOWN for a in amounts):
            least = self.figure(compiled, "at_least", values)
            low = ZERO if least is None or is_absent(least) else least
            return Base(None, low, depends, lambda: say("{rate} % of a line that is open", rate=number(rate)))
        known = [a for a in amounts if a is not NONE]
        if not known:
            return Base(NONE, ZERO, (), str)
        whole = sum(known, Decimal(0))

        def how() -> str:
            named = [(f"{which}.{name}", a) for name, a in zip(share.lines, amounts, strict=True) if a is not NONE]
            of = self.sum_told(named, compiled.coin)
            return say("{rate} % of {of}", rate=self.told_figure(compiled, "rate", values), of=of)

        return self.bounded(compiled, whole * rate / 100, how, values)

    def told_figure(self, compiled: CompiledLine, name: str, values: Mapping[str, Any]) -> str:
        """A number that the line says: as it stands, or its rule worked out, in brackets where it is a sum."""
        said = compiled.figures[name]
        if isinstance(said, Decimal):
            return number(said)
        return self.bracketed(said, values)

    def bounded(self, compiled: CompiledLine, exact: Decimal, how: Callable[[], str], values: Mapping[str, Any]) -> Base:
        """Round the finished base and hold it within at_least and at_most; the working says what happened."""
        line, coin = compiled.line, compiled.coin
        if line.to is None and line.rounded == "nearest":
            amount = to_coin(exact, coin)
        else:
            amount = to_coin(rounded(exact, line.to or coin, line.rounded), coin)
        brought, bound = amount, ""
        least, most = self.figure(compiled, "at_least", values), self.figure(compiled, "at_most", values)
        for figure, name in ((least, "at_least"), (most, "at_most")):
            if is_absent(figure):
                rule = compiled.figures[name]
                return Base(None, ZERO, self.deciding(rule) if isinstance(rule, Expression) else (), how)
        if least is not None and amount < least:
            amount, bound = to_coin(least, coin), say("at least")
        elif most is not None and amount > most:
            amount, bound = to_coin(most, coin), say("at most")

        def working() -> str:
            said, told = how(), coins(amount, coin)
            plain, _mark, notes = said.partition(" [")
            if (
                plain == number(exact)
                and exact == amount
                and (not notes or notes.count("[") == notes.count("]") - 1 == said.count("[") - 1)
            ):
                return f"{told}{said.removeprefix(plain)}"
            decimals = max(-int(coin.as_tuple().exponent), 0)
            text = said if said == shown(exact, decimals) else f"{said} = {shown(exact, decimals)}"
            if exact != brought and not bound:
                way = rounded_way(line.rounded, line.to or coin)
                text = say("{text}, {way}: {amount}", text=text, way=way, amount=told)
            if not bound:
                return text
            rule = compiled.figures["at_least" if bound == say("at least") else "at_most"]
            how_bound = f" [{self.told(rule, values)}]" if isinstance(rule, Expression) else ""
            return f"{text}, {bound} {told}{how_bound}"

        return Base(amount, amount, (), working)
