"""A refund, said as its order said it: the same lines with what was given back of them."""

from __future__ import annotations

from decimal import Decimal

from inkwell_bridge.core.commerce import Order, OrderLine, Refund, RefundLine, Shipping

ZERO = Decimal(0)


def as_order(refund: Refund, order: Order) -> Order:
    """What came back, as an order of it; a line that the order does not have any more is left out."""
    known = {line.id: line for line in order.lines}
    lines = tuple(_line(known[one.line], one) for one in refund.lines if one.line in known)
    carriage = tuple(Shipping.model_validate(part.model_dump()) for part in refund.shipping)
    update = {"lines": lines, "discounts": (), "shipping": carriage, "extras": (),
              "cash_rounding": refund.cash_rounding,
              "prices_include_tax": refund.prices_include_tax, "currency": refund.currency,
              "tax_total": refund.tax_total}  # fmt: skip
    return order.model_copy(update=update)


def _line(line: OrderLine, back: RefundLine) -> OrderLine:
    update = {"amount": back.amount, "discount": ZERO, "quantity": back.quantity, "taxes": back.taxes,
              "location": back.location or line.location}  # fmt: skip
    return line.model_copy(update=update)
