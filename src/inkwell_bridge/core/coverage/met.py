"""A value that orders hold: how often, with how much money behind it, and what the rules make of it."""

from __future__ import annotations

from decimal import Decimal
from enum import StrEnum

from inkwell_bridge.core.values import Exact, Text, Value


class Aspect(StrEnum):
    """What kind of value it is, in the order in which rules ask for them."""

    STATUS = "order status"
    LEFT_OUT = "left out by"
    CHANNEL = "channel"
    COUNTRY = "country"
    CURRENCY = "currency"
    TREATMENT = "tax treatment"
    CUSTOMER_GROUP = "customer group"
    LANGUAGE = "language"
    TERMS = "payment terms"
    TAG = "tag"
    ATTRIBUTE = "attribute"
    CHARGE = "kind of charge"
    TAX_CLASS = "tax class"
    PRODUCT_TYPE = "product type"
    PRODUCT = "product"
    LOCATION = "location"
    SHIPPING_METHOD = "shipping method"
    DISCOUNT = "discount"
    METHOD = "payment method"
    TENDER = "tender"
    GATEWAY = "gateway"
    BRAND = "card brand"


class Standing(StrEnum):
    """What the rules make of a value."""

    UNMAPPED = "unmapped"
    MAPPED = "mapped"
    LEFT_OUT = "left out"
    NOT_ASKED = "not asked for"


class RuleUse(Value):
    """A rule that answered for a value: a JSON Pointer into the rulebook, what it gave, and for how many orders."""

    rule: Text
    gave: Text
    orders: int


class MetValue(Value):
    """One value of one aspect.

    Shape: ``amounts`` are by currency what was charged under it, tax included, of money what was paid, and of a
    discount what it took off; an order that holds it several times counts once. ``rates`` are those that a tax class
    was charged at. ``unmapped`` counts the orders for which no rule had an answer, ``examples`` are numbers of some
    orders, those without one first.
    """

    aspect: Aspect
    value: Text
    standing: Standing
    orders: int
    unmapped: int = 0
    amounts: dict[str, Exact] = {}
    rules: tuple[RuleUse, ...] = ()
    rates: tuple[Exact, ...] = ()
    examples: tuple[Text, ...] = ()

    @property
    def largest(self) -> Decimal:
        """The largest of its amounts, by which values of as many orders are sorted."""
        return max((abs(amount) for amount in self.amounts.values()), default=Decimal(0))
