"""An order as its buyer saw it."""

from __future__ import annotations

from decimal import Decimal
from enum import StrEnum
from typing import ClassVar

from inkwell_bridge.core.commerce.buyer import Buyer, Note
from inkwell_bridge.core.commerce.charge import Charge, Conversion, Discount, Extra, Property, Shipping
from inkwell_bridge.core.commerce.history import EventKind, OrderEvent
from inkwell_bridge.core.commerce.line import OrderLine
from inkwell_bridge.core.commerce.payment import MoneyState, Payment
from inkwell_bridge.core.priced import ZERO, Amount, Priced
from inkwell_bridge.core.values import Code, Country, Moment, Text

# What sales sides call an order that was called off, in the spellings of the trade.
CANCELLED_STATUSES = frozenset({"cancelled", "canceled", "voided"})


class Treatment(StrEnum):
    """How the sales side says that the sale is taxed; a fact of the order, never guessed here."""

    DOMESTIC = "domestic"
    EXPORT = "export"
    REVERSE_CHARGE = "reverse charge"
    ONE_STOP = "one-stop scheme"
    IMPORT_SCHEME = "import scheme"
    MARKETPLACE = "kept by marketplace"
    OUTSIDE = "outside tax"


class Order(Priced):
    """An order, exact in its currency.

    Shape: ``total`` and ``tax_total`` are what the sales side printed, never recomputed here:
    lines and extras less discounts, carriage, cash rounding, and tax where prices are without it, make
    ``total``. ``tax_total`` holds every tax, those that a marketplace keeps among them. ``country`` is
    where the goods go; ``settlement`` the total in the currency that the seller is paid in. ``called_off`` is said
    where the whole order is cancelled and its ``status`` is another word for that than the trade's own.
    """

    PERSONAL: ClassVar[frozenset[str]] = frozenset({"buyer", "notes"})

    id: Code
    number: Code
    channel: Text = ""
    location: Text = ""
    status: Code
    called_off: bool = False
    placed_at: Moment
    changed_at: Moment
    prices_include_tax: bool
    treatment: Treatment | None = None
    country: Country = ""
    customer_group: Text = ""
    payment_terms: Text = ""
    buyer: Buyer | None = None
    lines: tuple[OrderLine, ...]
    discounts: tuple[Discount, ...] = ()
    shipping: tuple[Shipping, ...] = ()
    extras: tuple[Extra, ...] = ()
    cash_rounding: Amount = ZERO
    payments: tuple[Payment, ...] = ()
    tax_total: Amount
    total: Amount
    settlement: Conversion | None = None
    history: tuple[OrderEvent, ...] = ()
    notes: tuple[Note, ...] = ()
    tags: tuple[Text, ...] = ()
    attributes: tuple[Property, ...] = ()
    link: Text = ""

    @property
    def charges(self) -> tuple[Charge, ...]:
        """Everything that is charged for: lines, carriage, then extras."""
        return (*self.lines, *self.shipping, *self.extras)

    @property
    def cancelled(self) -> bool:
        """Whether the whole order was called off: as is said, or by its status; an event may be of some lines alone."""
        return self.called_off or self.status.casefold() in CANCELLED_STATUSES

    @property
    def received(self) -> Decimal:
        """The money that has come in."""
        return sum((money.amount for money in self.payments if money.state is MoneyState.RECEIVED), ZERO)

    @property
    def paid_at(self) -> Moment | None:
        """When the last money came in that has a date."""
        # The last and not the first: only with that is the order paid.
        moments = [money.paid_at for money in self.payments if money.state is MoneyState.RECEIVED and money.paid_at]
        return max(moments, default=None)

    @property
    def dispatched_at(self) -> Moment | None:
        """When goods last left for the buyer."""
        # Parcels may leave on several days; the order is on its way in full with the last of them.
        return max((event.at for event in self.history if event.kind is EventKind.DISPATCHED), default=None)
