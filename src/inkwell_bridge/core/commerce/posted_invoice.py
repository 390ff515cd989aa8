"""An invoice as the books tell of it, whoever entered it: what is asked of the buyer, and what is open."""

from __future__ import annotations

import datetime
from typing import ClassVar, Literal

from inkwell_bridge.core.commerce.charge import Property
from inkwell_bridge.core.commerce.receipt import SettledPart
from inkwell_bridge.core.priced import Amount, Priced
from inkwell_bridge.core.values import Code, Moment, Text, Value


class InvoicedTo(Value):
    """Whom an invoice is made out to, as far as the books tell."""

    name: Text = ""
    email: Text = ""


class PostedInvoice(Priced):
    """An invoice that was posted in the books.

    Shape: ``external_reference`` is ours where it was posted from here, else what somebody typed; ``contact_id`` the
    books' own id of the customer; ``fields`` what the books keep beside their own; ``settled`` the receipts, credit
    notes and the like that are set against it, by their own references. One that was ``cancelled`` is owed no more.
    Units: ``open`` is what is still owed of ``total``.
    """

    PERSONAL: ClassVar[frozenset[str]] = frozenset({"customer"})

    id: Code
    number: Code
    external_reference: Text = ""
    order_number: Text = ""
    state: Literal["posted", "cancelled"] = "posted"
    issued_on: datetime.date
    due_on: datetime.date | None = None
    changed_at: Moment
    contact_id: Code
    customer: InvoicedTo | None = None
    total: Amount
    # Told and never worked out: books set things against an invoice that nobody tells of.
    open: Amount
    fields: tuple[Property, ...] = ()
    # By their references and not as one sum: what a receipt of ours settled is counted once, whichever of the two was
    # read first.
    settled: tuple[SettledPart, ...] = ()
    link: Text = ""
