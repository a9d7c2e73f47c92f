"""Looking after the money of the office: placing what came and fits nothing, refunds that are to leave, payments charged back."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal
from typing import cast

from sqlalchemy import select
from sqlalchemy.orm import Session

from jolly_clerk.core import history as h
from jolly_clerk.core.in_words import all_of, money
from jolly_clerk.core.money_entries import needs_account, way_back
from jolly_clerk.core.money_explained import money_explained
from jolly_clerk.core.refunds import WayBack, by_means, ways_back
from jolly_clerk.core.say import say
from jolly_clerk.office.cases.casework import Loaded, act, assessed, load_case, permit
from jolly_clerk.office.cases.ledger import take_from
from jolly_clerk.office.cases.paying import Source, book
from jolly_clerk.office.errors import Invalid, NotAllowed, NotReady, Stale
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.directory import names_in
from jolly_clerk.office.post.mailing import deliver_soon, put_out
from jolly_clerk.office.till.drawers import need_drawer
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.ledger import MoneyIn, Placing, Refund
from jolly_clerk.store.tables import Case, TerminalPayment

#: so many rows are listed at once, and so many of what left lately
MOST_LISTED, MOST_LEFT = 200, 30


@dataclass(frozen=True, slots=True)
class NotPlaced:
    """Money that came and is not placed: ``left`` of ``amount``, why, and for which case it may have been meant."""

    id: str
    at: datetime
    value_day: date
    means: str
    mark: str
    payer: str
    receipt: str
    amount: Decimal
    left: Decimal
    currency: str
    why: str
    reference: str


@dataclass(frozen=True, slots=True)
class RefundToLeave:
    """A refund that waits for a lead: why, how it goes back in words, and whether an account has to be named for it."""

    id: int
    due_at: datetime
    reference: str
    payer: str
    amount: Decimal
    currency: str
    because: str
    way: str
    account: str
    needs_account: bool


@dataclass(frozen=True, slots=True)
class RefundLeft:
    """A refund that left: when, whose case, how, and who approved it."""

    id: int
    at: datetime
    reference: str
    amount: Decimal
    currency: str
    way: str
    approved_by: str


@dataclass(frozen=True, slots=True)
class Ledger:
    """What a lead looks after: money that is not placed, refunds that wait, refunds that left lately."""

    not_placed: tuple[NotPlaced, ...]
    refunds: tuple[RefundToLeave, ...]
    left: tuple[RefundLeft, ...]


@dataclass(frozen=True, slots=True)
class _Back:
    """A refund with the ways on which it goes back and the account that is known for them."""

    row: Refund
    reference: str
    payer: str
    because: str
    ways: tuple[tuple[h.Means, Decimal], ...]
    account: str

    @property
    def needs_account(self) -> bool:
        return any(needs_account(means) for means, _ in self.ways)

    def told(self, currency: str) -> str:
        """In words how it goes back; several ways with their amounts."""
        if len(self.ways) == 1:
            return way_back(self.ways[0][0], self.account)
        parts = [
            say("{amount} {way}", amount=money(amount, currency), way=way_back(means, self.account))
            for means, amount in self.ways
        ]
        return all_of(parts)


def ledger(office: Office, who: Who) -> Ledger:
    """What is to be looked after. Raises NotAllowed for whoever is no lead."""
    _need_lead(who)
    wanted = select(MoneyIn, Case.reference).outerjoin(TerminalPayment, TerminalPayment.key == MoneyIn.order)
    wanted = wanted.outerjoin(Case, Case.id == TerminalPayment.case_id).where(MoneyIn.is_left)
    with read_session(office.engine) as session:
        rows = session.execute(wanted.order_by(MoneyIn.came_at.desc()).limit(MOST_LISTED)).tuples()
        loose = tuple(
            NotPlaced(
                m.id, m.came_at, m.value_day, m.means, m.key.partition(" ")[2], m.payer, m.receipt, Decimal(m.amount),
                Decimal(m.left), m.currency, m.why, reference or "",
            )
            for m, reference in rows
        )  # fmt: skip
        waiting = select(Refund).where(Refund.left_at.is_(None)).order_by(Refund.due_at, Refund.id).limit(MOST_LISTED)
        refunds = list(session.scalars(waiting))
        gone = select(Refund, Case.reference).outerjoin(Case, Case.id == Refund.case_id).where(Refund.left_at.is_not(None))
        left = session.execute(gone.order_by(Refund.left_at.desc(), Refund.id.desc()).limit(MOST_LEFT)).tuples().all()
        called = names_in(session, {r.approved_by for r, _ in left})
    to_leave = tuple(
        RefundToLeave(
            b.row.id, b.row.due_at, b.reference, b.payer, Decimal(b.row.amount), b.row.currency, b.because, b.told(b.row.currency),
            b.account, b.needs_account,
        )
        for b in (_back(office, who, refund) for refund in refunds)
    )  # fmt: skip
    return Ledger(
        loose,
        to_leave,
        tuple(
            RefundLeft(
                r.id, cast(datetime, r.left_at), reference or "", Decimal(r.amount), r.currency,
                way_back(cast(h.Means, r.means), r.account), called.get(r.approved_by, r.approved_by),
            )
            for r, reference in left
        ),
    )  # fmt: skip


def _need_lead(who: Who) -> None:
    if not who.may.decides_fees:
        raise NotAllowed(say("Only a lead looks after the money of the office."))


def _back(office: Office, who: Who, row: Refund) -> _Back:
    """How a refund goes back: the way the money came."""
    with read_session(office.engine) as session:
        if row.case_id is None:
            came = session.get_one(MoneyIn, row.money_id)
            ways = ((cast(h.Means, came.means), Decimal(row.amount)),)
            return _Back(row, "", came.payer, say("it belongs to no case"), ways, came.account)
        case = session.get_one(Case, row.case_id)
        applicant = names_in(session, {case.applicant_id}).get(case.applicant_id, "")
    loaded = load_case(office, who, case.reference)
    due = next(b for b in loaded.so_far.paid_back if b.key == row.key)
    assert isinstance(due, h.RefundDue)
    taken = ways_back(loaded.so_far, due)
    with read_session(office.engine) as session:
        account = _known_account(session, case.id, taken)
    return _Back(row, case.reference, applicant, due.because, by_means(taken), account)


def _known_account(session: Session, case_id: str, ways: Sequence[WayBack]) -> str:
    """The account from which the money of a refund came, as far as it is known."""
    wanted = select(MoneyIn.account).join(Placing, Placing.money_id == MoneyIn.id).where(Placing.case_id == case_id)
    wanted = wanted.where(Placing.key.in_([w.payment.key for w in ways]), MoneyIn.account != "")
    return session.scalars(wanted.limit(1)).first() or ""


def approve(office: Office, who: Who, refunds: Sequence[int], accounts: Mapping[int, str]) -> int:
    """Let refunds leave, each the way its money came; returns how many left.

    ``accounts`` names, by the refund, the account to which it goes where none is known. All are looked at before the first leaves.

    Raises:
        NotAllowed: whoever is no lead.
        Invalid: an account is missing.
        Stale: one of them left already or fell away.
    """
    _need_lead(who)
    with read_session(office.engine) as session:
        rows = list(session.scalars(select(Refund).where(Refund.id.in_(list(refunds)), Refund.left_at.is_(None))))
    if not rows or len(rows) != len(set(refunds)):
        raise Stale(say("One of these refunds left already. Look at the list again."))
    backs = [_back(office, who, row) for row in rows]
    named = {b.row.id: " ".join(accounts.get(b.row.id, "").split()) or b.account for b in backs}
    for back in backs:
        if back.needs_account and not 4 <= len(named[back.row.id]) <= 60:
            raise Invalid(say("Name the account to which it goes back."), f"accounts.{back.row.id}")
    for back in backs:
        if "cash" in {means for means, _ in back.ways}:
            with read_session(office.engine) as session:
                need_drawer(session, who, back.row.currency)
    for back in backs:
        _leave(office, who, back, named[back.row.id])
    return len(backs)


def _leave(office: Office, who: Who, back: _Back, account: str) -> None:
    row = back.row
    means = max(back.ways, key=lambda way: way[1])[0]
    to = account if means != "card" else ""
    if row.case_id is None:
        with write_session(office.engine) as session:
            kept = session.get_one(Refund, row.id)
            kept.left_at, kept.approved_by, kept.means, kept.account = office.now(), who.id, means, to
            if means == "cash":
                kept.till_id = need_drawer(session, who, row.currency).id
        return

    def entries(loaded: Loaded) -> list[h.Entry]:
        if row.key not in {b.key for b in loaded.so_far.refunds_due}:
            raise Stale(say("One of these refunds left already. Look at the list again."))
        return [
            h.RefundPaid(
                at=office.now(), who=who.signs, role=who.role, of=row.key, amount=amount, means=way,
                account=account if way != "card" else "", key=f"{row.key}-left" + (f"-{n}" if n else ""),
            )
            for n, (way, amount) in enumerate(back.ways)
        ]  # fmt: skip

    def finish(session: Session, case: Case, made: Sequence[h.Entry]) -> Sequence[h.Entry]:
        if means == "cash":
            session.get_one(Refund, row.id).till_id = need_drawer(session, who, row.currency).id
        return made

    act(office, who, back.reference, "", entries, finish=finish)


def place_money(office: Office, who: Who, money_id: str, reference: str, amount: Decimal) -> Loaded:
    """Place a part of money that came and fits nothing on a case; it counts from its value day.

    Raises NotAllowed, NotFound, Invalid if less is left of it, or if the case has another currency.
    """
    _need_lead(who)
    loaded = load_case(office, who, reference)
    permit(loaded, who, "take money")
    with read_session(office.engine) as session:
        row = session.get(MoneyIn, money_id)
        placed = session.query(Placing).where(Placing.money_id == money_id).count()
    if row is None:
        raise Invalid(say("There is no such money."))
    currency = loaded.rulebook.edition.currency
    if row.currency not in ("", currency):
        raise Invalid(say("This case is in {currency}, and the money came in {other}.", currency=currency, other=row.currency))
    key = row.key if not placed else f"{row.key} / {placed + 1}"
    source = Source(cast(h.Means, row.means), key, row.value_day, row.payer, row.account, row.id)
    return book(office, who, reference, amount, source)


def send_back(office: Office, who: Who, money_id: str) -> None:
    """What is left of money that fits nothing is to go back: it stands as a refund that waits. Raises NotAllowed, NotFound, Invalid."""
    _need_lead(who)
    with write_session(office.engine) as session:
        row = session.get(MoneyIn, money_id)
        left = Decimal(row.left) if row else Decimal(0)
        taken = take_from(session, money_id, left)
        back = Refund(money_id=money_id, key=f"money {money_id}", amount=str(left), currency=taken.currency, due_at=office.now())
        session.add(back)


def charge_back(office: Office, who: Who, reference: str, payment: str, because: str, seen: int | None = None) -> Loaded:
    """A payment was taken back by the payer's bank, or a cheque bounced: it counts as not made.

    Raises NotAllowed, NotReady if it is no payment of this case, Invalid without a reason.
    """
    because = " ".join(because.split())
    if not 3 <= len(because) <= 300:
        raise Invalid(say("Say what the bank told, in a few words."), "because")

    def entries(loaded: Loaded) -> list[h.Entry]:
        gone = next((p for p in loaded.so_far.payments if p.key == payment), None)
        if gone is None:
            raise NotReady(say("This is no payment of this case, or it was charged back already."))
        told = h.ChargedBack(at=office.now(), who=who.signs, role=who.role, payment=payment, amount=gone.amount, because=because)
        return [told]

    def finish(session: Session, case: Case, made: Sequence[h.Entry]) -> Sequence[h.Entry]:
        """Whoever applied is told by mail what became of the payment, and what is to be paid now."""
        history = h.History(entries=(*loaded.history.entries, *made), versions=loaded.history.versions)
        then = assessed(office, case, history, loaded.entries + len(made), session).assessment
        placing = session.scalars(select(Placing).where(Placing.case_id == case.id, Placing.key == payment)).first()
        if placing is not None and session.get_one(MoneyIn, placing.money_id).means == "cash":
            placing.till_id = need_drawer(session, who, case_currency).id  # it is given back from the drawer
        key = f"{reference}-charged-back-{len(then.case.charged_back)}"
        put_out(
            session,
            case,
            key,
            say("A payment was charged back"),
            "",
            office.now(),
            text=" ".join(money_explained(then)),
            news="money",
        )
        return made

    loaded = load_case(office, who, reference)
    case_currency = loaded.rulebook.edition.currency
    done = act(office, who, reference, "charge back", entries, seen, finish=finish)
    deliver_soon(office)
    return done
