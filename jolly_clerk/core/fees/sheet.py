"""The fee sheet: every line with its amount, or what it may be, and its working.

Source: the scenario, *Money* and *What is not known yet*: a line is rounded half up to the cent
when its base is finished, and every later operation starts from the rounded amount.
"""

from __future__ import annotations

import ast
from collections.abc import Callable, Mapping
from dataclasses import replace
from decimal import Decimal
from functools import partial
from typing import Any

from jolly_clerk.core.absence import NONE, UNKNOWN, is_absent
from jolly_clerk.core.currency import CENT, coin_of, to_coin
from jolly_clerk.core.fees.changes import DOES, Within, climb_of, may_lower, set_by_hand, sum_of_known
from jolly_clerk.core.fees.lines import STAGES, ZERO, Base, FeeSheet, Line, Made, State, fixed, in_coins, stage_total
from jolly_clerk.core.fees.working import band_working, coins, items_working, rounded_way, told_changes, told_waived, why
from jolly_clerk.core.form import Sheet
from jolly_clerk.core.history import FeeSet
from jolly_clerk.core.in_words import number
from jolly_clerk.core.rulebook.bands import amount_in_band, steps_of
from jolly_clerk.core.rulebook.compiled import CompiledChange, CompiledLine
from jolly_clerk.core.rulebook.expressions import Expression
from jolly_clerk.core.rulebook.functions import rounded
from jolly_clerk.core.rulebook.reasons import formula
from jolly_clerk.core.rulebook.telling import shown
from jolly_clerk.core.say import _, say
from jolly_clerk.core.values import Value


def fee_sheet(sheet: Sheet, by_hand: Mapping[str, FeeSet] | None = None) -> FeeSheet:
    """Work out every line of the rulebook over the answers of ``sheet``.

    ``by_hand`` are the lines that the office waived or set; a share of another line is still taken from that line's own base.
    """
    lines = Reckoner(sheet, by_hand or {}).lines()
    coin = coin_of(sheet.rulebook.edition.currency)
    if coin != CENT:
        lines = tuple(in_coins(line, coin) for line in lines)
    charged = [line for line in lines if not line.told_only]
    stages = [stage for stage in STAGES if any(line.stage == stage for line in charged)]
    return FeeSheet(sheet.rulebook.edition.currency, lines, tuple(stage_total(stage, charged, coin) for stage in stages))


#: an open line that may come to more amounts than this shows only the least and the most
_MOST_POSSIBLE = 32


class Reckoner:
    """Works through the lines in their order; a rule of a line may name those above."""

    def __init__(self, sheet: Sheet, by_hand: Mapping[str, FeeSet]) -> None:
        self.sheet, self.by_hand = sheet, by_hand
        self.values = dict(sheet.values)
        self.hanging: dict[str, tuple[str, ...]] = {}

    def lines(self) -> tuple[Line, ...]:
        """Every line."""
        return tuple(self.line(compiled) for compiled in self.sheet.rulebook.lines)

    def line(self, compiled: CompiledLine) -> Line:
        said = compiled.line
        base, made = self.over_items(compiled) if said.each else self.one(compiled, self.values)
        share = self.figure(compiled, "comes_back", self.values)
        line = Line(
            said.line, said.title, said.stage, said.article, made.state, made.amount, made.low, made.high, made.possible,
            made.depends_on, made.notes, made.working, share if isinstance(share, Decimal) else Decimal(0), said.told_only, said.bond,
        )  # fmt: skip
        if line.state == "open" and not line.depends_on:
            line = replace(line, trouble=self.trouble(compiled))
        if said.line in self.by_hand:
            line = set_by_hand(line, self.by_hand[said.line])
        self.values[f"base.{said.line}"] = ZERO if made.state == "not asked" else UNKNOWN if base.amount is None else base.amount
        self.values[f"fee.{said.line}"] = UNKNOWN if line.amount is None and line.state == "open" else line.amount
        self.hanging[said.line] = line.depends_on
        return line

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
            return base, Made("open", None, low, None, (), tuple(dict.fromkeys(depends)), base.working)
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

    def base(self, compiled: CompiledLine, values: Mapping[str, Any]) -> Base:
        line = compiled.line
        if line.percent:
            return self.percent(compiled, values)
        if line.flat is not None:
            return self.flat(compiled, values)
        assert compiled.of is not None
        value = compiled.of.value(values)
        if is_absent(value):
            return self.open_base(compiled, value, values)
        if compiled.bands:
            band = next(b for b in compiled.bands if b.high is None or value <= b.high)
            counted = compiled.of
            how = lambda: band_working(band, value, self.told(counted, values), compiled.coin)  # noqa: E731
            return self.bounded(compiled, amount_in_band(band, value), how, values)
        if line.steps:
            return self.steps(compiled, value, values)
        rule = compiled.of
        return self.bounded(compiled, value, lambda: self.told(rule, values), values)

    def trouble(self, compiled: CompiledLine) -> str:
        """Why a line cannot be worked out."""
        rules = [
            compiled.of,
            *compiled.figures.values(),
            compiled.when,
            *(c.figure for c in compiled.changes),
            *(c.when for c in compiled.changes),
        ]
        owns = self.sheet.items[compiled.line.each] if compiled.line.each else [self.values]
        found = [
            why
            for own in owns
            for rule in rules
            if isinstance(rule, Expression) and (why := rule.trouble({**self.values, **own, "amount_so_far": ZERO}))
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
        return Base(NONE if value is NONE else None, low, self.deciding(compiled.of), lambda: say("depends on an open question"))

    def flat(self, compiled: CompiledLine, values: Mapping[str, Any]) -> Base:
        said = compiled.figures["flat"]
        if not isinstance(said, Decimal):
            value = said.value(values)
            if is_absent(value):
                return Base(
                    NONE if value is NONE else None, ZERO, self.deciding(said), lambda: say("depends on an open question")
                )
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
                rule = compiled.figures[name]
                depends = self.deciding(rule) if isinstance(rule, Expression) else ()
                return Base(NONE if figure is NONE else None, ZERO, depends, lambda: say("depends on an open question"))
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
        words = self.sheet.rulebook.words.names

        def how() -> str:
            pieces = [
                f"{coins(amount, compiled.coin)} [{words[f'{which}.{name}'].label}]"
                for name, amount in zip(share.lines, amounts, strict=True)
                if amount is not NONE
            ]
            of = pieces[0] if len(pieces) == 1 else f"({' + '.join(pieces).replace('+ −', '− ')})"
            return say("{rate} % of {of}", rate=self.told_figure(compiled, "rate", values), of=of)

        return self.bounded(compiled, whole * rate / 100, how, values)

    def told_figure(self, compiled: CompiledLine, name: str, values: Mapping[str, Any]) -> str:
        """A number that the line says: as it stands, or its rule worked out, in brackets where it is a sum."""
        said = compiled.figures[name]
        if isinstance(said, Decimal):
            return number(said)
        told = self.told(said, values)
        return f"({told})" if isinstance(said.tree, (ast.BinOp, ast.IfExp)) or told.startswith(("the ", "−")) else told

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

    def changed(self, compiled: CompiledLine, base: Base, values: Mapping[str, Any]) -> Made:
        """Apply the changes in their order; one whose condition is unknown is tried both ways."""
        if not compiled.changes:
            return fixed("settled", base.amount, base.working)
        held: list[tuple[CompiledChange, Any, Decimal]] = []
        depends: dict[str, None] = {}
        amounts, may_be_waived = {base.amount}, False
        for change in compiled.changes:
            holds = True if change.when is None else change.when.holds(values)
            if holds is False:
                continue
            if holds is UNKNOWN:
                depends.update(dict.fromkeys(self.deciding(change.when)))
            if change.does == "waived":
                if holds is True:
                    note = say("{title} (art. {article})", title=change.change.title, article=change.change.article)
                    return fixed("waived", ZERO, partial(told_waived, base, note), (note,))
                may_be_waived = True
                continue
            after = [(amount, self.after(compiled, change, amount, values)) for amount in amounts]
            if any(found is UNKNOWN for _, found in after):
                figure = change.figure
                open_now = self.deciding(figure) if isinstance(figure, Expression) else ()
                return Made("open", None, ZERO, None, (), tuple(dict.fromkeys((*depends, *open_now))), base.working)
            if holds is True and len(amounts) == 1 and after[0][1] is not NONE:
                held.append((change, after[0][0], after[0][1]))
            made = {before if found is NONE else found for before, found in after}
            amounts = made if holds is True else amounts | made
        possible = tuple(sorted(amounts | {ZERO} if may_be_waived else amounts))
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
