"""Money that moved between buyer and seller."""

from __future__ import annotations

from collections.abc import Sequence
from enum import StrEnum

from inkwell_bridge.core.commerce.charge import Conversion
from inkwell_bridge.core.priced import Amount
from inkwell_bridge.core.values import Code, CodeIfAny, Moment, Text, Value


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


class Teller(StrEnum):
    """Who tells of money. Each tender has one that counts; what others say of it besides is no more than a promise."""

    SALES_SIDE = "sales side"
    PROVIDER = "provider"
    BANK = "bank"


class Payment(Value):
    """Money towards a document, or back from it.

    Shape: ``transaction`` is the provider's own number, by which the same money is known wherever it is
    reported; ``method`` and ``gateway`` are the sales side's words; ``brand`` is that of a card;
    ``voucher`` names the gift card or voucher that was used, in masked form. Where another than the sales side tells of
    it, ``told_by`` says who, and ``arrived_on`` is the account of the books that it came in on.
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
    told_by: Teller = Teller.SALES_SIDE
    arrived_on: CodeIfAny = ""


def counted_once(payments: Sequence[Payment]) -> tuple[Payment, ...]:
    """The money of a document without what two have told of: of a tender that the bank or a provider tells of, the
    sales side's own word is the same money."""
    others = {one.tender for one in payments if one.told_by is not Teller.SALES_SIDE}
    return tuple(one for one in payments if one.told_by is not Teller.SALES_SIDE or one.tender not in others)
