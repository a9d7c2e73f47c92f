"""A day at the till: what came, what went, what has to lie in the drawer, and whether it agrees."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal

from jolly_clerk.core.currency import coin_of, to_coin
from jolly_clerk.core.fees.account import amount_fault
from jolly_clerk.core.money_entries import Means
from jolly_clerk.core.say import say

ZERO = Decimal(0)
#: a difference above this is looked at by a second person before the day is closed
SECOND_ABOVE = Decimal("10.00")


@dataclass(frozen=True, slots=True)
class Taken:
    """Money that came: how, how much, and its receipt, which it gets when it is placed; ``placed`` is what of it stands on cases,
    ``loose`` what is not placed, ``going_back`` what goes back without a case."""

    means: Means
    amount: Decimal
    receipt: str
    placed: Decimal
    loose: Decimal
    going_back: Decimal


@dataclass(frozen=True, slots=True)
class Gone:
    """Money that left, as a refund or since a payment was charged back."""

    amount: Decimal
    charged_back: bool


@dataclass(frozen=True, slots=True)
class DayTotals:
    """What a day comes to. ``receipts`` is the sum of what the receipts say, ``booked`` what of it the cases, what goes back and the
    list of what is not placed hold; they have to agree. ``not_placed`` also counts what has no receipt yet. ``drawer`` is what has to
    lie in the drawer."""

    opened_with: Decimal
    cash: Decimal
    cards: Decimal
    transfers: Decimal
    cheques: Decimal
    paid_back: Decimal
    charged_back: Decimal
    first_receipt: str
    last_receipt: str
    receipts: Decimal
    booked: Decimal
    not_placed: Decimal
    drawer: Decimal
    agrees: bool


def totals(
    currency: str,
    opened_with: Decimal,
    taken: Sequence[Taken],
    gone: Sequence[Gone],
    into_drawer: Iterable[Decimal] = (),
    out_of_drawer: Iterable[Decimal] = (),
) -> DayTotals:
    """What a day comes to that began with ``opened_with`` in the drawer. ``taken`` and ``gone`` are the office's since the last
    closing, in one ``currency``, ``into_drawer`` and ``out_of_drawer`` the cash of this drawer since it was opened."""
    told = [t for t in taken if t.receipt]
    numbers = sorted(t.receipt for t in told)

    def come_to(amounts: Iterable[Decimal]) -> Decimal:
        return to_coin(sum_of(amounts), coin_of(currency))

    def by(means: Means) -> Decimal:
        return come_to(t.amount for t in told if t.means == means)

    receipts, booked = come_to(t.amount for t in told), come_to(t.placed + t.loose + t.going_back for t in told)
    return DayTotals(
        opened_with=come_to([opened_with]),
        cash=by("cash"),
        cards=by("card"),
        transfers=by("transfer"),
        cheques=by("cheque"),
        paid_back=come_to(g.amount for g in gone if not g.charged_back),
        charged_back=come_to(g.amount for g in gone if g.charged_back),
        first_receipt=numbers[0] if numbers else "",
        last_receipt=numbers[-1] if numbers else "",
        receipts=receipts,
        booked=booked,
        not_placed=come_to(t.loose for t in taken),
        drawer=come_to([opened_with, *into_drawer]) - come_to(out_of_drawer),
        agrees=receipts == booked,
    )


def sum_of(amounts: Iterable[Decimal]) -> Decimal:
    """What amounts of one currency come to."""
    return sum(amounts, ZERO)


def sum_of_parts(parts: Iterable[tuple[str, Decimal]]) -> Decimal:
    """What the parts of a payment come to."""
    return sum_of(amount for _, amount in parts)


@dataclass(frozen=True, slots=True)
class Counted:
    """A drawer that was counted: the difference to what should lie there (below zero: missing), what is in the way of closing, and
    whether a second person has to look."""

    difference: Decimal
    fault: str
    field: str
    needs_second: bool


def counted(should: Decimal, there: Decimal, because: str, currency: str) -> Counted:
    """What a counted drawer means for the closing of its day."""
    difference = there - should
    fault = amount_fault(there, currency, least_is_zero=True)
    if fault:
        return Counted(difference, fault, "counted", needs_second=False)
    if difference and len(because.strip()) < 3:
        return Counted(difference, say("Say why what was counted differs."), "because", needs_second=False)
    return Counted(difference, "", "", abs(difference) > SECOND_ABOVE)


def parts_fault(amount: Decimal, parts: Sequence[tuple[str, Decimal]]) -> str:
    """Why money cannot be placed in these parts; empty if it can. What is left over stays not placed."""
    if not parts:
        return say("Choose a case.")
    if any(part <= ZERO for _, part in parts):
        return say("Each part is above zero.")
    if len({reference for reference, _ in parts}) != len(parts):
        return say("Name each case once.")
    if sum_of_parts(parts) > amount:
        return say("The parts come to more than the payment.")
    return ""
