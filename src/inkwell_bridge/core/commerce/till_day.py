"""What a till hands over in the evening."""

from __future__ import annotations

from datetime import date

from inkwell_bridge.core.commerce.charge import Extra, TaxLine
from inkwell_bridge.core.commerce.payment import Tender
from inkwell_bridge.core.priced import ZERO, Amount, Priced
from inkwell_bridge.core.values import Code, Exact, Moment, Text, Value


class TillSale(Value):
    """The day's sales of one article, or takings of one product type."""

    id: Code
    sku: Text = ""
    title: Text
    product_type: Text = ""
    quantity: Exact
    amount: Amount
    tax_class: Text = ""
    taxes: tuple[TaxLine, ...] = ()


class TillTender(Value):
    """The day's money of one kind; ``counted`` is what was found in the drawer, where that is counted."""

    tender: Tender
    brand: Text = ""
    amount: Amount
    counted: Amount | None = None


class TillDay(Priced):
    """One till's day. Sales and extras, with cash rounding, make ``total``; so do the tenders.

    ``over_short`` is what was counted less what should have been there: negative when short.
    """

    id: Code
    number: Code
    till: Code
    location: Text = ""
    day: date
    closed_at: Moment
    changed_at: Moment
    prices_include_tax: bool
    sales: tuple[TillSale, ...]
    extras: tuple[Extra, ...] = ()
    cash_rounding: Amount = ZERO
    tenders: tuple[TillTender, ...]
    over_short: Amount = ZERO
    tax_total: Amount
    total: Amount
