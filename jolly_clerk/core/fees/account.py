"""What a case owes, has paid and would get back.

Source: the scenario, *Money*, *Going back*: a refund is a share of what was finally due and paid for each
line it names, rounded line by line; what was paid too much comes back whole; a prepaid line comes back whole until issue.
"""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal
from typing import Literal

from jolly_clerk.core.fees.currency import coin_of, to_coin
from jolly_clerk.core.fees.sheet import ZERO, FeeSheet, StageTotal
from jolly_clerk.core.lifecycle import CaseSoFar
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.say import money, number

Ending = Literal["withdrawn", "lapsed", "not accepted", "out of scope"]


@dataclass(frozen=True, slots=True)
class Account:
    """What the case owes and has paid, in the currency of the fee sheet.

    ``open`` is still to be paid now; ``over`` is paid back on acceptance, or at issue. ``may_prepay`` is
    what can be paid now for a later stage, ``open_and_prepay`` both together.
    """

    paid: Decimal
    prepaid: Decimal
    open: Decimal
    over: Decimal
    may_prepay: Decimal
    open_and_prepay: Decimal
    due_at_filing: StageTotal
    due_after_check: StageTotal
    due_at_issue: StageTotal


@dataclass(frozen=True, slots=True)
class RefundLine:
    """One thing that comes back, with its working."""

    title: str
    amount: Decimal
    working: str


@dataclass(frozen=True, slots=True)
class Refund:
    """What would come back if the case ended now in this way. ``prepaid`` is the part of it meant for a later stage."""

    ending: Ending
    total: Decimal
    prepaid: Decimal
    kept: Decimal
    lines: tuple[RefundLine, ...]
    article: str


def account_of(rulebook: Rulebook, case: CaseSoFar, fees: FeeSheet) -> Account:
    """The account of a case over its fee sheet."""
    filing, check, issue = fees.total("at filing"), fees.total("after the check"), fees.total("at issue")
    spent = case.paid - case.prepaid
    over = ZERO
    if case.granted:
        over = max(case.paid - filing.low - _due_after_check(case) - issue.low, ZERO)
    elif case.accepted and not case.ended:
        over = max(case.paid_for_check - case.accepted.due, ZERO)
    elif not case.ended and filing.amount is not None and spent > filing.amount:
        over = to_coin(spent - filing.amount)
    still, may = open_amount(case, fees), _may_prepay(rulebook, case, fees)
    return Account(case.paid, case.prepaid, still, over, may, still + may, filing, check, issue)


def _due_after_check(case: CaseSoFar) -> Decimal:
    return case.accepted.due if case.accepted else ZERO


def open_amount(case: CaseSoFar, fees: FeeSheet) -> Decimal:
    """What is to be paid now: at filing as it was told until that is covered, then anew; what acceptance told; at issue once granted."""
    if case.granted:
        due = fees.total("at filing").low + _due_after_check(case) + case.granted.due
        return max(due - case.paid, ZERO) if not case.issued else ZERO
    if case.filed is None or case.ended:
        return ZERO
    if case.accepted:
        return max(case.accepted.due - case.paid_for_check, ZERO)
    due = case.due_told if case.covered_at is None else fees.total("at filing").low
    return max(due - (case.paid - case.prepaid), ZERO)


def _may_prepay(rulebook: Rulebook, case: CaseSoFar, fees: FeeSheet) -> Decimal:
    """What may be prepaid until the case is complete, less what was prepaid already; only settled lines."""
    if case.filed is None or case.accepted or case.ended:
        return ZERO
    may = {c.line.line for c in rulebook.lines if c.line.may_be_prepaid}
    amounts = [line.amount for line in fees.lines if line.id in may and line.state == "settled" and line.amount is not None]
    return max(sum(amounts, ZERO) - case.prepaid, ZERO)


def refund(rulebook: Rulebook, case: CaseSoFar, fees: FeeSheet, ending: Ending) -> Refund:
    """What comes back if the case ends now in this way."""
    lines: list[RefundLine] = []
    rules = rulebook.edition.refunds
    spent, prepaid = case.paid - case.prepaid, case.prepaid
    due = fees.total("at filing").low
    if case.checking is None and ending == "lapsed" and case.covered_at is None:
        lines += _one("Paid before the whole was covered", spent)
    elif ending == "out of scope":
        bond = held_as_bond(case, fees)
        kept = min(rules.out_of_scope_keeps, case.paid - bond)
        told = (*_one(f"All fees but {money(kept)}", case.paid - bond - kept), *_one("Bond", bond))
        return Refund(ending, case.paid - kept, prepaid, kept, told, rules.out_of_scope_article)
    else:
        lines += _one("Paid more than was due", spent - due)
        if case.checking is None and ending == "withdrawn":
            lines += _shares(fees, min(spent, due))
        lines += _one("Bond", held_as_bond(case, fees))
    lines += _one("Prepaid for a later stage", prepaid)
    total = sum((line.amount for line in lines), ZERO)
    return Refund(ending, total, prepaid, case.paid - total, tuple(lines), rules.withdrawn_article)


def held_as_bond(case: CaseSoFar, fees: FeeSheet) -> Decimal:
    """What of the payments at filing is held as a bond; payments cover the lines in their order."""
    spent, held = min(case.paid - case.prepaid, fees.total("at filing").low), ZERO
    for line in fees.lines:
        if line.stage == "at filing" and not line.told_only:
            paid = min(line.low, spent)
            spent -= paid
            held += paid if line.bond else ZERO
    return held


def _one(title: str, amount: Decimal) -> list[RefundLine]:
    return [RefundLine(title, to_coin(amount), money(to_coin(amount)))] if amount > 0 else []


def _shares(fees: FeeSheet, spent: Decimal) -> list[RefundLine]:
    """The shares of the lines at filing, as far as each was paid; payments cover the lines in their order."""
    found, coin = [], coin_of(fees.currency)
    for line in fees.lines:
        if line.stage != "at filing" or line.told_only:
            continue
        paid = min(line.low, spent)
        spent -= paid
        if paid and line.comes_back and not line.bond:
            back = to_coin(paid * line.comes_back / 100, coin)
            found.append(RefundLine(line.title, back, f"{number(line.comes_back)} % of {money(paid)} = {money(back)}"))
    return found
