"""The fee sheet: every line with its amount, or what it may be, and its working.

Source: the scenario, *Money* and *What is not known yet*: a line is rounded half up to the cent
when its base is finished, and every later operation starts from the rounded amount.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Decimal
from itertools import product
from typing import Annotated, Any, Literal

from pydantic import PlainSerializer, WithJsonSchema

from jolly_clerk.core.absence import NONE, UNKNOWN, is_absent
from jolly_clerk.core.form import Sheet
from jolly_clerk.core.rulebook.compiled import (
    BandStep,
    CompiledChange,
    CompiledLine,
    ComputedValue,
    amount_in_band,
    steps_in_band,
)
from jolly_clerk.core.rulebook.evaluate import working as told
from jolly_clerk.core.rulebook.model import Stage
from jolly_clerk.core.say import money, number, say

CENT = Decimal("0.01")
ZERO = Decimal("0.00")
STAGES: tuple[Stage, ...] = ("at filing", "after the check", "at issue")

#: a sentence that is made only when somebody reads it
Lazy = Annotated[Callable[[], str], PlainSerializer(lambda f: f(), return_type=str), WithJsonSchema({"type": "string"})]


def to_cents(amount: Decimal) -> Decimal:
    """Rounded half up to the cent."""
    return amount.quantize(CENT, ROUND_HALF_UP)


@dataclass(frozen=True, slots=True)
class Line:
    """One line of the sheet.

    ``settled`` lines have ``amount`` (and ``low`` = ``high`` = it). ``open`` ones have what it may be:
    ``possible`` amounts if they can be listed, else ``low`` and no ``high``; ``depends_on`` are places.
    """

    id: str
    title: str
    stage: Stage
    article: str
    state: Literal["settled", "waived", "not asked", "open"]
    amount: Decimal | None
    low: Decimal
    high: Decimal | None
    possible: tuple[Decimal, ...]
    depends_on: tuple[str, ...]
    notes: tuple[str, ...]
    working: Lazy


@dataclass(frozen=True, slots=True)
class StageTotal:
    """The sum of one stage; ``amount`` is None while a line is open. ``high`` None means no upper end is known."""

    stage: Stage
    amount: Decimal | None
    low: Decimal
    high: Decimal | None


@dataclass(frozen=True, slots=True)
class FeeSheet:
    """All lines in the rulebook's order and a total for each stage that has lines."""

    currency: str
    lines: tuple[Line, ...]
    totals: tuple[StageTotal, ...]

    def total(self, stage: Stage) -> StageTotal:
        """The total of a stage; zero if it has no lines."""
        return next((t for t in self.totals if t.stage == stage), StageTotal(stage, ZERO, ZERO, ZERO))


@dataclass(frozen=True, slots=True)
class _Base:
    """A line before its changes: the rounded amount, or why there is none."""

    amount: Decimal | None
    low: Decimal
    depends_on: tuple[str, ...]
    working: Callable[[], str]


def fee_sheet(sheet: Sheet) -> FeeSheet:
    """Work out every line of the rulebook over the answers of ``sheet``."""
    bases: dict[str, _Base] = {}
    lines = tuple(_line(line, sheet, bases) for line in sheet.rulebook.lines)
    stages = [stage for stage in STAGES if any(line.stage == stage for line in lines)]
    return FeeSheet(sheet.rulebook.edition.currency, lines, tuple(_total(stage, lines) for stage in stages))


def _total(stage: Stage, lines: tuple[Line, ...]) -> StageTotal:
    own = [line for line in lines if line.stage == stage]
    low = sum((line.low for line in own), ZERO)
    highs = [line.high for line in own]
    high = None if any(h is None for h in highs) else sum((h for h in highs if h is not None), ZERO)
    return StageTotal(stage, low if all(line.state != "open" for line in own) else None, low, high)


def _line(compiled: CompiledLine, sheet: Sheet, bases: dict[str, _Base]) -> Line:
    base = _base(compiled, sheet, bases)
    bases[compiled.line.line] = base
    asked = True if compiled.when is None else compiled.when.holds(sheet.values)
    if asked is False:
        return _made(compiled, "not asked", ZERO, (ZERO,), (), lambda: _because_not(compiled, sheet))
    if base.amount is NONE:
        return _made(compiled, "not asked", ZERO, (ZERO,), (), lambda: "what it is reckoned from is not asked")
    if base.amount is None or asked is UNKNOWN:
        return _open(compiled, sheet, base, asked)
    return _changed(compiled, sheet, base)


def _made(
    compiled: CompiledLine,
    state: Literal["settled", "waived", "not asked", "open"],
    amount: Decimal | None,
    possible: tuple[Decimal, ...],
    depends_on: tuple[str, ...],
    working: Callable[[], str],
    notes: tuple[str, ...] = (),
) -> Line:
    line = compiled.line
    low, high = (possible[0], possible[-1]) if possible else (ZERO, None)
    return Line(line.line, line.title, line.stage, line.article, state, amount, low, high, possible, depends_on, notes, working)


def _because_not(compiled: CompiledLine, sheet: Sheet) -> str:
    rule = compiled.when
    return f"not asked: {told(rule.tree, sheet.values, rule.functions)} does not hold" if rule else "not asked"


def _open(compiled: CompiledLine, sheet: Sheet, base: _Base, asked: Any) -> Line:
    depends = (*base.depends_on, *(sheet.deciding(compiled.when) if asked is UNKNOWN else ()))
    depends = tuple(dict.fromkeys(depends))
    if base.amount is not None:
        when_asked = _changed(compiled, sheet, base)
        possible = tuple(sorted({ZERO, *(when_asked.possible or (base.amount,))}))
        return _made(compiled, "open", None, possible, (*depends, *when_asked.depends_on), lambda: "depends on an open question")
    low = ZERO if asked is UNKNOWN or any(c.change.waived or (c.change.times or 0) < 1 for c in compiled.changes) else base.low
    line = compiled.line
    return Line(line.line, line.title, line.stage, line.article, "open", None, low, None, (), depends, (), base.working)


def _changed(compiled: CompiledLine, sheet: Sheet, base: _Base) -> Line:
    """Apply the changes in their order; a change whose condition is unknown is tried both ways."""
    assert base.amount is not None
    states = [(change, change.when.holds(sheet.values)) for change in compiled.changes]
    if not any(state is UNKNOWN for _, state in states):
        holding = [change for change, state in states if state]
        amount = _after(base.amount, holding)
        waived = any(c.change.waived for c in holding)
        notes = tuple(f"{c.change.title} (art. {c.change.article})" for c in holding)
        state: Literal["settled", "waived"] = "waived" if waived else "settled"
        return _made(compiled, state, amount, (amount,), (), lambda: _working(compiled, base, holding), notes)
    choices = [(True, False) if state is UNKNOWN else (bool(state),) for _, state in states]
    outcomes = {
        _after(base.amount, [change for (change, _), on in zip(states, ways, strict=True) if on]) for ways in product(*choices)
    }
    possible = tuple(sorted(outcomes))
    depends = tuple(dict.fromkeys(p for change, state in states if state is UNKNOWN for p in sheet.deciding(change.when)))
    if len(possible) == 1:
        return _made(compiled, "settled", possible[0], possible, (), lambda: _working(compiled, base, []))
    return _made(compiled, "open", None, possible, depends, base.working)


def _after(amount: Decimal, changes: list[CompiledChange]) -> Decimal:
    if any(c.change.waived for c in changes):
        return ZERO
    for compiled in changes:
        amount = to_cents(amount * (compiled.change.times or Decimal(1)))
    return amount


def _working(compiled: CompiledLine, base: _Base, changes: list[CompiledChange]) -> str:
    text, amount = base.working(), base.amount
    waiver = next((c for c in changes if c.change.waived), None)
    if waiver:
        return f"{text}; waived: {waiver.change.title} (art. {waiver.change.article})"
    for change in changes:
        assert amount is not None
        amount = _after(amount, [change])
        text += f"; × {number(change.change.times or Decimal(1))} = {money(amount)}: {change.change.title} (art. {change.change.article})"
    return text


def _base(compiled: CompiledLine, sheet: Sheet, bases: Mapping[str, _Base]) -> _Base:
    line = compiled.line
    if line.percent:
        return _percent(compiled, bases[line.percent.of])
    if line.flat is not None:
        flat = to_cents(line.flat)
        return _Base(flat, flat, (), lambda: _flat_working(compiled, sheet, flat))
    assert compiled.of is not None
    value = compiled.of.value(sheet.values)
    if is_absent(value):
        low = line.at_least if line.at_least is not None else min((b.start for b in compiled.bands), default=ZERO)
        amount = NONE if value is NONE else None
        return _Base(amount, low, tuple(sheet.deciding(compiled.of)), lambda: "depends on an open question")
    if compiled.bands:
        band = next(b for b in compiled.bands if b.high is None or value <= b.high)
        exact = amount_in_band(band, value)
        return _bounded(compiled, exact, lambda: _band_working(band, value))
    if line.steps:
        counted = max(value - line.steps.free, Decimal(0))
        steps = steps_in_band(BandStep(ZERO, None, ZERO, line.steps.per_started, ZERO), counted)
        adds = line.steps.adds
        return _bounded(
            compiled,
            steps * adds,
            lambda: f"{number(steps)} × {money(adds)} (each started {number(line.steps.per_started)})" if line.steps else "",
        )
    rule = compiled.of
    return _bounded(compiled, value, lambda: told(rule.tree, sheet.values, rule.functions))


def _flat_working(compiled: CompiledLine, sheet: Sheet, flat: Decimal) -> str:
    if compiled.when is None:
        return f"{money(flat)}, fixed"
    return f"{money(flat)}, because {told(compiled.when.tree, sheet.values, compiled.when.functions)}"


def _percent(compiled: CompiledLine, of: _Base) -> _Base:
    line = compiled.line
    assert line.percent is not None
    rate = line.percent.rate
    if of.amount is None or of.amount is NONE:
        low = line.at_least if line.at_least is not None else to_cents(of.low * rate / 100)
        return _Base(of.amount, low, of.depends_on, lambda: f"{number(rate)} % of a line that is open")
    amount = of.amount
    return _bounded(compiled, amount * rate / 100, lambda: f"{number(rate)} % of {money(amount)}")


def _bounded(compiled: CompiledLine, exact: Decimal, how: Callable[[], str]) -> _Base:
    """Round the finished base and hold it within at_least and at_most; the working says what happened."""
    line = compiled.line
    amount, bound = to_cents(exact), ""
    if line.at_least is not None and amount < line.at_least:
        amount, bound = to_cents(line.at_least), "at least"
    elif line.at_most is not None and amount > line.at_most:
        amount, bound = to_cents(line.at_most), "at most"

    def working() -> str:
        said = how()
        if said == money(exact) == money(amount):
            return said
        shown = number(exact.normalize()) if exact != to_cents(exact) else money(to_cents(exact))
        text = said if said == shown else f"{said} = {shown}"
        if exact != to_cents(exact) and not bound:
            text += f", rounded {money(amount)}"
        return f"{text}, {bound} {money(amount)}" if bound else text

    return _Base(amount, amount, (), working)


def _band_working(band: BandStep, value: Decimal) -> str:
    if band.step is None:
        return money(band.start)
    return f"{money(band.start)} + {number(steps_in_band(band, value))} × {money(band.adds)}"


def value_working(sheet: Sheet, node: ComputedValue) -> str:
    """A computed answer with its working: ``95.8 × 465.00 = 44 547.00``; empty while it is absent."""
    value = sheet.values[node.key]
    if is_absent(value):
        return ""
    said = money(to_cents(value)) if node.key in sheet.rulebook.money_names else say(value)
    return f"{told(node.rule.tree, sheet.values, node.rule.functions)} = {said}"
