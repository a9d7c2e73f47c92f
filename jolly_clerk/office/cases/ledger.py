"""Writing the ledger of the office: money that came in, where it is placed, what is to go back, and that it left."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal

from sqlalchemy import bindparam, delete, or_, select
from sqlalchemy.orm import Session

from jolly_clerk.core import history as h
from jolly_clerk.core.assessment import Assessment
from jolly_clerk.core.clock import PAYING
from jolly_clerk.core.currency import coin_of, to_coin
from jolly_clerk.core.fees.account import awaited
from jolly_clerk.core.in_words import money
from jolly_clerk.core.refunds import rest_of
from jolly_clerk.core.say import say
from jolly_clerk.office.errors import Invalid, NotFound
from jolly_clerk.office.office import Office, new_id
from jolly_clerk.store.database import next_number, query, read_session
from jolly_clerk.store.ledger import MoneyIn, Placing, Refund
from jolly_clerk.store.tables import Case
from jolly_clerk.store.till import Owed

ZERO = Decimal(0)


@dataclass(frozen=True, slots=True)
class Came:
    """Money that came: its key, how, how much, on which value day, from whom and from which account as far as it is known, and into
    which drawer if it is cash."""

    key: str
    means: h.Means
    amount: Decimal
    currency: str
    value_day: date
    payer: str = ""
    account: str = ""
    till_id: str = ""


def next_receipt(session: Session, office: Office) -> str:
    """The next number of a receipt, in the caller's write."""
    year = f"{office.now():%Y}"
    return f"{year}-{next_number(session, f'receipt {year}'):05}"


def keep_money(
    session: Session, office: Office, who: str, came: Came, left: Decimal, why: str = "", order: str = "", numbered: bool = True
) -> MoneyIn:
    """Note money that came, with the number of its receipt, in the caller's write; ``left`` is what of it is placed nowhere, ``order``
    the one of a terminal that it was told for. Without ``numbered`` it gets its receipt when a part of it is placed."""
    row = MoneyIn(
        id=new_id(),
        key=came.key,
        means=came.means,
        amount=str(came.amount),
        currency=came.currency,
        value_day=came.value_day,
        payer=came.payer,
        account=came.account,
        receipt=next_receipt(session, office) if numbered else "",
        came_at=office.now(),
        booked_by=who,
        left=str(left),
        is_left=left > ZERO,
        why=why[:200],
        order=order[:80],
        till_id=came.till_id or None,
    )
    session.add(row)
    return row


def place(session: Session, row: MoneyIn, case: Case, key: str, amount: Decimal, at: datetime) -> None:
    """Note that a part of money in was placed on a case as the payment ``key``."""
    session.add(Placing(money_id=row.id, case_id=case.id, key=key, amount=str(amount), at=at))


def take_from(session: Session, money_id: str, amount: Decimal) -> MoneyIn:
    """Take so much from what of money in is left, in the caller's write. Raises NotFound, Invalid if there is not so much."""
    row = session.get(MoneyIn, money_id, with_for_update=True)
    if row is None:
        raise NotFound(say("There is no such money."))
    rest = rest_of(Decimal(row.left), amount)
    if rest is None:
        raise Invalid(say("{left} of it is left to be placed.", left=money(Decimal(row.left), row.currency)), "amount")
    row.left, row.is_left = str(rest), rest > ZERO
    return row


def note_in_ledger(session: Session, case: Case, entries: Sequence[h.Entry], currency: str) -> None:
    """What the entries of a case say to the ledger: a refund that is due, that left, that fell away, a payment that was charged back."""
    for entry in entries:
        if isinstance(entry, h.RefundDue):
            session.add(Refund(case_id=case.id, key=entry.key, amount=str(entry.amount), currency=currency, due_at=entry.at))
        elif isinstance(entry, h.RefundPaid):
            for refund in session.scalars(select(Refund).where(Refund.case_id == case.id, Refund.key == entry.of)):
                refund.left_at, refund.approved_by = entry.at, entry.who
                refund.means, refund.account = entry.means, entry.account
        elif isinstance(entry, (h.LapseUndone, h.Reopened)):
            for refund in session.scalars(select(Refund).where(Refund.case_id == case.id, Refund.key.in_(entry.cancels))):
                session.delete(refund)
        elif isinstance(entry, h.ChargedBack):
            wanted = select(Placing).where(Placing.case_id == case.id, Placing.key == entry.payment)
            for placing in session.scalars(wanted):
                placing.charged_back_at = entry.at


def keep_owed(session: Session, case: Case, a: Assessment) -> None:
    """Note what a case awaits, by which the till finds it; nothing stands there for one that awaits nothing."""
    amount, currency = awaited(a.case, a.account), a.rulebook.edition.currency
    until = a.clock.limit_day if a.clock and a.clock.step in PAYING else None
    told = (case.applicant_id, money_key(amount, currency), currency, until) if amount > ZERO else None
    there = query(session, _OWED, case_id=case.id).first()
    if there is not None and there != told:
        session.execute(delete(Owed).where(Owed.case_id == case.id))
    if told is not None and there != told:
        applicant, key, currency, until = told
        session.add(Owed(case_id=case.id, applicant_id=applicant, amount=key, currency=currency, until=until))


_OWED = select(Owed.applicant_id, Owed.amount, Owed.currency, Owed.until).where(Owed.case_id == bindparam("case_id"))


def money_key(amount: Decimal, currency: str) -> str:
    """An amount as it is looked for: with the decimals of its currency."""
    return str(to_coin(amount, coin_of(currency)))


def placed_beside(office: Office, case_id: str, paid: h.Paid) -> tuple[Decimal, tuple[tuple[str, Decimal], ...]]:
    """What the money of a payment of a case came to in all, and where its other parts are placed: references and amounts. Nothing beside it if it
    is the whole."""
    if not paid.money:
        return paid.amount, ()
    with read_session(office.engine) as session:
        whole = session.get_one(MoneyIn, paid.money)
        other = or_(Placing.case_id != case_id, Placing.key != paid.key)
        wanted = select(Case.reference, Placing.amount).join(Case, Case.id == Placing.case_id)
        rows = session.execute(wanted.where(Placing.money_id == paid.money, other).order_by(Placing.id))
        return Decimal(whole.amount), tuple((reference, Decimal(amount)) for reference, amount in rows)
