"""Payouts that arrived at the bank: a line of its statement, and what it is made up of."""

from __future__ import annotations

import datetime

from inkwell_bridge.core.priced import Amount, Priced
from inkwell_bridge.core.values import Code, Moment, Text, Value


class ArrivedPayout(Value):
    """So much of the line is that payout, which stood on ``account`` of the books until now."""

    payout: Code
    number: Code
    account: Code
    amount: Amount


class Arrival(Priced):
    """A line of the bank's, matched to payouts; below zero the provider collected.

    Shape: ``account`` is the books' account that the bank account is. ``parts`` add up to ``amount``; without any, what
    was matched has been taken back.
    """

    id: Code
    number: Code
    account: Code
    booked_on: datetime.date
    changed_at: Moment
    amount: Amount
    text: Text = ""
    parts: tuple[ArrivedPayout, ...] = ()
