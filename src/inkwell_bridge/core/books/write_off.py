"""A small balance that is given up."""

from __future__ import annotations

import datetime
from typing import Literal

from inkwell_bridge.core.books.payment import Application
from inkwell_bridge.core.priced import Amount, Priced
from inkwell_bridge.core.values import Code, Exact, ExternalReference, Text


class WriteOff(Priced):
    """What is left open of a sale and given up, on ``account``: no money moves, and no tax is taken back.

    Shape: ``owed_by`` says whose debt it was; ``applied`` what it is set against; what is not applied closes what stood
    open on the contact. Units: positive; one unit of the currency is ``rate`` units of the company's own.
    Source: trade practice; tax on a bad debt comes back by rules of its own (in the UK VAT notice 700/18), never here.
    """

    role: Literal["write-off"] = "write-off"
    external_reference: ExternalReference
    date: datetime.date
    account: Code
    amount: Amount
    owed_by: Literal["customer", "company"] = "customer"
    order_number: Text = ""
    text: Text = ""
    applied: tuple[Application, ...] = ()
    rate: Exact | None = None
    rate_from: Text = ""
