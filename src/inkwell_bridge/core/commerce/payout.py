"""What a provider or marketplace paid out, entry by entry."""

from __future__ import annotations

import datetime
from enum import StrEnum

from inkwell_bridge.core.commerce.charge import Conversion
from inkwell_bridge.core.priced import ZERO, Amount, Priced
from inkwell_bridge.core.values import Code, Moment, Text, Value


class EntryKind(StrEnum):
    """What a payout's entry is."""

    CHARGE = "charge"
    REFUND = "refund"
    FEE = "fee"
    CHARGEBACK = "chargeback"
    CHARGEBACK_REVERSED = "chargeback reversed"
    RESERVE_KEPT = "reserve kept"
    RESERVE_RELEASED = "reserve released"
    CONVERSION = "conversion"
    TAX_WITHHELD = "tax withheld"
    CORRECTION = "correction"
    SUBSCRIPTION = "subscription"
    ADVERTISING = "advertising"
    SHIPPING_LABEL = "shipping label"
    REFERRAL_FEE = "referral fee"
    FULFILMENT_FEE = "fulfilment fee"
    CARRIED_OVER = "carried over"
    UNKNOWN = "unknown"


class PayoutEntry(Value):
    """One entry, signed as the provider's account sees it: a charge is positive, a fee negative.

    Shape: ``transaction`` is the provider's number of the money it is about; ``amount`` before fees,
    ``fee`` and ``fee_tax`` negative, ``net`` what remains of the three. ``called`` is what the provider calls a kind
    that is ``unknown`` here. What is ``carried over`` comes from the payout before it, or goes to the next.
    """

    id: Code
    kind: EntryKind
    called: Text = ""
    transaction: Text = ""
    order_number: Text = ""
    text: Text = ""
    occurred_at: Moment
    amount: Amount
    fee: Amount = ZERO
    fee_tax: Amount = ZERO
    net: Amount
    charged: Conversion | None = None


class Payout(Priced):
    """A payout; ``total`` is what arrives at the bank, negative where the provider collects. ``arrives_on`` is the day
    on which the bank has it, where the provider tells."""

    id: Code
    number: Code
    provider: Text = ""
    period_from: Moment | None = None
    period_to: Moment | None = None
    paid_at: Moment
    arrives_on: datetime.date | None = None
    changed_at: Moment
    bank_reference: Text = ""
    entries: tuple[PayoutEntry, ...]
    total: Amount
