"""The named functions that a rule may call. Each is pure and bounded.

Types are the words of :mod:`jolly_clerk.core.rulebook.types`.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from decimal import ROUND_CEILING, Decimal
from typing import Any

from jolly_clerk.core.time.periods import Span, add_months

#: functions over many values; the evaluator knows them by name because they skip *none*
AGGREGATES = ("sum", "count", "min", "max", "any", "all")


@dataclass(frozen=True, slots=True)
class Function:
    """A function of the rule language: what it takes, what it gives and what it is for."""

    name: str
    call: Callable[..., Any]
    takes: tuple[str, ...]
    gives: str
    help: str


def age(born: date, on: date) -> Decimal:
    """Whole years of age on a day; born on 29 February comes of age on 28 February of a common year."""
    years = on.year - born.year
    return Decimal(years if add_months(born, 12 * years) <= on else years - 1)


def started(value: Decimal, step: Decimal) -> Decimal:
    """How many steps of ``step`` have begun in ``value``; 0 for nothing or less."""
    if value <= 0:
        return Decimal(0)
    return (value / step).to_integral_value(ROUND_CEILING)


def _span(months: int = 0, days: int = 0) -> Callable[[Decimal], Span]:
    def make(count: Decimal) -> Span:
        if count != count.to_integral_value() or abs(count) > 120_000:
            raise ValueError("a span of time is a whole number, at most 120000")
        return Span(months=months * int(count), days=days * int(count))

    return make


def days_between(first: date, second: date) -> Decimal:
    """Calendar days from ``first`` to ``second``; negative if the second is earlier."""
    return Decimal((second - first).days)


BUILT_IN: dict[str, Function] = {
    f.name: f
    for f in (
        Function("age", age, ("date", "date"), "number", "whole years of age: age(born, on)"),
        Function("started", started, ("number", "number"), "number", "started steps: started(value, step)"),
        Function("months", _span(months=1), ("number",), "span", "so many months, to add to a date"),
        Function("years", _span(months=12), ("number",), "span", "so many years, to add to a date"),
        Function("weeks", _span(days=7), ("number",), "span", "so many weeks, to add to a date"),
        Function("days", _span(days=1), ("number",), "span", "so many days, to add to a date"),
        Function("days_between", days_between, ("date", "date"), "number", "calendar days: days_between(from, to)"),
        Function("abs", abs, ("number",), "number", "the amount without its sign"),
        Function("length", lambda text: Decimal(len(text)), ("text",), "number", "how many characters"),
    )
}


def count_of(values: Any) -> Decimal:
    """``count`` when everything is known: how many there are."""
    return Decimal(sum(1 for value in values if value == value))


def sum_of(values: Any) -> Decimal:
    """``sum`` when everything is known."""
    return sum(values, Decimal(0))
