"""Refunds as a file that any bank takes: pain.001 of ISO 20022, checked against the schema of the standard before it leaves."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date


@dataclass(frozen=True, slots=True)
class Transfer:
    """A transfer: its number, whose account it goes to, how much in cents, and what the receiver reads."""

    number: str
    name: str
    account: str
    cents: int
    text: str


#: the version that is written
SCHEMA = "pain.001.001.09"


def payment_file(name: str, account: str, currency: str, day: date, transfers: Sequence[Transfer]) -> bytes:
    """A file of transfers from an account, to be carried out on a day. Raises ValueError if it is not valid by the schema."""
    from sepaxml import SepaTransfer  # loaded with the first file
    from sepaxml.validation import ValidationError

    config = {"name": name[:70], "IBAN": account, "currency": currency, "batch": True, "domestic": currency != "EUR"}
    made = SepaTransfer(config, clean=True, schema=SCHEMA)
    for one in transfers:
        made.add_payment(
            {
                "name": one.name,
                "IBAN": one.account,
                "amount": one.cents,
                "execution_date": day,
                "description": one.text,
                "endtoend_id": one.number,
            }
        )
    try:
        content = made.export(validate=True)
    except ValidationError as error:
        raise ValueError(str(error)) from error
    return bytes(content)
