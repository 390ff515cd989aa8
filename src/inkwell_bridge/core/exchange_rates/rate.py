"""An exchange rate, with where it came from."""

from __future__ import annotations

import datetime
from decimal import Decimal
from typing import Self

from pydantic import model_validator

from inkwell_bridge.core.money import digits
from inkwell_bridge.core.values import Code, Exact, Text, Value

# Rates have four to six digits behind the first that counts; more than this is no rate that anybody quotes.
MOST_DIGITS_BEHIND_POINT = 12
LARGEST = Decimal(1_000_000_000)


def is_rate(number: Decimal) -> bool:
    """Whether a number can be a rate at all."""
    exponent = number.as_tuple().exponent
    behind = -exponent if isinstance(exponent, int) else 0
    return 0 < number <= LARGEST and behind <= MOST_DIGITS_BEHIND_POINT


def fitted(number: Decimal) -> Decimal | None:
    """A number as a rate, to as many digits as one has; nothing where it can be none.

    Who works a rate out by division tells more digits than anybody quotes.
    """
    if is_rate(number):
        return number
    if not 0 < number <= LARGEST:
        return None
    made = number.quantize(Decimal(1).scaleb(-MOST_DIGITS_BEHIND_POINT)).normalize()
    made = made if made.as_tuple().exponent <= 0 else made.quantize(Decimal(1))  # type: ignore[operator]
    return made if is_rate(made) else None


class ExchangeRate(Value):
    """What one unit of ``currency`` is worth, in units of the company's ``own`` (ISO 4217).

    Shape: ``source`` says whose rate it is, ``day`` the day that it is of, where it is one of a table.

    Raises:
        DocumentInvalid: through ``read``, for a rate that is not above zero or has more digits than a rate can have.
    """

    currency: Code
    own: Code
    rate: Exact
    source: Text = ""
    day: datetime.date | None = None

    @model_validator(mode="after")
    def _is_a_rate(self) -> Self:
        for code in (self.currency, self.own):
            digits(code)
        if not is_rate(self.rate):
            raise ValueError(f"a rate above zero with at most {MOST_DIGITS_BEHIND_POINT} digits behind the point, "
                             f"got {self.rate}")  # fmt: skip
        return self

    @property
    def said(self) -> str:
        """The rate in a sentence: 1 EUR = 0.8571 GBP (daily rates of 2026-10-05)."""
        return f"1 {self.currency} = {self.rate.normalize():f} {self.own} ({self.source or 'no source given'})"
