"""The sales side's reference data, as loaded at one moment."""

from __future__ import annotations

from inkwell_bridge.core.values import Code, Exact, Text, Value


class Rate(Value):
    """One tax of a tax class; a class can hold several."""

    name: Text
    country: Text = ""
    region: Text = ""
    rate_percent: Exact


class TaxClass(Value):
    """A tax class of the sales side."""

    name: Code
    rates: tuple[Rate, ...] = ()


class SalesMasterData(Value):
    """Everything of a sales side that a rulebook may name. A tuple is empty where the end has no such thing."""

    seller: Text
    currency: Code
    tax_classes: tuple[TaxClass, ...] = ()
    payment_methods: tuple[Code, ...] = ()
    card_brands: tuple[Code, ...] = ()
    shipping_methods: tuple[Code, ...] = ()
    order_statuses: tuple[Code, ...] = ()
    payment_statuses: tuple[Code, ...] = ()
    locations: tuple[Code, ...] = ()
    product_types: tuple[Code, ...] = ()
    attributes: tuple[Code, ...] = ()
    customer_groups: tuple[Code, ...] = ()
    languages: tuple[Code, ...] = ()
    discount_codes: tuple[Code, ...] = ()
