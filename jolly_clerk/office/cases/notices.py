"""What a payment terminal tells: signed, for an order that was asked, for its amount, once. What does not fit is kept and listed."""

from __future__ import annotations

from decimal import Decimal
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, StringConstraints, ValidationError
from sqlalchemy.exc import IntegrityError

from jolly_clerk.core.in_words import money
from jolly_clerk.core.ports import SAID, Order, Outcome
from jolly_clerk.core.say import say
from jolly_clerk.core.sharing import refused_move
from jolly_clerk.exchange.notices import NEAR, is_signed
from jolly_clerk.office.cases.baskets import order_of, place_parts
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.cases.ledger import Came, keep_money
from jolly_clerk.office.cases.paying import AtTerminal, Source, book
from jolly_clerk.office.cases.seeing import access_to
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.directory import who_of
from jolly_clerk.office.rules.rulebooks import office_calendar
from jolly_clerk.standins.terminal import PageTerminal
from jolly_clerk.store.beside import Basket, TerminalNotice
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.tables import Case, Person, TerminalPayment

#: what was made of a notice
Made = Literal["booked", "noted", "not placed", "known already"]


class Notice(BaseModel):
    """What a terminal tells of an order: ``notice`` is its own number for it, which counts once."""

    model_config = ConfigDict(extra="ignore")
    notice: Annotated[str, StringConstraints(min_length=1, max_length=80, pattern=r"^[\x21-\x7e]+$")]
    outcome: Outcome
    amount: Annotated[Decimal, Field(gt=0, max_digits=12, decimal_places=2)]
    currency: Annotated[str, StringConstraints(pattern="^[A-Z]{3}$")]


def receive(office: Office, order: str, time: int, body: bytes, signed: str) -> Made:
    """Take a notice; returns what was made of it: ``booked``, ``noted`` (declined, abandoned), ``not placed``, ``known already``.

    Raises NotFound if the office has no terminal, NotAllowed if it is not signed by the terminal of this office or not of now, Invalid
    if it is none.
    """
    if not office.terminal_key:
        raise NotFound(say("This office has no payment terminal."))
    if not is_signed(office.terminal_key, order, time, body, signed) or abs(office.now().timestamp() - time) > NEAR:
        raise NotAllowed(say("This notice is not signed by the terminal of this office, or it is not of now."))
    try:
        told = Notice.model_validate_json(body)
    except ValidationError as error:
        raise Invalid(say("This is no notice of a terminal."), ".".join(map(str, error.errors()[0]["loc"]))) from None
    try:
        return _place(office, order, told)
    except IntegrityError:  # the same notice at the same moment
        return "known already"


def _place(office: Office, order: str, told: Notice) -> Made:
    with read_session(office.engine) as session:
        if session.get(TerminalNotice, told.notice) is not None:
            return "known already"
        payment = session.get(TerminalPayment, order)
        case = session.get(Case, payment.case_id) if payment else None
        payer = session.get(Person, case.applicant_id) if case else None
        basket = session.get(Basket, order)
    row = TerminalNotice(
        notice=told.notice,
        order=order[:80],
        at=office.now(),
        outcome=told.outcome,
        amount=str(told.amount),
        currency=told.currency,
    )
    if basket is not None:
        return _of_basket(office, row, basket, told)
    if payment is None or case is None or payer is None:
        return _keep(office, row, say("no such order was asked"))
    if told.outcome != "approved":
        return _note(office, row, told.outcome)
    if why_not := _does_not_fit(payment, told):
        return _keep(office, row, why_not)
    source, asked = Source("card", order, debt=payment.debt), Decimal(payment.amount)
    book(office, who_of(payer), case.reference, asked, source, Decimal(payment.prepaid), also=lambda session: session.add(row))
    return "booked"


def _of_basket(office: Office, row: TerminalNotice, basket: Basket, told: Notice) -> Made:
    """What is told of an order for several cases."""
    if told.outcome != "approved":
        return _note(office, row, told.outcome)
    if why_not := _does_not_fit(basket, told):
        return _keep(office, row, why_not)
    place_parts(office, basket.key, also=lambda session: session.add(row))
    return "booked"


def _does_not_fit(asked: TerminalPayment | Basket, told: Notice) -> str:
    """Why a payment that was approved is not the one that was asked for; nothing if it is."""
    amount = Decimal(asked.amount)
    if (told.amount, told.currency) != (amount, asked.currency or told.currency):
        return say("{amount} was asked", amount=money(amount, asked.currency))
    return say("this order was paid already") if asked.state == "approved" else ""


def _keep(office: Office, row: TerminalNotice, why: str) -> Made:
    """Keep a notice that fits nothing; money that came with it is not placed, and the leads see it."""
    with write_session(office.engine) as session:
        session.add(row)
        if row.outcome == "approved":
            amount = Decimal(row.amount)
            today = office_calendar(office, session).local_day(office.now())
            came = Came(f"card {row.notice}", "card", amount, row.currency, today)
            keep_money(session, office, "terminal", came, amount, why, row.order)
    return "not placed"


def _note(office: Office, row: TerminalNotice, outcome: Outcome) -> Made:
    with write_session(office.engine) as session:
        session.add(row)
        payment = session.get(TerminalPayment, row.order) or session.get_one(Basket, row.order)
        if payment.state != "approved":
            payment.state = outcome
    return "noted"


def at_stand_in(office: Office, who: Who, key: str, outcome: Outcome, amount: Decimal | None = None) -> AtTerminal:
    """The person holds a card to the stand-in, which signs on the server what came of it and tells the office. Demo only.

    Raises NotAllowed where the terminal is a real one: what came of a payment is never the applicant's to tell.
    """
    terminal = office.terminal
    if not isinstance(terminal, PageTerminal):
        raise NotAllowed(say("What came of a payment is told by the payment terminal alone."))
    payment, order = _own_order(office, who, key)
    if payment.state != "approved" or outcome == "approved":
        terminal.tell(order, outcome, office.now(), lambda *sent: receive(office, *sent), amount)
    with read_session(office.engine) as session:
        made = session.get(TerminalPayment, key) or session.get_one(Basket, key)
    state = made.state
    said = say(SAID["approved" if state == "approved" else outcome]) if amount in (None, order.amount) else ""
    return AtTerminal(key, order.reference, order.amount, order.currency, state, said)


def _own_order(office: Office, who: Who, key: str) -> tuple[TerminalPayment | Basket, Order]:
    """A payment that one may make, and its order. Raises NotFound."""
    with read_session(office.engine) as session:
        basket = session.get(Basket, key)
        payment = session.get(TerminalPayment, key)
        case = session.get(Case, payment.case_id) if payment else None
        access = access_to(session, who, case) if case else None
    if basket is not None and basket.by_id == who.id:
        return basket, order_of(basket)
    if payment is None or case is None or access is None or refused_move(access, "pay"):
        raise NotFound(say("There is no such payment of yours."))
    currency = payment.currency or load_case(office, who, case.reference).rulebook.edition.currency
    return payment, Order(key, case.reference, Decimal(payment.amount), currency)
