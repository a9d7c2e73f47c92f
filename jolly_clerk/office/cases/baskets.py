"""Several cases paid at the terminal at once: one order, one receipt, a part of it booked on each case.

When the terminal tells that it was approved, the money is kept first, whole, and then placed part by part. What of it finds no place,
also after a stop in between, is listed to the leads like any other money that is not placed.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from jolly_clerk.core.clock import PAYING
from jolly_clerk.core.fees.account import together_come_to
from jolly_clerk.core.history import Means
from jolly_clerk.core.ports import Order
from jolly_clerk.core.say import say
from jolly_clerk.core.sharing import refused_move
from jolly_clerk.core.states import LIVE
from jolly_clerk.office.cases.casework import Loaded, load_case
from jolly_clerk.office.cases.ledger import Came, keep_money
from jolly_clerk.office.cases.paying import AtTerminal, Source, book
from jolly_clerk.office.cases.seeing import covered_cases
from jolly_clerk.office.errors import Invalid, NotReady, OfficeError
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.office.people.directory import person
from jolly_clerk.office.rules.rulebooks import office_calendar
from jolly_clerk.store.beside import Basket
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import Case

MOST_PAYABLE, LEAST_TOGETHER = 100, 2


@dataclass(frozen=True, slots=True)
class Payable:
    """A case on which something is to be paid now, and until when."""

    reference: str
    title: str
    amount: Decimal
    currency: str
    until: date | None


@dataclass(frozen=True, slots=True)
class Together:
    """What several cases come to."""

    amount: Decimal
    currency: str


def payable(office: Office, who: Who) -> list[Payable]:
    """The cases of one's own, or of those for whom one may pay, on which something is to be paid now; the nearest limit first."""
    mine = or_(Case.applicant_id == who.id, *(covered_cases(m) for m in who.mandates))
    wanted = select(Case.reference).where(
        mine, Case.erased_at.is_(None), Case.kept.is_(False), or_(Case.state.in_(LIVE), Case.step.in_(PAYING))
    )
    with read_session(office.engine) as session:
        references = list(session.scalars(wanted.order_by(Case.sort_at, Case.reference).limit(MOST_PAYABLE)))
    loaded = [load_case(office, who, reference) for reference in references]
    return [_payable(one) for one in loaded if not _refused(one)]


def ask_together(office: Office, who: Who, references: Sequence[str]) -> AtTerminal:
    """Ask the terminal for what is open on several cases at once.

    Raises NotReady if the office takes no cards or something cannot be paid, Invalid for fewer than two cases or several currencies.
    """
    if office.terminal is None:
        raise NotReady(say("This office takes no cards. Pay each by transfer, by cheque or in cash, and name its reference."))
    parts = _chosen(office, who, references)
    owed, key = sum_of(parts), new_id()
    row = Basket(key=key, by_id=who.id, amount=str(owed.amount), currency=owed.currency, state="asked")
    row.asked_at = office.now()
    row.parts = [[part.reference, str(part.amount)] for part in parts]
    with write_session(office.engine) as session:
        session.add(row)
    address = office.terminal.ask(order_of(row))
    return AtTerminal(key, _called(row), owed.amount, owed.currency, "asked", "", address)


def together(office: Office, who: Who, references: Sequence[str]) -> Together:
    """What several cases come to, before the terminal is asked. Raises as :func:`ask_together` does."""
    return sum_of(_chosen(office, who, references))


def sum_of(parts: Sequence[Payable]) -> Together:
    """What these come to; they are owed in one currency."""
    return Together(together_come_to([part.amount for part in parts]), parts[0].currency)


def _chosen(office: Office, who: Who, references: Sequence[str]) -> list[Payable]:
    """What is to be paid on each of these cases."""
    chosen = list(dict.fromkeys(references))
    if not LEAST_TOGETHER <= len(chosen) <= MOST_PAYABLE:
        raise Invalid(say("Choose at least two cases."))
    parts = list[Payable]()
    for reference in chosen:
        loaded = load_case(office, who, reference)
        if why_not := _refused(loaded):
            raise NotReady(f"{reference}: {why_not}")
        parts.append(_payable(loaded))
    currencies = {part.currency for part in parts}
    if len(currencies) > 1:
        raise Invalid(say("These are owed in several currencies; pay them apart."))
    return parts


def order_of(row: Basket) -> Order:
    """What the terminal is asked for a basket."""
    return Order(row.key, _called(row), Decimal(row.amount), row.currency)


def place_parts(office: Office, key: str, also: Callable[[Session], None]) -> None:
    """Keep the money of an approved basket and place it on its cases. ``also`` keeps what goes with it, in the write that keeps the money."""
    with write_session(office.engine) as session:
        row = session.get_one(Basket, key)
        also(session)
        row.state = "approved"
        total, today = Decimal(row.amount), office_calendar(office, session).local_day(office.now())
        means: Means = "card"
        came = Came(f"{means} {key}", means, total, row.currency, today)
        money_id = keep_money(session, office, row.by_id, came, total, say("paid with others at once"), key).id
        parts = [(reference, Decimal(amount)) for reference, amount in row.parts]
        by_id = row.by_id
    payer = person(office, by_id)
    for no, (reference, amount) in enumerate(parts, 1):
        try:
            book(office, payer, reference, amount, Source("card", f"{key}-{no}", money_id=money_id))
        except OfficeError:  # it stays with what is not placed; the leads see it
            continue


def _payable(loaded: Loaded) -> Payable:
    a = loaded.assessment
    until = a.clock.limit_day if a.clock and a.clock.step in PAYING else None
    return Payable(loaded.case.reference, a.title, a.account.open, loaded.rulebook.edition.currency, until)


def _refused(loaded: Loaded) -> str:
    """Why nothing of a case can be paid now by whoever looks at it; nothing if it can."""
    if why_not := refused_move(loaded.access, "pay"):
        return why_not.text
    if not loaded.assessment.account.open:
        return say("Nothing is to be paid now. A part that falls due later can be paid by itself.")
    move = loaded.assessment.move("applicant", "pay")
    return "" if move.allowed else move.why_not[0].text


def _called(row: Basket) -> str:
    """What a basket is called at the terminal: its first case, and how many more."""
    return f"{row.parts[0][0]} +{len(row.parts) - 1}"
