"""The fee lines of an edition made ready to reckon with, and what is wrong with them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from decimal import Decimal

from jolly_clerk.core.currency import coin_of
from jolly_clerk.core.in_words import one_of
from jolly_clerk.core.rulebook import model as m
from jolly_clerk.core.rulebook import types
from jolly_clerk.core.rulebook.bands import BandStep, amount_in_band
from jolly_clerk.core.rulebook.checked import Checked
from jolly_clerk.core.rulebook.compiled import CompiledBands, CompiledChange, CompiledDebts, CompiledLine, Figure, Path
from jolly_clerk.core.rulebook.debts import Payers
from jolly_clerk.core.rulebook.expressions import Expression
from jolly_clerk.core.rulebook.near import did_you_mean
from jolly_clerk.core.rulebook.scope import Scope
from jolly_clerk.core.say import say

_FIGURES = ("flat", "at_least", "at_most", "all_at_least", "all_at_most", "comes_back")
#: the finest that a line keeps which is not brought to the coin
_FINEST = Decimal("0.000001")


def compile_lines(checked: Checked) -> Iterator[CompiledLine]:
    """Every line in its order. A rule may name the lines above as ``fee.LINE`` (as charged) and ``base.LINE`` (before its changes)."""
    coin = coin_of(checked.e.currency)
    before: dict[str, str] = {}
    late = {node.key: at for at, node in checked.late}
    ids = [line.line for line in checked.e.fees]
    for n, change in enumerate(checked.e.changes):
        for name in change.of:
            if name not in ids:
                checked.fault(
                    ("changes", n, "of"), say("no fee line is called `{name}`{near}", name=name, near=did_you_mean(name, ids))
                )
        if not change.of:
            checked.fault(("changes", n), say("a change that stands here says with `of` which lines it changes"))
    for n, line in enumerate(checked.e.fees):
        path: Path = ("fees", n)
        checked.repeated(line.each, path)
        made = _line(checked, line, path, checked.scope_in(line.each, before), checked.scope_in(None, before), coin)
        for name in sorted(name for rule in rules_of(made) for name in rule.reads if late.get(name, 0) > n):
            checked.fault(path, say("`{name}` reads a fee line that stands below this one", name=name))
        yield made
        before |= {f"fee.{line.line}": types.NUMBER, f"base.{line.line}": types.NUMBER}


def _line(checked: Checked, line: m.FeeLine, path: Path, scope: Scope, whole: Scope, coin: Decimal) -> CompiledLine:
    others = (("percent", line.percent.lines if line.percent else ()), ("top_up", line.top_up.of if line.top_up else ()),
              ("cap", line.cap.of if line.cap else ()))  # fmt: skip
    for key, names in others:
        for name in names:
            if f"fee.{name}" not in whole.names:
                checked.fault((*path, key, "of"), say("{name} is no line above this one", name=f"{name!r}"))
    if isinstance(line.at_least, Decimal) and isinstance(line.at_most, Decimal) and line.at_least > line.at_most:
        checked.fault((*path, "at_least"), say("at_least is above at_most"))
    source, at = _counted(line)
    figures: dict[str, Figure] = {}
    for name in _FIGURES:
        within, said = (whole if name.startswith("all_") else scope), getattr(line, name)
        if name == "comes_back" and said == "by steps":
            said = Decimal(100)
            if any(step.share is None for step in checked.e.refunds.withdrawn):
                checked.fault((*path, name), say("`by steps` needs a `share` in each step under `refunds`"))
        if (made := checked.figure(said, (*path, name), within)) is not None:
            figures[name] = made
    parts = (
        (line.steps, "steps", {"adds": "adds", "free": "free"}), (line.each_costs, "each_costs", {"price": "price", "free": "free"}),
        (line.percent, "percent", {"rate": "rate"}), (line.top_up, "top_up", {"to": "sum"}), (line.cap, "cap", {"at": "sum"}),
        (line.falls_due, "falls_due", {"percent": "first"}),
    )  # fmt: skip
    for holder, where, keys in parts:
        for key, called in keys.items() if holder else ():
            if (made := checked.figure(getattr(holder, key), (*path, where, key), scope)) is not None:
                figures[called] = made
    exempt = [(c, (*path, "exemptions", n)) for n, c in enumerate(line.exemptions)]
    changes = [(c, (*path, "then", n)) for n, c in enumerate(line.then)]
    changes += [(c, ("changes", n)) for n, c in enumerate(checked.e.changes) if line.line in c.of]
    inner = replace(scope, names={**scope.names, "amount_so_far": types.NUMBER})
    return CompiledLine(
        line=line,
        when=checked.rule(line.when, (*path, "when"), types.YES_NO, scope),
        of=checked.rule(source, (*path, *at), types.NUMBER, scope),
        bands=tuple(_bands(checked, line.bands, (*path, "bands", "each"))) if line.bands else (),
        changes=(*_changes(checked, exempt, inner, exemption=True), *_changes(checked, changes, inner)),
        figures=figures,
        coin=(line.to or _FINEST) if line.finer else coin,
        tables=tuple(_tables(checked, line.band_tables or (), (*path, "band_tables"), scope)),
    )


def compile_debts(checked: Checked) -> Iterator[CompiledDebts]:
    """How what is due is owed, by stage; what is said after one that always holds is never reached."""
    always: set[str] = set()
    for n, said in enumerate(checked.e.debts):
        path: Path = ("debts", n)
        if said.stage in always:
            checked.fault(path, say("this is never reached: one above says the same stage without `when`"))
        always |= {said.stage} if said.when is None else set()
        if said.shared:
            _shared(checked, said.shared, (*path, "shared"))
        if said.stage == "at filing" and said.instalments and checked.e.clock.pay.grows:
            checked.fault(path, say("what grows while it is not paid (`pay: grows`) is not owed in parts"))
        if said.stage == "at filing" and said.instalments and all(part.within for part in said.instalments):
            checked.fault(
                (*path, "instalments"), say("the first part of what is due at filing has no `within`: it is due at once")
            )
        yield CompiledDebts(said, checked.rule(said.when, (*path, "when"), types.YES_NO))


def _shared(checked: Checked, shared: Payers, path: Path) -> None:
    checked.repeated(shared.each, path)
    own = {q.id: q for p in checked.e.parts if p.each and p.id == shared.each for q in p.questions}
    for key, name, wanted in (("payer", shared.payer, ("person", "text")), ("share", shared.share, ("number", "count", "money"))):
        if name is not None and own and (name not in own or own[name].type not in wanted):
            told = say(
                "`{name}` is no question of type {kinds} in `{part}`{near}",
                name=name, kinds=one_of(wanted), part=shared.each, near="" if name in own else did_you_mean(name, own),
            )  # fmt: skip
            checked.fault((*path, key), told)


def rules_of(line: CompiledLine) -> list[Expression]:
    """Every rule of a line."""
    changes = [rule for change in line.changes for rule in (change.when, change.figure)]
    tables = [rule for table in line.tables for rule in (table.when, table.of)]
    found = [line.of, *line.figures.values(), line.when, *changes, *tables]
    return [rule for rule in found if isinstance(rule, Expression)]


def _counted(line: m.FeeLine) -> tuple[str | None, Path]:
    """The rule from which the base of a line is taken, and where it stands."""
    for key, shape in (("bands", line.bands), ("steps", line.steps), ("each_costs", line.each_costs)):
        if shape is not None:
            return shape.of, (key, "of")
    if line.percent and line.percent.value is not None:
        return line.percent.value, ("percent", "value")
    return line.amount, ("amount",)


def _tables(checked: Checked, tables: Sequence[m.BandTable], path: Path, scope: Scope) -> Iterator[CompiledBands]:
    for n, table in enumerate(tables):
        last = n == len(tables) - 1
        if (table.when is None) != last:
            checked.fault((*path, n), say("the last band table has no `when`, and only the last"))
        of = checked.rule(table.of, (*path, n, "of"), types.NUMBER, scope)
        when = checked.rule(table.when, (*path, n, "when"), types.YES_NO, scope)
        bands = tuple(_bands(checked, table, (*path, n, "each")))
        if of is not None:
            yield CompiledBands(when, of, bands)


def _changes(
    checked: Checked, changes: list[tuple[m.Change, Path]], scope: Scope, exemption: bool = False
) -> Iterator[CompiledChange]:
    for change, path in changes:
        does, said = next(iter(change.figures.items()), ("waived", Decimal(0)))
        figure = checked.figure(said, (*path, does), scope)
        if figure is not None:
            when = checked.rule(change.when, (*path, "when"), types.YES_NO, scope)
            yield CompiledChange(change, when, does, figure, exemption)


def _bands(checked: Checked, bands: m.Bands, path: Path) -> Iterator[BandStep]:
    low, total, closed = Decimal(0), Decimal(0), False
    for n, band in enumerate(bands.each):
        if closed:
            checked.fault((*path, n), say("this band is never reached: the one before has no upper end"))
            return
        if band.above is not None and band.above != low:
            checked.fault(
                (*path, n), say("this band begins above {above}, but the one before ends at {low}", above=band.above, low=low)
            )
        if band.up_to is not None and band.up_to <= low:
            checked.fault(
                (*path, n), say("up_to {up_to} is not above {low}, where the band before ends", up_to=band.up_to, low=low)
            )
            return
        climb, step = band.step
        if (step is None) != (band.adds is None) or (band.flat is None and band.is_ is None and band.adds is None):
            checked.fault((*path, n), say("a band says `flat` or `is`, or `per_started` with `adds`, or both"))
            return
        start = band.is_ if band.is_ is not None else total + (band.flat or 0)
        made = BandStep(low, band.up_to, start, step, band.adds or Decimal(0), climb)
        yield made
        if band.up_to is None:
            closed = True
        else:
            total, low = amount_in_band(made, band.up_to), band.up_to
    if not closed:
        at = (*path, len(bands.each) - 1)
        checked.fault(at, say("no band says what holds above {low}; end with one that says `above: {low}`", low=low))
