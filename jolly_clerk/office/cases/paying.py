"""Paying: asked at the terminal or taken by the office, booked once however often it is told."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Literal

from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from jolly_clerk.core.fees.account import amount_fault, comes_too_late, needs_lead
from jolly_clerk.core.history import Entry, Paid, PaidBack
from jolly_clerk.core.in_words import money
from jolly_clerk.core.ports import Order
from jolly_clerk.core.say import say
from jolly_clerk.office.cases.casework import Loaded, act, load_case, permit
from jolly_clerk.office.desk.reviewing import issue, put_out_permit
from jolly_clerk.office.errors import Invalid, NotAllowed, NotReady, Stale
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.office.post.mailing import deliver_soon
from jolly_clerk.store.beside import BookedByHand
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
                currency=loaded.rulebook.edition.currency,
            )
        )
    currency = loaded.rulebook.edition.currency
    address = office.terminal.ask(Order(key, reference, amount, currency))
    return AtTerminal(key, reference, amount, currency, "asked", "", address)


def take_money(office: Office, who: Who, reference: str, amount: Decimal, means: Means, mark: str) -> Loaded:
    """An officer books money that came another way: a transfer, a cheque, cash.

    ``mark`` is its own number, which counts once in the office: booked again on the same case nothing happens. What is more than
    the limit of the office above what is to be paid is booked by a lead alone. Raises Invalid, NotAllowed, NotReady.
    """
    mark = " ".join(mark.split())
    if not 3 <= len(mark) <= 60:
        raise Invalid(say("Give the number that stands on the transfer, the cheque or the cash slip."))
    if fault := amount_fault(amount):
        raise Invalid(fault)
    loaded = load_case(office, who, reference)
    permit(loaded, who, "take money")
    account, limit = loaded.assessment.account, Decimal(office.settings.fee_limit)
    if needs_lead(account, amount, limit) and not who.may.decides_fees:
        raise NotAllowed(
            say(
                "This is more than {limit} above what is to be paid. A lead looks at it and books it.",
                limit=money(limit, loaded.rulebook.edition.currency),
            )
        )
    key = f"{means} {mark}"

    def once(session: Session) -> None:
        if session.get(BookedByHand, key) is None:
            session.add(BookedByHand(key=key, case_id=loaded.case.id))

    with read_session(office.engine) as session:
        there = session.get(BookedByHand, key)
        other = session.get_one(Case, there.case_id).reference if there and there.case_id != loaded.case.id else ""
    if other:
        raise Invalid(say("{mark} was booked already, on {reference}.", mark=mark, reference=other), "mark")
    try:
        return book(office, who, reference, key, amount, Decimal(0), means, also=once)
    except IntegrityError:
        raise Stale(say("This number was booked at the same moment by somebody else. Look at it again.")) from None


def book(
    office: Office,
    who: Who,
    reference: str,
    key: str,
    amount: Decimal,
    prepaid: Decimal = Decimal(0),
    means: Means = "card",
    also: Callable[[Session], None] | None = None,
) -> Loaded:
    """Book a payment once; its receipt gets its number in the same write, so that none is left out. ``also`` keeps what goes with
    it, in the same write.

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
        if also:
            also(session)
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
