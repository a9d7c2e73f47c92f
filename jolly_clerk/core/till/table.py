"""A statement as a table: the columns that it needs, found by their names, and what is wrong with a row, by its column."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping, Sequence
from datetime import date
from decimal import Decimal
from typing import Final

from jolly_clerk.core.dossier.answers import AnswerFault, read_date
from jolly_clerk.core.dossier.as_written import Ambiguous, number_text
from jolly_clerk.core.say import _, say
from jolly_clerk.core.till.statement import Movement, Statement

#: what a column may be called, in small letters; the first is how it is named in a complaint
COLUMNS: Final[Mapping[str, tuple[str, ...]]] = {
    "booked": ("booked", "booking date", "booking day", "date", "posted"),
    "value_day": ("value day", "value date", "value"),
    "amount": ("amount", "sum"),
    "currency": ("currency", "ccy"),
    "payer": ("payer", "name", "counterparty", "payer or payee", "from"),
    "account": ("account", "iban", "account of the payer", "counterparty account"),
    "text": ("text", "purpose", "remittance information", "reference", "details", "description"),
    "mark": ("number", "bank reference", "id", "entry"),
}
NEEDED: Final = ("booked", "amount")
_CELL: Final = _("Row {row}, {column}: {fault}")
_MISSING: Final = _("The table has no column “{column}”. Its first row names the columns.")


class BadTable(ValueError):
    """The table is no statement that can be read; the message says what is wrong and where."""


def table_statement(rows: Sequence[Sequence[str]], account: str, currency: str, name: str) -> Statement:
    """The movements of a table whose first row names its columns. ``account`` and ``currency`` are the office's, where no column says.

    Raises BadTable: a column or a cell is missing or cannot be read.
    """
    at = _columns(rows[0] if rows else ())
    for column in NEEDED:
        if column not in at:
            raise BadTable(say(_MISSING, column=COLUMNS[column][0]))
    moves, twice = list[Movement](), dict[str, int]()
    for n, row in enumerate(rows[1:], 2):
        cells = {column: " ".join(row[x].split()) if x < len(row) else "" for column, x in at.items()}
        if not any(cells.values()):
            continue
        moves.append(_movement(cells, n, currency, twice))
    if not moves:
        raise BadTable(say("There is no movement in this table."))
    return Statement(name, account, currency, None, None, tuple(moves))


def _columns(head: Sequence[str]) -> dict[str, int]:
    """Which column stands where, by its name."""
    found = dict[str, int]()
    said = [" ".join(cell.lower().split()) for cell in head]
    for column, names in COLUMNS.items():
        x = next((said.index(name) for name in names if name in said), None)
        if x is not None:
            found[column] = x
    return found


def _movement(cells: Mapping[str, str], n: int, currency: str, twice: dict[str, int]) -> Movement:
    booked = _day(cells, "booked", n)
    value_day = _day(cells, "value_day", n) if cells.get("value_day") else booked
    amount = _amount(cells, n, cells.get("currency") or currency)
    mark = cells.get("mark", "")
    if not mark:  # the bank gave none: what it tells is its number, and how often it told the same
        told = "|".join((str(booked), str(value_day), str(amount), cells.get("payer", ""), cells.get("text", "")))
        twice[told] = twice.get(told, 0) + 1
        mark = hashlib.sha256(f"{told}|{twice[told]}".encode()).hexdigest()[:16]
    return Movement(
        mark=mark[:60],
        booked=booked,
        value_day=value_day,
        amount=amount,
        currency=(cells.get("currency") or currency).upper()[:3],
        payer=cells.get("payer", "")[:140],
        account=cells.get("account", "")[:40],
        text=cells.get("text", "")[:400],
    )


def _day(cells: Mapping[str, str], column: str, n: int) -> date:
    try:
        return read_date(cells[column])
    except AnswerFault as fault:
        name = COLUMNS[column][0]
        raise BadTable(say(_CELL, row=n, column=name, fault=str(fault))) from None


def _amount(cells: Mapping[str, str], n: int, currency: str) -> Decimal:
    text = cells["amount"]
    try:
        said = number_text(text.lstrip("+"), "", currency)
        sign, digits = (-1, said[1:]) if said.startswith(("-", "−")) else (1, said)
        amount = Decimal(digits)
    except Ambiguous as fault:
        raise BadTable(say(_CELL, row=n, column=COLUMNS["amount"][0], fault=str(fault))) from None
    except ArithmeticError:
        amount, sign = Decimal("NaN"), 1
    if not amount.is_finite() or not amount:
        raise BadTable(say("Row {row}: “{text}” is no amount.", row=n, text=text[:30]))
    return sign * amount
