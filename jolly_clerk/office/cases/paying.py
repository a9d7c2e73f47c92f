"""Paying: asked at the terminal or taken by the office, booked once however often it is told."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Literal

from sqlalchemy.orm import Session

from jolly_clerk.core.fees.account import amount_fault, comes_too_late, prepaid_of
from jolly_clerk.core.history import Entry, Paid, PaidBack
from jolly_clerk.core.in_words import money
from jolly_clerk.core.ports import SAID, Order, Outcome
from jolly_clerk.core.say import say
from jolly_clerk.office.cases.casework import Loaded, act, load_case, permit
from jolly_clerk.office.desk.reviewing import issue, put_out_permit
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.office.post.mailing import deliver_soon
from jolly_clerk.store.database import next_number, read_session, write_session
from jolly_clerk.store.tables import Case, TerminalPayment

Means = Literal["card", "transfer", "cheque", "cash"]


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


def ask_payment(office: Office, who: Who, reference: str, prepay: bool = False) -> AtTerminal:
    """Ask the terminal for what is open on a case; ``prepay`` adds what may be paid now for a later stage.

    Raises NotReady if the office takes no cards.
    """
    loaded = load_case(office, who, reference)
    if loaded.case.applicant_id != who.id:
        raise NotAllowed(say("Only the applicant pays for this case here."))
    if office.terminal is None:
        raise NotReady(
            say("This office takes no cards. Pay by transfer, by cheque or in cash, and name {reference}.", reference=reference)
        )
    account = loaded.assessment.account
    prepaid = account.may_prepay if prepay else Decimal(0)
    if not prepaid:
        permit(loaded, who, "pay")
    key, amount = new_id(), account.open_and_prepay if prepay else account.open
    with write_session(office.engine) as session:
        session.add(
            TerminalPayment(
                key=key,
                case_id=loaded.case.id,
                amount=str(amount),
                prepaid=str(prepaid),
                state="asked",
                asked_at=office.now(),
            )
        )
    currency = loaded.rulebook.edition.currency
    address = office.terminal.ask(Order(key, reference, amount, currency))
    return AtTerminal(key, reference, amount, currency, "asked", "", address)


def terminal_says(office: Office, who: Who, key: str, outcome: Outcome, amount: Decimal | None = None) -> AtTerminal:
    """The terminal tells what came of a payment; ``amount`` if it is another than was asked.

    Approved twice is booked once. *Declined* or *abandoned* after *approved* changes nothing. Money for a
    case that has ended is booked and goes back at once. Raises NotAllowed outside a demo: what came of a payment is never
    the applicant's to tell.
    """
    if not office.takes_cards:
        raise NotAllowed(say("This office takes no cards; only the office books what was paid."))
    with read_session(office.engine) as session:
        payment = session.get(TerminalPayment, key)
        case = session.get(Case, payment.case_id) if payment else None
    if payment is None or case is None or case.applicant_id != who.id:
        raise NotFound(say("There is no such payment of yours."))
    paid = amount if amount is not None else Decimal(payment.amount)
    if fault := amount_fault(paid):
        raise Invalid(fault)
    currency = load_case(office, who, case.reference).rulebook.edition.currency
    if payment.state == "approved":
        return AtTerminal(key, case.reference, Decimal(payment.amount), currency, "approved", say(SAID["approved"]))
    if outcome == "approved":
        prepaid = prepaid_of(Decimal(payment.amount), Decimal(payment.prepaid), paid)
        book(office, who, case.reference, key, paid, prepaid)
    else:
        with write_session(office.engine) as session:
            session.get_one(TerminalPayment, key).state = outcome
    return AtTerminal(key, case.reference, paid, currency, outcome, say(SAID[outcome]))


def take_money(office: Office, who: Who, reference: str, amount: Decimal, means: Means, mark: str) -> Loaded:
    """An officer books money that came another way: a transfer, a cheque, cash. ``mark`` is its own number; the same mark counts once."""
    mark = " ".join(mark.split())
    if not 3 <= len(mark) <= 60:
        raise Invalid(say("Give the number that stands on the transfer, the cheque or the cash slip."))
    if fault := amount_fault(amount):
        raise Invalid(fault)
    permit(load_case(office, who, reference), who, "take money")
    return book(office, who, reference, f"{means} {mark}", amount, Decimal(0), means)


def book(
    office: Office, who: Who, reference: str, key: str, amount: Decimal, prepaid: Decimal = Decimal(0), means: Means = "card"
) -> Loaded:
    """Book a payment once; its receipt gets its number in the same write, so that none is left out.

    What follows from it goes into the same write: money for an ended case goes back, a granted case gets its permit.
    """

    def entries(loaded: Loaded) -> list[Entry]:
        if any(p.key == key for p in loaded.so_far.payments):
            return []
        paid = Paid(at=office.now(), who=who.id, role=who.role, amount=amount, means=means, key=key, prepaid=prepaid)
        if comes_too_late(loaded.so_far):
            currency = loaded.rulebook.edition.currency
            because = say(
                "{amount} came when the case was already {state}",
                amount=money(amount, currency),
                state=loaded.assessment.state.lower(),
            )
            back = PaidBack(
                at=office.now(), who="office", role="office", amount=amount, because=because, key=f"{key}-late", prepaid=prepaid
            )
            return [paid, back]
        return [paid, *issue(office, loaded, [paid])]

    def numbered(session: Session, case: Case, made: Sequence[Entry]) -> Sequence[Entry]:
        payment = session.get(TerminalPayment, key)
        if payment is not None:
            if payment.state == "approved":
                return []
            payment.state = "approved"
        if not made:
            return []
        year = f"{office.now():%Y}"
        receipt = f"{year}-{next_number(session, f'receipt {year}'):05}"
        put_out_permit(office, session, case, made)
        return [entry.model_copy(update={"receipt": receipt}) if isinstance(entry, Paid) else entry for entry in made]

    done = act(office, who, reference, "", entries, finish=numbered)
    deliver_soon(office)
    return done
