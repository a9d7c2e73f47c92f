"""What a fee sheet is: its lines, what they come to in each stage, and the amounts that are not known yet."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Annotated, Any, Literal, NamedTuple

from pydantic import PlainSerializer, WithJsonSchema

from jolly_clerk.core.currency import CENT, to_coin
from jolly_clerk.core.rulebook.said import Stage
from jolly_clerk.core.rulebook.tariff import STAGES as STAGES

State = Literal["settled", "waived", "not asked", "open"]
ZERO = Decimal("0.00")

#: a sentence that is made only when somebody reads it
Lazy = Annotated[Callable[[], str], PlainSerializer(lambda f: f(), return_type=str), WithJsonSchema({"type": "string"})]


@dataclass(frozen=True, slots=True)
class Line:
    """One line of the sheet.

    ``settled`` lines have ``amount`` (and ``low`` = ``high`` = it). ``open`` ones have what it may be:
    ``possible`` amounts if they can be listed, else ``low`` and no ``high``; ``depends_on`` are places. ``comes_back`` is the
    share in percent that is paid back on withdrawal before checking began; a line that is ``told_only`` is not charged, a
    ``bond`` comes back whole unless the case is granted. ``trouble`` is why an open line cannot be worked out though nothing that it
    needs is open: a table has no row, it would be divided by nothing. The office sets it by hand. One that ``follows`` comes of the other
    lines alone and is never set by hand.
    """

    id: str
    title: str
    stage: Stage
    article: str
    state: State
    amount: Decimal | None
    low: Decimal
    high: Decimal | None
    possible: tuple[Decimal, ...]
    depends_on: tuple[str, ...]
    notes: tuple[str, ...]
    working: Lazy
    comes_back: Decimal = Decimal(0)
    told_only: bool = False
    bond: bool = False
    trouble: str = ""
    follows: bool = False


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


def in_coins(line: Line, coin: Decimal) -> Line:
    """A line with its amounts in the decimals of the coin: none or three."""
    low, high = to_coin(line.low, coin), None if line.high is None else to_coin(line.high, coin)
    amount = None if line.amount is None else to_coin(line.amount, coin)
    return replace(line, amount=amount, low=low, high=high, possible=tuple(to_coin(p, coin) for p in line.possible))


def stage_total(stage: Stage, lines: Sequence[Line], coin: Decimal = CENT) -> StageTotal:
    """What the lines of a stage come to."""
    zero = ZERO if coin == CENT else to_coin(ZERO, coin)
    own = [line for line in lines if line.stage == stage]
    low = to_coin(sum((line.low for line in own), zero), coin)
    if all(line.state != "open" for line in own):
        return StageTotal(stage, low, low, low)
    highs = [line.high for line in own]
    high = None if any(h is None for h in highs) else to_coin(sum((h for h in highs if h is not None), zero), coin)
    return StageTotal(stage, None, low, high)


class Base(NamedTuple):
    """A line before its changes: the rounded amount (NONE if it is not asked), or None with the least it may be, and with all amounts
    that it may come to where these can be listed."""

    amount: Any
    low: Decimal
    depends_on: tuple[str, ...]
    working: Callable[[], str]
    possible: tuple[Decimal, ...] = ()


class Made(NamedTuple):
    """A line, or what one item of it comes to."""

    state: State
    amount: Decimal | None
    low: Decimal
    high: Decimal | None
    possible: tuple[Decimal, ...]
    depends_on: tuple[str, ...]
    working: Callable[[], str]
    notes: tuple[str, ...] = ()


def fixed(state: State, amount: Decimal, how: Callable[[], str], notes: tuple[str, ...] = ()) -> Made:
    """A line whose amount is known."""
    return Made(state, amount, amount, amount, (amount,), (), how, notes)
