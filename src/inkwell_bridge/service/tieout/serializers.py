"""The sheet as the API tells it."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import timedelta
from typing import Any

from rest_framework import serializers

from inkwell_bridge.core.proof import Part, Reason, Section, SheetRow, Totals
from inkwell_bridge.service import clock
from inkwell_bridge.service.api.fields import of_our_time
from inkwell_bridge.service.carriage.amounts_api import AmountField, written
from inkwell_bridge.service.tieout.accounts import AccountRow
from inkwell_bridge.service.tieout.behind import Behind


class PeriodRequestSerializer(serializers.Serializer[Any]):
    """A period, by the company's own dates; without one, the current month."""

    first = serializers.DateField(required=False, validators=[of_our_time])
    last = serializers.DateField(required=False, validators=[of_our_time])
    bridge = serializers.SlugField(required=False, default="")
    company = serializers.SlugField(required=False, default="")

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """The current month where nothing is said, and its days in order."""
        today = clock.now().date()
        attrs.setdefault("first", today.replace(day=1))
        attrs.setdefault(
            "last", (attrs["first"].replace(day=28) + timedelta(days=4)).replace(day=1) - timedelta(days=1)
        )
        if attrs["first"] > attrs["last"]:
            raise serializers.ValidationError({"last": ["The last day lies before the first."]})
        return attrs


class TotalsSerializer(serializers.Serializer[Any]):
    """Count, net, tax and gross, in the currency of the row around."""

    count = serializers.IntegerField()
    net = serializers.CharField()
    tax = serializers.CharField()
    gross = serializers.CharField()


class PartSerializer(TotalsSerializer):
    """The part of a difference that one reason accounts for.

    ``detail`` is the cause of a hold, or the rule that left something out; ``documents`` is how many source documents
    are in it, absent of what is kept as a sum alone. ``settled`` is what a rule, the calendar or a person with a note
    accounts for: the period ties with it.
    """

    reason = serializers.ChoiceField([one.value for one in Reason])
    detail = serializers.CharField()
    documents = serializers.IntegerField(allow_null=True)
    settled = serializers.BooleanField()


class SheetRowSerializer(serializers.Serializer[Any]):
    """One row of the sheet: what should be there, what the books hold, and the difference, by its reasons.

    ``section`` is ``sales``, ``refunds`` or ``both``, and ``money`` of tenders, or of accounts; empty of tax codes,
    which are of both. Each side counts by its own days. ``unexplained`` is what no reason accounts for: zero, where
    the books are right.
    """

    section = serializers.CharField()
    currency = serializers.CharField()
    bridge = serializers.CharField(help_text="Where the rows are told by bridge.")
    day = serializers.DateField(allow_null=True, help_text="Where they are told by day.")
    tax_code = serializers.CharField()
    tender = serializers.CharField()
    source = TotalsSerializer()
    books = TotalsSerializer()
    difference = TotalsSerializer()
    parts = PartSerializer(many=True)
    unexplained = TotalsSerializer()
    ties = serializers.BooleanField()

    def to_representation(self, instance: SheetRow) -> dict[str, Any]:
        """Amounts with the digits of the row's currency."""
        place = instance.place

        def said(totals: Totals) -> dict[str, Any]:
            return totals_in(totals, place.currency)

        return {
            **{name: getattr(place, name) for name in ("section", "currency", "bridge", "tax_code", "tender")},
            "day": place.day or None,
            "source": said(instance.source),
            "books": said(instance.books),
            "difference": said(instance.difference),
            "parts": [_part(part, place.currency) for part in instance.parts],
            "unexplained": said(instance.unexplained),
            "ties": instance.ties,
        }


class AccountRowSerializer(SheetRowSerializer):
    """One account of the books: what the rules put on it of the sales side's amounts, and what stands there as the
    books were read last. Net of sales and refunds together (``section`` is ``both``), or money (``money``) that pays or
    gives back; taxes stand on the accounts of their codes."""

    connection = serializers.CharField(help_text="The books that have it.")
    account = serializers.CharField()
    name = serializers.CharField(help_text="As the books call it; empty where they never told.")
    used_for = serializers.ListField(child=serializers.CharField(), help_text="By the rules that are in force.")

    def to_representation(self, instance: AccountRow) -> dict[str, Any]:
        """The row, and what the account is."""
        place = instance.row.place
        return {
            **super().to_representation(instance.row),
            "connection": place.connection, "account": place.account, "name": instance.name,
            "used_for": list(instance.used_for),
        }  # fmt: skip


def _part(part: Part, currency: str) -> dict[str, Any]:
    return {
        "reason": part.reason.value, "detail": part.detail, "documents": part.documents, "settled": part.settled,
        **totals_in(part.totals, currency),
    }  # fmt: skip


def totals_in(totals: Totals, currency: str) -> dict[str, Any]:
    """Totals as the API writes them."""
    return {
        "count": totals.count,
        **{name: written(getattr(totals, name), currency) for name in ("net", "tax", "gross")},
    }


class DifferingSerializer(serializers.Serializer[Any]):
    """How many documents differ in the books, by the reason; whether an amount differs or not."""

    reason = serializers.ChoiceField([one.value for one in Reason])
    documents = serializers.IntegerField()


class TieOutSerializer(serializers.Serializer[Any]):
    """The sheet of a period. It ties where no difference is open, in no row, and no document differs in the books: two
    errors that cancel out do not tie, and neither does another contact, account or allocation."""

    first = serializers.DateField()
    last = serializers.DateField()
    ties = serializers.BooleanField()
    differing = DifferingSerializer(many=True)
    rows = SheetRowSerializer(many=True)
    tax_codes = SheetRowSerializer(many=True)
    accounts = AccountRowSerializer(many=True)
    tenders = SheetRowSerializer(many=True)


class PaidOutSerializer(serializers.Serializer[Any]):
    """One kind of entry of payouts over one bridge, as the provider tells it and as the books hold it; what the
    provider took is below zero."""

    bridge = serializers.CharField()
    currency = serializers.CharField()
    what = serializers.CharField(help_text="Such as Charges and refunds, Fees or Paid out.")
    documents = serializers.IntegerField(help_text="The payouts that it is of.")
    source = AmountField()
    books = AmountField()
    difference = AmountField()


class BehindRequestSerializer(serializers.Serializer[Any]):
    """Which amount of the sheet: a section and a currency, and of these a tax code, an account of some books, a tender
    or a reason."""

    section = serializers.ChoiceField([*(one.value for one in Section if one), "both"], default="both")
    currency = serializers.CharField(max_length=3, min_length=3, required=False, default="")
    tax_code = serializers.CharField(max_length=120, required=False, default="")
    tender = serializers.CharField(max_length=30, required=False, default="")
    connection = serializers.CharField(max_length=120, required=False, default="")
    account = serializers.CharField(max_length=120, required=False, default="")
    reason = serializers.ChoiceField([one.value for one in Reason], required=False, default="")
    detail = serializers.CharField(max_length=120, required=False, default="")
    after = serializers.IntegerField(min_value=0, max_value=2**62, required=False, default=0)


class BehindDocumentSerializer(serializers.Serializer[Any]):
    """A source document, and what it has on the sheet in the period."""

    id = serializers.IntegerField()
    kind = serializers.CharField()
    number = serializers.CharField()
    bridge = serializers.CharField()
    state = serializers.CharField()
    date = serializers.DateField(allow_null=True)
    currency = serializers.CharField()
    reasons = serializers.ListField(child=serializers.CharField())
    detail = serializers.CharField()
    source = TotalsSerializer()
    books = TotalsSerializer()
    difference = TotalsSerializer()

    def to_representation(self, instance: Behind) -> Mapping[str, Any]:
        """Amounts with the digits of the currency."""
        crossing = instance.crossing
        return {
            "id": crossing.pk, "kind": crossing.kind, "number": crossing.number, "bridge": crossing.bridge.slug,
            "state": crossing.state, "date": crossing.business_date, "currency": instance.currency,
            "reasons": [reason.value for reason in instance.reasons], "detail": instance.detail,
            "source": totals_in(instance.source, instance.currency),
            "books": totals_in(instance.books, instance.currency),
            "difference": totals_in(instance.source.less(instance.books), instance.currency),
        }  # fmt: skip


class BehindSerializer(serializers.Serializer[Any]):
    """A page of them; ``after`` leads to the next, absent on the last."""

    documents = BehindDocumentSerializer(many=True)
    after = serializers.IntegerField(allow_null=True)
