"""Opening balances when a bridge takes over: owed to customers, or still to come from those who keep the money."""

from __future__ import annotations

import datetime
from enum import StrEnum
from typing import Self

from pydantic import model_validator

from inkwell_bridge.core.priced import Amount, Priced
from inkwell_bridge.core.values import Code, Moment, Text, Value


class OpenFor(StrEnum):
    """What a balance is of."""

    DEPOSITS = "deposits"
    GIFT_CARDS = "gift cards"
    VOUCHERS = "vouchers"
    CLEARING = "clearing"


class OpeningBalance(Value):
    """One balance: what is owed to customers, or what a provider still has to pay out; it may be negative.

    Shape: ``account`` names the clearing account; what is owed stands on the account of its role.
    """

    of: OpenFor
    amount: Amount
    account: Text = ""
    text: Text = ""

    @model_validator(mode="after")
    def _clearing_has_an_account(self) -> Self:
        if (self.of is OpenFor.CLEARING) != bool(self.account):
            raise ValueError("an account for a clearing balance, and for no other")
        return self


class OpeningBalances(Priced):
    """The balances of a cut-over, in the company's own currency.

    Shape: ``against`` is the account that they stood on before, or that they come out of.
    """

    id: Code
    number: Code
    opened_on: datetime.date
    changed_at: Moment
    against: Code
    balances: tuple[OpeningBalance, ...]
