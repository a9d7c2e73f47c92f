"""The payment terminal stand-in: it stands on the payment page, the person says there what the card did, and it signs that on the
server and tells the office as a real one would. Demo only."""

from __future__ import annotations

import json
import uuid
from collections.abc import Callable
from datetime import datetime
from decimal import Decimal

from jolly_clerk.core.ports import Order, Outcome
from jolly_clerk.exchange.notices import signature

#: takes order, time, body and signature, as the address for notices does
Receive = Callable[[str, int, bytes, str], str]


class PageTerminal:
    """Asks nobody: the payment page shows its buttons."""

    def __init__(self, key: str) -> None:
        self.key = key

    def ask(self, order: Order) -> str:
        """The payment page itself."""
        return ""

    def tell(self, order: Order, outcome: Outcome, at: datetime, receive: Receive, amount: Decimal | None = None) -> str:
        """Tell the office what came of an order; ``amount`` if the card took another than was asked. Returns what was made of it."""
        told = {
            "notice": uuid.uuid4().hex,
            "outcome": outcome,
            "amount": str(order.amount if amount is None else amount),
            "currency": order.currency,
        }
        body, time = json.dumps(told).encode(), int(at.timestamp())
        return receive(order.key, time, body, signature(self.key, order.key, time, body))
