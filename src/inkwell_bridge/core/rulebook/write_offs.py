"""Small balances that are given up."""

from __future__ import annotations

from decimal import Decimal

from inkwell_bridge.core.values import Code, Exact, Value


class WriteOffRules(Value):
    """What is left open of a sale is given up, whoever owes it, once it is old enough and small enough.

    Units: ``up_to`` is in the company's own currency, ``by_currency`` names others'; what is open in a currency without
    a limit is never given up. ``after_days`` counts from the last document of the sale.
    Source: trade practice; pennies that nobody asks for any more keep an account from being at nothing.
    """

    up_to: Exact
    by_currency: dict[Code, Exact] = {}
    after_days: int = 30

    def limit(self, currency: str, *, own: str) -> Decimal:
        """The largest balance in a currency that is given up; nothing where it has no limit."""
        return self.by_currency.get(currency, self.up_to if currency == own else Decimal(0))
