"""A journal: debits and credits that balance in the company's own currency."""

from __future__ import annotations

import datetime
from decimal import Decimal
from typing import Literal, Self

from pydantic import model_validator

from inkwell_bridge.core.books.line import Dimension
from inkwell_bridge.core.money import exact
from inkwell_bridge.core.priced import ZERO, Amount, Priced
from inkwell_bridge.core.values import Code, Exact, ExternalReference, Text, Value


class JournalLine(Value):
    """One posting. ``base`` is in the company's own currency: positive is a debit, negative a credit.

    Units: ``amount`` is the same money in ``currency``, at ``rate`` units of the own currency for one;
    ``rate_from`` says where the rate came from.
    """

    account: Code
    text: Text = ""
    base: Amount
    currency: Code
    amount: Exact
    rate: Exact = Decimal(1)
    rate_from: Text = ""
    tax_code: Text = ""
    line_reference: Text = ""
    dimensions: tuple[Dimension, ...] = ()

    @model_validator(mode="after")
    def _amount_fits(self) -> Self:
        # Refuses more digits than the currency has: the books would round them, and the journal not balance any more.
        exact(self.amount, self.currency)
        if (self.base < 0) != (self.amount < 0) and self.base and self.amount:
            raise ValueError(f"base and amount on one side, got {self.base} and {self.amount}")
        return self


class Journal(Priced):
    """A journal in the company's own ``currency``.

    Raises:
        DocumentInvalid: through ``read``, for one that does not balance.
    """

    role: Literal["journal"] = "journal"
    external_reference: ExternalReference
    date: datetime.date
    text: Text = ""
    order_number: Text = ""
    link: Text = ""
    lines: tuple[JournalLine, ...]

    @model_validator(mode="after")
    def _balances(self) -> Self:
        # In the own currency alone: amounts of several currencies have no sum.
        left = sum((line.base for line in self.lines), ZERO)
        if left:
            raise ValueError(f"debits and credits that balance, got a difference of {left} {self.currency}")
        return self
