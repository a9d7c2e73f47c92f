"""How the lines of a fee sheet were worked out, in words: ``44 547.00 × 0.9 % = 400.92``."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from decimal import Decimal
from typing import Any

from jolly_clerk.core.absence import is_absent
from jolly_clerk.core.currency import to_coin
from jolly_clerk.core.fees.lines import ZERO, Base, Made
from jolly_clerk.core.form import Sheet
from jolly_clerk.core.in_words import in_words, money, number
from jolly_clerk.core.rulebook.bands import BandStep, steps_in_band
from jolly_clerk.core.rulebook.compiled import CompiledChange, ComputedValue
from jolly_clerk.core.rulebook.evaluate import working as told
from jolly_clerk.core.rulebook.expressions import Expression
from jolly_clerk.core.say import say

#: a change of a line, with its figure, and the amounts before and after it
Held = tuple[CompiledChange, Decimal, Decimal]


def whole_coins(how: Callable[[], str]) -> Callable[[], str]:
    """A working in a currency without cents."""
    return lambda: re.sub(r"(?<=\d)\.00(?!\d)", "", how())


def items_working(asked: Sequence[Made], total: Decimal, bound: str) -> str:
    """``2 × (95.00) + 45.00 = 235.00``: equal items are told once."""
    told_once: dict[str, tuple[int, Decimal]] = {}
    for made in asked:
        text = made.working()
        told_once[text] = (told_once.get(text, (0, ZERO))[0] + 1, made.low)
    if not told_once:
        return money(total)
    pieces = [money(amount) if n == 1 else f"{n} × {money(amount)}" for n, amount in told_once.values()]
    how = "; ".join(f"{text}" for text in told_once if text not in (money(m.low) for m in asked))
    text = " + ".join(pieces)
    text = text if text == money(total) else f"{text} = {money(sum((m.low for m in asked), ZERO))}"
    text = f"{text}, {bound} {money(total)}" if bound else text
    return f"{text} ({how})" if how and len(how) < 300 else text


def told_waived(base: Base, note: str) -> str:
    """``400.92; waived: the charity is on the list``."""
    return say("{working}; waived: {note}", working=base.working(), note=note)


def told_changes(base: Base, held: Sequence[Held], figure_of: Callable[[CompiledChange, Decimal], Decimal]) -> str:
    """``44 547.00 × 0.9 % = 400.92; − 25 % = 300.69: Timber (art. 5)``; ``figure_of`` is the figure of a change over an amount."""
    text = base.working()
    for change, before, after in held:
        figure = figure_of(change, before)
        does = {
            "times": f"× {number(figure)}",
            "percent": f"{'+' if figure >= 0 else '−'} {number(abs(figure))} %",
            "adds": f"{'+' if figure >= 0 else '−'} {money(abs(figure))}",
            "becomes": "becomes",
            "at_least": say("at least"),
            "at_most": say("at most"),
        }[change.does]
        text += say(
            "; {does} = {after}: {title} (art. {article})",
            does=does,
            after=money(after),
            title=change.change.title,
            article=change.change.article,
        )
    return text


def because(sheet: Sheet, rule: Expression, values: Mapping[str, Any]) -> str:
    """A condition with its values; one that only names a computed answer is told by that answer's own rule."""
    value = sheet.rulebook.computed.get(rule.source)
    rule = value.rule if value else rule
    return told(rule.tree, values, rule.functions)


def band_working(band: BandStep, value: Decimal) -> str:
    """``45.00 + 3 × 12.00``."""
    if band.step is None:
        return money(band.start)
    return f"{money(band.start)} + {number(steps_in_band(band, value))} × {money(band.adds)}"


def value_working(sheet: Sheet, node: ComputedValue, values: Mapping[str, Any]) -> str:
    """A computed answer with its working: ``95.8 × 465.00 = 44 547.00``; empty while it is absent."""
    value = values[node.key]
    if is_absent(value):
        return ""
    said = money(to_coin(value)) if node.key in sheet.rulebook.money_names else in_words(value)
    how = node.working_in(values)
    return said if how == said else f"{how} = {said}"
