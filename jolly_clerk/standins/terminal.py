"""The payment terminal stand-in: it stands on the payment page, and the person says there what the card did. Demo only."""

from __future__ import annotations

from jolly_clerk.core.ports import Order


class PageTerminal:
    """Asks nobody: the payment page shows its buttons."""

    def ask(self, order: Order) -> str:
        """The payment page itself."""
        return ""
