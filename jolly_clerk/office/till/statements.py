"""Statements of the bank: a file is read, its movements are kept, each once however often it comes."""

from __future__ import annotations

import hashlib
import tempfile
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from pathlib import Path

from sqlalchemy import select
from sqlalchemy.orm import Session

from jolly_clerk.core.clock import PAYING
from jolly_clerk.core.in_words import all_of
from jolly_clerk.core.say import say
from jolly_clerk.core.till.statement import Movement, Statement, balance_fault, plain_account, same_marks
from jolly_clerk.core.till.table import BadTable, table_statement
from jolly_clerk.office.cases.casework import assessed
from jolly_clerk.office.cases.ledger import keep_owed
from jolly_clerk.office.errors import Invalid
from jolly_clerk.office.office import Office, Who, new_id
from jolly_clerk.office.till.drawers import need_till, office_currency
from jolly_clerk.reading.spreadsheet import MOST_ROWS
from jolly_clerk.store.chain import load_history
from jolly_clerk.store.database import read_session, write_session
from jolly_clerk.store.ledger import MoneyIn
from jolly_clerk.store.tables import Case
from jolly_clerk.store.till import BankMovement, BankStatement, Owed

#: bytes of a statement at most, and of a table
MOST_BYTES, MOST_TABLE = 20_000_000, 2_000_000


@dataclass(frozen=True, slots=True)
class StatementRead:
    """What reading a file came to: the movements that are new, and how many of it were known before or booked by hand."""

    id: str
    number: str
    new: int
    known: int
    by_hand: int


def read_statement(office: Office, who: Who, name: str, content: bytes) -> list[StatementRead]:
    """Read a statement: camt.053, or a table as CSV or XLSX. What is known already is not taken twice.

    Raises NotAllowed; Invalid if it cannot be read, does not add up, or is of another account.
    """
    need_till(who)
    name = " ".join(name.split())[:200] or say("the statement")
    if len(content) > MOST_BYTES:
        raise Invalid(say("“{name}” is larger than {most} MB, the most for a statement.", name=name, most=MOST_BYTES // 10**6))
    if not content.strip():
        raise Invalid(say("“{name}” is empty.", name=name))
    statements = _statements(office, name, content)
    for statement in statements:
        _need_sound(office, statement, name)
    fill_owed(office)
    sha256 = office.vault.put(content)
    return [_keep(office, who, statement, name, sha256) for statement in statements]


def _statements(office: Office, name: str, content: bytes) -> list[Statement]:
    if content.lstrip(b"\xef\xbb\xbf \r\n\t").startswith(b"<"):
        from jolly_clerk.exchange.camt import BadStatement, read_camt  # loaded with the first statement

        try:
            return read_camt(content)
        except BadStatement as fault:
            raise Invalid(f"{name}: {fault}") from None
    if len(content) > MOST_TABLE:
        raise Invalid(say("“{name}” is larger than {most} MB, the most for a table.", name=name, most=MOST_TABLE // 10**6))
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "table"
        path.write_bytes(content)
        cells = office.readers.cells(path)
    if cells.trouble:
        raise Invalid(f"{name}: {cells.trouble}")
    if len(cells.rows) >= MOST_ROWS:
        raise Invalid(say("“{name}” has {most} rows or more. Split it into smaller tables.", name=name, most=MOST_ROWS))
    try:
        return [table_statement(cells.rows, office.settings.account, office_currency(office), name)]
    except BadTable as fault:
        raise Invalid(f"{name}: {fault}") from None


def _need_sound(office: Office, statement: Statement, name: str) -> None:
    own, there = plain_account(office.settings.account), plain_account(statement.account)
    if own and there and own not in there and there not in own:
        raise Invalid(
            say(
                "“{name}” is of the account {there}; the office's is {own}.",
                name=name,
                there=statement.account,
                own=office.settings.account,
            )
        )
    if fault := balance_fault(statement):
        raise Invalid(f"{name}: {fault}")
    if twice := same_marks(statement.movements):
        raise Invalid(say("“{name}” gives the number {marks} to several movements.", name=name, marks=all_of(twice[:3])))


def _keep(office: Office, who: Who, statement: Statement, name: str, sha256: str) -> StatementRead:
    """Keep what is new of a statement."""
    account = plain_account(statement.account or office.settings.account)[:60]
    with write_session(office.engine) as session:
        keys = [f"{account} {m.mark}" for m in statement.movements]
        known = _known(session, keys)
        new = [(n, key, m) for n, (key, m) in enumerate(zip(keys, statement.movements, strict=True)) if key not in known]
        row = BankStatement(
            id=new_id(),
            sha256=sha256,
            name=name,
            number=(statement.number or hashlib.sha256(name.encode()).hexdigest()[:8])[:100],
            account=account,
            currency=statement.currency[:3],
            opening="" if statement.opening is None else str(statement.opening),
            closing="" if statement.closing is None else str(statement.closing),
            movements=len(statement.movements),
            read_at=office.now(),
            read_by=who.id,
        )
        if new:
            session.add(row)
            session.flush()
        by_hand = sum(_keep_movement(office, session, row, n, key, m) for n, key, m in new)
        return StatementRead(row.id if new else "", row.number, len(new), len(known), by_hand)


def _known(session: Session, keys: Sequence[str]) -> set[str]:
    found = set[str]()
    for begin in range(0, len(keys), 500):
        found |= set(session.scalars(select(BankMovement.key).where(BankMovement.key.in_(keys[begin : begin + 500]))))
    return found


def _keep_movement(office: Office, session: Session, statement: BankStatement, n: int, key: str, m: Movement) -> bool:
    """Keep a movement; true if somebody had booked it by hand under the same number."""
    booked = session.scalars(select(MoneyIn).where(MoneyIn.key == money_key_of(m.mark))).first()
    by_hand = booked is not None and m.amount > 0 and Decimal(booked.amount) == m.amount
    row = BankMovement(
        id=new_id(),
        statement_id=statement.id,
        position=n,
        key=key,
        mark=m.mark,
        booked=m.booked,
        value_day=m.value_day,
        amount=str(m.amount),
        currency=m.currency or statement.currency,
        payer=m.payer,
        account=m.account,
        text=m.text,
        end_to_end=m.end_to_end,
        returned=m.returned,
        reason=m.reason,
    )
    if by_hand and booked is not None:
        row.done, row.done_at, row.money_id = "placed", office.now(), booked.id
        row.why = say("booked by hand before, receipt {receipt}", receipt=booked.receipt)
    session.add(row)
    return by_hand


def money_key_of(mark: str) -> str:
    """Under which key money that came by transfer stands in the ledger."""
    return f"transfer {mark}"


def fill_owed(office: Office) -> None:
    """Note of every case that waits for a payment what it awaits, where that is not noted yet (it came by an import, or from before the
    till)."""
    lacking = select(Case).outerjoin(Owed, Owed.case_id == Case.id).where(Case.step.in_(PAYING), Owed.case_id.is_(None))
    lacking = lacking.where(Case.kept.is_(False), Case.erased_at.is_(None))
    with read_session(office.engine) as session:
        cases = list(session.scalars(lacking))
        found = [assessed(office, case, load_history(session, case.id), case.entries, session) for case in cases]
    for loaded in found:
        with write_session(office.engine) as session:
            keep_owed(session, loaded.case, loaded.assessment)
