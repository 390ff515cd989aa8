"""Currencies and their minor units (ISO 4217, table A.1)."""

from __future__ import annotations

from decimal import Decimal
from functools import lru_cache

from inkwell_bridge.core.errors import NotExact

# Only the currencies whose minor unit is not two digits need naming; ISO 4217 gives the rest two.
_NO_DIGITS = frozenset(
    [
        "BIF",
        "CLP",
        "DJF",
        "GNF",
        "ISK",
        "JPY",
        "KMF",
        "KRW",
        "PYG",
        "RWF",
        "UGX",
        "UYI",
        "VND",
        "VUV",
        "XAF",
        "XOF",
        "XPF",
    ]
)
_THREE_DIGITS = frozenset(["BHD", "IQD", "JOD", "KWD", "LYD", "OMR", "TND"])


@lru_cache(maxsize=512)
def digits(currency: str) -> int:
    """How many digits stand after the point in ``currency``.

    Example:
        >>> digits("GBP"), digits("JPY"), digits("KWD")
        (2, 0, 3)
    """
    if len(currency) != 3 or not currency.isascii() or not currency.isupper():
        raise NotExact(f"{currency!r} is not a currency code of ISO 4217, such as GBP")
    if currency in _NO_DIGITS:
        return 0
    return 3 if currency in _THREE_DIGITS else 2


@lru_cache(maxsize=512)
def minor_unit(currency: str) -> Decimal:
    """The smallest amount of ``currency``: 0.01 for GBP."""
    return Decimal(1).scaleb(-digits(currency))


def exact(value: Decimal | str | int, currency: str) -> Decimal:
    """``value`` with exactly the digits of ``currency``; never rounds.

    Raises:
        NotExact: where that would change the value.

    Example:
        >>> exact("9.9", "GBP")
        Decimal('9.90')
    """
    amount = value if isinstance(value, Decimal) else Decimal(value)
    if not amount.is_finite():
        raise NotExact(f"{value} is not an amount")
    fitted = amount.quantize(minor_unit(currency))
    if fitted != amount:
        raise NotExact(f"{value} {currency} has more than {digits(currency)} digits after the point")
    return fitted
