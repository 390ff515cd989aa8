"""Documents in the books: listed, and shown in full."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

import django_filters
from django.db.models import Exists, OuterRef, QuerySet
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import generics, serializers
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.api.read_only import ReadOnlySerializer
from inkwell_bridge.service.bridges.naming import named
from inkwell_bridge.service.carriage.amounts_api import AmountField
from inkwell_bridge.service.carriage.crossings_filter import workspace_of
from inkwell_bridge.service.carriage.models import Document, DocumentSource
from inkwell_bridge.service.carriage.states import DocumentState

DETAILED = Document.objects.select_related("connection").prefetch_related("sources__crossing__bridge")


class ShareAmountField(AmountField):
    """An amount of a share, in the currency of its document."""

    def get_attribute(self, instance: Any) -> tuple[Decimal, str] | None:
        """The amount with the document's currency."""
        amount, currency = getattr(instance, self.source), instance.document.currency
        return (amount, currency) if amount is not None and currency else None


class SourceShareSerializer(ReadOnlySerializer[DocumentSource]):
    """What one source document has in a document; the shares of all add up to it."""

    number = serializers.CharField(source="crossing.number", read_only=True)
    currency = serializers.CharField(source="document.currency", read_only=True)
    net, tax, gross = ShareAmountField(), ShareAmountField(), ShareAmountField()

    class Meta:
        model = DocumentSource
        fields = ("crossing", "number", "part", "currency", "net", "tax", "gross")


class DocumentSerializer(ReadOnlySerializer[Document]):
    """A document in the books, in brief; net, tax and gross are the books' own."""

    connection = serializers.CharField(source="connection.slug", read_only=True)
    bridge = serializers.SerializerMethodField()
    crossing = serializers.SerializerMethodField()
    order_number = serializers.SerializerMethodField()
    sources = SourceShareSerializer(many=True, read_only=True)
    difference, net, tax, gross = AmountField(), AmountField(), AmountField(), AmountField()

    class Meta:
        model = Document
        fields = (
            "id",
            "crossing",
            "bridge",
            "connection",
            "order_number",
            "sources",
            "role",
            "external_reference",
            "state",
            "books_id",
            "books_number",
            "link",
            "date",
            "currency",
            "net",
            "tax",
            "gross",
            "difference",
            "proved_at",
        )

    def get_bridge(self, document: Document) -> str:
        """The bridge that its first source document crossed."""
        share = _first(document)
        return share.crossing.bridge.slug if share else ""

    def get_crossing(self, document: Document) -> int:
        """Its first source document."""
        share = _first(document)
        return share.crossing_id if share else 0

    def get_order_number(self, document: Document) -> str:
        """The number of its first source document."""
        share = _first(document)
        return share.crossing.number if share else ""


def _first(document: Document) -> DocumentSource | None:
    """Its first share; none where a draft was discarded while the list was put together."""
    return min(document.sources.all(), key=lambda share: share.pk, default=None)


class SpreadDocumentSerializer(DocumentSerializer):
    """A document in the books in full: as planned, as settled where that is another, as read back."""

    planned = serializers.JSONField()
    settled = serializers.JSONField()
    record = serializers.JSONField()

    class Meta(DocumentSerializer.Meta):
        fields = (*DocumentSerializer.Meta.fields, "planned", "settled", "record")  # type: ignore[assignment]


class DocumentFilter(django_filters.FilterSet):
    """What a list of documents can be narrowed to."""

    bridge = django_filters.CharFilter(method="of_bridge")
    connection = django_filters.CharFilter("connection__slug")
    state = django_filters.MultipleChoiceFilter(choices=DocumentState.choices)
    order_number = django_filters.CharFilter(method="of_order")
    books_number = django_filters.CharFilter()

    class Meta:
        model = Document
        fields: list[str] = []

    def of_bridge(self, rows: QuerySet[Document], _: str, value: str) -> QuerySet[Document]:
        """Those that something on a bridge has a share in; each once."""
        bridge = named(workspace_of(self), value)
        return rows.filter(Exists(DocumentSource.objects.filter(document=OuterRef("pk"), crossing__bridge=bridge)))

    def of_order(self, rows: QuerySet[Document], _: str, value: str) -> QuerySet[Document]:
        """Those that the source document of a number has a share in; each once."""
        shares = DocumentSource.objects.filter(crossing__workspace=workspace_of(self), crossing__number=value)
        return rows.filter(pk__in=shares.values("document"))


class DocumentsView(InWorkspace, generics.ListAPIView[Document]):
    """All documents in the books."""

    serializer_class = DocumentSerializer
    filterset_class = DocumentFilter

    def get_queryset(self) -> QuerySet[Document]:
        """Of this workspace."""
        return self.own(DETAILED)


class DocumentView(InWorkspace):
    """One document in the books."""

    @extend_schema(operation_id="documents_read", responses=SpreadDocumentSerializer)
    def get(self, request: Request, workspace: str, document: int) -> Response:
        """As planned, as settled, as read back."""
        rows = self.own(DETAILED)
        return Response(SpreadDocumentSerializer(get_object_or_404(rows, pk=document)).data)
