"""Money that a buyer paid on an invoice of the books: on a request for payment, or to the bank."""

from __future__ import annotations

from inkwell_bridge.core.commerce.payment import Tender
from inkwell_bridge.core.priced import Amount, Priced
from inkwell_bridge.core.values import Code, CodeIfAny, Moment, Text


class RequestPayment(Priced):
    """A payment on an invoice, as the provider or the bank tells of it.

    Shape: ``transaction`` is the provider's number of the charge, by which its payout names it; ``request`` our own
    reference of the request, where it was paid on one, ``invoice_id`` the books' id of its invoice. ``recorded_at`` is
    when the provider had it on its account. Where the bank tells of it, ``arrived_on`` is the account of the books that
    it came in on, and ``taken_back`` says that it was no payment of this invoice after all.
    """

    id: Code
    number: Code
    transaction: Code
    request: Text = ""
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
    arrived_on: CodeIfAny = ""
    taken_back: bool = False
