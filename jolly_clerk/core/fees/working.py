"""How the lines of a fee sheet were worked out, in words: ``44 547.00 × 0.9 % = 400.92``."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from decimal import Decimal
from typing import Any

from jolly_clerk.core.absence import is_absent
from jolly_clerk.core.currency import coin_of, to_coin
from jolly_clerk.core.fees.lines import ZERO, Base, Made
from jolly_clerk.core.form import Sheet
from jolly_clerk.core.in_words import in_words, number
from jolly_clerk.core.rulebook.bands import BandStep, steps_in_band
from jolly_clerk.core.rulebook.compiled import CompiledChange, ComputedValue
from jolly_clerk.core.rulebook.expressions import Expression
from jolly_clerk.core.rulebook.reasons import reason
from jolly_clerk.core.say import _, say

#: a change of a line, with its figure, and the amounts before and after it
Held = tuple[CompiledChange, Decimal, Decimal]


def items_working(asked: Sequence[Made], total: Decimal, bound: str, coin: Decimal) -> str:
    """``2 × 95.00 + 45.00 = 235.00 · 95.00: … · 45.00: …``: equal items are told once, each with its own working."""
    told_once: dict[str, tuple[int, Decimal]] = {}
    for made in asked:
        text = made.working()
        told_once[text] = (told_once.get(text, (0, ZERO))[0] + 1, made.low)
    if not told_once:
        return coins(total, coin)
    if len(told_once) == 1 and len(asked) == 1 and not bound:
        return next(iter(told_once))
    pieces = [coins(amount, coin) if n == 1 else f"{n} × {coins(amount, coin)}" for n, amount in told_once.values()]
    text = " + ".join(pieces).replace("+ −", "− ")
    whole = sum((m.low for m in asked), ZERO)
    text = text if text == coins(whole, coin) else f"{text} = {coins(whole, coin)}"
    text = f"{text}, {bound} {coins(total, coin)}" if bound else text
    how = [f"{coins(amount, coin)}: {text}" for text, (_, amount) in told_once.items() if text != coins(amount, coin)]
    return " · ".join([text, *how])


def coins(amount: Decimal, coin: Decimal) -> str:
    """An amount with the decimals of its currency."""
    return number(to_coin(amount, coin))


def told_waived(base: Base, note: str) -> str:
    """``400.92; waived: the charity is on the list``."""
    return say("{working}; waived: {note}", working=base.working(), note=note)


#: the figure of a change over an amount, as it was worked out
Told = Callable[[CompiledChange, Decimal], str]


def rounded_way(how: str, step: Decimal) -> str:
    """``rounded up to 0.50``."""
    told = {
        "up": _("rounded up to {step}"), "down": _("rounded down to {step}"), "nearest": _("rounded to {step}"),
        "half even": _("rounded to {step}, a half to the even one"),
    }  # fmt: skip
    return say(told[how], step=number(step))


def told_changes(base: Base, held: Sequence[Held], figure_of: Told, coin: Decimal) -> str:
    """``44 547.00 × 0.9 % = 400.92; − 25 % = 300.69: Timber (art. 5)``; ``figure_of`` is the figure of a change over an amount."""
    text = base.working()
    for change, before, after in held:
        told = figure_of(change, before)
        sign, size = ("−", told[1:]) if told.startswith("−") else ("+", told)
        does = {
            "times": f"× {told}",
            "percent": f"{sign} {size} %",
            "adds": f"{sign} {size}",
            "becomes": say("becomes {figure}", figure=told),
            "at_least": say("at least {figure}", figure=told),
            "at_most": say("at most {figure}", figure=told),
        }[change.does]
        said = change.change
        if said.rounded is not None or said.to is not None:
            does = f"{does}, {rounded_way(said.rounded or 'nearest', said.to or coin)}"
        text += say(
            "; {does} = {after}: {title} (art. {article})",
            does=does,
            after=coins(after, coin),
            title=change.change.title,
            article=change.change.article,
        )
    return text


def why(sheet: Sheet, rule: Expression, values: Mapping[str, Any], holds: bool) -> str:
    """Why a condition holds, or why it does not, in the words of the form."""
    return reason(rule.tree, values, rule.functions, holds, sheet.rulebook.words)


def band_working(band: BandStep, value: Decimal, counted: str, coin: Decimal) -> str:
    """``45.00 + 3 × 12.00 [each started 2 of 9.2 m [Length] above 3 m]``; ``counted`` is what is counted, with its unit."""
    if band.step is None:
        reach = say("up to {high}", high=number(band.high)) if band.high is not None else say("above {low}", low=number(band.low))
        return say("{amount} [{counted}: {reach}]", amount=coins(band.start, coin), counted=counted, reach=reach)
    each = {"started": _("each started {step}"), "full": _("each full {step}"), "evenly": _("each {step}")}[
        band.climb or "started"
    ]
    of = say("{each} of {counted}", each=say(each, step=number(band.step)), counted=counted)
    of = say("{of} above {low}", of=of, low=number(band.low)) if band.low else of
    climbs = f"{number(steps_in_band(band, value))} × {number(band.adds)} [{of}]"
    return f"{coins(band.start, coin)} + {climbs}" if band.start else climbs


def value_working(sheet: Sheet, node: ComputedValue, values: Mapping[str, Any]) -> str:
    """A computed answer with its working: ``95.8 × 465.00 = 44 547.00``; empty while it is absent."""
    value = values[node.key]
    if is_absent(value):
        return ""
    is_money = node.key in sheet.rulebook.money_names
    coin = coin_of(sheet.rulebook.edition.currency)
    said = coins(value, coin) if is_money else in_words(value)
    how = node.working_in(values, sheet.rulebook.words)
    if isinstance(value, bool):
        return say("{answer}, because {why}", answer=said, why=how)
    unit = f" {node.value.unit}" if node.value.unit and not is_money else ""
    if how == said or how.startswith(f"{said} ["):
        return f"{said}{unit}{how.removeprefix(said)}"
    return f"{how} = {said}{unit}"
