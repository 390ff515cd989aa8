"""Money from a customer, and money back."""

from __future__ import annotations

import datetime
from typing import Literal

from inkwell_bridge.core.priced import Amount, Priced
from inkwell_bridge.core.values import Code, Exact, ExternalReference, Text, Value


class Application(Value):
    """So much of the money, set against the document under ``external_reference``."""

    external_reference: ExternalReference
    amount: Amount


class Payment(Priced):
    """Money received on ``account`` (a bank or clearing account).

    Shape: ``transaction`` is the provider's number, by which the same money is known wherever it is
    reported; what is not applied stays open on the contact. Units: one unit of the currency is ``rate``
    units of the company's own.
    """

    role: Literal["payment"] = "payment"
    external_reference: ExternalReference
    date: datetime.date
    account: Code
    amount: Amount
    transaction: Text = ""
    order_number: Text = ""
    text: Text = ""
    applied: tuple[Application, ...] = ()
    rate: Exact | None = None


class RefundPayment(Payment):
    """Money given back, in positive amounts; applied to credit notes."""

    role: Literal["refund payment"] = "refund payment"  # type: ignore[assignment]
