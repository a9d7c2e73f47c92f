"""For which cases money on the account is: proposals in their order, each with its reason."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal
from typing import Literal

from jolly_clerk.core.facts.names import same_name
from jolly_clerk.core.in_words import all_of, money
from jolly_clerk.core.in_words import day as day_in_words
from jolly_clerk.core.say import say, say_n
from jolly_clerk.core.till.statement import Movement, plain_account
from jolly_clerk.core.till.written import Written, differing, one_sign_off, references_in

ZERO = Decimal(0)
#: what each agreement is worth when proposals are put in their order, and from what one is proposed at all
BY_REFERENCE, BY_NEAR_REFERENCE, BY_AMOUNT, BY_ACCOUNT, BY_PAYER = 8, 5, 4, 2, 2
LEAST, MOST_PROPOSED = 4, 5

How = Literal["sure", "look"]


@dataclass(frozen=True, slots=True)
class Awaiting:
    """A case as the till sees it: what it still awaits, until when, who may pay for it, the accounts that paid before, and what was
    paid on it already, with the day and the receipt."""

    reference: str
    title: str
    applicant: str
    awaited: Decimal
    currency: str
    until: date | None = None
    payers: tuple[str, ...] = ()
    accounts: tuple[str, ...] = ()
    paid: tuple[tuple[Decimal, date, str], ...] = ()


@dataclass(frozen=True, slots=True)
class Proposal:
    """One way of placing a movement: ``parts`` are references with their amounts.

    ``because`` is the whole reason; ``short`` the same in a few words for a list. ``marks`` are the places of
    the signs of ``written`` that are off; empty where nothing is.
    """

    parts: tuple[tuple[str, Decimal], ...]
    how: How
    because: str
    short: str
    points: int
    written: str = ""
    marks: tuple[int, ...] = ()


def named_by(movement: Movement) -> list[Written]:
    """The references that a movement names, also those that do not fit."""
    return references_in(f"{movement.end_to_end} {movement.text}")


def may_be_meant(movement: Movement, kinds: Collection[str]) -> list[str]:
    """The references of which a movement may speak: those that it names, and those that are one sign off."""
    found = dict[str, None]()
    for written in named_by(movement):
        found[written.reference] = None
        found.update(dict.fromkeys(one_sign_off(written.reference, kinds)))
    return list(found)


def proposals(movement: Movement, cases: Sequence[Awaiting], kinds: Collection[str]) -> list[Proposal]:
    """How money that came may be placed on these cases, the likeliest first. What is *sure* may be confirmed without a look."""
    written = named_by(movement)
    by_reference = {c.reference: c for c in cases if c.currency == movement.currency}
    named = [by_reference[w.reference] for w in written if w.fits and w.reference in by_reference]
    if len(named) > 1:
        together = _together(movement, named)
        if together is not None:
            return [together, *_singly(movement, by_reference, written, kinds)][:MOST_PROPOSED]
    return _singly(movement, by_reference, written, kinds)[:MOST_PROPOSED]


def _together(movement: Movement, named: Sequence[Awaiting]) -> Proposal | None:
    """One payment for several cases that it names: their sum is the amount, to the cent."""
    if any(c.awaited <= ZERO for c in named) or sum((c.awaited for c in named), ZERO) != movement.amount:
        return None
    parts = tuple((c.reference, c.awaited) for c in named)
    n = len(named)
    because = say_n("one payment for {n} case, and its sum agrees", "one payment for {n} cases, and their sum agrees", n)
    return Proposal(parts, "sure", because, because, BY_REFERENCE + BY_AMOUNT)


def _singly(
    movement: Movement, cases: Mapping[str, Awaiting], written: Sequence[Written], kinds: Collection[str]
) -> list[Proposal]:
    near = {other: w for w in written for other in one_sign_off(w.reference, kinds)}
    exact = {w.reference for w in written if w.fits}
    found = [_for_case(movement, c, exact, near, len(written)) for c in cases.values()]
    told = sorted((p for p in found if p.points >= LEAST), key=lambda p: (-p.points, p.parts))
    sure = [p for p in told if p.how == "sure"]
    # two that agree in everything are one too many to be sure of either
    return told if len(sure) < 2 else [replace(p, how="look") for p in told]


def _for_case(movement: Movement, case: Awaiting, exact: Collection[str], near: Mapping[str, Written], named: int) -> Proposal:
    points, reasons, written = 0, list[str](), near.get(case.reference)
    is_named, same = case.reference in exact, case.awaited == movement.amount
    if same:
        points += BY_AMOUNT
        reasons.append(say("the amount is the same"))
    if is_named:
        points += BY_REFERENCE
        reasons.append(say("the reference is this one"))
    who = next((name for name in (case.applicant, *case.payers) if name and same_name(name, movement.payer)), "")
    if movement.payer and who:
        points += BY_PAYER
        reasons.append(say("the payer is the applicant") if who == case.applicant else say("the payer paid for it before"))
    if movement.account and plain_account(movement.account) in {plain_account(a) for a in case.accounts}:
        points += BY_ACCOUNT
        reasons.append(say("this account paid for the applicant before"))
    marks: tuple[int, ...] = ()
    tail = ""
    if written is not None and not is_named:
        points += BY_NEAR_REFERENCE
        reasons.append(say("one sign of the reference differs"))
        marks = tuple(differing(written.reference, case.reference))
        if not written.fits:
            tail = say("The last letter fits {right} and not {written}.", right=case.reference, written=written.reference)
    is_sure = is_named and same and named == 1
    how: How = "sure" if is_sure else "look"
    sentence = say("{reasons}.", reasons=_capital(all_of(reasons))) if reasons else ""
    others = " ".join([sentence, *(["" + tail] if tail else []), *_amount_told(movement, case)]).strip()
    short = say("reference and amount agree") if is_sure else _short(movement, case, is_named, written is not None)
    parts = ((case.reference, movement.amount),)
    return Proposal(parts, how, others, short, points, written.text if marks and written else "", marks)


def _capital(text: str) -> str:
    return text[:1].upper() + text[1:]


def _amount_told(movement: Movement, case: Awaiting) -> Iterator[str]:
    """What placing the money here would leave: a rest that is open, or more than is awaited; told of what was paid before."""
    currency = case.currency
    before = next(((day, receipt) for amount, day, receipt in case.paid if amount == movement.amount), None)
    if ZERO < case.awaited != movement.amount:
        told = {"awaited": money(case.awaited, currency)}
        if movement.amount < case.awaited:
            yield say("{rest} of {awaited} stay open.", rest=money(case.awaited - movement.amount, currency), **told)
        else:
            yield say("{awaited} is awaited; {over} would be over.", over=money(movement.amount - case.awaited, currency), **told)
    elif case.awaited <= ZERO:
        yield say("Nothing is awaited there; it would be {over} over.", over=money(movement.amount, currency))
    if before is not None and case.awaited != movement.amount:
        yield say("The same amount came on {day}, receipt {receipt}.", day=day_in_words(before[0]), receipt=before[1])


def _short(movement: Movement, case: Awaiting, is_named: bool, is_near: bool) -> str:
    if is_near and not is_named:
        return say("one sign of the reference differs")
    if not is_named:
        return say("no reference")
    if any(amount == movement.amount for amount, _, _ in case.paid) and case.awaited != movement.amount:
        return say("the second time")
    if case.awaited <= ZERO:
        return say("nothing is awaited")
    if movement.amount < case.awaited:
        short, whole = money(case.awaited - movement.amount), money(case.awaited)
        return say("{short} short of {whole}", short=short, whole=whole)
    if movement.amount > case.awaited:
        return say("{over} over", over=money(movement.amount - case.awaited))
    return say("names another case too")


@dataclass(frozen=True, slots=True)
class Booked:
    """A payment that was placed on a case: by which means, under which number of its own, with which receipt."""

    reference: str
    key: str
    number: str
    receipt: str
    amount: Decimal
    day: date
    payer: str


@dataclass(frozen=True, slots=True)
class TakenBack:
    """A payment that the bank may have taken back, and why it is proposed."""

    payment: Booked
    because: str
    points: int


def taken_back(movement: Movement, booked: Sequence[Booked]) -> list[TakenBack]:
    """Which payment a movement that went out may take back: its number, its receipt or its case is named; the likeliest first."""
    text = f"{movement.end_to_end} {movement.text} {movement.reason}".upper()
    named, found = {w.reference for w in named_by(movement)}, list[TakenBack]()
    for payment in booked:
        points, reasons = 0, list[str]()
        if payment.amount == -movement.amount:
            points += BY_AMOUNT
            reasons.append(say("the amount is the same"))
        if payment.number and payment.number.upper() in text:
            points += BY_REFERENCE
            reasons.append(say("the number of the payment is named"))
        if payment.receipt and payment.receipt in text:
            points += BY_REFERENCE
            reasons.append(say("the receipt is named"))
        if payment.reference in named:
            points += BY_NEAR_REFERENCE
            reasons.append(say("the case is named"))
        if movement.payer and payment.payer and same_name(movement.payer, payment.payer):
            points += BY_PAYER
            reasons.append(say("it was this payer's"))
        if points > BY_AMOUNT:
            found.append(TakenBack(payment, say("{reasons}.", reasons=_capital(all_of(reasons))), points))
    return sorted(found, key=lambda one: (-one.points, one.payment.key))[:MOST_PROPOSED]
