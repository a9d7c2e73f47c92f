"""What changes do to a line, how steps climb, and the names within one item while lines are worked out."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from decimal import Decimal
from typing import Any

from jolly_clerk.core.fees.lines import ZERO, Line, State
from jolly_clerk.core.history import FeeSet
from jolly_clerk.core.in_words import number
from jolly_clerk.core.rulebook.bands import Climb
from jolly_clerk.core.rulebook.compiled import CompiledChange
from jolly_clerk.core.rulebook.model import Steps
from jolly_clerk.core.say import say
from jolly_clerk.core.values import Value


class Within(dict[str, Any]):
    """The names within one item while fee lines are reckoned: the item's, then the whole with the lines so far."""

    __slots__ = ("whole",)

    def __init__(self, own: Mapping[str, Any], whole: Mapping[str, Any]) -> None:
        super().__init__(own)
        self.whole = whole

    def __missing__(self, key: str) -> Value:
        return self.whole[key]


DOES: dict[str, Callable[[Decimal, Decimal], Decimal]] = {
    "times": lambda amount, figure: amount * figure,
    "percent": lambda amount, figure: amount * (100 + figure) / 100,
    "adds": lambda amount, figure: amount + figure,
    "becomes": lambda amount, figure: figure,
    "at_least": max,
    "at_most": min,
}


def may_lower(change: CompiledChange) -> bool:
    """True unless the change can only raise a line."""
    return not (
        change.does in ("times", "at_least")
        and isinstance(change.figure, Decimal)
        and (change.does != "times" or change.figure >= 1)
    )


def sum_of_known(amounts: Sequence[Decimal | None]) -> Decimal | None:
    """The sum; None if one of them is not known."""
    known = [amount for amount in amounts if amount is not None]
    return sum(known, ZERO) if len(known) == len(amounts) else None


def climb_of(steps: Steps) -> tuple[Climb, Decimal]:
    """How steps climb, and in steps of what."""
    if steps.per_started is not None:
        return "started", steps.per_started
    return ("full", steps.per_full) if steps.per_full is not None else ("evenly", steps.per or Decimal(1))


def set_by_hand(line: Line, fee: FeeSet) -> Line:
    """A line that the office waived or set."""
    own = line.working
    verb = "waived" if fee.waived else say("set to {amount}", amount=number(fee.amount))
    text = say("{verb} by the office: {reason}", verb=verb, reason=fee.reason)
    state: State = "waived" if fee.waived else "settled"
    return replace(
        line,
        state=state,
        amount=fee.amount,
        low=fee.amount,
        high=fee.amount,
        possible=(fee.amount,),
        depends_on=(),
        trouble="",
        notes=(*line.notes, text),
        working=lambda: f"{own()}; {text}",
    )
