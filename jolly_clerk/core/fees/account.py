"""What a case owes, has paid and would get back.

Source: the scenario, *Money*, *Going back*: a refund is a share of what was finally due and paid for each
line it names, rounded line by line; what was paid too much comes back whole; a prepaid line comes back whole until issue.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal
from typing import Literal

from jolly_clerk.core.covering import added_since_acceptance
from jolly_clerk.core.currency import coin_of, decimals_of, to_coin
from jolly_clerk.core.fees.debts import Debt, added_debt, holding
from jolly_clerk.core.fees.lines import ZERO, FeeSheet, Line, StageTotal
from jolly_clerk.core.fees.working import coins
from jolly_clerk.core.history import Filed, GoesBack, Lapsed, Means, Paid, PaidBack
from jolly_clerk.core.in_words import number
from jolly_clerk.core.lifecycle import CaseSoFar
from jolly_clerk.core.money_entries import way_back
from jolly_clerk.core.permit_entries import due_since_issue
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.rulebook.model import Stage
from jolly_clerk.core.rulebook.tariff import Refunds, RefundStep
from jolly_clerk.core.say import say
from jolly_clerk.core.time.calendar import Calendar

Ending = Literal["withdrawn", "lapsed", "not accepted", "out of scope", "refused"]
#: every way in which a case can end before a grant
ENDING_EARLY: tuple[Ending, ...] = ("withdrawn", "out of scope", "not accepted", "lapsed", "refused")


@dataclass(frozen=True, slots=True)
class PaymentTold:
    """A payment that counts: its key, when it was booked, its value day if it has one, who paid if not the applicant."""

    key: str
    at: datetime
    value_day: date | None
    amount: Decimal
    means: Means
    receipt: str
    payer: str


@dataclass(frozen=True, slots=True)
class BackTold:
    """Money that goes back: since when, why, and when it left; None while it waits."""

    key: str
    at: datetime
    amount: Decimal
    because: str
    left_at: datetime | None
    way: str


@dataclass(frozen=True, slots=True)
class Account:
    """What the case owes and has paid, in the currency of the fee sheet.

    ``open`` is still to be paid now; ``over`` is paid back on acceptance, or at issue. ``may_prepay`` is
    what can be paid now for a later stage, ``open_and_prepay`` both together. ``debts`` say how it is owed where the edition says more
    than that it is owed at once; ``later`` is what of them is not asked for yet. ``to_file`` is what is still to be paid if a filing that
    was taken back is filed as it stands, None in any other case or while that is not known. ``for_acceptance`` and ``for_issue`` are what
    is open and holds up these.
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
    debts: tuple[Debt, ...] = ()
    later: Decimal = ZERO
    to_file: Decimal | None = None
    for_acceptance: Decimal = ZERO
    for_issue: Decimal = ZERO
    payments: tuple[PaymentTold, ...] = ()
    back: tuple[BackTold, ...] = ()


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


def account_of(rulebook: Rulebook, case: CaseSoFar, fees: FeeSheet, debts: tuple[Debt, ...] = ()) -> Account:
    """The account of a case over its fee sheet and its debts."""
    filing, check, issue = fees.total("at filing"), fees.total("after the check"), fees.total("at issue")
    spent = case.paid - case.prepaid
    over = ZERO
    if case.granted:
        over = max(case.paid - filing.low - _due_after_check(case) - issue.low - case.permit.fees, ZERO)
    elif case.accepted and not case.ended:
        over = max(case.paid_for_check - case.accepted.due - added_since_acceptance(case), ZERO)
    elif not case.ended and filing.amount is not None and spent > max(filing.amount, ZERO):
        over = to_coin(spent - max(filing.amount, ZERO), coin_of(fees.currency))
    still, may = open_amount(case, fees, debts), _may_prepay(rulebook, case, fees)
    later = sum((d.open for d in debts if not d.asked), ZERO) if case.filed else ZERO
    holds = (holding(debts, "acceptance"), holding(debts, "issue")) if debts else (still, still)
    payments = tuple(PaymentTold(p.key, p.at, p.value_day, p.amount, p.means, p.receipt, p.payer) for p in case.payments)
    back = tuple(_back_told(case, b) for b in case.paid_back)
    to_file = None
    if case.taken_back is not None and case.filed is None and filing.amount is not None:
        to_file = max(filing.amount - spent, ZERO)
    told = (filing, check, issue, debts, later, to_file, *holds, payments, back)
    return Account(case.paid, case.prepaid, still, over, may, still + may, *told)


def _back_told(case: CaseSoFar, back: GoesBack) -> BackTold:
    left = case.refunds_paid.get(back.key)
    at = back.at if isinstance(back, PaidBack) else left.at if left else None
    return BackTold(back.key, back.at, back.amount, back.because, at, way_back(left.means, left.account) if left else "")


def _due_after_check(case: CaseSoFar) -> Decimal:
    return case.accepted.due if case.accepted else ZERO


def asked_when_filed(account: Account, filed: Filed) -> Decimal:
    """What is asked for with a filing: what of it is due at once, less what waits on the account of one that was taken back."""
    return filed.due_at_once if account.to_file is None else min(filed.due_at_once, account.to_file)


def open_amount(case: CaseSoFar, fees: FeeSheet, debts: Sequence[Debt] = ()) -> Decimal:
    """What is to be paid now: at filing as it was told until that is covered, then anew; what acceptance told; at issue once granted.

    Where what is due is owed in debts, it is what of them is asked for.
    """
    if debts and case.filed and case.covered_at is not None:
        return sum((d.open for d in debts if d.asked), ZERO)
    if case.granted:
        due = fees.total("at filing").low + _due_after_check(case) + case.granted.due
        return due_since_issue(case) if case.issued and not case.charged_back else max(due + case.permit.fees - case.paid, ZERO)
    if case.filed is None or case.ended:
        return ZERO
    if case.accepted:
        return max(case.accepted.due + added_since_acceptance(case) - case.paid_for_check, ZERO)
    added = sum((one.due for one in case.additions), ZERO)
    due = case.due_told + added if case.covered_at is None else fees.total("at filing").low
    later = case.paid_on(case.filed.later) if case.covered_at is None else ZERO
    return max(due - (case.paid - case.prepaid - later), ZERO)


def _may_prepay(rulebook: Rulebook, case: CaseSoFar, fees: FeeSheet) -> Decimal:
    """What may be prepaid until the case is complete, less what was prepaid already; only settled lines."""
    if case.filed is None or case.accepted or case.ended:
        return ZERO
    may = {c.line.line for c in rulebook.lines if c.line.may_be_prepaid}
    amounts = [line.amount for line in fees.lines if line.id in may and line.state == "settled" and line.amount is not None]
    return max(sum(amounts, ZERO) - case.prepaid, ZERO)


def refund(rulebook: Rulebook, case: CaseSoFar, fees: FeeSheet, ending: Ending, calendar: Calendar, now: datetime) -> Refund:
    """What comes back if the case ends at ``now`` in this way; never more than was paid."""
    lines: list[RefundLine] = []
    rules, coin = rulebook.edition.refunds, coin_of(fees.currency)
    spent, prepaid = case.paid - case.prepaid, case.prepaid
    due = max(fees.total("at filing").low, ZERO)
    if case.checking is None and ending == "lapsed" and case.covered_at is None:
        lines += _one(say("Paid before the whole was covered"), spent, coin)
    elif ending == "out of scope":
        bond = held_as_bond(case, fees)
        kept = min(rules.out_of_scope_keeps, case.paid - bond)
        told = (
            *_one(say("All fees but {kept}", kept=coins(kept, coin)), case.paid - bond - kept, coin),
            *_one(say("Bond"), bond, coin),
        )
        return Refund(ending, case.paid - kept, prepaid, kept, told, rules.out_of_scope_article)
    elif ending == "refused":  # what the check cost stays; nothing is issued
        lines += _one(say("Bond"), held_as_bond(case, fees), coin)
    else:
        lines += _one(say("Paid more than was due"), spent - due, coin)
        if ending == "withdrawn" and (step := refund_step(rules, case, calendar, now)) is not None:
            lines += _shares(rules, step, fees, min(spent, due))
        lines += _one(say("Bond"), held_as_bond(case, fees), coin)
    lines += _one(say("Prepaid for a later stage"), prepaid, coin)
    total = min(sum((line.amount for line in lines), to_coin(ZERO, coin)), case.paid)
    return Refund(ending, total, prepaid, case.paid - total, tuple(lines), rules.withdrawn_article)


def refund_step(rules: Refunds, case: CaseSoFar, calendar: Calendar, now: datetime) -> RefundStep | None:
    """The step of the refunds at which the case stands: the first whose stage and days hold; None if nothing comes back any more."""
    begun = case.filed or case.first_filed
    if begun is None:
        return None
    reached = case.checking is not None, bool(case.rounds), case.accepted is not None
    filed = calendar.local_day(begun.begins_at)
    for step in rules.withdrawn:
        passed = reached[("checking", "letter", "acceptance").index(step.before)]
        in_time = step.within is None or now < calendar.day_end(step.within.last_day(filed, calendar))
        if not passed and in_time:
            return step
    return None


def held_as_bond(case: CaseSoFar, fees: FeeSheet) -> Decimal:
    """What of the payments at filing is held as a bond."""
    spent = min(case.paid - case.prepaid, max(fees.total("at filing").low, ZERO))
    return sum((paid for line, paid in _covering(fees, "at filing", spent) if line.bond), ZERO)


def _covering(fees: FeeSheet, stage: Stage, spent: Decimal) -> Iterator[tuple[Line, Decimal]]:
    """What of ``spent`` goes to each line of a stage: payments cover the lines in their order; what a line takes off pays for others."""
    own = [line for line in fees.lines if line.stage == stage and not line.told_only]
    spent -= sum((line.low for line in own if line.low < 0), ZERO)
    for line in own:
        paid = min(line.low, spent) if line.low > 0 else line.low
        spent -= max(paid, ZERO)
        yield line, paid


@dataclass(frozen=True, slots=True)
class CoveredLine:
    """A fee line, and how much of it one payment covered; ``whole`` if that is all of it."""

    line: Line
    amount: Decimal
    whole: bool


@dataclass(frozen=True, slots=True)
class Covered:
    """What one payment was for: lines of one stage in their order, or debts, each with how much of it; what of it was prepaid for
    ``prepaid_for``, and what was over."""

    stage: Stage
    lines: tuple[CoveredLine, ...]
    debts: tuple[tuple[Debt, Decimal], ...]
    prepaid: Decimal
    prepaid_for: tuple[str, ...]
    over: Decimal


def covered_by(rulebook: Rulebook, case: CaseSoFar, fees: FeeSheet, payment: Paid, debts: Sequence[Debt] = ()) -> Covered:
    """What a payment of the case was for. ``fees`` is the sheet as it stood for the stage in which the payment came.

    The payments of a stage cover its lines in their order, one payment after the other; what was prepaid for the issue covers
    the lines that may be prepaid before the payments at issue do.
    """
    stage = stage_of(case, payment)
    named = tuple((d, payment.debts[d.key]) for d in debts if d.key in payment.debts)
    if named:
        rest = payment.amount - payment.prepaid - sum((part for _, part in named), ZERO)
        return Covered(stage, (), named, payment.prepaid, _prepaid_for(rulebook, fees) if payment.prepaid else (), rest)
    before = sum((p.amount - p.prepaid for p in _until(case, payment) if stage_of(case, p) == stage), ZERO)
    may = {c.line.line for c in rulebook.lines if c.line.may_be_prepaid}
    prepaid_before = case.prepaid if stage == "at issue" else ZERO
    spent, found = payment.amount - payment.prepaid, list[CoveredLine]()
    for line in fees.lines:
        if line.stage != stage or line.told_only or not line.low:
            continue
        due = line.low
        if line.id in may:
            due -= (already := min(due, prepaid_before))
            prepaid_before -= already
        due -= (earlier := min(due, before))
        before -= earlier
        if paid := min(due, spent):
            spent -= paid
            found.append(CoveredLine(line, paid, paid == line.low))
    added = tuple(_for_additions(case, payment, spent))
    spent -= sum((part for _, part in added), ZERO)
    titles = _prepaid_for(rulebook, fees) if payment.prepaid else ()
    return Covered(stage, tuple(found), added, payment.prepaid, titles, spent)


def _for_additions(case: CaseSoFar, payment: Paid, spent: Decimal) -> Iterator[tuple[Debt, Decimal]]:
    """What of a payment was for what came later: for each that is not paid before, as far as there is enough for the whole of it."""
    for one in case.additions:
        before = any(p.at > one.at and p.amount - p.prepaid >= one.due for p in _until(case, payment))
        if one.at < payment.at and not before and one.due <= spent:
            spent -= one.due
            yield added_debt(one.title, one.due), one.due


def _prepaid_for(rulebook: Rulebook, fees: FeeSheet) -> tuple[str, ...]:
    may = {c.line.line for c in rulebook.lines if c.line.may_be_prepaid}
    return tuple(line.title for line in fees.lines if line.id in may and line.low)


def stage_of(case: CaseSoFar, payment: Paid) -> Stage:
    """The stage that a payment was for, by when it came: until acceptance at filing, until the grant after the check, then at issue."""
    if case.granted and payment.at >= case.granted.at:
        return "at issue"
    return "after the check" if case.accepted and payment.at >= case.accepted.at else "at filing"


def _until(case: CaseSoFar, payment: Paid) -> Iterator[Paid]:
    for earlier in case.payments:
        if earlier.key == payment.key:
            return
        yield earlier


#: no amount that a person books or sets is above this
MOST = Decimal(10_000_000)


def together_come_to(amounts: Iterable[Decimal]) -> Decimal:
    """What several amounts of one currency come to."""
    return sum(amounts, Decimal(0))


def amount_fault(amount: Decimal, currency: str, least_is_zero: bool = False) -> str:
    """What is wrong with an amount in a currency that a person typed; empty if nothing is."""
    coin, decimals = coin_of(currency), decimals_of(currency)
    above = say("not below zero") if least_is_zero else say("above zero")
    if not (ZERO if least_is_zero else coin) <= amount < MOST or amount != amount.quantize(coin):
        if not decimals:
            return say("An amount in {currency} is {above} and has no decimals.", currency=currency, above=above)
        return say(
            "An amount in {currency} is {above} and has at most {decimals} decimals.",
            currency=currency,
            above=above,
            decimals=decimals,
        )
    return ""


def needs_lead(case: CaseSoFar, account: Account, amount: Decimal, limit: Decimal) -> bool:
    """True if money booked by hand is so much more than what is to be paid that a lead looks at it first.

    What a case that lapsed had to pay may have come in time.
    """
    return amount > max(account.open_and_prepay + account.later, awaited(case, account)) + limit


def awaited(case: CaseSoFar, account: Account) -> Decimal:
    """What money that comes may be for: what is to be paid now, or what a case that lapsed unpaid had to pay."""
    lapsed = isinstance(case.ended, Lapsed) and case.ended.step == "payment"
    return case.due_told if lapsed else account.open


def comes_too_late(case: CaseSoFar) -> bool:
    """True if money that comes now has nothing to pay for: the case is over, and nothing is issued."""
    return case.ended is not None and case.granted is None


def _one(title: str, amount: Decimal, coin: Decimal) -> list[RefundLine]:
    return [RefundLine(title, to_coin(amount, coin), coins(amount, coin))] if amount > 0 else []


def _shares(rules: Refunds, step: RefundStep, fees: FeeSheet, spent: Decimal) -> list[RefundLine]:
    """The shares of the lines at filing that come back at a step, as far as each was paid, less what stays in any case."""
    found, coin, whole = [], coin_of(fees.currency), ZERO
    for line, paid in _covering(fees, "at filing", spent):
        share = line.comes_back if step.share is None else step.share if line.comes_back else ZERO
        if paid and share and not line.bond:
            back = to_coin(paid * share / 100, coin)
            whole += paid
            working = say("{share} % of {paid} = {back}", share=number(share), paid=coins(paid, coin), back=coins(back, coin))
            found.append(RefundLine(line.title, back, working))
    total = sum((line.amount for line in found), ZERO)
    most = max(whole - rules.keeps, ZERO)
    if total > most:
        working = say("{most} at most, since {keeps} stay here", most=coins(most, coin), keeps=coins(rules.keeps, coin))
        found.append(RefundLine(say("Less what stays here in any case"), most - total, working))
        total = most
    if ZERO < total < rules.smallest:
        working = say("less than {smallest} is not paid back", smallest=coins(rules.smallest, coin))
        found.append(RefundLine(say("Too little to be paid back"), -total, working))
        total = ZERO
    return found
