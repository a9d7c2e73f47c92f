"""A bank for the tests: account numbers, statements of the office's account, and whether a file is valid by the standard."""

from __future__ import annotations

import importlib
import re
from collections.abc import Sequence

from stdnum.iso7064 import mod_97_10
from xsdata.formats.dataclass.parsers import XmlParser
from xsdata.formats.dataclass.parsers.config import ParserConfig

from jolly_clerk.standins.bank import BankEntry as Entry
from jolly_clerk.standins.bank import bank_statement

__all__ = ["OFFICE", "Entry", "camt", "iban", "is_standard"]


def iban(number: int, country: str = "QH") -> str:
    """An account number of Quillhaven with the right check digits."""
    own = f"{number:012}"
    return f"{country}{mod_97_10.calc_check_digits(own + country)}{own}"


OFFICE = iban(123456789)


def camt(
    entries: Sequence[Entry],
    opening: str = "1000.00",
    closing: str = "",
    account: str = OFFICE,
    version: str = "08",
    number: str = "2026-231",
) -> bytes:
    """A statement of the office's account with these entries."""
    return bank_statement(entries, account, number, opening, closing, int(version))


def is_standard(content: bytes) -> bool:
    """True if a file keeps to the classes that were made from the schema of its message: no unknown element, none missing, each of its
    type."""
    message = re.search(rb"xsd:([a-z]+)\.(\d{3})\.(\d{3})\.(\d{2})", content)
    assert message
    name = "_".join(part.decode() for part in message.groups())
    module = importlib.import_module(f"pyiso20022.{name.partition('_')[0]}.{name}")
    strict = ParserConfig(fail_on_unknown_properties=True, fail_on_unknown_attributes=True, fail_on_converter_warnings=True)
    return XmlParser(config=strict).from_bytes(content, module.Document) is not None
