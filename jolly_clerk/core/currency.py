"""The smallest coin of a currency. Source: ISO 4217, the currencies that have other than two decimals."""

from __future__ import annotations

from decimal import ROUND_HALF_UP, Decimal

CENT = Decimal("0.01")
_NONE = frozenset(
    ["BIF", "CLP", "DJF", "GNF", "ISK", "JPY", "KMF", "KRW", "PYG", "RWF", "UGX", "UYI", "VND", "VUV", "XAF", "XOF", "XPF"]
)
_THREE = frozenset(["BHD", "IQD", "JOD", "KWD", "LYD", "OMR", "TND"])


def decimals_of(currency: str) -> int:
    """How many decimals amounts of a currency have: 0, 2 or 3."""
    return 0 if currency in _NONE else 3 if currency in _THREE else 2


def coin_of(currency: str) -> Decimal:
    """The smallest coin: 1, 0.01 or 0.001."""
    return Decimal(1).scaleb(-decimals_of(currency))


def to_coin(amount: Decimal, coin: Decimal = CENT) -> Decimal:
    """Rounded half up to the smallest coin."""
    return amount.quantize(coin, ROUND_HALF_UP)
