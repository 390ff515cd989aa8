"""What calls about completeness take and answer."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from inkwell_bridge.core.completeness import Became, CompletenessResult, KindCompleteness, NamedDocument, SumIn
from inkwell_bridge.core.proof import Reason
from inkwell_bridge.service.api.fields import BySlug
from inkwell_bridge.service.api.period import PeriodSerializer
from inkwell_bridge.service.api.read_only import ReadOnlySerializer
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage.amounts_api import written
from inkwell_bridge.service.completeness.models import CompletenessCheck, Lacking


class CheckRequestSerializer(PeriodSerializer):
    """The bridge to check, and the days; without days, the last whole month."""

    bridge = BySlug(queryset=Bridge.objects.none())

    def __init__(self, *args: Any, bridges: Any = None, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        if bridges is not None:
            self.fields["bridge"].queryset = bridges  # type: ignore[attr-defined]


class OfDaysSerializer(PeriodSerializer):
    """Days, and of which bridge or company; without days, the last whole month."""

    bridge = serializers.SlugField(required=False, default="")
    company = serializers.SlugField(required=False, default="")


class CheckHeadSerializer(ReadOnlySerializer[CompletenessCheck]):
    """How far a check is, and whether everything is here; ``done`` counts what was listed so far. ``asked_by`` is empty
    of one that the program makes each day."""

    bridge = serializers.CharField(source="bridge.slug", read_only=True)
    asked_by = serializers.CharField(source="asked_by.email", default="", read_only=True)

    class Meta:
        model = CompletenessCheck
        fields = ("id", "bridge", "first", "last", "state", "asked_by", "asked_at", "ended_at", "total", "done",
                  "trouble", "complete")  # fmt: skip


class SumSerializer(serializers.Serializer[Any]):
    """So many documents of a currency, and what they come to with tax."""

    currency = serializers.CharField()
    count = serializers.IntegerField()
    gross = serializers.CharField()


class NamedDocumentSerializer(serializers.Serializer[Any]):
    """A document that was not the same on both sides, and what became of it."""

    became = serializers.ChoiceField([one.value for one in Became])
    number = serializers.CharField()
    currency = serializers.CharField(allow_blank=True)
    gross = serializers.CharField(allow_null=True)


class NumberGapSerializer(serializers.Serializer[Any]):
    """A number of no document, and the one before it."""

    number = serializers.CharField()
    after = serializers.CharField()


class BecameCountSerializer(serializers.Serializer[Any]):
    """How many documents came to this."""

    became = serializers.ChoiceField([one.value for one in Became])
    documents = serializers.IntegerField()


class KindCompletenessSerializer(serializers.Serializer[Any]):
    """One kind: what the sales side lists and counts itself (``told`` is absent where it does not), and what is here by
    now; the documents that were not the same, 200 of each at most; what it counts more than it lists; numbers without
    a document."""

    kind = serializers.CharField()
    complete = serializers.BooleanField()
    listed = SumSerializer(many=True)
    told = SumSerializer(many=True, allow_null=True)
    here = SumSerializer(many=True)
    counts = BecameCountSerializer(many=True)
    documents = NamedDocumentSerializer(many=True)
    counted_otherwise = SumSerializer(many=True)
    gaps = NumberGapSerializer(many=True)

    def to_representation(self, instance: KindCompleteness) -> Mapping[str, Any]:
        """Amounts with the digits of their currency."""
        return {
            "kind": instance.kind,
            "complete": instance.complete,
            "listed": _sums(instance.listed),
            "told": None if instance.told is None else _sums(instance.told),
            "here": _sums(instance.here),
            "counts": [{"became": became.value, "documents": number} for became, number in instance.counts.items()],
            "documents": [_named(one) for one in instance.documents],
            "counted_otherwise": _sums(instance.counted_otherwise),
            "gaps": [{"number": one.number, "after": one.after} for one in instance.gaps],
        }


def _sums(sums: Sequence[SumIn]) -> list[dict[str, Any]]:
    return [{"currency": one.currency, "count": one.count, "gross": written(one.gross, one.currency)} for one in sums]


def _named(one: NamedDocument) -> dict[str, Any]:
    return {"became": one.became.value, "number": one.number, "currency": one.currency,
            "gross": written(one.gross, one.currency)}  # fmt: skip


class NotComparedSerializer(serializers.Serializer[Any]):
    """A kind that could not be compared, and why."""

    kind = serializers.CharField()
    why = serializers.CharField()


class EnteredInBooksSerializer(serializers.Serializer[Any]):
    """What the books hold on the accounts of sales that was not posted from here: so many documents that somebody
    entered, so many under our own reference; the first 200 are named. ``why_not`` says why none was read."""

    accounts = serializers.ListField(child=serializers.CharField())
    why_not = serializers.CharField(allow_blank=True)
    by_hand = serializers.IntegerField()
    not_posted_here = serializers.IntegerField()
    numbers = serializers.ListField(child=serializers.CharField())


class CompletenessResultSerializer(serializers.Serializer[Any]):
    """What came of a check."""

    kinds = KindCompletenessSerializer(many=True)
    not_compared = NotComparedSerializer(many=True)
    in_books = EnteredInBooksSerializer()


class CheckSerializer(CheckHeadSerializer):
    """A check with what came of it, once it has ended."""

    result = serializers.SerializerMethodField()

    class Meta(CheckHeadSerializer.Meta):
        fields = (*CheckHeadSerializer.Meta.fields, "result")

    @extend_schema_field(CompletenessResultSerializer(allow_null=True))
    def get_result(self, instance: CompletenessCheck) -> Any:
        """Nothing before it has ended."""
        if not instance.result:
            return None
        found = CompletenessResult.read(instance.result)
        return CompletenessResultSerializer(found).data


class BridgeCompletenessSerializer(serializers.Serializer[Any]):
    """A bridge, and the newest check of any of the days that were asked about; ``under_way`` is one that goes on, and
    ``why_not`` says why none can be made now."""

    bridge = serializers.CharField()
    name = serializers.CharField()
    company = serializers.CharField()
    time_zone = serializers.CharField()
    why_not = serializers.CharField(allow_blank=True)
    under_way = CheckHeadSerializer(allow_null=True)
    check = CheckSerializer(allow_null=True)


class LackingSerializer(ReadOnlySerializer[Lacking]):
    """A document that is not here, and why nothing of it can cross; ``number`` is empty where nobody has named it.
    ``count`` is how many it stands for, below zero where fewer are counted than listed."""

    bridge = serializers.CharField(source="bridge.slug", read_only=True)
    reason = serializers.ChoiceField([one.value for one in Reason])
    gross = serializers.SerializerMethodField()

    class Meta:
        model = Lacking
        fields = ("id", "bridge", "kind", "reason", "number", "date", "currency", "count", "gross")

    def get_gross(self, instance: Lacking) -> str | None:
        """With tax, in ``currency``; absent of what is known by its number alone."""
        return written(instance.gross, instance.currency)
