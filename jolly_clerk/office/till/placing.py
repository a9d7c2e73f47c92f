"""What becomes of a movement: placed on cases, kept until it is known, sent back, known as a refund or as a payment taken back.

A decision is kept first, then carried out part by part; what a stop in between left undone is taken up again when the till is
looked at next, and nothing is booked twice.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from decimal import Decimal

from sqlalchemy import select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from jolly_clerk.core.money_entries import Means
from jolly_clerk.core.say import say
from jolly_clerk.core.till.day import parts_fault
from jolly_clerk.office.cases.casework import load_case, permit
from jolly_clerk.office.cases.ledger import Came, keep_money
from jolly_clerk.office.cases.paying import Source, book, need_lead_for
from jolly_clerk.office.cases.refunding import charge_back
from jolly_clerk.office.errors import Invalid, NotFound, NotReady, OfficeError, Stale
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.directory import person
from jolly_clerk.office.rules.rulebooks import known_kinds
from jolly_clerk.office.till.drawers import need_till
from jolly_clerk.office.till.matching import matched
from jolly_clerk.office.till.statements import money_key_of
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.ledger import MoneyIn, Placing, Refund
from jolly_clerk.store.till import BankMovement

MEANS: Means = "transfer"
#: what can be undone, since nothing left the office yet
UNDONE = ("not placed", "going back", "no case")
MOST_AT_ONCE = 500


@dataclass(frozen=True, slots=True)
class Confirmed:
    """How many movements were confirmed, and those that were not, each with the reason."""

    done: int
    not_done: tuple[str, ...]


def place_movement(office: Office, who: Who, movement: str, parts: Sequence[tuple[str, Decimal]]) -> None:
    """Place money that came on one or several cases, each with its amount; what is left over stays not placed.

    Raises NotAllowed, NotFound, Stale if it was decided before, Invalid, NotReady if a case takes no money.
    """
    need_till(who)
    with read_session(office.engine) as session:
        row = _open_row(session, movement)
    amount = Decimal(row.amount)
    if amount < 0:
        raise Invalid(say("This money went out; it is placed on no case."))
    if fault := parts_fault(amount, parts):
        raise Invalid(fault, "parts")
    for reference, part in parts:
        loaded = load_case(office, who, reference)
        permit(loaded, who, "take money")
        if row.currency != (currency := loaded.rulebook.edition.currency):
            raise Invalid(
                say("This case is in {currency}, and the money came in {other}.", currency=currency, other=row.currency)
            )
        need_lead_for(office, who, loaded, part)
    plan = [[reference, str(part)] for reference, part in parts]

    def keep(session: Session, there: BankMovement) -> None:
        money = keep_money(
            session, office, who.id, _came(there), Decimal(there.amount), say("from a statement of the bank"), numbered=False
        )
        there.money_id, there.plan, there.underway = money.id, plan, True

    _decide(office, who, movement, "placed", "", keep)
    carry_out(office, movement)


def carry_out(office: Office, movement: str) -> None:
    """Carry out what was decided for a movement, as far as it is not done; harmless as often as it is asked."""
    with read_session(office.engine) as session:
        row = session.get(BankMovement, movement)
    if row is None or not row.underway:
        return
    if row.done == "charged back":
        _carry_out_charge(office, row)
        return
    assert row.money_id
    who = person(office, row.done_by)
    trouble = list[str]()
    for n, (reference, part) in enumerate(row.plan, 1):
        key = money_key_of(row.mark) if len(row.plan) == 1 else f"{money_key_of(row.mark)} / {n}"
        with read_session(office.engine) as session:
            there = session.scalars(select(Placing.id).where(Placing.money_id == row.money_id, Placing.key == key)).first()
        if there is not None:
            continue
        source = Source(MEANS, key, row.value_day, row.payer, row.account, row.money_id)
        try:
            book(office, who, reference, Decimal(part), source)
        except OfficeError as fault:  # it stays with what is not placed, and says why
            trouble.append(f"{reference}: {fault.detail}")
    with write_session(office.engine) as session:
        kept = session.get_one(BankMovement, movement)
        kept.underway = False
        if trouble:
            kept.why = " ".join(trouble)[:300]
            session.get_one(MoneyIn, row.money_id).why = kept.why[:200]


def carry_out_all(office: Office) -> int:
    """Carry out whatever a stop left undone; returns how many movements that were."""
    with read_session(office.engine) as session:
        ids = list(session.scalars(select(BankMovement.id).where(BankMovement.underway)))
    for id_ in ids:
        carry_out(office, id_)
    return len(ids)


def keep_unplaced(office: Office, who: Who, movement: str, because: str = "") -> None:
    """Money that came stays in the list of what is not placed until it is known for what it is. Raises as :func:`place_movement`."""
    need_till(who)

    def keep(session: Session, there: BankMovement) -> None:
        _need_came(there)
        why = because or there.text or say("no case is known for it")
        there.money_id = keep_money(session, office, who.id, _came(there), Decimal(there.amount), why, numbered=False).id

    _decide(office, who, movement, "not placed", because, keep)


def return_movement(office: Office, who: Who, movement: str, because: str) -> None:
    """Money that belongs to no case goes back: it stands as a refund that waits for a lead. Raises Invalid without a reason."""
    need_till(who)
    because = _reason(because)

    def keep(session: Session, there: BankMovement) -> None:
        _need_came(there)
        row = keep_money(session, office, who.id, _came(there), Decimal(0), because, numbered=False)
        session.flush()
        there.money_id = row.id
        back = Refund(money_id=row.id, key=f"money {row.id}", amount=there.amount, currency=there.currency, due_at=office.now())
        session.add(back)

    _decide(office, who, movement, "going back", because, keep)


def no_case(office: Office, who: Who, movement: str, because: str) -> None:
    """A movement that is none of a case: what the bank took for its work, cards paid out in a sum. Raises Invalid without a reason."""
    need_till(who)
    _decide(office, who, movement, "no case", _reason(because), lambda *_: None)


def charge_back_movement(office: Office, who: Who, movement: str, reference: str, payment: str, because: str = "") -> None:
    """Money that went out takes a payment back, by its key. Raises NotAllowed, NotFound, Stale, Invalid, NotReady."""
    need_till(who)
    loaded = load_case(office, who, reference)
    permit(loaded, who, "charge back")
    paid = next((p for p in loaded.so_far.payments if p.key == payment), None)
    if paid is None:
        raise NotReady(say("This is no payment of this case, or it was charged back already."))
    with read_session(office.engine) as session:
        row = _open_row(session, movement)
    if paid.amount != -Decimal(row.amount):
        raise Invalid(say("The payment and what went out are not the same amount."))
    told = " ".join((because or row.reason or row.text).split())[:300] or say("taken back by the bank")

    def keep(_: Session, there: BankMovement) -> None:
        there.plan, there.underway = [[reference, payment]], True

    _decide(office, who, movement, "charged back", told, keep)
    carry_out(office, movement)


def _carry_out_charge(office: Office, row: BankMovement) -> None:
    (reference, payment), who = row.plan[0], person(office, row.done_by)
    if any(p.key == payment for p in load_case(office, who, reference).so_far.payments):
        charge_back(office, who, reference, payment, row.why)
    with write_session(office.engine) as session:
        session.get_one(BankMovement, row.id).underway = False


def confirm_sure(office: Office, who: Who, movements: Sequence[str]) -> Confirmed:
    """Confirm movements whose proposal is sure, as it is now; one that is not sure any more stays. Raises NotAllowed, Invalid."""
    need_till(who)
    if len(movements) > MOST_AT_ONCE:
        raise Invalid(say("At most {most} at once.", most=MOST_AT_ONCE))
    kinds, done, not_done = known_kinds(office), 0, list[str]()
    for id_ in movements:
        try:
            _confirm(office, who, id_, kinds)
            done += 1
        except OfficeError as fault:
            not_done.append(fault.detail)
    return Confirmed(done, tuple(dict.fromkeys(not_done)))


def _confirm(office: Office, who: Who, movement: str, kinds: set[str]) -> None:
    with read_session(office.engine) as session:
        row = _open_row(session, movement)
        found = matched(office, session, [row], kinds)[row.id]
    if found.refund:
        see_refund(office, who, movement)
    elif found.is_sure:
        place_movement(office, who, movement, found.proposals[0].parts)
    else:
        raise Stale(say("{amount} of {payer} is not sure any more: look at it.", amount=row.amount, payer=row.payer or row.text))


def see_refund(office: Office, who: Who, movement: str) -> None:
    """A refund left the account as it was ordered. Raises NotFound, Stale, NotReady if it is none."""
    need_till(who)
    with read_session(office.engine) as session:
        row = _open_row(session, movement)
        found = matched(office, session, [row], ())[row.id]
    if not found.refund:
        raise NotReady(say("This is no refund that was ordered."))

    def keep(session: Session, there: BankMovement) -> None:
        session.get_one(Refund, found.refund).seen_day = there.booked
        there.plan = [found.refund]

    _decide(office, who, movement, "refund", found.because, keep)


def undo(office: Office, who: Who, movement: str) -> None:
    """Look at a movement again that was kept, sent back or set aside, while nothing came of it. Raises NotReady if something did."""
    need_till(who)
    with write_session(office.engine) as session:
        row = session.get(BankMovement, movement, with_for_update=True)
        if row is None:
            raise NotFound(say("There is no such movement."))
        if row.done not in UNDONE:
            raise NotReady(say("Its receipt is in the case. What was wrong is put right by a counter-entry."))
        if row.money_id:
            money = session.get_one(MoneyIn, row.money_id)
            placed = session.scalars(select(Placing.id).where(Placing.money_id == money.id)).first()
            backs = list(session.scalars(select(Refund).where(Refund.money_id == money.id)))
            if placed or money.receipt or any(back.left_at for back in backs):
                raise NotReady(say("A part of it was placed or left already."))
            for back in backs:
                session.delete(back)
            session.flush()
            session.delete(money)
        row.done, row.why, row.done_at, row.done_by, row.money_id, row.plan = "", "", None, "", None, []


def _decide(office: Office, who: Who, movement: str, done: str, why: str, keep: Callable[[Session, BankMovement], None]) -> None:
    """Keep what was decided for a movement, once."""
    try:
        with write_session(office.engine) as session:
            row = session.get(BankMovement, movement, with_for_update=True)
            if row is None:
                raise NotFound(say("There is no such movement."))
            if row.done:
                raise _decided()
            keep(session, row)
            row.done, row.why, row.done_at, row.done_by = done, why[:300], office.now(), who.id
    except IntegrityError:
        raise Stale(
            say("Money of this number was booked by hand, with another amount. Set this movement aside and say so.")
        ) from None


def _open_row(session: Session, movement: str) -> BankMovement:
    row = session.get(BankMovement, movement)
    if row is None:
        raise NotFound(say("There is no such movement."))
    if row.done:
        raise _decided()
    return row


def _decided() -> Stale:
    return Stale(say("Somebody decided on this movement already."))


def _came(row: BankMovement) -> Came:
    return Came(money_key_of(row.mark), MEANS, Decimal(row.amount), row.currency, row.value_day, row.payer, row.account)


def _need_came(row: BankMovement) -> None:
    if Decimal(row.amount) <= 0:
        raise Invalid(say("This money went out; it is placed on no case."))


def _reason(because: str) -> str:
    because = " ".join(because.split())[:300]
    if len(because) < 3:
        raise Invalid(say("Say why, in a few words."), "because")
    return because
