"""Notices of a payment terminal: how they are signed, an open format that a provider's own notices are turned into.

A notice is a JSON object sent to ``POST /api/terminal/notices`` with three headers: ``Notice-Order`` (the key of the order that it is
about), ``Notice-Time`` (seconds since 1970, UTC) and ``Notice-Signature`` (HMAC-SHA256 in hexadecimal digits over order, time and body
with a line feed between them, under the key that office and terminal share).
"""

from __future__ import annotations

import hashlib
import hmac

#: seconds by which the time of a notice may differ from the clock of the office
NEAR = 300


def signature(key: str, order: str, time: int, body: bytes) -> str:
    """The signature of a notice.

    >>> signature("secret", "order-1", 1700000000, b"{}")[:16]
    '6e1e193199391212'
    """
    return hmac.new(key.encode(), f"{order}\n{time}\n".encode() + body, hashlib.sha256).hexdigest()


def is_signed(key: str, order: str, time: int, body: bytes, told: str) -> bool:
    """True if a notice is signed with the key; takes the same time for any signature."""
    return hmac.compare_digest(signature(key, order, time, body).encode(), told.encode("utf-8", "replace"))
