"""Paying: asked at the terminal, booked once however often the terminal says so."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from sqlalchemy.orm import Session

from jolly_clerk.core.history import Entry, Paid
from jolly_clerk.office.casework import Loaded, act, load_case, need_move
from jolly_clerk.office.errors import NotAllowed, NotFound, Stale
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.standins.terminal import SAID, Outcome
from jolly_clerk.store.database import next_number, reading, writing
from jolly_clerk.store.tables import Case, TerminalPayment

MOST_ATTEMPTS = 5


@dataclass(frozen=True, slots=True)
class AtTerminal:
    """A payment at the terminal: its key, the amount, and what came of it."""

    key: str
    reference: str
    amount: Decimal
    currency: str
    state: str
    said: str


def ask_payment(office: Office, who: Who, reference: str) -> AtTerminal:
    """Ask the terminal for what is open on a case."""
    loaded = load_case(office, who, reference)
    if loaded.case.applicant_id != who.id:
        raise NotAllowed("Only the applicant pays for this case here.")
    need_move(loaded, "applicant", "pay")
    key, amount = new_id(), loaded.assessment.account.open
    with writing(office.engine) as session:
        session.add(TerminalPayment(key=key, case_id=loaded.case.id, amount=str(amount), state="asked", asked_at=office.now()))
    return AtTerminal(key, reference, amount, loaded.rulebook.edition.currency, "asked", "")


def terminal_says(office: Office, who: Who, key: str, outcome: Outcome) -> AtTerminal:
    """The terminal tells what came of a payment. Approved twice is booked once; a second payment of the same debt is kept as paid too much."""
    with reading(office.engine) as session:
        payment = session.get(TerminalPayment, key)
        case = session.get(Case, payment.case_id) if payment else None
    if payment is None or case is None or case.applicant_id != who.id:
        raise NotFound("There is no such payment of yours.")
    amount, currency = Decimal(payment.amount), load_case(office, who, case.reference).rulebook.edition.currency
    if payment.state == "approved":
        return AtTerminal(key, case.reference, amount, currency, "approved", SAID["approved"])
    if outcome == "approved":
        _book(office, who, case.reference, key, amount)
    else:
        with writing(office.engine) as session:
            session.get_one(TerminalPayment, key).state = outcome
    return AtTerminal(key, case.reference, amount, currency, outcome, SAID[outcome])


def _book(office: Office, who: Who, reference: str, key: str, amount: Decimal) -> None:
    """Book an approved payment once; its receipt gets its number in the same write, so that none is left out."""

    def entries(_: Loaded) -> list[Paid]:
        return [Paid(at=office.now(), who=who.id, role="applicant", amount=amount, means="card", key=key)]

    def numbered(session: Session, _: Case, made: Sequence[Entry]) -> Sequence[Entry]:
        payment = session.get_one(TerminalPayment, key)
        if payment.state == "approved":
            return []
        payment.state = "approved"
        year = f"{office.now():%Y}"
        receipt = f"{year}-{next_number(session, f'receipt {year}'):05}"
        return [entry.model_copy(update={"receipt": receipt}) for entry in made]

    for attempt in range(MOST_ATTEMPTS):
        try:
            act(office, who, reference, entries, finish=numbered)
            return
        except Stale:  # the officer wrote at the same moment; money is booked all the same
            if attempt == MOST_ATTEMPTS - 1:
                raise
