"""A request for payment: an invoice, put before the buyer by a payment provider."""

from __future__ import annotations

import datetime
from typing import Literal

from inkwell_bridge.core.priced import Amount, Priced
from inkwell_bridge.core.values import Code, ExternalReference, Text


class PaymentRequest(Priced):
    """What a buyer is asked to pay of an invoice, as it is to stand at the provider.

    Shape: ``invoice_id`` is the books' own; what the provider shows is ``invoice_number`` and ``text``. ``buyer`` is
    what the provider knows the buyer by, and the method that is on file; with ``on_file`` that is charged at once, and
    a page takes its place where it fails. After ``ends_on`` nothing is taken any more. One that is ``withdrawn`` takes
    nothing either. A document without a life of its own: where it goes it says what it says last.
    Units: ``amount`` is all that is asked on it, what was paid on it included.
    """

    role: Literal["payment request"] = "payment request"
    external_reference: ExternalReference
    date: datetime.date
    invoice_id: Code
    invoice_number: Text = ""
    text: Text = ""
    amount: Amount
    # The books' own number of the contact: an e-mail may change, and would part the buyer from what is on file.
    buyer: Text = ""
    on_file: bool = False
    ends_on: datetime.date | None = None
    withdrawn: bool = False

    def asks_as(self, other: PaymentRequest) -> bool:
        """Whether both ask for the same, for as long, or for nothing any more; what else they say is never changed."""
        return (self.amount, self.ends_on, self.withdrawn) == (other.amount, other.ends_on, other.withdrawn)
