"""Whose word a fee that was set by hand needs besides."""

from __future__ import annotations

from collections.abc import Collection
from decimal import Decimal

from jolly_clerk.core.fees.lines import FeeSheet
from jolly_clerk.core.history import FeeSet
from jolly_clerk.core.lifecycle import CaseSoFar
from jolly_clerk.core.roles import Role


def needs_second(case: CaseSoFar, by_the_rules: FeeSheet, line: str, amount: Decimal, limit: Decimal) -> bool:
    """True if setting a fee line needs a second person's word.

    What counts is how far the whole case would be from ``by_the_rules``, the fee sheet without anything set by hand: the sum over
    all lines set by hand, by whomever. A line that the rules cannot compute counts in full.
    """
    chosen = {f.line: f.amount for f in (*case.fees_set.values(), *case.fees_waiting.values())} | {line: amount}
    own = {x.id: x.amount or Decimal(0) for x in by_the_rules.lines}
    return sum((abs(there - own.get(id_, Decimal(0))) for id_, there in chosen.items()), Decimal(0)) > limit


def is_second_person(fee: FeeSet, who: str, role: Role, leads: Collection[str]) -> bool:
    """True if this person may confirm a fee that was set by hand: a lead who did not set it; for what a lead set, an officer as
    well where there is no other lead. ``leads`` are the ids of all leads."""
    if fee.who == who:
        return False
    return role == "lead" or (role == "officer" and fee.role == "lead" and not set(leads) - {fee.who})
