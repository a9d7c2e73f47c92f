"""How money goes back: the way it came.

Source: the decisions, *Rules*, *Ledger first*: card to card, transfer to its account, cash and cheque to an account that the payer
names, cash also at the counter.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal

from jolly_clerk.core.history import Lapsed, Means, Paid, RefundDue
from jolly_clerk.core.lifecycle import CaseSoFar


@dataclass(frozen=True, slots=True)
class WayBack:
    """A part of a refund and the payment with which it came."""

    payment: Paid
    amount: Decimal


def ways_back(case: CaseSoFar, refund: RefundDue) -> tuple[WayBack, ...]:
    """From which payments a refund is taken: the latest first, each as far as no other refund took it already."""
    left = {p.key: p.amount for p in case.payments}
    for other in case.paid_back:
        ways = tuple(_taken(case, left, other.amount))
        if other.key == refund.key:
            return ways
    return ()


def _taken(case: CaseSoFar, left: dict[str, Decimal], amount: Decimal) -> list[WayBack]:
    found = []
    for payment in reversed(case.payments):
        part = min(left[payment.key], amount)
        if part > 0:
            left[payment.key] -= part
            amount -= part
            found.append(WayBack(payment, part))
    return found


def undoes_lapse(case: CaseSoFar, counts_from: datetime, amount: Decimal, prepaid: Decimal, last_day_end: datetime) -> bool:
    """True if money that counts from this instant had come in time, and covers what was missing when the case lapsed."""
    ended = case.ended
    if not isinstance(ended, Lapsed) or ended.step != "payment" or counts_from >= last_day_end:
        return False
    paid = sum((p.amount - p.prepaid for p in case.payments), Decimal(0))
    left = {b.key for b in case.paid_back} - cancelled(case)
    gone = sum((b.amount - b.prepaid for b in case.paid_back if b.key in left), Decimal(0))
    due = case.accepted.due_at_once + case.settled if case.accepted else case.due_told
    return paid - gone + amount - prepaid >= due


def cancelled(case: CaseSoFar) -> frozenset[str]:
    """The refunds of a lapse that fall away with it: those that did not leave yet."""
    return frozenset(b.key for b in case.refunds_due if b.key.endswith("-lapsed"))


def by_means(ways: tuple[WayBack, ...]) -> tuple[tuple[Means, Decimal], ...]:
    """How much of a refund goes back by which means."""
    found: dict[Means, Decimal] = {}
    for way in ways:
        found[way.payment.means] = found.get(way.payment.means, Decimal(0)) + way.amount
    return tuple(found.items())


def joined(left: Decimal, amount: Decimal) -> Decimal:
    """What is left of money in when a part of it that was placed is placed nowhere again."""
    return left + amount


def rest_of(left: Decimal, amount: Decimal) -> Decimal | None:
    """What is left of money in when so much of it is placed or sent back; None if there is not so much."""
    return left - amount if 0 < amount <= left else None
