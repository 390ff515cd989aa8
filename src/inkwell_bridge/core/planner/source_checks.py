"""Does an order add up by its own figures? One that does not is never planned."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from decimal import Decimal

from inkwell_bridge.core.commerce import Order, OrderLine
from inkwell_bridge.core.findings import Cause, Finding, Level, source_error
from inkwell_bridge.core.money import minor_unit
from inkwell_bridge.core.planner.charges import is_empty
from inkwell_bridge.core.planner.discounts import check_discounts

ZERO = Decimal(0)
PAID_TOO_MUCH = "SRC-W008"


def check_order(order: Order, currencies: Sequence[str], *, by_line: bool) -> Iterator[Finding]:
    """What is wrong with the order itself, each as an error that holds it.

    ``by_line`` tells that taxes are taken from the lines; else the order's whole tax alone counts.
    """
    if not order.lines:
        yield source_error(
            "SRC-E001",
            "/lines",
            f"Order {order.number} has no lines.",
            "Look at the order in the shop: it may be a test, or lack its items.",
        )
        return
    if order.total < 0:
        yield source_error(
            "SRC-E002",
            "/total",
            f"Order {order.number} has a negative total, {order.total} {order.currency}.",
            "A sale cannot be below zero; in the shop this may be a refund.",
        )
    if order.currency not in currencies:
        yield source_error(
            "SRC-E003",
            "/currency",
            f"Order {order.number} is in {order.currency}, the books in {currencies[0]}.",
            "Connect books that keep this currency, or leave such orders out.",
            cause=Cause.CURRENCY_NOT_KEPT,
        )
    yield from _amounts(order)
    yield from _equations(order, by_line=by_line)


def _amounts(order: Order) -> Iterator[Finding]:
    twice = [name for name, count in Counter(line.id for line in order.lines).items() if count > 1]
    if twice:
        yield source_error(
            "SRC-E012",
            "/lines",
            f"Order {order.number} has the line {twice[0]} twice, so that a refund of it could mean either.",
            "Correct the order in the shop, then run again.",
        )
    for index, line in enumerate(order.lines):
        if is_empty(line):
            yield Finding(
                id="SRC-N013",
                level=Level.NOTE,
                at=f"/lines/{index}",
                text=f"Line {index + 1} of order {order.number} has neither a quantity nor an amount; it is left out.",
            )
            continue
        yield from _price(order, line, index)
        if line.quantity <= 0:
            yield source_error(
                "SRC-E004",
                f"/lines/{index}/quantity",
                f"Line {index + 1} of order {order.number} has quantity {line.quantity}; expected more than zero.",
                "Correct the line in the shop, then run again.",
            )
    yield from check_discounts(order)


def _price(order: Order, line: OrderLine, index: int) -> Iterator[Finding]:
    """A warning where pieces by price are not the amount: one of the three is not what the buyer saw."""
    made = line.quantity * line.unit_price
    if not made or made == line.amount:
        return
    exponent = line.unit_price.as_tuple().exponent
    step = Decimal(1).scaleb(exponent if isinstance(exponent, int) else 0)
    # A price is rounded to the digits that it has, once for each piece; the amount to those of its currency.
    room = minor_unit(order.currency) + abs(line.quantity) * step / 2
    if abs(made - line.amount) > room:
        yield Finding(
            id="SRC-W014",
            level=Level.WARNING,
            at=f"/lines/{index}/amount",
            text=f"Line {index + 1} of order {order.number} says {line.quantity.normalize():f} x {line.unit_price}, "
            f"and {line.amount} {order.currency} for all.",
            hint="The amount is what was charged, and is carried. Look at the line in the shop.",
        )


def _equations(order: Order, *, by_line: bool) -> Iterator[Finding]:
    # What the buyer pays is the sum of the charges after reductions, and tax where prices do not hold it already.
    parts, taxes = order.cash_rounding, ZERO
    for charge in order.charges:
        parts += charge.reduced
        taxes += charge.tax
    parts -= sum((discount.amount for discount in order.discounts), ZERO)
    if by_line and taxes != order.tax_total:
        yield source_error(
            "SRC-E006",
            "/tax_total",
            f"The taxes of order {order.number} come to {taxes}, but it says {order.tax_total} {order.currency}.",
            "An amount of tax has no line to stand on; look at the order in the shop.",
        )
    if not order.prices_include_tax:
        parts += taxes if by_line else order.tax_total
    if parts != order.total:
        yield source_error(
            "SRC-E007",
            "/total",
            f"The parts of order {order.number} come to {parts}, but its total is {order.total} {order.currency}.",
            "Something the buyer paid for has no line; look at the order in the shop.",
        )
    # Less than the total is an order that is not paid yet; more is money that no line explains.
    paid = order.received
    if paid > order.total:
        yield Finding(
            id=PAID_TOO_MUCH,
            level=Level.WARNING,
            at="/payments",
            text=f"Order {order.number} was paid with {paid}, more than its total of {order.total} {order.currency}.",
            hint="The surplus stays open on the customer's account.",
        )
