"""The smallest coin of a currency. Source: ISO 4217, the currencies that have other than two decimals."""

from __future__ import annotations

from decimal import ROUND_HALF_UP, Decimal

CENT = Decimal("0.01")
_NONE = frozenset(
    ["BIF", "CLP", "DJF", "GNF", "ISK", "JPY", "KMF", "KRW", "PYG", "RWF", "UGX", "UYI", "VND", "VUV", "XAF", "XOF", "XPF"]
)
_THREE = frozenset(["BHD", "IQD", "JOD", "KWD", "LYD", "OMR", "TND"])

#: every currency that is in use. Source: ISO 4217, 2024
CURRENCIES = frozenset([
    "AED", "AFN", "ALL", "AMD", "ANG", "AOA", "ARS", "AUD", "AWG", "AZN", "BAM", "BBD", "BDT", "BGN", "BHD", "BIF", "BMD",
    "BND", "BOB", "BRL", "BSD", "BTN", "BWP", "BYN", "BZD", "CAD", "CDF", "CHF", "CLP", "CNY", "COP", "CRC", "CUP", "CVE",
    "CZK", "DJF", "DKK", "DOP", "DZD", "EGP", "ERN", "ETB", "EUR", "FJD", "FKP", "GBP", "GEL", "GHS", "GIP", "GMD", "GNF",
    "GTQ", "GYD", "HKD", "HNL", "HTG", "HUF", "IDR", "ILS", "INR", "IQD", "IRR", "ISK", "JMD", "JOD", "JPY", "KES", "KGS",
    "KHR", "KMF", "KPW", "KRW", "KWD", "KYD", "KZT", "LAK", "LBP", "LKR", "LRD", "LSL", "LYD", "MAD", "MDL", "MGA", "MKD",
    "MMK", "MNT", "MOP", "MRU", "MUR", "MVR", "MWK", "MXN", "MYR", "MZN", "NAD", "NGN", "NIO", "NOK", "NPR", "NZD", "OMR",
    "PAB", "PEN", "PGK", "PHP", "PKR", "PLN", "PYG", "QAR", "RON", "RSD", "RUB", "RWF", "SAR", "SBD", "SCR", "SDG", "SEK",
    "SGD", "SHP", "SLE", "SOS", "SRD", "SSP", "STN", "SVC", "SYP", "SZL", "THB", "TJS", "TMT", "TND", "TOP", "TRY", "TTD",
    "TWD", "TZS", "UAH", "UGX", "USD", "UYU", "UZS", "VES", "VND", "VUV", "WST", "XAF", "XCD", "XOF", "XPF", "YER", "ZAR",
    "ZMW", "ZWL",
])  # fmt: skip


def decimals_of(currency: str) -> int:
    """How many decimals amounts of a currency have: 0, 2 or 3."""
    return 0 if currency in _NONE else 3 if currency in _THREE else 2


def coin_of(currency: str) -> Decimal:
    """The smallest coin: 1, 0.01 or 0.001."""
    return Decimal(1).scaleb(-decimals_of(currency))


def to_coin(amount: Decimal, coin: Decimal = CENT) -> Decimal:
    """Rounded half up to the smallest coin."""
    brought = amount.quantize(coin, ROUND_HALF_UP)
    return brought or brought.copy_abs()  # nothing is never less than nothing


def in_coins(amount: Decimal, currency: str) -> int:
    """An amount in its smallest coins: 12.50 EUR are 1250."""
    return int(amount / coin_of(currency))
