"""What a document comes to in the company's own currency."""

from __future__ import annotations

from decimal import Decimal

from inkwell_bridge.core.money import rounded
from inkwell_bridge.core.priced import Amount, Priced


class BaseAmounts(Priced):
    """A document's totals in the company's own ``currency``; ``net`` and ``tax`` make ``gross``."""

    net: Amount
    tax: Amount
    gross: Amount


def in_base(net: Decimal, tax: Decimal, rate: Decimal, own: str) -> BaseAmounts:
    """Totals at a rate: what is owed and its tax are converted, and net is what remains.

    Converting all three could make a total that is not the sum of its parts. Tax is what a return asks for, and what is
    owed is what the customer's account shows.
    """
    gross, base_tax = rounded((net + tax) * rate, own), rounded(tax * rate, own)
    return BaseAmounts(currency=own, net=gross - base_tax, tax=base_tax, gross=gross)
