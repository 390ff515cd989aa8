"""How payouts are found on the bank's lines."""

from __future__ import annotations

from typing import Literal

from inkwell_bridge.core.values import Value


class BankRules(Value):
    """A line that names a payout and has its amount is that payout, whatever these rules say.

    Shape: of a line that names none, its amount is compared with payouts that were due ``within_days`` of it;
    ``unnamed`` tells whether a person is asked, or the one that fits is taken where it is the only one.
    Source: trade practice; an amount alone is no proof.
    """

    unnamed: Literal["ask", "take the only one"] = "ask"
    within_days: int = 5
