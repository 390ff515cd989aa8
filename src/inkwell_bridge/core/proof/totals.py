"""Totals of one side, to hold against the other's."""

from __future__ import annotations

from decimal import Decimal
from typing import Self

from inkwell_bridge.core.values import Exact, Value

ZERO = Decimal(0)


class Totals(Value):
    """Count, net, tax and gross of a set of documents in one currency."""

    count: int = 0
    net: Exact = ZERO
    tax: Exact = ZERO
    gross: Exact = ZERO

    def less(self, other: Totals) -> Self:
        """This side less the other: zero everywhere where they tie."""
        return type(self)(
            count=self.count - other.count,
            net=self.net - other.net,
            tax=self.tax - other.tax,
            gross=self.gross - other.gross,
        )

    def plus(self, other: Totals) -> Self:
        """Both together."""
        return type(self)(
            count=self.count + other.count,
            net=self.net + other.net,
            tax=self.tax + other.tax,
            gross=self.gross + other.gross,
        )

    @property
    def nothing(self) -> bool:
        """Whether it comes to nothing in every respect."""
        return not (self.count or self.net or self.tax or self.gross)
