"""Amounts that an end writes as whole numbers of a currency's minor unit."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from inkwell_bridge.core.money import digits


class Minor:
    """Amounts of one currency, as whole numbers of its minor unit (ISO 4217)."""

    def __init__(self, currency: str) -> None:
        self._places = digits(currency)

    def __call__(self, units: Any) -> str:
        """1850 as '18.50'; anything but a whole number is refused.

        Raises:
            ValueError: for what is no whole number.
        """
        if type(units) is not int:
            raise ValueError(f"{units!r}, where a whole number of minor units was expected")
        return f"{Decimal(units).scaleb(-self._places):f}"
