"""An order as its buyer saw it."""

from __future__ import annotations

from decimal import Decimal
from typing import Self

from pydantic import model_validator

from inkwell_bridge.core.commerce.buyer import Buyer
from inkwell_bridge.core.money import digits, exact
from inkwell_bridge.core.values import Code, Exact, Moment, Text, Value

ZERO = Decimal(0)


class TaxLine(Value):
    """One tax on a line or on shipping, as the sales side worked it out."""

    name: Text = ""
    rate_percent: Exact
    amount: Exact


class Charge(Value):
    """What the buyer was charged for one thing, and the taxes on it."""

    id: Code
    title: Text
    amount: Exact
    tax_class: Text = ""
    taxes: tuple[TaxLine, ...] = ()

    @property
    def tax(self) -> Decimal:
        """All taxes of the charge together."""
        return sum((tax.amount for tax in self.taxes), ZERO)


class OrderLine(Charge):
    """A line.

    Units: ``amount`` is quantity times price before any discount; ``discount`` is the line's own,
    positive. Both include tax where the order's prices do.
    """

    sku: Text = ""
    quantity: Exact
    unit_price: Exact
    discount: Exact = ZERO


class Discount(Value):
    """A reduction of the whole order, positive, to be shared over its lines."""

    code: Text = ""
    title: Text = ""
    amount: Exact


class Shipping(Charge):
    """Carriage, charged to the buyer."""


class Payment(Value):
    """Money received for the order; ``transaction`` is the provider's own number for it."""

    transaction: Code
    method: Text
    amount: Exact
    paid_at: Moment | None = None


class Order(Value):
    """An order, exact in its currency.

    Shape: amounts carry no more digits than ``currency`` has (ISO 4217); moments know their offset.
    ``total`` and ``tax_total`` are what the sales side printed, never recomputed here.

    Raises:
        DocumentInvalid: through ``Order.read``, for an unknown currency or an amount too fine for it.
    """

    id: Code
    number: Code
    channel: Text = ""
    status: Code
    placed_at: Moment
    changed_at: Moment
    currency: Code
    prices_include_tax: bool
    country: Text = ""
    buyer: Buyer | None = None
    lines: tuple[OrderLine, ...]
    discounts: tuple[Discount, ...] = ()
    shipping: tuple[Shipping, ...] = ()
    payments: tuple[Payment, ...] = ()
    tax_total: Exact
    total: Exact
    link: Text = ""

    @model_validator(mode="after")
    def _amounts_fit_the_currency(self) -> Self:
        digits(self.currency)
        for amount in self._amounts():
            exact(amount, self.currency)
        return self

    @property
    def charges(self) -> tuple[Charge, ...]:
        """Everything that is charged for: lines, then carriage."""
        return (*self.lines, *self.shipping)

    def _amounts(self) -> list[Decimal]:
        charges = self.charges
        return [
            *(charge.amount for charge in charges),
            *(line.discount for line in self.lines),
            *(discount.amount for discount in self.discounts),
            *(payment.amount for payment in self.payments),
            *(tax.amount for charge in charges for tax in charge.taxes),
            self.tax_total,
            self.total,
        ]
