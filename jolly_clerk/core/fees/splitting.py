"""Lines that come of other lines: the two halves of one that falls due twice, and what brings a sum to the coin."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from decimal import Decimal

from jolly_clerk.core.currency import to_coin
from jolly_clerk.core.fees.lines import ZERO, Line
from jolly_clerk.core.fees.working import coins, rounded_way
from jolly_clerk.core.in_words import number
from jolly_clerk.core.rulebook.compiled import CompiledLine
from jolly_clerk.core.rulebook.functions import rounded
from jolly_clerk.core.rulebook.said import Stage
from jolly_clerk.core.rulebook.tariff import ROUNDING, Rounding
from jolly_clerk.core.rulebook.telling import shown
from jolly_clerk.core.say import _, say

_WHEN = {"after the check": _("{title}, the rest after the check"), "at issue": _("{title}, the rest at issue")}


def rest_of_line(line: Line, compiled: CompiledLine, first: Decimal) -> list[Line]:
    """A line that falls due twice as two: ``first`` per cent of it at its own stage, the rest (``LINE.rest``) at a later one.

    The first is brought to the coin and the rest is what is left, so that together they are the line.
    """
    falls, coin = compiled.line.falls_due, compiled.coin
    assert falls is not None

    def share(amount: Decimal) -> Decimal:
        return to_coin(amount * first / 100, coin)

    titles = line.title, say(_WHEN[falls.rest], title=line.title)
    whole = line.amount
    if whole is None or not whole:
        high = None if line.high is None else (share(line.high), line.high - share(line.high))
        possible = [(share(p), p - share(p)) for p in line.possible]
        made = [
            replace(
                line, amount=None if whole is None else ZERO, low=low, high=high and high[n],
                possible=tuple(sorted({p[n] for p in possible})),
            )
            for n, low in enumerate((share(line.low), line.low - share(line.low)))
        ]  # fmt: skip
    else:
        now = share(whole)

        def how_first() -> str:
            exact = whole * first / 100
            decimals = max(-int(coin.as_tuple().exponent), 0)
            of = say("{rate} % of {of}", rate=number(first), of=_whole_told(line, whole, coin))
            text = f"{of} = {shown(exact, decimals)}"
            if exact == now:
                return text
            return say("{text}, {way}: {amount}", text=text, way=rounded_way("nearest", coin), amount=coins(now, coin))

        def how_rest() -> str:
            due_before = say("due {stage}", stage=say(line.stage))
            return f"{_whole_told(line, whole, coin)} − {coins(now, coin)} [{due_before}] = {coins(whole - now, coin)}"

        made = [
            replace(line, amount=part, low=part, high=part, possible=(part,), working=how)
            for part, how in ((now, how_first), (whole - now, how_rest))
        ]
    rest = replace(made[1], id=f"{line.id}.rest", title=titles[1], stage=falls.rest)
    return [made[0], rest]


def _whole_told(line: Line, whole: Decimal, coin: Decimal) -> str:
    how, amount = line.working(), coins(whole, coin)
    if how.startswith(f"{amount} ["):
        return how
    return f"{amount} [{how}]" if how != amount else f"{amount} [{line.title}]"


def rounding_line(stage: Stage, lines: Sequence[Line], rounding: Rounding | None, coin: Decimal) -> Line | None:
    """The line that brings the sum of a stage to the coin, or to more than one as the edition says; None if nothing is to be brought."""
    own = [line for line in lines if line.stage == stage]
    if any(line.state == "open" for line in own):
        return None
    exact = sum((line.low for line in own), Decimal(0))
    how, to = (rounding.rounded, rounding.to or coin) if rounding else ("nearest", coin)
    brought = to_coin(rounded(exact, to, how), coin)
    difference = brought - exact
    if not difference:
        return None
    article = rounding.article if rounding else next(line.article for line in own if line.low != to_coin(line.low, coin))

    def working() -> str:
        way = rounded_way(how, to)
        of = say("{sum}, {way}", sum=number(exact), way=way)
        return f"{coins(brought, coin)} [{of}] − {number(exact)} = {number(difference)}"

    return Line(
        ROUNDING[stage], say("Rounding of the sum"), stage, article, "settled", difference, difference, difference, (difference,), (), (),
        working, follows=True,
    )  # fmt: skip
