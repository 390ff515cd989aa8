"""Money or goods that come back."""

from __future__ import annotations

from inkwell_bridge.core.commerce.charge import Charge, TaxLine
from inkwell_bridge.core.commerce.line import Lot
from inkwell_bridge.core.commerce.payment import Payment
from inkwell_bridge.core.priced import ZERO, Amount, Priced
from inkwell_bridge.core.values import Code, Exact, Moment, Text, Value


class RefundLine(Value):
    """So much of one order line, given back; ``restocked`` where the goods returned to the shelf at ``location``."""

    line: Code
    sku: Text = ""
    title: Text = ""
    quantity: Exact
    amount: Amount
    taxes: tuple[TaxLine, ...] = ()
    restocked: bool = False
    location: Text = ""
    lots: tuple[Lot, ...] = ()


class Goodwill(Charge):
    """Money given back with no line to it: for a late parcel, a flaw, a kindness."""


class Refund(Priced):
    """A refund, all amounts positive.

    Shape: lines, carriage, ``goodwill`` (an amount with no line) and the rounding of cash make ``total``, with tax on
    top where prices are without it; ``payments`` is the money that moved back, none where only a credit was given.
    """

    id: Code
    number: Code
    order_id: Code
    order_number: Code
    refunded_at: Moment
    changed_at: Moment
    prices_include_tax: bool
    reason: Text = ""
    lines: tuple[RefundLine, ...] = ()
    shipping: tuple[Charge, ...] = ()
    goodwill: tuple[Goodwill, ...] = ()
    cash_rounding: Amount = ZERO
    payments: tuple[Payment, ...] = ()
    tax_total: Amount
    total: Amount
    link: Text = ""
