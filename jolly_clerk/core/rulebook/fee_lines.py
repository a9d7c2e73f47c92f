"""The fee lines of an edition made ready to reckon with, and what is wrong with them."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from decimal import Decimal

from jolly_clerk.core.currency import coin_of
from jolly_clerk.core.rulebook import model as m
from jolly_clerk.core.rulebook import types
from jolly_clerk.core.rulebook.bands import BandStep, amount_in_band
from jolly_clerk.core.rulebook.checked import Checked
from jolly_clerk.core.rulebook.compiled import CompiledChange, CompiledLine, Figure, Path
from jolly_clerk.core.rulebook.near import did_you_mean
from jolly_clerk.core.rulebook.scope import Scope
from jolly_clerk.core.say import say

_FIGURES = ("flat", "at_least", "at_most", "all_at_least", "all_at_most", "comes_back")


def compile_lines(checked: Checked) -> Iterator[CompiledLine]:
    """Every line in its order. A rule may name the lines above as ``fee.LINE`` (as charged) and ``base.LINE`` (before its changes)."""
    coin = coin_of(checked.e.currency)
    before: dict[str, str] = {}
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
        yield _line(checked, line, path, checked.scope_in(line.each, before), checked.scope_in(None, before), coin)
        before |= {f"fee.{line.line}": types.NUMBER, f"base.{line.line}": types.NUMBER}


def _line(checked: Checked, line: m.FeeLine, path: Path, scope: Scope, whole: Scope, coin: Decimal) -> CompiledLine:
    for name in line.percent.lines if line.percent else ():
        if f"fee.{name}" not in whole.names:
            checked.fault((*path, "percent", "of"), say("{name} is no line above this one", name=f"{name!r}"))
    if isinstance(line.at_least, Decimal) and isinstance(line.at_most, Decimal) and line.at_least > line.at_most:
        checked.fault((*path, "at_least"), say("at_least is above at_most"))
    shape = line.bands or line.steps
    source, key = (shape.of, "bands" if line.bands else "steps") if shape else (line.amount, "amount")
    figures: dict[str, Figure] = {}
    for name in _FIGURES:
        within, said = (whole if name.startswith("all_") else scope), getattr(line, name)
        if name == "comes_back" and said == "by steps":
            said = Decimal(100)
            if any(step.share is None for step in checked.e.refunds.withdrawn):
                checked.fault((*path, name), say("`by steps` needs a `share` in each step under `refunds`"))
        if (made := checked.figure(said, (*path, name), within)) is not None:
            figures[name] = made
    parts = ((line.steps, "steps", ("adds", "free")), (line.percent, "percent", ("rate",)))
    for holder, where, names in parts:
        for name in names if holder else ():
            if (made := checked.figure(getattr(holder, name), (*path, where, name), scope)) is not None:
                figures[name] = made
    changes = [(c, (*path, "then", n)) for n, c in enumerate(line.then)]
    changes += [(c, ("changes", n)) for n, c in enumerate(checked.e.changes) if line.line in c.of]
    inner = replace(scope, names={**scope.names, "amount_so_far": types.NUMBER})
    return CompiledLine(
        line=line,
        when=checked.rule(line.when, (*path, "when"), types.YES_NO, scope),
        of=checked.rule(source, (*path, key, "of") if shape else (*path, key), types.NUMBER, scope),
        bands=tuple(_bands(checked, line.bands, (*path, "bands", "each"))) if line.bands else (),
        changes=tuple(_changes(checked, changes, inner)),
        figures=figures,
        coin=coin,
    )


def _changes(checked: Checked, changes: list[tuple[m.Change, Path]], scope: Scope) -> Iterator[CompiledChange]:
    for change, path in changes:
        does, said = next(iter(change.figures.items()), ("waived", Decimal(0)))
        figure = checked.figure(said, (*path, does), scope)
        if figure is not None:
            yield CompiledChange(change, checked.rule(change.when, (*path, "when"), types.YES_NO, scope), does, figure)


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
