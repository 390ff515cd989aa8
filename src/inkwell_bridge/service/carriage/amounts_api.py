"""Amounts and totals as the API writes them."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from rest_framework import serializers

from inkwell_bridge.core.money import exact


def written(amount: Decimal | None, currency: str) -> str | None:
    """As the currency is written (ISO 4217): 9.90 in GBP, 990 in JPY, 9.900 in KWD; nothing without an amount."""
    return f"{exact(amount, currency):f}" if amount is not None and currency else None


class AmountField(serializers.DecimalField):
    """An amount as text, with the digits of the currency that its row names."""

    def __init__(self, **options: Any) -> None:
        super().__init__(max_digits=20, decimal_places=3, allow_null=True, read_only=True, **options)

    def get_attribute(self, instance: Any) -> tuple[Decimal, str] | None:
        """The amount with its currency; nothing where there is no amount, or no currency to count in."""
        row = instance if isinstance(instance, dict) else vars(instance)
        amount, currency = row[self.source], row["currency"]
        return (amount, currency) if amount is not None and currency else None

    def to_representation(self, value: tuple[Decimal, str]) -> str | None:
        """See ``written``."""
        return written(*value)


class SideTotalsSerializer(serializers.Serializer[Any]):
    """Count, net, tax and gross, in the currency of the row around."""

    def get_attribute(self, instance: Any) -> dict[str, Any]:
        """One side of the row, which takes its currency along."""
        return {**dict(instance[self.source]), "currency": instance["currency"]}

    count = serializers.IntegerField()
    net = AmountField()
    tax = AmountField()
    gross = AmountField()


class RunTotalsSerializer(serializers.Serializer[Any]):
    """For one currency: what the source holds of what was carried, what the books hold, what marketplaces keep, what
    vouchers paid that were taxed when they were sold, tax of deposits that is not due yet, what was cancelled after it
    was posted, what stands in the books in another currency (below zero: what came from another), and the difference
    that is left; of that, tax that stands on lines of its own, and rounding."""

    currency = serializers.CharField()
    source = SideTotalsSerializer()
    books = SideTotalsSerializer()
    withheld = SideTotalsSerializer()
    vouchers = SideTotalsSerializer()
    deposits = SideTotalsSerializer()
    cancelled = SideTotalsSerializer()
    converted = SideTotalsSerializer()
    difference = SideTotalsSerializer()
    tax_lines = SideTotalsSerializer()
    rounding = SideTotalsSerializer()
