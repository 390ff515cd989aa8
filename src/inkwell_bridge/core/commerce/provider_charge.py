"""Money that a provider took from a buyer, or gave back, as it tells of it itself."""

from __future__ import annotations

from inkwell_bridge.core.commerce.payment import MoneyState, Tender
from inkwell_bridge.core.priced import Amount, Priced
from inkwell_bridge.core.values import Code, Moment, Text


class ProviderCharge(Priced):
    """A charge, or with ``gives_back`` a refund of one.

    Shape: ``transaction`` is the provider's own number of it, which shops and payouts name it by; ``order_number`` the
    shop's number of its order, where the provider was told. ``state`` is how far it has come: authorised until it is
    captured, cancelled where it did not stay. Units: ``amount`` is positive either way, and what was captured of it.
    """

    id: Code
    number: Code
    transaction: Code
    order_number: Text = ""
    gives_back: bool = False
    method: Text = ""
    tender: Tender = Tender.OTHER
    brand: Text = ""
    amount: Amount
    state: MoneyState = MoneyState.RECEIVED
    occurred_at: Moment
    changed_at: Moment
