"""The till of the demo: opened this morning, with a statement of the bank that wants to be looked at."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import UTC, date, datetime
from decimal import Decimal

from sqlalchemy import select

from jolly_clerk.demo.stage import Stage
from jolly_clerk.office.till.drawers import open_till
from jolly_clerk.office.till.statements import read_statement
from jolly_clerk.standins.bank import BankEntry, bank_statement
from jolly_clerk.store.database import read_session
from jolly_clerk.store.ledger import MoneyIn, Placing
from jolly_clerk.store.tables import Case, Person
from jolly_clerk.store.till import Owed

#: where transfers to the office go, and from where its people pay
ACCOUNT, OTHERS = "QH21 0001 2345 6789", "QH76000200007716"
#: what is too little in the transfer that comes short
SHORT = Decimal("10.00")
FOLDER = "bank"
#: the statement tells of so many cases that wait for money, and of so many that were paid
LEAST_OWED, LEAST_PAID = 4, 2


def till_of_today(s: Stage) -> None:
    """The till is opened; the statement lies in the folder ``bank`` and was read."""
    s.instant = datetime.now(UTC)
    open_till(s.office, s.who["imre"], Decimal("150.00"))
    number = f"{s.today:%Y}-{s.today:%j}"
    entries = list(_entries(s))
    if not entries:  # a few cases alone were laid
        return
    content = bank_statement(entries, ACCOUNT.replace(" ", ""), number, "18250.40")
    file = s.office.folder / FOLDER / f"statement-{number}.xml"
    file.parent.mkdir(exist_ok=True)
    file.write_bytes(content)
    read_statement(s.office, s.who["imre"], file.name, content)


def _entries(s: Stage) -> Iterator[BankEntry]:
    """As payers write: with the reference, with a sign off, without one, too little, twice; and what the bank took back."""
    with read_session(s.office.engine) as session:
        waiting = select(Case.reference, Owed.amount, Person.name).join(Owed, Owed.case_id == Case.id)
        waiting = waiting.join(Person, Person.id == Case.applicant_id).where(Owed.until.is_not(None))
        owed = list(session.execute(waiting.order_by(Case.reference)).tuples())
        done = select(Case.reference, Placing.amount, Person.name, MoneyIn.receipt).join(Placing, Placing.case_id == Case.id)
        done = done.join(MoneyIn, MoneyIn.id == Placing.money_id).join(Person, Person.id == Case.applicant_id)
        paid = list(session.execute(done.where(Case.tray != "").order_by(Placing.id.desc())).tuples())
    if len(owed) < LEAST_OWED or len(paid) < LEAST_PAID:
        return
    today: date = s.today
    (first, amount, who), (_, more, whose), (third, much, by), (fourth, sum_, name), *_ = owed
    off = first[:9] + ("4" if first[9] != "4" else "5") + first[10:]
    yield BankEntry("IB-70411", amount, f"{off} shed", who, OTHERS, today)
    yield BankEntry("IB-70412", more, "invention fee, thank you", whose, "", today)
    yield BankEntry("IB-70413", str(Decimal(much) - SHORT), third, by, "", today)
    yield BankEntry("IB-70414", sum_, f"fee {fourth.lower().replace('-', ' ')}", name, "", today)
    again, twice, payer, _ = paid[0]
    yield BankEntry("IB-70415", twice, again, payer, "", today)
    back, gone, owner, receipt = paid[1]
    yield BankEntry(
        "IB-70416", f"-{gone}", f"{back} receipt {receipt}", owner, "", today, reason="card not recognised by its holder"
    )
    yield BankEntry("IB-70417", "-4.20", "fee for the account", "Island Bank", "", today)
