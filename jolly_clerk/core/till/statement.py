"""What a bank tells of the office's account: movements, and whether they come to what the balances say."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from stdnum.iso7064 import mod_97_10

from jolly_clerk.core.in_words import money
from jolly_clerk.core.say import say

ZERO = Decimal(0)
_IBAN = re.compile(r"[A-Z]{2}\d{2}[A-Z0-9]{1,30}")


@dataclass(frozen=True, slots=True)
class Movement:
    """One movement of the account.

    ``mark`` is the bank's own number, unique on the account; ``amount`` is below zero when money went out; ``text`` is what the payer
    wrote; ``end_to_end`` the number that whoever ordered it gave; ``returned`` says, for what went out, that the bank took an earlier
    payment back, and ``reason`` why, as far as it is told.
    """

    mark: str
    booked: date
    value_day: date
    amount: Decimal
    currency: str
    payer: str = ""
    account: str = ""
    text: str = ""
    end_to_end: str = ""
    returned: bool = False
    reason: str = ""


@dataclass(frozen=True, slots=True)
class Statement:
    """What one file of the bank tells of one account. ``opening`` and ``closing`` are None where it states no balance."""

    number: str
    account: str
    currency: str
    opening: Decimal | None
    closing: Decimal | None
    movements: tuple[Movement, ...]


def balance_fault(statement: Statement) -> str:
    """Why a statement does not add up: its movements are not the difference of its balances. Empty if it does, or states none."""
    if statement.opening is None or statement.closing is None:
        return ""
    moved = sum((m.amount for m in statement.movements), ZERO)
    if statement.opening + moved == statement.closing:
        return ""
    return say(
        "The movements do not lead from the opening to the closing balance: {opening} and {moved} are {sum}, the statement says {closing}. "
        "A part of the file may be missing.",
        opening=money(statement.opening, statement.currency),
        moved=money(moved, statement.currency),
        sum=money(statement.opening + moved, statement.currency),
        closing=money(statement.closing, statement.currency),
    )


def signed(amount: Decimal, out: bool) -> Decimal:
    """An amount with its sign: below zero if the money went out."""
    return -amount if out else amount


def comes_to(parts: Iterable[Decimal], whole: Decimal) -> bool:
    """True if the parts of a collected entry come to the whole."""
    return sum(parts, ZERO) == whole


def plain_account(account: str) -> str:
    """An account number without spaces, in capitals."""
    return re.sub(r"[\s.]", "", account).upper()


def is_iban(account: str) -> bool:
    """True if this is an account number of ISO 13616: its two check digits fit (ISO 7064, modulo 97)."""
    plain = plain_account(account)
    if not _IBAN.fullmatch(plain):
        return False
    return mod_97_10.is_valid(plain[4:] + plain[:4])


def same_marks(movements: Sequence[Movement]) -> list[str]:
    """The numbers that a statement gives to several movements."""
    seen: set[str] = set()
    twice = dict[str, None]()
    for movement in movements:
        if movement.mark in seen:
            twice[movement.mark] = None
        seen.add(movement.mark)
    return list(twice)
