"""The drawer of a desk: opened with a counted float, closed with what was counted. Cash is taken and given only at an open one."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal

from pydantic import TypeAdapter
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from jolly_clerk.core.fees.account import amount_fault
from jolly_clerk.core.money_entries import Means
from jolly_clerk.core.say import say, say_n
from jolly_clerk.core.till.day import DayTotals, Gone, Taken, counted, sum_of, totals
from jolly_clerk.office.errors import Invalid, NotAllowed, NotFound, NotReady, Stale
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.office.people.directory import names_in
from jolly_clerk.office.rules.rulebooks import kinds, office_calendar
from jolly_clerk.store.database import next_number, read_session, write_session
from jolly_clerk.store.ledger import MoneyIn, Placing, Refund
from jolly_clerk.store.till import BankMovement, TillDay

#: what the drawer is called where the office has named none
FIRST_TILL = "Till 1"
_TOTALS = TypeAdapter(DayTotals)


@dataclass(frozen=True, slots=True)
class DayView:
    """A day of a drawer: by whom it was opened and counted, what it comes to. ``mine`` tells that whoever looks opened it;
    ``waits_for_second`` that somebody else has to look at the difference; ``second`` that whoever looks may."""

    id: str
    till: str
    day: date
    currency: str
    opened_at: datetime
    opened_by: str
    mine: bool
    counted: Decimal | None
    difference: Decimal | None
    because: str
    waits_for_second: bool
    second: bool
    number: int | None
    closed_at: datetime | None
    closed_by: str
    totals: DayTotals


def need_till(who: Who) -> None:
    """Raises NotAllowed for whoever takes no money."""
    if not who.is_officer:
        raise NotAllowed(say("The till is for officers and leads."))


def office_currency(office: Office) -> str:
    """The currency of the office: that of most kinds."""
    today = office_calendar(office).local_day(office.now())
    found = [rules.edition.currency for rules in kinds(office, today)]
    return max(sorted(set(found)), key=found.count) if found else "EUR"


def open_drawer(session: Session, who: Who, currency: str) -> TillDay | None:
    """The drawer at which somebody takes cash: the one that the person opened, else the only one that is open."""
    wanted = select(TillDay).where(TillDay.closed_at.is_(None), TillDay.currency == currency).order_by(TillDay.opened_at)
    rows = [row for row in session.scalars(wanted) if not row.counted]
    own = [row for row in rows if row.opened_by == who.id]
    return own[0] if own else rows[0] if len(rows) == 1 else None


def need_drawer(session: Session, who: Who, currency: str) -> TillDay:
    """The same. Raises NotReady where there is none."""
    drawer = open_drawer(session, who, currency)
    if drawer is None:
        raise NotReady(say("Open the till first: cash is taken and given at an open till."))
    return drawer


def open_till(office: Office, who: Who, opened_with: Decimal, till: str = "") -> str:
    """Open a drawer with a counted float; returns the id of its day. Raises NotAllowed, Invalid, NotReady if it is open already."""
    need_till(who)
    currency, till = office_currency(office), " ".join(till.split())[:40] or FIRST_TILL
    if fault := amount_fault(opened_with, currency, least_is_zero=True):
        raise Invalid(fault, "opened_with")
    with write_session(office.engine) as session:
        there = session.scalars(select(TillDay).where(TillDay.till == till, TillDay.closed_at.is_(None))).first()
        if there is not None:
            named = names_in(session, [there.opened_by]).get(there.opened_by, "")
            raise NotReady(say("“{till}” was opened by {name} and is not closed yet.", till=till, name=named))
        calendar = office_calendar(office, session)
        today = calendar.local_day(office.now())
        last = session.scalar(select(func.max(TillDay.closed_at)))
        row = TillDay(
            id=new_id(),
            till=till,
            day=today,
            currency=currency,
            begins=last or calendar.day_begin(today),
            opened_at=office.now(),
            opened_by=who.id,
            opened_with=str(opened_with),
        )
        session.add(row)
        return row.id


def close_till(office: Office, who: Who, day_id: str, there: Decimal, because: str = "") -> DayView:
    """Close a day with what was counted in the drawer. A difference needs a reason; above 10.00 a second person looks before it is closed.

    Raises NotAllowed, NotFound, Stale, Invalid; NotReady while movements are to be looked at.
    """
    need_till(who)
    because = " ".join(because.split())[:300]
    with write_session(office.engine) as session:
        row = _open_row(session, day_id)
        _need_nothing_left(session)
        told = _totals(office, session, row)
        found = counted(told.drawer, there, because, row.currency)
        if found.fault:
            raise Invalid(found.fault, found.field)
        row.counted, row.counted_by, row.because = str(there), who.id, because
        if not found.needs_second:
            _close(office, session, who, row, told)
        return _view(office, session, who, row)


def confirm_closing(office: Office, who: Who, day_id: str) -> DayView:
    """A second person looked at the difference: the day is closed. Raises NotAllowed, NotFound, NotReady, Stale."""
    need_till(who)
    with write_session(office.engine) as session:
        row = _open_row(session, day_id)
        if not row.counted:
            raise NotReady(say("The drawer was not counted yet."))
        if row.counted_by == who.id:
            raise NotAllowed(say("Somebody else looks at this difference: whoever counted cannot."))
        _need_nothing_left(session)
        _close(office, session, who, row, _totals(office, session, row))
        return _view(office, session, who, row)


def count_again(office: Office, who: Who, day_id: str) -> DayView:
    """Whoever counted counts again: the drawer is open as before. Raises NotAllowed, NotFound, Stale."""
    need_till(who)
    with write_session(office.engine) as session:
        row = _open_row(session, day_id)
        row.counted, row.counted_by, row.because = "", "", ""
        return _view(office, session, who, row)


def open_days(office: Office, who: Who) -> list[DayView]:
    """The drawers that are not closed, one's own first."""
    need_till(who)
    with read_session(office.engine) as session:
        rows = list(session.scalars(select(TillDay).where(TillDay.closed_at.is_(None)).order_by(TillDay.opened_at)))
        return [_view(office, session, who, row) for row in sorted(rows, key=lambda row: row.opened_by != who.id)]


def office_day(office: Office, who: Who) -> DayTotals:
    """What came and went since the last closing, whether a drawer is open or not."""
    need_till(who)
    with read_session(office.engine) as session:
        return _office_totals(office, session, office_currency(office), Decimal(0), (), ())


def closings(office: Office, who: Who, most: int = 60) -> list[DayView]:
    """The closed days, newest first."""
    need_till(who)
    with read_session(office.engine) as session:
        wanted = select(TillDay).where(TillDay.closed_at.is_not(None)).order_by(TillDay.number.desc()).limit(most)
        return [_view(office, session, who, row) for row in session.scalars(wanted)]


def closing(session: Session, number: int) -> TillDay:
    """A closed day by its number. Raises NotFound."""
    row = session.scalars(select(TillDay).where(TillDay.number == number)).first()
    if row is None:
        raise NotFound(say("There is no closing of this number."))
    return row


def _open_row(session: Session, day_id: str) -> TillDay:
    row = session.get(TillDay, day_id, with_for_update=True)
    if row is None:
        raise NotFound(say("There is no such till."))
    if row.closed_at is not None:
        raise Stale(say("This day is closed. What was wrong is put right on the next one."))
    return row


def _need_nothing_left(session: Session) -> None:
    left = session.scalar(select(func.count()).where((BankMovement.done == "") | BankMovement.underway)) or 0
    if left:
        raise NotReady(say_n("{n} movement is to be looked at first.", "{n} movements are to be looked at first.", left))


def _close(office: Office, session: Session, who: Who, row: TillDay, told: DayTotals) -> None:
    row.closed_at, row.closed_by = office.now(), who.id
    row.number = next_number(session, "till closing")
    row.begins = _since(office, session, row.closed_at)
    row.told = _TOTALS.dump_json(told).decode()


def _since(office: Office, session: Session, now: datetime) -> datetime:
    """When the last day was closed; before the first closing, the begin of the day on which the first drawer was opened."""
    last: datetime | None = session.scalar(select(func.max(TillDay.closed_at)).where(TillDay.closed_at < now))
    first: datetime | None = session.scalar(select(func.min(TillDay.begins)))
    if last or first:
        return last or first or now
    calendar = office_calendar(office, session)
    return calendar.day_begin(calendar.local_day(now))


def _totals(office: Office, session: Session, row: TillDay) -> DayTotals:
    into = session.scalars(select(MoneyIn.amount).where(MoneyIn.till_id == row.id))
    back = session.scalars(select(Refund.amount).where(Refund.till_id == row.id))
    undone = session.scalars(select(Placing.amount).where(Placing.till_id == row.id))
    out = [*map(Decimal, back), *map(Decimal, undone)]
    return _office_totals(office, session, row.currency, Decimal(row.opened_with), map(Decimal, into), out)


def _office_totals(
    office: Office,
    session: Session,
    currency: str,
    opened_with: Decimal,
    into: Iterable[Decimal],
    out: Iterable[Decimal],
) -> DayTotals:
    begins = _since(office, session, office.now())
    came = select(MoneyIn).where(MoneyIn.came_at >= begins, MoneyIn.currency == currency)
    rows = list(session.scalars(came))
    ids = [row.id for row in rows]
    placed, back = _amounts(session, Placing, ids), _amounts(session, Refund, ids)
    taken = [
        Taken(means_of(row), Decimal(row.amount), row.receipt, sum_of(placed.get(row.id, ())), Decimal(row.left), sum_of(back.get(row.id, ())))
        for row in rows
    ]  # fmt: skip
    gone = [
        Gone(Decimal(a), False)
        for a in session.scalars(select(Refund.amount).where(Refund.left_at >= begins, Refund.currency == currency))
    ]
    undone = select(Placing.amount).join(MoneyIn, MoneyIn.id == Placing.money_id)
    undone = undone.where(Placing.charged_back_at >= begins, MoneyIn.currency == currency)
    gone += [Gone(Decimal(a), True) for a in session.scalars(undone)]
    return totals(currency, opened_with, taken, gone, into, out)


def means_of(row: MoneyIn) -> Means:
    """How money came."""
    means: Means = row.means  # type: ignore[assignment]
    return means


def _amounts(session: Session, table: type[Placing] | type[Refund], ids: list[str]) -> dict[str, list[Decimal]]:
    """What of each money in is placed, or goes back without a case."""
    found = dict[str, list[Decimal]]()
    for begin in range(0, len(ids), 500):
        wanted = select(table.money_id, table.amount).where(table.money_id.in_(ids[begin : begin + 500]))
        for money_id, amount in session.execute(wanted).tuples():
            found.setdefault(money_id or "", []).append(Decimal(amount))
    return found


def _view(office: Office, session: Session, who: Who, row: TillDay) -> DayView:
    told = _TOTALS.validate_json(row.told) if row.told else _totals(office, session, row)
    names = names_in(session, [row.opened_by, row.counted_by, row.closed_by])
    there = Decimal(row.counted) if row.counted else None
    waits = bool(row.counted) and row.closed_at is None
    return DayView(
        id=row.id,
        till=row.till,
        day=row.day,
        currency=row.currency,
        opened_at=row.opened_at,
        opened_by=names.get(row.opened_by, ""),
        mine=row.opened_by == who.id,
        counted=there,
        difference=None if there is None else counted(told.drawer, there, row.because, row.currency).difference,
        because=row.because,
        waits_for_second=waits,
        second=waits and row.counted_by != who.id,
        number=row.number,
        closed_at=row.closed_at,
        closed_by=names.get(row.closed_by, ""),
        totals=told,
    )
