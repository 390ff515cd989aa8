"""Documents in the books: listed, and shown in full."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date, datetime
from decimal import Decimal
from typing import Any, cast

import django_filters
from django.db.models import Exists, OuterRef, Prefetch, QuerySet
from drf_spectacular.utils import extend_schema
from rest_framework import generics, serializers
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.api.fields import Strict, of_our_time
from inkwell_bridge.service.api.read_only import ReadOnlySerializer
from inkwell_bridge.service.bridges.naming import named
from inkwell_bridge.service.carriage import reading_again
from inkwell_bridge.service.carriage.amounts_api import AmountField, written
from inkwell_bridge.service.carriage.crossings_filter import workspace_of
from inkwell_bridge.service.carriage.models import Document, DocumentSource
from inkwell_bridge.service.carriage.states import DocumentState
from inkwell_bridge.service.people.roles import Role
from inkwell_bridge.service.people.trail import record

# Of the source documents of a document, their numbers and bridges: all else of them is large, and stays where it is.
SOURCES = DocumentSource.objects.select_related("crossing__bridge").only(
    "document", "part", "net", "tax", "gross", "crossing__number", "crossing__bridge__slug"
)
DETAILED = Document.objects.select_related("connection").prefetch_related(Prefetch("sources", SOURCES))


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
    sources = SourceShareSerializer(many=True, read_only=True, source="sources_in_order")
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
            "amendment",
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
            "read_at",
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
    return document.sources_in_order[0] if document.sources_in_order else None


_OF_DOCUMENT = ("role", "external_reference", "amendment", "state", "books_id", "books_number", "link", "date")
_AMOUNTS = ("net", "tax", "gross", "difference")
_SHARE, _SHARE_AMOUNTS = "document__sources", ("net", "tax", "gross")


def in_brief(crossings: Sequence[int]) -> dict[int, list[dict[str, Any]]]:
    """The documents of each of a page of crossings, as ``DocumentSerializer`` writes them, in one statement.

    A page of fifty has a hundred documents with as many connections, shares and source documents: made into objects and
    asked field by field they took more than half the time of a list.
    """
    mine = DocumentSource.objects.filter(crossing__in=crossings)
    # A row for each share that anybody has in each document of theirs, its first one first.
    shares = mine.order_by("part", "pk", f"{_SHARE}__pk").values(
        "crossing_id", "document_id", "document__connection__slug", "document__currency",
        "document__proved_at", "document__read_at",
        *(f"document__{name}" for name in (*_OF_DOCUMENT, *_AMOUNTS)),
        *(f"{_SHARE}__{name}" for name in ("crossing_id", "crossing__number", "crossing__bridge__slug", "part",
                                           *_SHARE_AMOUNTS)),
    )  # fmt: skip
    found: dict[int, dict[int, dict[str, Any]]] = {}
    for row in shares:
        documents = found.setdefault(row["crossing_id"], {})
        document = documents.get(row["document_id"])
        if document is None:
            document = documents[row["document_id"]] = _brief(row)
        document["sources"].append(_brief_share(row))
    return {crossing: list(documents.values()) for crossing, documents in found.items()}


def _brief(row: Mapping[str, Any]) -> dict[str, Any]:
    """A document, out of the row of its first share."""
    currency = row["document__currency"]
    return {
        "id": row["document_id"],
        "crossing": row[f"{_SHARE}__crossing_id"],
        "bridge": row[f"{_SHARE}__crossing__bridge__slug"],
        "connection": row["document__connection__slug"],
        "order_number": row[f"{_SHARE}__crossing__number"],
        "sources": [],
        **{name: row[f"document__{name}"] for name in _OF_DOCUMENT},
        "currency": currency,
        **{name: written(row[f"document__{name}"], currency) for name in _AMOUNTS},
        "proved_at": _moment(row["document__proved_at"]),
        "read_at": _moment(row["document__read_at"]),
    }


def _moment(at: datetime | None) -> str | None:
    return at.isoformat().replace("+00:00", "Z") if at else None


def _brief_share(row: Mapping[str, Any]) -> dict[str, Any]:
    currency = row["document__currency"]
    return {
        "crossing": row[f"{_SHARE}__crossing_id"],
        "number": row[f"{_SHARE}__crossing__number"],
        "part": row[f"{_SHARE}__part"],
        "currency": currency,
        **{name: written(row[f"{_SHARE}__{name}"], currency) for name in _SHARE_AMOUNTS},
    }


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
        bridges = named(workspace_of(self), value)
        return rows.filter(Exists(DocumentSource.objects.filter(document=OuterRef("pk"), crossing__bridge__in=bridges)))

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
        return Response(SpreadDocumentSerializer(self.numbered(rows, "document", document)).data)


class ReadAgainRequestSerializer(Strict, serializers.Serializer[Any]):
    """Days, by the dates of the documents in the books, and a bridge, where only its documents are meant."""

    first = serializers.DateField(validators=[of_our_time])
    last = serializers.DateField(validators=[of_our_time])
    bridge = serializers.SlugField(required=False, default="", allow_blank=True)

    def validate(self, given: dict[str, Any]) -> dict[str, Any]:
        """The days in order."""
        if given["first"] > given["last"]:
            raise serializers.ValidationError({"last": ["The last day lies before the first."]})
        return given


class ReadAgainSerializer(serializers.Serializer[Any]):
    """How many documents are to be read again now."""

    due = serializers.IntegerField()


class ReadAgainView(InWorkspace):
    """Reading again what was posted."""

    needs = {"POST": Role.OPERATE}

    @extend_schema(operation_id="documents_read_again_left", responses=ReadAgainSerializer)
    def get(self, request: Request, workspace: str) -> Response:
        """How many of those that are due are still to be read."""
        return Response(ReadAgainSerializer({"due": reading_again.left(self.workspace)}).data)

    @extend_schema(
        operation_id="documents_read_again", request=ReadAgainRequestSerializer, responses={202: ReadAgainSerializer}
    )
    def post(self, request: Request, workspace: str) -> Response:
        """Have the documents of some days read again now, and not when their turn comes."""
        given = ReadAgainRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        said: dict[str, Any] = given.validated_data
        first, last, bridge = cast(date, said["first"]), cast(date, said["last"]), said["bridge"]
        if bridge:
            named(self.workspace.pk, bridge)
        due = reading_again.ask_for(self.workspace, first, last, bridge=bridge)
        record(self.workspace, self.person, "documents.read-again", f"{first} to {last}", bridge=bridge, documents=due)
        return Response(ReadAgainSerializer({"due": due}).data, status=202)
