"""What a buyer is charged for, and the taxes on it."""

from __future__ import annotations

from decimal import Decimal
from enum import StrEnum

from inkwell_bridge.core.priced import ZERO, Amount, Priced
from inkwell_bridge.core.values import Code, Exact, Moment, Text, Value


class Property(Value):
    """A named property of a line, an order or a product, as the sales side has it."""

    name: Code
    value: Text


class TaxLine(Value):
    """One tax, as the sales side worked it out.

    Shape: ``jurisdiction`` tells apart the taxes that share a charge (state, county, city); ``kept``
    marks a tax that a marketplace collects and remits itself, so that it never is the seller's.
    """

    name: Text = ""
    jurisdiction: Text = ""
    rate_percent: Exact
    amount: Amount
    kept: bool = False


class Charge(Value):
    """What the buyer was charged for one thing, and the taxes on it.

    Units: ``amount`` is before any discount and includes tax where the document's prices do;
    ``discount`` is the charge's own, positive.
    """

    id: Code
    title: Text
    amount: Amount
    discount: Amount = ZERO
    tax_class: Text = ""
    taxes: tuple[TaxLine, ...] = ()

    @property
    def tax(self) -> Decimal:
        """All taxes of the charge together."""
        # Those that a marketplace keeps are among them, for the buyer paid them all the same.
        return sum((tax.amount for tax in self.taxes), ZERO)

    @property
    def reduced(self) -> Decimal:
        """The amount less the charge's own discount."""
        return self.amount - self.discount


class Shipping(Charge):
    """Carriage, charged to the buyer; ``method`` is what the sales side calls the way it goes."""

    method: Text = ""


class ExtraKind(StrEnum):
    """What an extra charge is for."""

    TIP = "tip"
    DONATION = "donation"
    DUTY = "duty"
    SURCHARGE = "surcharge"


class Extra(Charge):
    """A charge that is neither goods nor carriage."""

    kind: ExtraKind


class Discount(Value):
    """A reduction of the whole order, positive, to be shared over what it reduces.

    Shape: ``applies_to`` are the ids of the lines and the carriage that it is for, where the sales side says so; it is
    for all goods else.
    """

    code: Text = ""
    title: Text = ""
    amount: Amount
    applies_to: tuple[Code, ...] = ()

    @property
    def name(self) -> str:
        """What people know it by."""
        return self.title or self.code or "Discount"


class Conversion(Priced):
    """The same money in another currency: what it came to, and at what rate.

    Units: one unit of the document's currency is ``rate`` units of ``currency``; ``source`` says who set it.
    """

    amount: Amount
    rate: Exact
    source: Text = ""
    at: Moment | None = None
