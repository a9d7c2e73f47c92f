"""The till as its page shows it: what is to be looked at, what is sure, what was done since the last closing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal

from sqlalchemy import ColumnElement, func, or_, select
from sqlalchemy.orm import Session

from jolly_clerk.core.fees.account import awaited
from jolly_clerk.core.in_words import money
from jolly_clerk.core.money_entries import MEANS
from jolly_clerk.core.say import _, say
from jolly_clerk.core.till.day import DayTotals
from jolly_clerk.core.till.matching import named_by
from jolly_clerk.core.till.statement import plain_account
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.errors import NotFound
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.directory import names_in
from jolly_clerk.office.rules.rulebooks import known_kinds
from jolly_clerk.office.till.drawers import DayView, means_of, need_till, office_currency, office_day, open_days
from jolly_clerk.office.till.matching import Matched, matched, movement_of
from jolly_clerk.office.till.placing import UNDONE, carry_out_all
from jolly_clerk.store.database import read_session
from jolly_clerk.store.ledger import MoneyIn, Placing, Refund
from jolly_clerk.store.tables import NO_LIMIT, Case, Person
from jolly_clerk.store.till import BankMovement, BankStatement, Owed, TillDay

#: so many movements and so much of what was done are listed
MOST_OPEN, MOST_DONE = 500, 200
#: what became of a movement, in words
BECAME = {
    "placed": _("placed"),
    "not placed": _("not placed"),
    "going back": _("goes back"),
    "charged back": _("charged back"),
    "refund": _("refund, left as ordered"),
    "no case": _("no case"),
}


@dataclass(frozen=True, slots=True)
class MovementRow:
    """A movement in the list: ``how`` is *sure*, *look*, *none* (nothing is proposed) or *went* (money that went out).

    ``called`` names the cases of its first proposal, or what the payer wrote; ``short`` says why in a few words.
    """

    id: str
    booked: date
    amount: Decimal
    currency: str
    payer: str
    called: str
    short: str
    how: str


@dataclass(frozen=True, slots=True)
class DoneRow:
    """What was done since the last closing: a movement, or money taken at the counter. ``undo`` tells that it can be looked at again."""

    id: str
    at: datetime
    amount: Decimal
    currency: str
    payer: str
    called: str
    became: str
    receipt: str
    undo: bool


@dataclass(frozen=True, slots=True)
class LastStatement:
    """The statement that was read last."""

    number: str
    movements: int
    read_at: datetime


@dataclass(frozen=True, slots=True)
class TillView:
    """The till: its open drawers, what the office took since the last closing, the movements that are to be looked at (the sure ones
    apart), what was done, and how many refunds wait for a lead or to be put into a file for the bank."""

    days: tuple[DayView, ...]
    totals: DayTotals
    currency: str
    statement: LastStatement | None
    look: tuple[MovementRow, ...]
    sure: tuple[MovementRow, ...]
    done: tuple[DoneRow, ...]
    counter: tuple[DoneRow, ...]
    waiting_refunds: int
    to_send: int


@dataclass(frozen=True, slots=True)
class ProposalView:
    """One way of placing a movement. ``cases`` are told as far as they are known; ``written`` and ``marks`` show which signs of the
    reference are off."""

    cases: tuple[CaseTold, ...]
    sure: bool
    because: str
    written: str
    marks: tuple[int, ...]


@dataclass(frozen=True, slots=True)
class CaseTold:
    """A case in a proposal: what it awaits and until when, who filed it, and the part of the money that it would get."""

    reference: str
    title: str
    applicant: str
    awaited: Decimal
    until: date | None
    part: Decimal


@dataclass(frozen=True, slots=True)
class PaymentToTakeBack:
    """A payment that the movement may take back."""

    reference: str
    key: str
    receipt: str
    amount: Decimal
    day: date
    payer: str
    because: str


@dataclass(frozen=True, slots=True)
class MovementView:
    """A movement with what the payer wrote and what is proposed; ``before`` says what came from the same account before."""

    id: str
    booked: date
    value_day: date
    amount: Decimal
    currency: str
    payer: str
    account: str
    text: str
    end_to_end: str
    returned: bool
    reason: str
    mark: str
    before: str
    proposals: tuple[ProposalView, ...]
    back: tuple[PaymentToTakeBack, ...]
    refund: str
    done: str
    why: str


def till(office: Office, who: Who) -> TillView:
    """The page of the till; what a stop left undone is carried out first. Raises NotAllowed."""
    need_till(who)
    carry_out_all(office)
    kinds, days = known_kinds(office), open_days(office, who)
    totals = days[0].totals if days else office_day(office, who)
    with read_session(office.engine) as session:
        begins = session.scalar(select(func.max(TillDay.closed_at)))
        wanted = (
            select(BankMovement)
            .where(BankMovement.done == "")
            .order_by(BankMovement.booked, BankMovement.statement_id, BankMovement.position)
            .limit(MOST_OPEN)
        )
        rows = list(session.scalars(wanted))
        found = matched(office, session, rows, kinds)
        last = session.scalars(select(BankStatement).order_by(BankStatement.read_at.desc())).first()
        done = _done(session, begins)
        counter = _counter(session, begins)
        waiting = session.scalar(select(func.count()).where(Refund.left_at.is_(None))) or 0
        to_send = session.scalar(select(func.count()).where(*to_be_sent())) or 0
    listed = [_row(row, found[row.id]) for row in rows]
    return TillView(
        days=tuple(days),
        totals=totals,
        currency=office_currency(office),
        statement=LastStatement(last.number, last.movements, last.read_at) if last else None,
        look=tuple(row for row in listed if row.how != "sure"),
        sure=tuple(row for row in listed if row.how == "sure"),
        done=tuple(done),
        counter=tuple(counter),
        waiting_refunds=waiting,
        to_send=to_send,
    )


def to_be_sent() -> tuple[ColumnElement[bool], ...]:
    """Which refunds wait to be put into a file for the bank."""
    return (Refund.left_at.is_not(None), Refund.file_no.is_(None), Refund.account != "", Refund.seen_day.is_(None))


def _row(row: BankMovement, found: Matched) -> MovementRow:
    called, short, how = _wrote(row), str(say("no reference")), "none"
    if found.refund:
        called, short, how = say("Refund"), say("left the account as ordered"), "sure"
    elif Decimal(row.amount) < 0:
        how, short = "went", row.reason or say("money that went out")
        if found.back:
            called = say("Taken back, {reference}", reference=found.back[0].payment.reference)
    elif found.proposals:
        first = found.proposals[0]
        how, short, called = first.how, first.short, ", ".join(reference for reference, _part in first.parts)
    return MovementRow(row.id, row.booked, Decimal(row.amount), row.currency, row.payer, called, short, how)


def _wrote(row: BankMovement) -> str:
    named = named_by(movement_of(row))
    return named[0].reference if named else row.text or row.payer or row.mark


def _done(session: Session, begins: datetime | None) -> list[DoneRow]:
    wanted = select(BankMovement).where(BankMovement.done != "")
    if begins is not None:
        wanted = wanted.where(BankMovement.done_at > begins)
    rows = list(session.scalars(wanted.order_by(BankMovement.done_at.desc(), BankMovement.id).limit(MOST_DONE)))
    cases, receipts = _placed(session, [row.money_id for row in rows if row.money_id])
    return [
        DoneRow(
            id=row.id,
            at=row.done_at or NO_LIMIT,
            amount=Decimal(row.amount),
            currency=row.currency,
            payer=row.payer,
            called=", ".join(cases.get(row.money_id or "", [])) or _wrote(row),
            became=say(BECAME[row.done]),
            receipt=receipts.get(row.money_id or "", ""),
            undo=row.done in UNDONE,
        )
        for row in rows
    ]


def _placed(session: Session, ids: Sequence[str]) -> tuple[dict[str, list[str]], dict[str, str]]:
    """On which cases each money in was placed, and its receipt."""
    receipts = dict(session.execute(select(MoneyIn.id, MoneyIn.receipt).where(MoneyIn.id.in_(ids))).tuples().all())
    return cases_of(session, ids), receipts


def cases_of(session: Session, ids: Sequence[str]) -> dict[str, list[str]]:
    """The references of the cases on which each money in was placed."""
    found = dict[str, list[str]]()
    on = select(Placing.money_id, Case.reference).join(Case, Case.id == Placing.case_id).where(Placing.money_id.in_(ids))
    for money_id, reference in session.execute(on.order_by(Placing.id)).tuples():
        found.setdefault(money_id, []).append(reference)
    return found


def _counter(session: Session, begins: datetime | None) -> list[DoneRow]:
    """What was taken at the counter: cash and cheques."""
    wanted = select(MoneyIn).where(or_(MoneyIn.means == "cash", MoneyIn.means == "cheque"))
    if begins is not None:
        wanted = wanted.where(MoneyIn.came_at > begins)
    rows = list(session.scalars(wanted.order_by(MoneyIn.came_at.desc()).limit(MOST_DONE)))
    cases, _receipts = _placed(session, [row.id for row in rows])
    return [
        DoneRow(
            id=row.id,
            at=row.came_at,
            amount=Decimal(row.amount),
            currency=row.currency,
            payer=row.payer,
            called=", ".join(cases.get(row.id, [])),
            became=say(MEANS[means_of(row)]),
            receipt=row.receipt,
            undo=False,
        )
        for row in rows
    ]


def movement(office: Office, who: Who, id_: str) -> MovementView:
    """A movement with its proposals. Raises NotAllowed, NotFound."""
    need_till(who)
    kinds = known_kinds(office)
    with read_session(office.engine) as session:
        row = session.get(BankMovement, id_)
        if row is None:
            raise NotFound(say("There is no such movement."))
        found = matched(office, session, [row], kinds)[row.id] if not row.done else Matched()
        references = {reference for p in found.proposals for reference, _part in p.parts}
        cases = _cases(session, references)
        refund = _refund(session, found)
        before = _before(session, row)
    return MovementView(
        id=row.id,
        booked=row.booked,
        value_day=row.value_day,
        amount=Decimal(row.amount),
        currency=row.currency,
        payer=row.payer,
        account=row.account,
        text=row.text,
        end_to_end=row.end_to_end,
        returned=row.returned,
        reason=row.reason,
        mark=row.mark,
        before=before,
        proposals=tuple(
            ProposalView(
                tuple(_told(cases, reference, part) for reference, part in p.parts),
                p.how == "sure",
                p.because,
                p.written,
                p.marks,
            )
            for p in found.proposals
        ),
        back=tuple(
            PaymentToTakeBack(
                b.payment.reference, b.payment.key, b.payment.receipt, b.payment.amount, b.payment.day, b.payment.payer, b.because
            )
            for b in found.back
        ),
        refund=refund,
        done=say(BECAME[row.done]) if row.done else "",
        why=row.why,
    )


def _cases(session: Session, references: set[str]) -> dict[str, tuple[Case, Owed | None, str]]:
    wanted = select(Case, Owed, Person.name).outerjoin(Owed, Owed.case_id == Case.id).join(Person, Person.id == Case.applicant_id)
    rows = session.execute(wanted.where(Case.reference.in_(sorted(references)))).tuples()
    return {case.reference: (case, owed, name) for case, owed, name in rows}


def _told(cases: dict[str, tuple[Case, Owed | None, str]], reference: str, part: Decimal) -> CaseTold:
    case, owed, name = cases[reference]
    return CaseTold(reference, case.title, name, Decimal(owed.amount if owed else 0), owed.until if owed else None, part)


def _refund(session: Session, found: Matched) -> str:
    """The refund that left with a movement, in words."""
    row = session.get(Refund, found.refund) if found.refund else None
    if row is None:
        return ""
    reference = session.scalar(select(Case.reference).where(Case.id == row.case_id)) if row.case_id else ""
    name = names_in(session, [row.approved_by]).get(row.approved_by, "")
    told = {"amount": money(Decimal(row.amount), row.currency), "account": row.account, "name": name}
    if reference:
        return say("{amount} of {reference} to account {account}, approved by {name}.", reference=reference, **told)
    return say("{amount} to account {account}, approved by {name}.", **told)


def _before(session: Session, row: BankMovement) -> str:
    """What came from the same account before."""
    account = plain_account(row.account)
    if not account:
        return ""
    on = select(Case.reference).join(Placing, Placing.case_id == Case.id).join(MoneyIn, MoneyIn.id == Placing.money_id)
    reference = session.scalars(
        on.where(MoneyIn.account == row.account, MoneyIn.id != (row.money_id or "")).order_by(Placing.id.desc())
    ).first()
    return say("paid {reference} before", reference=reference) if reference else ""


@dataclass(frozen=True, slots=True)
class CaseAtTill:
    """A case for which money is taken: what it awaits now and until when, and what is prepaid with it at most."""

    reference: str
    title: str
    applicant: str
    state: str
    awaited: Decimal
    may_prepay: Decimal
    currency: str
    until: date | None


def case_at_till(office: Office, who: Who, reference: str) -> CaseAtTill:
    """What a case awaits. Raises NotAllowed, NotFound."""
    need_till(who)
    loaded = load_case(office, who, reference)
    a = loaded.assessment
    with read_session(office.engine) as session:
        name = names_in(session, [loaded.case.applicant_id]).get(loaded.case.applicant_id, "")
        owed = session.get(Owed, loaded.case.id)
    account, currency = a.account, loaded.rulebook.edition.currency
    return CaseAtTill(
        reference, a.title, name, a.state, awaited(a.case, account), account.may_prepay, currency, owed.until if owed else None
    )
