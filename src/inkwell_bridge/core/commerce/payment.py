"""Money that moved between buyer and seller."""

from __future__ import annotations

from enum import StrEnum

from inkwell_bridge.core.commerce.charge import Conversion
from inkwell_bridge.core.priced import Amount
from inkwell_bridge.core.values import Code, Moment, Text, Value


class Tender(StrEnum):
    """What somebody pays with."""

    CARD = "card"
    BANK_TRANSFER = "bank transfer"
    DIRECT_DEBIT = "direct debit"
    WALLET = "wallet"
    CASH = "cash"
    CASH_ON_DELIVERY = "cash on delivery"
    GIFT_CARD = "gift card"
    VOUCHER = "voucher"
    ON_ACCOUNT = "on account"
    PAY_LATER = "pay later"
    MARKETPLACE = "marketplace"
    OTHER = "other"


class MoneyState(StrEnum):
    """How far money has come."""

    PROMISED = "promised"
    AUTHORISED = "authorised"
    RECEIVED = "received"
    FAILED = "failed"
    CANCELLED = "cancelled"


class Payment(Value):
    """Money towards a document, or back from it.

    Shape: ``transaction`` is the provider's own number, by which the same money is known wherever it is
    reported; ``method`` and ``gateway`` are the sales side's words; ``brand`` is that of a card;
    ``voucher`` names the gift card or voucher that was used, in masked form.
    """

    transaction: Code
    method: Text
    tender: Tender = Tender.OTHER
    brand: Text = ""
    gateway: Text = ""
    voucher: Text = ""
    amount: Amount
    state: MoneyState = MoneyState.RECEIVED
    paid_at: Moment | None = None
    settled: Conversion | None = None
