"""A sales invoice of the books."""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from enum import StrEnum
from typing import Self

from pydantic import model_validator

from inkwell_bridge.core.money import exact
from inkwell_bridge.core.values import Code, Exact, Text, Value

ZERO = Decimal(0)


class LineKind(StrEnum):
    """What a line stands for."""

    GOODS = "goods"
    SHIPPING = "shipping"
    ROUNDING = "rounding"


class InvoiceLine(Value):
    """A line; ``net`` is ``quantity`` times ``unit_price`` to the currency's minor unit, without tax.

    ``mark`` leads back to the line of the source document.
    """

    kind: LineKind
    mark: Code
    text: Text
    account: Code
    quantity: Exact
    unit_price: Exact
    net: Exact
    tax_code: Code
    tax: Exact


class Invoice(Value):
    """An invoice, planned or read back.

    Shape: ``mark`` is our name for it in the books (connection, source document, role, part) and
    the same for every attempt; ``totals`` are the sums of the lines.
    """

    mark: Code
    date: date
    order_number: Code
    link: Text = ""
    currency: Code
    lines: tuple[InvoiceLine, ...]

    @model_validator(mode="after")
    def _amounts_fit_the_currency(self) -> Self:
        for line in self.lines:
            exact(line.net, self.currency)
            exact(line.tax, self.currency)
        return self

    @property
    def net(self) -> Decimal:
        """The lines' amounts without tax."""
        return sum((line.net for line in self.lines), ZERO)

    @property
    def tax(self) -> Decimal:
        """The lines' taxes."""
        return sum((line.tax for line in self.lines), ZERO)

    @property
    def gross(self) -> Decimal:
        """What the buyer owes."""
        return self.net + self.tax
