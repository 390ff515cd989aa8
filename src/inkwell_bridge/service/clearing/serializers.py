"""What calls about clearing accounts take and answer."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from inkwell_bridge.core.clearing import Column
from inkwell_bridge.service.api.fields import BySlug
from inkwell_bridge.service.api.period import PeriodSerializer
from inkwell_bridge.service.api.read_only import ReadOnlySerializer
from inkwell_bridge.service.clearing.accounts import MoneyAccount, Purpose
from inkwell_bridge.service.clearing.models import ClearingProof
from inkwell_bridge.service.connections.models import Connection

Amount = serializers.CharField


class ClearingProofRequestSerializer(PeriodSerializer):
    """The account to prove, and the days; without days, the last whole month."""

    books = BySlug(queryset=Connection.objects.none())
    account = serializers.CharField(max_length=120)

    def __init__(self, *args: Any, connections: Any = None, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        if connections is not None:
            self.fields["books"].queryset = connections  # type: ignore[attr-defined]


class ClearingProofHeadSerializer(ReadOnlySerializer[ClearingProof]):
    """How far a proof is, and whether it proves; ``done`` counts the entries of the books that were read."""

    books = serializers.CharField(source="books.slug", read_only=True)
    asked_by = serializers.CharField(source="asked_by.email", default="", read_only=True)

    class Meta:
        model = ClearingProof
        fields = ("id", "books", "account", "first", "last", "state", "asked_by", "asked_at", "ended_at", "total",
                  "done", "trouble", "proves")  # fmt: skip


class AmountsSerializer(serializers.DictField):
    """Amounts by column."""

    child = serializers.CharField()


class AccountDaySerializer(serializers.Serializer[Any]):
    """A day on which something moved: what it began with, what came in each column, and what it ended with: by what was
    posted from here, in the books, and what the books have more."""

    day = serializers.DateField()
    opening = Amount()
    amounts = AmountsSerializer()
    closing = Amount()
    books = Amount()
    difference = Amount()


class AccountDifferenceSerializer(serializers.Serializer[Any]):
    """Items that differ for one reason, and what the books have more by them."""

    why = serializers.CharField()
    count = serializers.IntegerField()
    amount = Amount()


class DifferingItemSerializer(serializers.Serializer[Any]):
    """A document that is not the same on both sides; ``amount`` is what the books have more of it."""

    why = serializers.CharField()
    reference = serializers.CharField(allow_blank=True)
    number = serializers.CharField(allow_blank=True)
    text = serializers.CharField(allow_blank=True)
    documents = serializers.IntegerField()
    our_day = serializers.DateField(allow_null=True)
    our_amount = Amount(allow_null=True)
    books_day = serializers.DateField(allow_null=True)
    books_amount = Amount(allow_null=True)
    amount = Amount()
    crossing = serializers.IntegerField(allow_null=True)
    source_number = serializers.CharField(allow_blank=True)


class StandingItemSerializer(serializers.Serializer[Any]):
    """A transaction or a payout of which something stands on the account."""

    why = serializers.CharField()
    number = serializers.CharField(allow_blank=True)
    transaction = serializers.CharField(allow_blank=True)
    payout = serializers.CharField(allow_blank=True)
    crossing = serializers.IntegerField(allow_null=True)
    day = serializers.DateField()
    received = Amount()
    cleared = Amount()
    amount = Amount()


class AgedSerializer(serializers.Serializer[Any]):
    """What is not older than so many days, and older than the age before; the last has all that is older."""

    up_to = serializers.IntegerField(allow_null=True)
    count = serializers.IntegerField()
    amount = Amount()


class StandingSerializer(serializers.Serializer[Any]):
    """What stands on the account at the end of the last day: before the first day and not from here, by journals of
    anything but payouts, and item by item (the oldest thousand); what is none of these should be zero."""

    from_elsewhere = Amount()
    other_journals = Amount()
    count = serializers.IntegerField()
    amount = Amount()
    ages = AgedSerializer(many=True)
    items = StandingItemSerializer(many=True)
    not_accounted_for = Amount()


class AtBankSerializer(serializers.Serializer[Any]):
    """The account beside the bank's statement, at the end of the last day that it covers: both balances, and what the
    bank has more by what both began with, by lines that nobody knows, and by those that are no payouts; what is none of
    these should be zero."""

    day = serializers.DateField()
    balance = Amount()
    books = Amount()
    opening_difference = Amount()
    open_lines = Amount()
    excluded_lines = Amount()
    not_accounted_for = Amount()


class OneSidedSerializer(serializers.Serializer[Any]):
    """Money that one side does not know, or knows with another amount."""

    transaction = serializers.CharField()
    number = serializers.CharField(allow_blank=True)
    crossing = serializers.IntegerField(allow_null=True)
    day = serializers.DateField()
    here = Amount(allow_null=True)
    there = Amount(allow_null=True)


class AtProviderSerializer(serializers.Serializer[Any]):
    """The account beside the provider's own ledger, at the end of the last day: its entries that stand in no payout, by
    column, and what they come to; what stands here of money that it has not paid out; and what only one side has. With
    ``trouble`` it could not be asked."""

    provider = serializers.CharField()
    day = serializers.DateField()
    columns = serializers.ListField(child=serializers.CharField())
    amounts = AmountsSerializer()
    balance = Amount()
    here = Amount()
    only_here = Amount()
    only_there = Amount()
    otherwise = Amount()
    count = serializers.IntegerField()
    items = OneSidedSerializer(many=True)
    trouble = serializers.CharField(allow_blank=True)


class AccountProofSerializer(serializers.Serializer[Any]):
    """The account over the days; ``differing`` names the first thousand items that are not the same on both sides."""

    currency = serializers.CharField()
    opening = Amount()
    amounts = AmountsSerializer()
    closing = Amount()
    books = Amount()
    days = AccountDaySerializer(many=True)
    differences = AccountDifferenceSerializer(many=True)
    differing = DifferingItemSerializer(many=True)
    unexplained = Amount()
    standing = StandingSerializer(required=False)
    at_bank = AtBankSerializer(required=False)
    at_provider = AtProviderSerializer(required=False)


class ClearingProofSerializer(ClearingProofHeadSerializer):
    """A proof with what came of it; nothing of that before it has ended."""

    result = serializers.SerializerMethodField()
    columns = serializers.SerializerMethodField()

    class Meta(ClearingProofHeadSerializer.Meta):
        fields = (*ClearingProofHeadSerializer.Meta.fields, "columns", "result")  # type: ignore[assignment]

    @extend_schema_field(serializers.ListField(child=serializers.CharField()))
    def get_columns(self, proof: ClearingProof) -> list[str]:
        """The columns that anything came in, in the order in which people read them."""
        met = proof.result.get("amounts", {})
        return [column.value for column in Column if column.value in met]

    @extend_schema_field(AccountProofSerializer(allow_null=True))
    def get_result(self, proof: ClearingProof) -> dict[str, Any] | None:
        """As it was kept."""
        return proof.result or None


class MoneyAccountSerializer(serializers.Serializer[MoneyAccount]):
    """An account of money that rules in force name, what it is for, and the newest proof of it; ``told`` is whether the
    books tell what stands on it."""

    books = serializers.CharField(source="books.slug")
    account = serializers.CharField(source="code")
    name = serializers.CharField()
    currency = serializers.CharField()
    purposes = serializers.ListField(child=serializers.ChoiceField(choices=[one.value for one in Purpose]))
    told = serializers.BooleanField()
    newest = ClearingProofHeadSerializer(allow_null=True)
