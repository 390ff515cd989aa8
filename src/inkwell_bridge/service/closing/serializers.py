"""What calls about months take and answer."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from inkwell_bridge.core.closing import OpenItem
from inkwell_bridge.core.closing.report import in_currency
from inkwell_bridge.core.proof import Reason, Section, Table
from inkwell_bridge.service.api.fields import Strict
from inkwell_bridge.service.api.read_only import ReadOnlySerializer
from inkwell_bridge.service.closing.later_changes import ChangedDocument, ChangedSums
from inkwell_bridge.service.closing.models import AcceptedDifference, ClosingProposal, MonthClosing, Reopening
from inkwell_bridge.service.people.models import ReportLanguage
from inkwell_bridge.service.tieout.serializers import DifferingSerializer, TotalsSerializer, totals_in

LONGEST_NOTE = 500


class NoteSerializer(Strict):
    """A note beside what somebody does."""

    note = serializers.CharField(max_length=LONGEST_NOTE, required=False, default="", allow_blank=True)


class NeededNoteSerializer(Strict):
    """The note that is asked for."""

    note = serializers.CharField(max_length=LONGEST_NOTE)


class AcceptSerializer(NeededNoteSerializer):
    """The open item that is accepted, as it was shown, and why."""

    reason = serializers.ChoiceField([one.value for one in Reason])
    detail = serializers.CharField(max_length=120, required=False, default="", allow_blank=True)
    fingerprint = serializers.RegexField(r"^[0-9a-f]{64}$")


class PartAmountSerializer(serializers.Serializer[Any]):
    """What an open item comes to in one place of the sheet; ``section`` is empty of tax codes."""

    table = serializers.ChoiceField([one.value for one in Table])
    section = serializers.ChoiceField([*(one.value for one in Section if one), ""])
    currency = serializers.CharField()
    tax_code = serializers.CharField()
    tender = serializers.CharField()
    account = serializers.CharField()
    totals = TotalsSerializer()


class OpenItemSerializer(serializers.Serializer[OpenItem]):
    """One open reason of a month; ``fingerprint`` is of its documents and amounts as they are now."""

    reason = serializers.ChoiceField([one.value for one in Reason])
    detail = serializers.CharField()
    documents = serializers.IntegerField()
    amounts = PartAmountSerializer(many=True)
    fingerprint = serializers.CharField()

    def to_representation(self, instance: OpenItem) -> dict[str, Any]:
        """Amounts with the digits of their currency."""
        said = instance.as_json()
        for part, shown in zip(instance.amounts, said["amounts"], strict=True):
            shown["account"] = part.account
            shown["totals"] = totals_in(in_currency(part.totals, part.currency), part.currency)
        return said


class AcceptedSerializer(ReadOnlySerializer[AcceptedDifference]):
    """An open item that somebody accepted; ``stands`` is whether it still is what was accepted."""

    item = serializers.SerializerMethodField()
    by = serializers.CharField(source="person.email", read_only=True)
    stands = serializers.SerializerMethodField()

    class Meta:
        model = AcceptedDifference
        fields = ("id", "reason", "detail", "item", "note", "by", "at", "stands")

    @extend_schema_field(OpenItemSerializer())
    def get_item(self, accepted: AcceptedDifference) -> dict[str, Any]:
        """As it was accepted."""
        return dict(OpenItemSerializer(OpenItem.read(accepted.item)).data)

    def get_stands(self, accepted: AcceptedDifference) -> bool:
        """Whether the item is open as it was; of a closed month, whether it was when that was closed."""
        return accepted.item["fingerprint"] in self.context["fingerprints"]


class ProposedClosingSerializer(ReadOnlySerializer[ClosingProposal]):
    """That somebody proposed to close the month."""

    by = serializers.CharField(source="person.email", read_only=True)

    class Meta:
        model = ClosingProposal
        fields = ("by", "at", "note")


class ReopeningSerializer(ReadOnlySerializer[Reopening]):
    """That the month was opened again."""

    by = serializers.CharField(source="person.email", read_only=True)

    class Meta:
        model = Reopening
        fields = ("by", "at", "note")


class ClosingSerializer(ReadOnlySerializer[MonthClosing]):
    """A month as it was closed; ``number`` counts the closings of its company."""

    company = serializers.CharField(source="company.slug", read_only=True)
    month = serializers.SerializerMethodField()
    closed_by = serializers.CharField(source="closed_by.email", read_only=True)
    reopening = serializers.SerializerMethodField()
    changed = serializers.SerializerMethodField()

    class Meta:
        model = MonthClosing
        fields = ("id", "company", "month", "number", "checksum", "note", "closed_by", "closed_at", "reopening",
                  "changed")  # fmt: skip

    def get_month(self, closing: MonthClosing) -> str:
        """As 2026-10."""
        return f"{closing.month:%Y-%m}"

    @extend_schema_field(ReopeningSerializer(allow_null=True))
    def get_reopening(self, closing: MonthClosing) -> dict[str, Any] | None:
        """By whom and why it was opened again."""
        found = getattr(closing, "reopening", None)
        return ReopeningSerializer(found).data if found else None

    def get_changed(self, closing: MonthClosing) -> int:
        """How many documents are otherwise in the month than when it was closed."""
        return int(self.context["changed"].get(closing.pk, 0))


class ChangedSumsSerializer(serializers.Serializer[ChangedSums]):
    """What each side of a section changed by since the month was closed."""

    section = serializers.CharField()
    currency = serializers.CharField()
    source = TotalsSerializer()
    books = TotalsSerializer()

    def to_representation(self, instance: ChangedSums) -> dict[str, Any]:
        """Amounts with the digits of the currency."""
        currency = instance.currency
        sides = {name: totals_in(getattr(instance, name), currency) for name in ("source", "books")}
        return {"section": instance.section, "currency": currency, **sides}


class MonthSerializer(serializers.Serializer[Any]):
    """A month of a company: whether it ties, what is open in it, what was accepted, and whether it is closed.

    ``state`` is ``open``, ``proposed`` or ``closed``. It can be closed where nothing is ``left`` that nobody accepted;
    ``since`` is what changed after it was closed, beside its frozen figures.
    """

    company = serializers.CharField()
    month = serializers.CharField()
    state = serializers.ChoiceField(["open", "proposed", "closed"])
    over = serializers.BooleanField(help_text="Whether its last day is over, by the company's clocks.")
    two_close = serializers.BooleanField(help_text="Whether another person than the proposer closes it.")
    ties = serializers.BooleanField()
    items = OpenItemSerializer(many=True)
    left = serializers.IntegerField(help_text="How many of the items nobody has accepted as they are.")
    accepted = AcceptedSerializer(many=True)
    proposal = ProposedClosingSerializer(allow_null=True)
    closing = ClosingSerializer(allow_null=True)
    since = ChangedSumsSerializer(many=True)
    differing_since = DifferingSerializer(many=True)


class ChangedDocumentSerializer(serializers.Serializer[ChangedDocument]):
    """A source document, and what it changed a closed month by."""

    id = serializers.IntegerField()
    kind = serializers.CharField()
    number = serializers.CharField()
    bridge = serializers.CharField()
    state = serializers.CharField()
    currency = serializers.CharField()
    since = serializers.DateTimeField()
    source = TotalsSerializer()
    books = TotalsSerializer()

    def to_representation(self, instance: ChangedDocument) -> dict[str, Any]:
        """Amounts with the digits of the currency."""
        crossing, currency = instance.crossing, instance.currency
        return {
            "id": crossing.pk, "kind": crossing.kind, "number": crossing.number, "bridge": crossing.bridge.slug,
            "state": crossing.state, "currency": currency,
            "since": serializers.DateTimeField().to_representation(instance.since),
            "source": totals_in(instance.source, currency), "books": totals_in(instance.books, currency),
        }  # fmt: skip


class ChangedRequestSerializer(serializers.Serializer[Any]):
    """Where a page begins."""

    after = serializers.IntegerField(min_value=0, max_value=2**62, required=False, default=0)


class ChangedPageSerializer(serializers.Serializer[Any]):
    """A page of them; ``after`` leads to the next, absent on the last."""

    documents = ChangedDocumentSerializer(many=True)
    after = serializers.IntegerField(allow_null=True)


class ReportRequestSerializer(serializers.Serializer[Any]):
    """In which form, and in which language; without one, in the company's."""

    form = serializers.ChoiceField(["pdf", "xlsx", "json"], default="pdf")
    language = serializers.ChoiceField(ReportLanguage.choices, required=False, default="")


class BrokenLinkSerializer(serializers.Serializer[Any]):
    """A closing at which the chain does not hold."""

    number = serializers.IntegerField()
    why = serializers.CharField()


class ChainSerializer(serializers.Serializer[Any]):
    """Whether the closings of a company are what they were: every checksum worked out anew from its figures."""

    company = serializers.CharField()
    closings = serializers.IntegerField()
    holds = serializers.BooleanField()
    broken = BrokenLinkSerializer(many=True)
