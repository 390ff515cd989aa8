"""Money that a buyer paid on a request for payment."""

from __future__ import annotations

from inkwell_bridge.core.commerce.payment import Tender
from inkwell_bridge.core.priced import Amount, Priced
from inkwell_bridge.core.values import Code, ExternalReference, Moment, Text


class RequestPayment(Priced):
    """A payment on a request, as the provider tells of it.

    Shape: ``transaction`` is the provider's number of the charge, by which its payout names it; ``request`` our own
    reference of the request, ``invoice_id`` the books' id of its invoice, which the request carried. ``recorded_at`` is
    when the provider had it on its account.
    """

    id: Code
    number: Code
    transaction: Code
    request: ExternalReference
    # The request took it there, so that a payment finds its invoice though nobody asks for the request again.
    invoice_id: Code
    invoice_number: Text = ""
    method: Text = ""
    tender: Tender = Tender.OTHER
    amount: Amount
    # Two moments, for a bank transfer is paid days before the provider has it; the rules say which one dates a receipt.
    paid_at: Moment
    recorded_at: Moment
    changed_at: Moment
