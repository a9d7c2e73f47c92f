"""The payment terminal stand-in: a card is held to it, and it says what came of that."""

from __future__ import annotations

from typing import Literal

Outcome = Literal["approved", "declined", "abandoned"]

#: what the person at the terminal is told
SAID: dict[Outcome, str] = {
    "approved": "The payment went through.",
    "declined": "The card was declined. Nothing was charged. Try another card, or again later.",
    "abandoned": "You left the terminal before the payment was done. Nothing was charged.",
}
