"""Codes of six digits that come by mail or by text message: made, kept as a hash, compared."""

from __future__ import annotations

import hmac
import secrets
from datetime import datetime
from typing import Protocol

from jolly_clerk.office.lifetimes import CODE, CODE_TRIES, after
from jolly_clerk.office.office import Office
from jolly_clerk.office.people.directory import hash_of


class KeepsACode(Protocol):
    """A row that keeps a code: its hash, how long it works and how often it may still be tried."""

    code_hash: str
    tries_left: int


def new_code(office: Office, row: KeepsACode, of: str) -> tuple[str, datetime]:
    """A new code for ``of`` (whoever or whatever it is for), kept in a row; the one before works no more. Returns it, and until when it works."""
    code = f"{secrets.randbelow(1_000_000):06}"
    row.code_hash, row.tries_left = hash_of(f"{of} {code}"), CODE_TRIES
    return code, after(office.now(), CODE)


def is_right(row: KeepsACode, until: datetime | None, of: str, typed: str, now: datetime) -> bool:
    """True if what was typed is the code of a row; a try is taken from it, whatever comes of it."""
    if until is None or until < now or row.tries_left <= 0:
        return False
    row.tries_left -= 1
    return hmac.compare_digest(row.code_hash, hash_of(f"{of} {''.join(c for c in typed if c.isdigit())}"))
