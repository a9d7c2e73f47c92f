"""Marginal band tables: one band worked out, and the amount at a value."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal
from typing import Literal

from jolly_clerk.core.rulebook.functions import full, started

Climb = Literal["", "started", "full", "evenly"]


@dataclass(frozen=True, slots=True)
class BandStep:
    """One band, worked out: the amount at its lower end, then ``adds`` for each started, whole or part ``step`` above ``low``."""

    low: Decimal
    high: Decimal | None
    start: Decimal
    step: Decimal | None
    adds: Decimal
    climb: Climb = "started"


def amount_in_band(band: BandStep, value: Decimal) -> Decimal:
    """The amount of a band table at ``value``, which lies in ``band``."""
    return band.start + band.adds * steps_in_band(band, value)


def steps_in_band(band: BandStep, value: Decimal) -> Decimal:
    """How many steps of ``band`` there are at ``value``: started, whole, or with their part."""
    return steps_of(value - band.low, band.step, band.climb) if band.step else Decimal(0)


def steps_of(value: Decimal, step: Decimal, climb: Climb) -> Decimal:
    """How many steps there are in ``value``: started, whole, or with their part; 0 for nothing or less."""
    if climb == "evenly":
        return max(value, Decimal(0)) / step
    return full(value, step) if climb == "full" else started(value, step)
