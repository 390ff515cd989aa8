"""Currencies and their minor units (ISO 4217, table A.1)."""

from __future__ import annotations

from decimal import Decimal
from functools import lru_cache

from inkwell_bridge.core.errors import NotExact

# Every currency of the table that is in use; two digits where nothing else is said.
_TABLE = """
AED AFN ALL AMD ANG AOA ARS AUD AWG AZN BAM BBD BDT BGN BHD BIF BMD BND BOB BOV BRL BSD BTN BWP BYN BZD CAD CDF CHE
CHF CHW CLF CLP CNY COP COU CRC CUC CUP CVE CZK DJF DKK DOP DZD EGP ERN ETB EUR FJD FKP GBP GEL GHS GIP GMD GNF GTQ GYD
HKD HNL HTG HUF IDR ILS INR IQD IRR ISK JMD JOD JPY KES KGS KHR KMF KPW KRW KWD KYD KZT LAK LBP LKR LRD LSL LYD MAD MDL
MGA MKD MMK MNT MOP MRU MUR MVR MWK MXN MXV MYR MZN NAD NGN NIO NOK NPR NZD OMR PAB PEN PGK PHP PKR PLN PYG QAR RON RSD
RUB RWF SAR SBD SCR SDG SEK SGD SHP SLE SOS SRD SSP STN SVC SYP SZL THB TJS TMT TND TOP TRY TTD TWD TZS UAH UGX USD USN
UYI UYU UYW UZS VED VES VND VUV WST XAF XCD XCG XOF XPF YER ZAR ZMW ZWG
"""
_OTHERS = {
    0: "BIF CLP DJF GNF ISK JPY KMF KRW PYG RWF UGX UYI VND VUV XAF XOF XPF",
    3: "BHD IQD JOD KWD LYD OMR TND",
    4: "CLF UYW",
}
_DIGITS = {
    **dict.fromkeys(_TABLE.split(), 2),
    **{code: number for number, codes in _OTHERS.items() for code in codes.split()},
}


@lru_cache(maxsize=512)
def digits(currency: str) -> int:
    """How many digits stand after the point in ``currency``.

    Raises:
        NotExact: the table has no such currency, so nobody knows its digits.

    Example:
        >>> digits("GBP"), digits("JPY"), digits("KWD"), digits("CLF")
        (2, 0, 3, 4)
    """
    if currency not in _DIGITS:
        raise NotExact(f"{currency!r} is not a currency code of ISO 4217, such as GBP")
    return _DIGITS[currency]


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
    # Compared afterwards: quantising alone would round what it should refuse.
    fitted = amount.quantize(minor_unit(currency))
    if fitted != amount:
        raise NotExact(f"{value} {currency} has more than {digits(currency)} digits after the point")
    return fitted
