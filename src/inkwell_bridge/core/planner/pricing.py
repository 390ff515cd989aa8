"""Quantity and unit price that multiply back to an amount, in the digits that the books have for a price."""

from __future__ import annotations

from decimal import ROUND_DOWN, ROUND_HALF_UP, Decimal
from functools import cache

from inkwell_bridge.core.money import rounded
from inkwell_bridge.core.values import LONGEST_TEXT

# Behind the reference of a line whose pieces cannot all bear one price: the last of them stands by itself.
LAST = " last"


def priced(
    quantity: Decimal, net: Decimal, title: str, currency: str, price_digits: int
) -> tuple[Decimal, Decimal, str]:
    """Quantity and unit price that multiply back to ``net`` exactly, and the text that goes with them."""
    step = price_step(price_digits)
    if not quantity:
        # Money came back for a line of which nothing did.
        return Decimal(1), net.quantize(step), title
    unit_price = exact_price(quantity, net, currency, price_digits)
    if unit_price is not None:
        return quantity, unit_price, title
    # A price of so few digits cannot stand for so many pieces: one line for the lot keeps the amount.
    return Decimal(1), net.quantize(step), f"{quantity.normalize():f} x {title}"[:LONGEST_TEXT]


def exact_price(quantity: Decimal, net: Decimal, currency: str, price_digits: int) -> Decimal | None:
    """A price of so many digits that makes ``net`` of these pieces; nothing where none does."""
    step = price_step(price_digits)
    if quantity == 1:
        price = net.quantize(step, rounding=ROUND_HALF_UP)
        return price if price == net else None
    price = (net / quantity).quantize(step, rounding=ROUND_HALF_UP)
    return price if rounded(price * quantity, currency) == net else None


def all_but_one(quantity: Decimal, net: Decimal, currency: str, price_digits: int) -> tuple[Decimal, Decimal] | None:
    """``net`` as what all pieces but one come to at the next lower price, and what is left for that one; nothing where
    one price can be said for all.

    What stands on an item must keep its count, or the stock is wrong by all but one.
    """
    if quantity <= 1 or exact_price(quantity, net, currency, price_digits) is not None:
        return None
    price = (net / quantity).quantize(price_step(price_digits), rounding=ROUND_DOWN)
    first = rounded(price * (quantity - 1), currency)
    return first, net - first


@cache
def price_step(price_digits: int) -> Decimal:
    """The smallest step of a unit price."""
    return Decimal(1).scaleb(-price_digits)
