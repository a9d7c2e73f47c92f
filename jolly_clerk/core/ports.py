"""What the office needs of the world outside, as protocols; ``jolly_clerk.standins`` has simulated ones.

Whoever has real registers, a real post room or a real terminal writes a class with these methods and hands it to ``open_office``.
"""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal
from typing import Final, Literal, Protocol

from jolly_clerk.core.say import _


class NoAnswer(Exception):
    """The register does not answer just now."""


class Registers(Protocol):
    """The registers that an office may look into. A row is a mapping of column to text."""

    def entry(self, name: str, column: str, key: str) -> dict[str, str] | None:
        """The row whose ``column`` is ``key``, compared by :func:`as_key`; None if there is none. Raises NoAnswer."""

    def search(self, name: str, words: str, columns: list[str], most: int = 8) -> list[dict[str, str]]:
        """Rows in which each of the words stands in one of the columns. Raises NoAnswer."""

    def map_of(self, name: str) -> bytes | None:
        """The map on which the entries of a register lie, as GeoJSON (see :mod:`jolly_clerk.core.town_map`); None if it has none."""


def as_key(text: str) -> str:
    """A text for comparing: without capitals and doubled blanks."""
    return " ".join(text.casefold().split())


@dataclass(frozen=True, slots=True)
class Item:
    """Something to deliver. The same key delivered twice is one item."""

    key: str
    reference: str
    to: str
    subject: str
    put_at: str


class PostRoom(Protocol):
    """Whoever delivers letters and mail."""

    def deliver(self, item: Item, pdf: bytes | None, mail: bytes = b"") -> object:
        """Deliver an item: a PDF, the mail as EML, or both; twice is harmless."""

    def forget(self, key: str) -> None:
        """Forget what is still held of an item: it was erased."""


class TextMessages(Protocol):
    """Whoever carries short messages to telephones."""

    def send(self, key: str, number: str, text: str) -> object:
        """Send a text to a number; the same key sent twice is one message."""


@dataclass(frozen=True, slots=True)
class Order:
    """What the terminal is asked to take: an amount in a currency, for a case, under a key that is used once."""

    key: str
    reference: str
    amount: Decimal
    currency: str


class Terminal(Protocol):
    """The payment terminal. An office without one takes no cards."""

    def ask(self, order: Order) -> str:
        """Ask for a payment; returns the address at which the person pays, nothing if that is the payment page itself."""


#: what came of a card that was held to the payment terminal
Outcome = Literal["approved", "declined", "abandoned"]
#: what the person at the terminal is told
SAID: Final[dict[Outcome, str]] = {
    "approved": _("The payment went through."),
    "declined": _("The card was declined. Nothing was charged. Try another card, or again later."),
    "abandoned": _("You left the terminal before the payment was done. Nothing was charged."),
}
