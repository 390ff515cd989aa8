"""Money from a customer, and money back."""

from __future__ import annotations

import datetime
from decimal import Decimal
from typing import Literal, Self

from pydantic import model_validator

from inkwell_bridge.core.priced import Amount, Priced
from inkwell_bridge.core.values import Code, Exact, ExternalReference, Text, Value


class Application(Value):
    """So much of the money, set against the document under ``external_reference``; where it bears none of ours, against
    the invoice that the books have under ``invoice_id``."""

    external_reference: Text = ""
    invoice_id: Text = ""
    amount: Amount

    @model_validator(mode="after")
    def _names_one(self) -> Self:
        if bool(self.external_reference) == bool(self.invoice_id):
            raise ValueError("either a reference or the id of an invoice")
        return self


class ExchangeDifference(Value):
    """What money gained (or lost, below zero) between its document and its payment, realised on ``account``.

    Units: ``amount`` is in the company's own currency.
    Source: IAS 21, paragraph 28: such differences are profit or loss of the period in which they arise.
    """

    account: Code
    amount: Exact


class Payment(Priced):
    """Money received on ``account`` (a bank or clearing account).

    Shape: ``transaction`` is the provider's number, by which the same money is known wherever it is
    reported; what is not applied stays open on the contact. ``rate_from`` says where the rate came from.
    Units: one unit of the currency is ``rate`` units of the company's own, ``base`` what the money came to in that. The
    base of what it settles and the ``exchange_difference`` make ``base``; in the company's own currency, where the
    document was converted, they make ``amount``.
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
    rate_from: Text = ""
    base: Exact | None = None
    exchange_difference: ExchangeDifference | None = None

    @property
    def settles(self) -> Decimal:
        """What it takes off the customer's account, in its currency: all of it, but for an exchange difference that is
        part of an amount in the company's own currency."""
        if self.rate is not None or self.exchange_difference is None:
            return self.amount
        # Money that came in gained by being more than it settles; money that went back by being less.
        sign = -1 if isinstance(self, RefundPayment) else 1
        return self.amount - sign * self.exchange_difference.amount


class RefundPayment(Payment):
    """Money given back, in positive amounts; applied to credit notes."""

    role: Literal["refund payment"] = "refund payment"  # type: ignore[assignment]
