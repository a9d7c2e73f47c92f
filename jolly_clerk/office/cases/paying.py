"""Paying: asked at the terminal or taken by the office, booked once however often it is told."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal

from sqlalchemy import select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from jolly_clerk.core.deadlines import payment_due
from jolly_clerk.core.fees.account import amount_fault, comes_too_late, needs_lead
from jolly_clerk.core.fees.debts import Debt, allotted
from jolly_clerk.core.history import Entry, Lapsed, LapseUndone, Means, Paid, RefundDue
from jolly_clerk.core.in_words import all_of, money
from jolly_clerk.core.ports import Order
from jolly_clerk.core.refunds import cancelled, undoes_lapse
from jolly_clerk.core.say import say
from jolly_clerk.core.sharing import refused_move
from jolly_clerk.office.cases.casework import Loaded, act, load_case, permit
from jolly_clerk.office.cases.ledger import Came, keep_money, next_receipt, place, take_from
from jolly_clerk.office.cases.seeing import note_use
from jolly_clerk.office.desk.reviewing import issue, put_out_permit
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady, Stale
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.office.permits.stepping import go_on
from jolly_clerk.office.post.mailing import deliver_soon, put_out
from jolly_clerk.office.till.drawers import need_drawer, need_till
from jolly_clerk.store.database import next_number, read_session, write_session
from jolly_clerk.store.ledger import MoneyIn, Placing
from jolly_clerk.store.tables import Case, TerminalPayment


@dataclass(frozen=True, slots=True)
class AtTerminal:
    """A payment at the terminal: its key, the amount, what came of it, and where the person pays if not on the page itself."""

    key: str
    reference: str
    amount: Decimal
    currency: str
    state: str
    said: str
    address: str = ""


def ask_payment(office: Office, who: Who, reference: str, prepay: bool = False, debt: str = "") -> AtTerminal:
    """Ask the terminal for what is open on a case; ``prepay`` adds what may be paid now for a later stage. With ``debt`` it is what is
    open of that one alone, by its key.

    Raises NotReady if the office takes no cards, NotFound if nothing of the debt is open.
    """
    loaded = load_case(office, who, reference)
    if who.may.moves != "applicant" or (refused := refused_move(loaded.access, "pay")):
        raise NotAllowed(refused.text if refused else say("Only the applicant pays for this case here."))
    if office.terminal is None:
        raise NotReady(
            say("This office takes no cards. Pay by transfer, by cheque or in cash, and name {reference}.", reference=reference)
        )
    account = loaded.assessment.account
    prepaid = account.may_prepay if prepay and not debt else Decimal(0)
    if not prepaid:
        permit(loaded, who, "pay")
    key, amount = new_id(), account.open_and_prepay if prepaid else account.open
    if debt:
        amount = open_debt(loaded, debt).open
    if not amount:
        raise NotReady(say("Nothing is to be paid now. A part that falls due later can be paid by itself."))
    with write_session(office.engine) as session:
        note_use(session, loaded.access, "pay ", office.now())
        session.add(
            TerminalPayment(
                key=key,
                case_id=loaded.case.id,
                amount=str(amount),
                prepaid=str(prepaid),
                state="asked",
                asked_at=office.now(),
                currency=loaded.rulebook.edition.currency,
                debt=debt,
            )
        )
    currency = loaded.rulebook.edition.currency
    address = office.terminal.ask(Order(key, reference, amount, currency))
    return AtTerminal(key, reference, amount, currency, "asked", "", address)


def open_debt(loaded: Loaded, key: str) -> Debt:
    """A debt of a case of which something is open. Raises NotFound."""
    found = next((d for d in loaded.assessment.debts if d.key == key and d.open), None)
    if found is None:
        raise NotFound(say("Nothing of this part is open."))
    return found


@dataclass(frozen=True, slots=True)
class Source:
    """Where a payment comes from: its means, its own number, the day on which it counts by the statement (today if none is given),
    payer and account as far as they are known, the money in of which it is a part, if that was noted before, and the debt that it is for."""

    means: Means
    key: str
    value_day: date | None = None
    payer: str = ""
    account: str = ""
    money_id: str = ""
    order: str = ""
    debt: str = ""


def take_money(
    office: Office,
    who: Who,
    reference: str,
    amount: Decimal,
    means: Means,
    mark: str,
    value_day: date | None = None,
    payer: str = "",
    account: str = "",
    debt: str = "",
) -> Loaded:
    """An officer books money that came another way: a transfer, a cheque, cash.

    ``mark`` is its own number, which counts once in the office: booked again on the same case nothing happens. ``value_day`` is the
    day on the statement, or on which the cheque came in; ``debt`` is the one that it is for, by its key. What is more than the limit of
    the office above what is to be paid is booked by a lead alone. Raises Invalid, NotAllowed, NotReady, NotFound.
    """
    mark = " ".join(mark.split())
    if not 3 <= len(mark) <= 60:
        raise Invalid(say("Give the number that stands on the transfer, the cheque or the cash slip."))
    loaded = load_case(office, who, reference)
    permit(loaded, who, "take money")
    currency = loaded.rulebook.edition.currency
    if fault := amount_fault(amount, currency):
        raise Invalid(fault)
    today = loaded.known.calendar.local_day(office.now())
    if value_day is not None and value_day > today:
        raise Invalid(say("The value day is not after today."), "value_day")
    payer = " ".join(payer.split())[:200]
    if debt:
        payer = payer or open_debt(loaded, debt).payer
    need_lead_for(office, who, loaded, amount)
    if means == "cash":
        with read_session(office.engine) as session:
            need_drawer(session, who, currency)
    key = f"{means} {mark}"
    with read_session(office.engine) as session:
        there = session.scalars(select(MoneyIn).where(MoneyIn.key == key)).first()
        on = (
            select(Case.reference)
            .join(Placing, Placing.case_id == Case.id)
            .where(Placing.money_id == (there.id if there else ""))
        )
        booked = list(session.scalars(on))
    if there is not None and reference not in booked:
        where = all_of(booked) or say("the list of money that is not placed")
        raise Invalid(say("{mark} was booked already, on {reference}.", mark=mark, reference=where), "mark")
    source = Source(means, key, value_day, payer, " ".join(account.split())[:60], debt=debt)
    try:
        return book(office, who, reference, amount, source)
    except IntegrityError:
        raise Stale(say("This number was booked at the same moment by somebody else. Look at it again.")) from None


def need_lead_for(office: Office, who: Who, loaded: Loaded, amount: Decimal) -> None:
    """Raises NotAllowed if so much more than what is to be paid is booked by a lead alone, and this is none."""
    limit = Decimal(office.settings.fee_limit)
    if needs_lead(loaded.so_far, loaded.assessment.account, amount, limit) and not who.may.decides_fees:
        told = money(limit, loaded.rulebook.edition.currency)
        raise NotAllowed(say("This is more than {limit} above what is to be paid. A lead looks at it and books it.", limit=told))


def book(
    office: Office,
    who: Who,
    reference: str,
    amount: Decimal,
    source: Source,
    prepaid: Decimal = Decimal(0),
    also: Callable[[Session], None] | None = None,
) -> Loaded:
    """Book a payment once; its receipt gets its number in the same write, so that none is left out. ``also`` keeps what goes with
    it, in the same write.

    What follows from it goes into the same write: a lapse that it undoes since it came in time, a refund if the case is over, the
    permit if the case is granted.
    """

    came: list[Came] = []

    def entries(loaded: Loaded) -> list[Entry]:
        came[:] = [_came(loaded, office, amount, source)]
        if any(p.key == source.key for p in loaded.so_far.payments):
            return []
        now, calendar = office.now(), loaded.known.calendar
        counts_from = min(calendar.day_begin(source.value_day), now) if source.value_day else None
        paid = Paid(
            at=now, who=who.signs, role=who.role, amount=amount, means=source.means, key=source.key, prepaid=prepaid,
            value_day=source.value_day, counts_from=counts_from, payer=source.payer, money=source.money_id,
            debts=allotted(loaded.assessment.debts, amount, prepaid, source.debt),
        )  # fmt: skip
        so_far = loaded.so_far
        if so_far.pay_from is not None and isinstance(so_far.ended, Lapsed):
            last = payment_due(so_far.pay_from, loaded.assessment.clock_rules.pay, calendar).ends(calendar)
            if undoes_lapse(so_far, counts_from or now, amount, prepaid, last):
                because = say("{amount} had come in time", amount=money(amount, loaded.rulebook.edition.currency))
                undone = LapseUndone(
                    at=now, who="office", role="office", because=because, cancels=tuple(sorted(cancelled(so_far)))
                )
                return [undone, paid]
        if comes_too_late(so_far):
            currency = loaded.rulebook.edition.currency
            because = say(
                "{amount} came when the case was already {state}",
                amount=money(amount, currency),
                state=loaded.assessment.state.lower(),
            )
            back = RefundDue(
                at=now, who="office", role="office", amount=amount, because=because, key=f"{source.key}-late", prepaid=prepaid
            )
            return [paid, back]
        return [paid, *issue(office, loaded, [paid])]

    def numbered(session: Session, case: Case, made: Sequence[Entry]) -> Sequence[Entry]:
        if also:
            also(session)
        payment = session.get(TerminalPayment, source.key)
        if payment is not None:
            if payment.state == "approved":
                return []
            payment.state = "approved"
        if not made:
            return []
        row = _money_of(session, office, who, came[0], source)
        place(session, row, case, source.key, amount, office.now())
        told = {"amount": money(amount, row.currency), "receipt": row.receipt}
        text = say("{amount} came in. The receipt is {receipt}; it is in your case.", **told)
        subject = say("Paid: {amount}", **told)
        put_out(
            session,
            case,
            f"{case.reference}-paid-{row.receipt}-{case.entries}"[:120],
            subject,
            "",
            office.now(),
            text=text,
            news="money",
        )
        put_out_permit(office, session, case, made)
        return [entry.model_copy(update={"receipt": row.receipt}) if isinstance(entry, Paid) else entry for entry in made]

    done = act(office, who, reference, "", entries, finish=numbered)
    if done.rulebook.step:
        go_on(office, reference)
        done = load_case(office, who, reference)
    deliver_soon(office)
    return done


def _came(loaded: Loaded, office: Office, amount: Decimal, source: Source) -> Came:
    value_day = source.value_day or loaded.known.calendar.local_day(office.now())
    currency = loaded.rulebook.edition.currency
    return Came(source.key, source.means, amount, currency, value_day, source.payer, source.account)


def _money_of(session: Session, office: Office, who: Who, came: Came, source: Source) -> MoneyIn:
    """The money in of a payment: taken from what was not placed, or noted now."""
    if not source.money_id:
        if came.means == "cash":
            came = replace(came, till_id=need_drawer(session, who, came.currency).id)
        return keep_money(session, office, who.id, came, Decimal(0))
    row = take_from(session, source.money_id, came.amount)
    row.receipt = row.receipt or next_receipt(session, office)
    return row


def take_at_till(office: Office, who: Who, reference: str, amount: Decimal, means: Means, mark: str = "", payer: str = "") -> str:
    """Take cash or a cheque at the counter; returns the number of the receipt. Cash gets a number of its own. Raises as
    :func:`take_money` does."""
    need_till(who)
    if means == "cash" and not mark:
        with write_session(office.engine) as session:
            mark = f"cash {next_number(session, 'cash slip'):06}"
    done = take_money(office, who, reference, amount, means, mark, payer=payer)
    key = f"{means} {' '.join(mark.split())}"
    return next(p.receipt for p in done.so_far.payments if p.key == key)
