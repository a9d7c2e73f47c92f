"""The debts of a case: what is due in each stage, by whom it is owed, in which parts, and what of each is paid.

Source: the decisions, *Rules*, *Covered*: later parts are due on their days, remind, and hold up only what the edition says.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime
from decimal import ROUND_DOWN, Decimal

from jolly_clerk.core.absence import is_absent
from jolly_clerk.core.currency import coin_of
from jolly_clerk.core.fees.lines import STAGES, ZERO, FeeSheet
from jolly_clerk.core.form import Sheet
from jolly_clerk.core.in_words import day, money, number
from jolly_clerk.core.lifecycle import CaseSoFar
from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.rulebook.debts import Debts, Holds, Instalment
from jolly_clerk.core.rulebook.said import Stage
from jolly_clerk.core.say import _, say
from jolly_clerk.core.time.calendar import Calendar

_KEYS: dict[Stage, str] = {"at filing": "filing", "after the check": "check", "at issue": "issue"}
_FROM = {"at filing": _("the filing"), "after the check": _("the acceptance"), "at issue": _("the grant")}


@dataclass(frozen=True, slots=True)
class Debt:
    """One thing that is owed. ``key`` names it in payments; ``payer`` is empty where the applicant owes it.

    ``due`` is its last day: None if it is due ``at_once``, in the time to pay, or while the day from which it is counted is not known
    (then ``due_said`` tells it). ``open`` is what of it is not paid. ``asked`` tells that it is to be paid now, ``late`` that its day has passed.
    """

    key: str
    stage: Stage
    title: str
    payer: str
    amount: Decimal
    working: str
    at_once: bool
    due: date | None
    due_said: str
    holds: Holds
    article: str
    remind: tuple[int, ...]
    open: Decimal
    paid: Decimal = ZERO
    asked: bool = False
    late: bool = False


def planned(
    rulebook: Rulebook, sheet: Sheet, stage: Stage, amount: Decimal, from_day: date | None, calendar: Calendar
) -> tuple[Debt, ...]:
    """What is due in a stage as its debts, nothing paid yet; one owed at once by the applicant where the edition says nothing else.

    ``from_day`` is the day from which parts are counted: of filing, acceptance or grant; None if it is still to come.
    """
    found = next(
        (c.debts for c in rulebook.debts if c.debts.stage == stage and (c.when is None or c.when.holds(sheet.values) is True)),
        None,
    )
    if amount <= 0:
        return ()
    if found is None:
        return (_whole(stage, amount),)
    made = []
    for number_, (payer, share, how) in enumerate(_shares(found, sheet, amount, coin_of(rulebook.edition.currency)), 1):
        for n, (part, own, told) in enumerate(_parts(found, share, how, coin_of(rulebook.edition.currency)), 1):
            made.append(_debt(found, f"{_KEYS[stage]}.{number_}.{n}", payer, own, told, part, n, from_day, calendar))
    return tuple(made)


def _whole(stage: Stage, amount: Decimal) -> Debt:
    said = say("due at once")
    return Debt(
        _KEYS[stage], stage, say("Due {stage}", stage=say(stage)), "", amount, "", True, None, said, "issue", "", (), amount
    )


def added_debt(title: str, amount: Decimal) -> Debt:
    """What was due at once for something that came later."""
    said = say("Came later: {title}", title=title)
    return Debt("added", "at filing", said, "", amount, "", True, None, say("due at once"), "issue", "", (), ZERO, amount)


def _debt(
    said: Debts, key: str, payer: str, amount: Decimal, working: str, part: Instalment | None, n: int, from_day: date | None, calendar: Calendar
) -> Debt:  # fmt: skip
    due: date | None = None
    due_said = ""
    if part is not None and part.within is not None:
        due_said = say("{within} after {event}", within=part.within, event=say(_FROM[said.stage]))
        if from_day is not None:
            last = part.within.last_day(from_day, calendar)
            due = calendar.working_day_from(last) if part.if_closed == "next working day" else last
            due_said = day(due)
    title = ""
    if part is not None:
        title = part.title or say("Part {part} of {count}", part=n, count=len(said.instalments))
    named = " · ".join(told for told in (payer, title) if told)
    holds: Holds = part.holds if part is not None else "issue"
    return Debt(
        key, said.stage, named, payer, amount, working, not due_said, due, due_said or say("due at once"), holds, said.article,
        tuple(said.remind), amount,
    )  # fmt: skip


def _down(amount: Decimal, coin: Decimal) -> Decimal:
    return amount.quantize(coin, ROUND_DOWN)


def _shares(said: Debts, sheet: Sheet, amount: Decimal, coin: Decimal) -> list[tuple[str, Decimal, str]]:
    """Who owes how much of an amount, with its working; the applicant the whole where the shares are not known."""
    whole = [("", amount, "")]
    if said.shared is None:
        return whole
    items = sheet.values.get(said.shared.each)
    if not isinstance(items, list) or not items:
        return whole
    names = [item.get(said.shared.payer) for item in items]
    weights = [item.get(said.shared.share) for item in items] if said.shared.share else [Decimal(1)] * len(items)
    known = [w for w in weights if isinstance(w, Decimal) and w >= 0]
    total = sum(known, Decimal(0))
    if len(known) < len(items) or not total:
        return whole
    made = [_down(amount * weight / total, coin) for weight in known]
    made[0] += amount - sum(made, ZERO)
    found: list[tuple[str, Decimal, str]] = []
    for name, share, weight in zip(names, made, known, strict=True):
        told = f"{number(amount)} × {number(weight)} ÷ {number(total)}" if weight != total else ""
        found.append(("" if is_absent(name) else str(name), share, told))
    return found


def _parts(said: Debts, amount: Decimal, how: str, coin: Decimal) -> Iterator[tuple[Instalment | None, Decimal, str]]:
    """The parts of an amount, each with its working; what is left of a coin goes to the last."""
    if not said.instalments:
        yield None, amount, how
        return
    left, count = amount, len(said.instalments)
    for n, part in enumerate(said.instalments, 1):
        share = part.percent if part.percent is not None else Decimal(100) / count
        own = left if n == count else _down(amount * share / 100, coin)
        left -= own
        of = number(amount) if not how else f"{number(amount)} [{how}]"
        told = say("{percent} % of {of}", percent=number(part.percent), of=of) if part.percent else f"{of} ÷ {count}"
        yield part, own, told


def debts_of(
    rulebook: Rulebook, sheet: Sheet, case: CaseSoFar, fees: FeeSheet, calendar: Calendar, now: datetime
) -> tuple[Debt, ...]:
    """Every debt of the stages that a case has reached, with what is paid of it; in a draft those that would be.

    None where the edition says nothing of debts: then what is due is owed at once, by the applicant.
    """
    if not rulebook.debts or (case.ended and not case.granted):
        return ()
    today = calendar.local_day(now)
    if case.filed is None:
        totals = ((stage, fees.total(stage).amount or ZERO) for stage in STAGES)
        return tuple(d for stage, amount in totals for d in planned(rulebook, sheet, stage, amount, None, calendar))
    filed = calendar.local_day(case.filed.at)
    found = list(planned(rulebook, sheet, "at filing", fees.total("at filing").low, filed, calendar))
    begins = {d.key: case.filed.at for d in found}
    for stage, entry in (("after the check", case.accepted), ("at issue", case.granted)):
        if entry is not None:
            own = planned(rulebook, sheet, stage, entry.due, calendar.local_day(entry.at), calendar)  # type: ignore[arg-type]
            found += own
            begins |= {d.key: entry.at for d in own}
    paid = _allotted(case, found, begins, calendar)
    return tuple(_now(case, replace(d, paid=paid[d.key], open=d.amount - paid[d.key]), today) for d in found)


def _now(case: CaseSoFar, debt: Debt, today: date) -> Debt:
    """A debt as it stands today: whether it is asked for, and whether it is late."""
    for_issue = case.granted is not None and case.issued is None and debt.holds == "issue"
    come = debt.at_once or (debt.due is not None and today >= debt.due) or for_issue
    late = debt.due is not None and today > debt.due and debt.open > 0
    return replace(debt, asked=come and debt.open > 0, late=late)


def _allotted(case: CaseSoFar, debts: Sequence[Debt], begins: Mapping[str, datetime], calendar: Calendar) -> dict[str, Decimal]:
    """What of the payments goes to each debt: to those that a payment names, then to those that were due when it came, then to the next."""
    paid = {d.key: Decimal(0) for d in debts}
    room = {d.key: d.amount for d in debts}
    over = Decimal(0)

    def give(key: str, amount: Decimal) -> Decimal:
        taken = min(amount, room[key] - paid[key])
        paid[key] += taken
        return amount - taken

    for payment in case.payments:
        amount = payment.amount if case.granted else payment.amount - payment.prepaid
        for key, part in payment.debts.items():
            if key in paid:
                amount -= part - give(key, part)
        there = [d for d in debts if begins[d.key] <= payment.at]
        on = calendar.local_day(payment.at)
        for debt in sorted(there, key=lambda d: _order(d, on)):
            amount = give(debt.key, amount)
        over += amount
    gone = sum((b.amount if case.granted else b.amount - b.prepaid for b in case.paid_back), Decimal(0))
    over = max(over - gone, Decimal(0))
    for debt in debts:  # what was over when it came pays what fell due later, as far as it did not go back
        over = give(debt.key, over)
    return paid


def _order(debt: Debt, on: date) -> tuple[bool, str]:
    come = debt.at_once or (debt.due is not None and debt.due <= on)
    return not come, "" if come or debt.due is None else debt.due.isoformat()


def allotted(debts: Sequence[Debt], amount: Decimal, prepaid: Decimal, wanted: str = "") -> dict[str, Decimal]:
    """For which debts so much money is, less what of it is prepaid: the one that is wanted, then those that are asked for, then the next by
    their days."""
    amount -= prepaid
    order = sorted(debts, key=lambda d: (d.key != wanted, not d.asked, d.due.isoformat() if d.due else ""))
    found: dict[str, Decimal] = {}
    for debt in order:
        part = min(amount, debt.open)
        if part > 0:
            found[debt.key] = part
            amount -= part
    return found


def later(debts: Sequence[Debt]) -> dict[str, Decimal]:
    """What of debts is not due at once, by their keys."""
    return {d.key: d.amount for d in debts if not d.at_once}


def debts_told(debts: Sequence[Debt], currency: str) -> str:
    """How what is due is owed, in a sentence for letters; nothing where it is owed at once by the applicant."""
    if len(debts) < 2:
        return ""
    each = [say("{title}, {amount}, {due}", title=d.title, amount=money(d.amount, currency), due=_until(d)) for d in debts]
    return say("It is owed like this: {each}.", each="; ".join(each))


def _until(debt: Debt) -> str:
    return say("until {day}", day=day(debt.due)) if debt.due else debt.due_said


def may_wait(debts: Sequence[Debt]) -> Decimal:
    """What of what is due at filing need not be paid before the acceptance."""
    return sum((d.amount for d in debts if d.stage == "at filing" and not d.at_once and d.holds != "acceptance"), ZERO)


def holding(debts: Sequence[Debt], what: Holds) -> Decimal:
    """What of debts is open and holds up the acceptance or the issue."""
    stages = ("at filing",) if what == "acceptance" else STAGES
    return sum((d.open for d in debts if d.stage in stages and (d.at_once or d.holds == what)), ZERO)
