"""What one source document has in the books in a line: its first document, and what later changes made of it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from decimal import Decimal
from typing import Any

from rest_framework import serializers

from inkwell_bridge.core.books import Role
from inkwell_bridge.service.carriage.amounts_api import written
from inkwell_bridge.service.carriage.models import MONEY_ROLES
from inkwell_bridge.service.carriage.states import DocumentState

ZERO = Decimal(0)
_AMOUNTS = ("net", "tax", "gross", "difference")


class InBooksSerializer(serializers.Serializer[Any]):
    """The number of its first document that stands there, how many further ones made changes good, and what all of
    these come to: a credit note takes off what invoices put there, and the other way round."""

    number = serializers.CharField()
    further = serializers.IntegerField()
    currency = serializers.CharField(help_text="Of these documents: that of an order, or what it was converted into.")
    net = serializers.CharField(allow_null=True)
    tax = serializers.CharField(allow_null=True)
    gross = serializers.CharField(allow_null=True)
    difference = serializers.CharField(allow_null=True)


def in_books(documents: Sequence[Mapping[str, Any]], currency: str) -> dict[str, Any] | None:
    """The same of documents as ``DocumentSerializer`` writes them; nothing where none stands there."""
    standing = [one for one in documents if one["state"] != DocumentState.CANCELLED]
    if not standing:
        return None
    # Money stands before the sale where that was put right by another document.
    first = next((one for one in standing if one["role"] not in MONEY_ROLES), standing[0])
    others = [one for one in standing if one is not first]
    further = [one for one in others if one["amendment"]]
    # What was converted by rule is in the company's currency there.
    there = first["currency"] or currency
    sums = {name: _sum([first, *further], name, there) for name in _AMOUNTS}
    return {"number": first["books_number"], "further": len(further), "currency": there, **sums}


def _sum(documents: Sequence[Mapping[str, Any]], name: str, currency: str) -> str | None:
    # As the first is: of a refund a further invoice takes off what its credit note gave.
    is_credit = documents[0]["role"] == Role.CREDIT_NOTE
    found = [(1 if (one["role"] == Role.CREDIT_NOTE) is is_credit else -1, one[name])
             for one in documents if one[name] is not None]  # fmt: skip
    return written(sum((sign * Decimal(amount) for sign, amount in found), ZERO), currency) if found else None
