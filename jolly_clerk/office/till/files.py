"""Files of the till: refunds for the bank as pain.001, and the movements of a day as CSV and XLSX."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal
from typing import Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from jolly_clerk.core.currency import in_coins
from jolly_clerk.core.money_entries import MEANS
from jolly_clerk.core.say import say
from jolly_clerk.core.till.day import sum_of
from jolly_clerk.core.till.statement import is_iban, plain_account
from jolly_clerk.exchange.pain import Transfer, payment_file
from jolly_clerk.exchange.spreadsheet import Cell, csv_file, xlsx_file
from jolly_clerk.office.errors import NotFound, NotReady
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.people.directory import names_in
from jolly_clerk.office.rules.rulebooks import office_calendar
from jolly_clerk.office.till.drawers import closing, means_of, need_till
from jolly_clerk.office.till.matching import REFUND_MARK
from jolly_clerk.office.till.page import cases_of, to_be_sent
from jolly_clerk.store.database import next_number, read_session, write_session
from jolly_clerk.store.ledger import MoneyIn, Placing, Refund
from jolly_clerk.store.tables import Case, Person
from jolly_clerk.store.till import PaymentFile, TillDay


@dataclass(frozen=True, slots=True)
class FileMade:
    """A file of refunds: its number, how many and how much; ``without`` are those that no file can hold, since their account is no IBAN."""

    no: int
    count: int
    total: Decimal
    currency: str
    without: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class FileRow:
    """A file that was made."""

    no: int
    at: datetime
    count: int
    total: Decimal
    currency: str
    made_by: str


def make_payment_file(office: Office, who: Who, currency: str) -> FileMade:
    """Put every refund that was approved, goes to an account and is in no file yet, into one. It can be fetched as often as needed.

    Raises NotAllowed, NotReady if there is none, or if the account of the office is no IBAN.
    """
    need_till(who)
    own = plain_account(office.settings.account)
    if not is_iban(own):
        raise NotReady(say("The account of the office, “{account}”, is no IBAN; a file for the bank needs one.", account=own))
    with write_session(office.engine) as session:
        rows = list(session.scalars(select(Refund).where(*to_be_sent(), Refund.currency == currency).order_by(Refund.id)))
        good = [row for row in rows if is_iban(row.account)]
        without = tuple(row.account for row in rows if not is_iban(row.account))
        if not good:
            told = say("No refund waits to be sent.") if not without else say("The accounts of these refunds are no IBANs.")
            raise NotReady(told)
        day = office_calendar(office, session).local_day(office.now())
        content = payment_file(office.settings.name, own, currency, day, [_transfer(session, row, currency) for row in good])
        no = next_number(session, "payment file")
        total = sum_of(Decimal(row.amount) for row in good)
        session.add(
            PaymentFile(
                no=no,
                sha256=office.vault.put(content),
                currency=currency,
                total=str(total),
                count=len(good),
                made_at=office.now(),
                made_by=who.id,
            )
        )
        for row in good:
            row.file_no = no
        return FileMade(no, len(good), total, currency, without)


def _transfer(session: Session, row: Refund, currency: str) -> Transfer:
    name, about = "", ""
    if row.case_id:
        wanted = select(Person.name, Case.reference).join(Case, Case.applicant_id == Person.id).where(Case.id == row.case_id)
        name, about = session.execute(wanted).tuples().one()
    elif row.money_id:
        money = session.get_one(MoneyIn, row.money_id)
        name, about = money.payer, money.why
    text = say("Refund {reference}", reference=about)
    cents = in_coins(Decimal(row.amount), currency)
    return Transfer(f"{REFUND_MARK}{row.id}", name or say("the payer"), plain_account(row.account), cents, text)


def read_payment_file(office: Office, who: Who, no: int) -> bytes:
    """A file that was made. Raises NotAllowed, NotFound."""
    need_till(who)
    with read_session(office.engine) as session:
        row = session.get(PaymentFile, no)
    if row is None:
        raise NotFound(say("There is no such file."))
    return office.vault.get(row.sha256)


def payment_files(office: Office, who: Who, most: int = 30) -> list[FileRow]:
    """The files that were made, newest first."""
    need_till(who)
    with read_session(office.engine) as session:
        rows = list(session.scalars(select(PaymentFile).order_by(PaymentFile.no.desc()).limit(most)))
        names = names_in(session, [row.made_by for row in rows])
    return [FileRow(r.no, r.made_at, r.count, Decimal(r.total), r.currency, names.get(r.made_by, "")) for r in rows]


def day_as_table(office: Office, who: Who, number: int, form: Literal["csv", "xlsx"]) -> bytes:
    """What came and went in a closed day, a row each. Raises NotAllowed, NotFound."""
    need_till(who)
    with read_session(office.engine) as session:
        row = closing(session, number)
        rows = [_head(), *_came(office, session, row), *_went(office, session, row)]
    title = say("Closing {number}", number=number)
    return csv_file(rows) if form == "csv" else xlsx_file(title, rows, {})


def _head() -> list[Cell]:
    return [
        say("Time"), say("What"), say("Means"), say("Amount"), say("Currency"), say("Value day"), say("Receipt"), say("Cases"),
        say("Payer"), say("Account"), say("Number"), say("Not placed"),
    ]  # fmt: skip


def _came(office: Office, session: Session, day: TillDay) -> list[list[Cell]]:
    zone = office_calendar(office, session).zone
    wanted = select(MoneyIn).where(
        MoneyIn.came_at >= day.begins, MoneyIn.came_at <= day.closed_at, MoneyIn.currency == day.currency
    )
    rows = list(session.scalars(wanted.order_by(MoneyIn.came_at, MoneyIn.receipt)))
    cases = cases_of(session, [row.id for row in rows])
    return [
        [
            f"{row.came_at.astimezone(zone):%Y-%m-%d %H:%M}", say("came"), say(MEANS[means_of(row)]), Decimal(row.amount), row.currency,
            row.value_day, row.receipt, " ".join(cases.get(row.id, ())), row.payer, row.account, row.key.partition(" ")[2],
            Decimal(row.left) if row.is_left else "",
        ]
        for row in rows
    ]  # fmt: skip


def _went(office: Office, session: Session, day: TillDay) -> list[list[Cell]]:
    """What left in a day: refunds, and payments that were charged back."""
    zone, found = office_calendar(office, session).zone, list[tuple[datetime, list[Cell]]]()
    left = select(Refund, Case.reference).outerjoin(Case, Case.id == Refund.case_id)
    left = left.where(Refund.left_at >= day.begins, Refund.left_at <= day.closed_at, Refund.currency == day.currency)
    for row, case in session.execute(left).tuples():
        means = say(MEANS[row.means]) if row.means in MEANS else ""
        told: list[Cell] = [say("refund"), means, Decimal(f"-{row.amount}"), row.currency, "", "", case or "", "", row.account]
        found.append((row.left_at or day.begins, [*told, f"{REFUND_MARK}{row.id}", ""]))
    back = select(Placing, MoneyIn, Case.reference).join(MoneyIn, MoneyIn.id == Placing.money_id)
    back = back.join(Case, Case.id == Placing.case_id).where(Placing.charged_back_at >= day.begins)
    back = back.where(Placing.charged_back_at <= day.closed_at, MoneyIn.currency == day.currency)
    for placing, money, case in session.execute(back).tuples():
        told = [say("charged back"), say(MEANS[means_of(money)]), Decimal(f"-{placing.amount}"), money.currency, ""]
        told += [money.receipt, case, money.payer, money.account, money.key.partition(" ")[2], ""]
        found.append((placing.charged_back_at or day.begins, told))
    return [[f"{at.astimezone(zone):%Y-%m-%d %H:%M}", *rest] for at, rest in sorted(found, key=lambda pair: pair[0])]
