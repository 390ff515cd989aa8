"""Money that somebody entered in the books, for the sales side to hear of."""

from __future__ import annotations

from inkwell_bridge.core.priced import Amount, Priced
from inkwell_bridge.core.values import Code, ExternalReference, Moment, Text, Value


class SettledPart(Value):
    """So much of the money is set against the document of the books under that reference."""

    external_reference: ExternalReference
    amount: Amount


class Receipt(Priced):
    """Money received, as it stands in the books.

    Shape: ``account`` is the books' account that it came in on, ``text`` what was written on it; ``settles`` names the
    documents that it is set against. ``order_number`` is the order's, where somebody entered that.
    """

    id: Code
    number: Code
    order_number: Text = ""
    received_at: Moment
    changed_at: Moment
    account: Code
    text: Text = ""
    amount: Amount
    settles: tuple[SettledPart, ...] = ()
