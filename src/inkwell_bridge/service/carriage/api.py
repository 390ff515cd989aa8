"""Runs, crossings and documents: started, followed, looked at, released."""

from __future__ import annotations

from collections.abc import Iterator
from decimal import Decimal
from typing import Any

import django_filters
from django.db.models import Prefetch, Q, QuerySet
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema, extend_schema_field
from rest_framework import generics, serializers, status
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.core.money import exact
from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.api.fields import Strict
from inkwell_bridge.service.api.findings import FindingSerializer
from inkwell_bridge.service.api.shown import Shown
from inkwell_bridge.service.bridges.api import OneBridge
from inkwell_bridge.service.carriage import releases, runs, totals
from inkwell_bridge.service.carriage.models import Crossing, Document, Run
from inkwell_bridge.service.carriage.snapshots import buyer_of
from inkwell_bridge.service.carriage.states import CrossingState, DocumentState, EntryOutcome
from inkwell_bridge.service.people.roles import Role


class AmountField(serializers.DecimalField):
    """An amount as text, with the digits of the currency that its row names."""

    def __init__(self, **options: Any) -> None:
        super().__init__(max_digits=20, decimal_places=3, allow_null=True, read_only=True, **options)

    def get_attribute(self, instance: Any) -> tuple[Decimal, str] | None:
        """The amount with its currency; nothing where there is no amount, or no currency to count in."""
        row = instance if isinstance(instance, dict) else vars(instance)
        amount, currency = row[self.source], row["currency"]
        return (amount, currency) if amount is not None and currency else None

    def to_representation(self, value: tuple[Decimal, str]) -> str:
        """As the currency is written (ISO 4217): 9.90 in GBP, 990 in JPY, 9.900 in KWD."""
        return f"{exact(*value):f}"


class CountsSerializer(serializers.Serializer[Any]):
    """How many documents a run read, and how many came to what."""

    read = serializers.IntegerField()
    pending = serializers.IntegerField()
    unchanged = serializers.IntegerField()
    waiting = serializers.IntegerField()
    carried = serializers.IntegerField()
    held = serializers.IntegerField()
    differs = serializers.IntegerField()
    left_out = serializers.IntegerField()
    adopted = serializers.IntegerField()


class RunSerializer(Shown[Run]):
    """A run; ``counts`` move while it is under way."""

    bridge = serializers.CharField(source="bridge.slug", read_only=True)
    started_by = serializers.CharField(source="started_by.email", default="", read_only=True)
    counts = serializers.SerializerMethodField()

    class Meta:
        model = Run
        fields = (
            "id",
            "bridge",
            "purpose",
            "state",
            "started_by",
            "by_timetable",
            "started_at",
            "ended_at",
            "trouble",
            "counts",
        )

    @extend_schema_field(CountsSerializer)
    def get_counts(self, run: Run) -> dict[str, int]:
        """Counted at once for all runs of a page."""
        root = self.root
        if not hasattr(root, "_counts"):
            rows = root.instance if isinstance(root.instance, list) else [run]
            root._counts = runs.counts([row.pk for row in rows])  # type: ignore[attr-defined]
        return root._counts[run.pk]  # type: ignore[attr-defined, no-any-return]


class RunsView(InWorkspace, generics.ListAPIView[Run]):
    """All runs, newest first."""

    serializer_class = RunSerializer
    filterset_fields = {"bridge__slug": ["exact"], "state": ["exact"]}

    def get_queryset(self) -> QuerySet[Run]:
        """Of this workspace."""
        return self.own(Run.objects.select_related("bridge", "started_by"))


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
    vouchers paid that were taxed when they were sold, tax of deposits that is not due yet, and the difference that is
    left."""

    currency = serializers.CharField()
    source = SideTotalsSerializer()
    books = SideTotalsSerializer()
    withheld = SideTotalsSerializer()
    vouchers = SideTotalsSerializer()
    deposits = SideTotalsSerializer()
    difference = SideTotalsSerializer()


class RunWithTotalsSerializer(RunSerializer):
    """One run, with both sides' totals of what it carried."""

    totals = serializers.SerializerMethodField()

    class Meta(RunSerializer.Meta):
        fields = (*RunSerializer.Meta.fields, "totals")  # type: ignore[assignment]

    @extend_schema_field(RunTotalsSerializer(many=True))
    def get_totals(self, run: Run) -> Any:
        """Both sides, by currency."""
        return RunTotalsSerializer(totals.of_run(run), many=True).data


class RunView(InWorkspace):
    """One run."""

    @extend_schema(operation_id="runs_read", responses=RunWithTotalsSerializer)
    def get(self, request: Request, workspace: str, run: int) -> Response:
        """Its state, counts and totals, while it is under way as well as after."""
        found = get_object_or_404(self.own(Run.objects.select_related("bridge", "started_by")), pk=run)
        return Response(RunWithTotalsSerializer(found).data)


class RunRequestSerializer(Strict):
    """Orders by their numbers; everything that waits, where none is named."""

    numbers = serializers.ListField(
        child=serializers.CharField(max_length=120), required=False, allow_empty=False, max_length=100
    )


class StartRunView(OneBridge):
    """Starting a run."""

    @extend_schema(operation_id="runs_start", request=RunRequestSerializer, responses={201: RunSerializer})
    def post(self, request: Request, workspace: str, bridge: str) -> Response:
        """Read what is new and carry it; or only the orders named, whatever lanes are on."""
        given = RunRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        run = runs.start(self.bridge(), self.person, numbers=given.validated_data.get("numbers", ()))
        return Response(RunSerializer(run).data, status=status.HTTP_201_CREATED)


class DocumentSerializer(Shown[Document]):
    """A document in the books, in brief; net, tax and gross are the books' own."""

    connection = serializers.CharField(source="connection.slug", read_only=True)
    bridge = serializers.CharField(source="crossing.bridge.slug", read_only=True)
    crossing = serializers.IntegerField(source="crossing_id", read_only=True)
    order_number = serializers.CharField(source="crossing.number", read_only=True)
    difference, net, tax, gross = AmountField(), AmountField(), AmountField(), AmountField()

    class Meta:
        model = Document
        fields = (
            "id",
            "crossing",
            "bridge",
            "connection",
            "order_number",
            "role",
            "mark",
            "state",
            "books_id",
            "books_number",
            "link",
            "currency",
            "net",
            "tax",
            "gross",
            "difference",
            "proved_at",
        )


class CrossingSerializer(Shown[Crossing]):
    """A source document and what became of it, in brief; net, tax and gross are the source's own."""

    bridge = serializers.CharField(source="bridge.slug", read_only=True)
    time_zone = serializers.CharField(source="bridge.company.time_zone", read_only=True)
    net, tax, gross = AmountField(), AmountField(), AmountField()
    documents = DocumentSerializer(many=True, read_only=True)

    class Meta:
        model = Crossing
        fields = (
            "id",
            "bridge",
            "kind",
            "number",
            "state",
            "cause",
            "left_out_by",
            "trouble",
            "next_try_at",
            "placed_at",
            "business_date",
            "time_zone",
            "currency",
            "net",
            "tax",
            "gross",
            "documents",
            "updated_at",
        )


class CrossingFilter(django_filters.FilterSet):
    """What a list of crossings can be narrowed to."""

    bridge = django_filters.CharFilter("bridge__slug")
    state = django_filters.MultipleChoiceFilter(choices=CrossingState.choices)
    cause = django_filters.CharFilter()
    run = django_filters.NumberFilter("entries__run")
    outcome = django_filters.ChoiceFilter(choices=EntryOutcome.choices, method="with_outcome")
    placed_from = django_filters.DateFilter("business_date", "gte")
    placed_to = django_filters.DateFilter("business_date", "lte")
    differing = django_filters.BooleanFilter(method="with_difference", label="Only where the penny was settled")
    search = django_filters.CharFilter(method="found", label="Part of either side's number")

    class Meta:
        model = Crossing
        fields: list[str] = []

    def with_outcome(self, rows: QuerySet[Crossing], _: str, value: str) -> QuerySet[Crossing]:
        """Those that came to an outcome in the run named beside it."""
        run = self.data.get("run")
        wanted = Q(entries__outcome=value)
        return rows.filter(wanted & Q(entries__run=run) if run and str(run).isdigit() else wanted).distinct()

    def with_difference(self, rows: QuerySet[Crossing], _: str, value: bool) -> QuerySet[Crossing]:
        """Those where the books computed another total, or those where they did not."""
        differing = Q(documents__difference__isnull=False) & ~Q(documents__difference=0)
        return rows.filter(differing).distinct() if value else rows.exclude(differing)

    def found(self, rows: QuerySet[Crossing], _: str, value: str) -> QuerySet[Crossing]:
        """Those whose number, on either side, has that in it."""
        return rows.filter(Q(number__icontains=value) | Q(documents__books_number__icontains=value)).distinct()


_LISTED = Crossing.objects.select_related("bridge__company").prefetch_related(
    Prefetch("documents", Document.objects.select_related("connection", "crossing__bridge").order_by("part"))
)


class CrossingsView(InWorkspace, generics.ListAPIView[Crossing]):
    """All source documents and what became of them."""

    serializer_class = CrossingSerializer
    filterset_class = CrossingFilter
    sort = ("-placed_at", "-id")
    sorts = {
        "placed": ("placed_at", "id"),
        "-placed": ("-placed_at", "-id"),
        "gross": ("gross", "id"),
        "-gross": ("-gross", "-id"),
        "number": ("number", "id"),
        "-number": ("-number", "-id"),
    }

    def get_queryset(self) -> QuerySet[Crossing]:
        """Of this workspace."""
        return self.own(_LISTED)


class SpreadDocumentSerializer(DocumentSerializer):
    """A document in the books in full: as planned, as settled, as read back."""

    planned = serializers.JSONField()
    settled = serializers.JSONField()
    held = serializers.JSONField()

    class Meta(DocumentSerializer.Meta):
        fields = (*DocumentSerializer.Meta.fields, "planned", "settled", "held")  # type: ignore[assignment]


class SpreadSerializer(CrossingSerializer):
    """One crossing in full: the order as the buyer saw it, the documents, and the reason of every amount."""

    order = serializers.SerializerMethodField()
    buyer = serializers.SerializerMethodField()
    documents = SpreadDocumentSerializer(many=True, read_only=True)
    reasons = serializers.SerializerMethodField()
    findings = FindingSerializer(many=True)
    rulebook = serializers.IntegerField(source="rulebook.number", default=None, read_only=True)
    links_version = serializers.SerializerMethodField(help_text="The version of the links it was planned under.")
    source_checksum = serializers.CharField(source="snapshot.checksum", read_only=True)
    fetched_at = serializers.DateTimeField(source="snapshot.fetched_at", read_only=True)

    class Meta(CrossingSerializer.Meta):
        fields = (
            *CrossingSerializer.Meta.fields,
            "order",
            "buyer",
            "reasons",
            "findings",  # type: ignore[assignment]
            "rulebook",
            "links_version",
            "source_checksum",
            "fetched_at",
        )

    @extend_schema_field(serializers.JSONField())
    def get_order(self, crossing: Crossing) -> Any:
        """The order's figures as fetched."""
        return crossing.snapshot.content

    @extend_schema_field(serializers.JSONField())
    def get_buyer(self, crossing: Crossing) -> Any:
        """Who bought, unless that was erased."""
        buyer = buyer_of(getattr(crossing.snapshot, "personal", None))
        return buyer.as_json() if buyer else None

    def get_links_version(self, crossing: Crossing) -> int | None:
        """The number of the newest change of links at that time."""
        found: int | None = (crossing.articles or {}).get("links")
        return found

    @extend_schema_field(serializers.JSONField())
    def get_reasons(self, crossing: Crossing) -> Any:
        """Why each value stands where it stands, and why it is not as it was planned."""
        planned = (crossing.planned or {}).get("reasons", [])
        return [*planned, *(reason for document in crossing.documents.all() for reason in _in_place(document))]


def _in_place(document: Document) -> Iterator[dict[str, Any]]:
    """Why a document is not as it was planned: said as of the first, and here of its own place in the plan."""
    for reason in document.reasons:
        yield {**reason, "target": reason["target"].replace("/documents/0/", f"/documents/{document.part - 1}/", 1)}


class CrossingView(InWorkspace):
    """One crossing."""

    @extend_schema(operation_id="crossings_read", responses=SpreadSerializer)
    def get(self, request: Request, workspace: str, crossing: int) -> Response:
        """Both sides, with the reasons."""
        rows = self.own(_LISTED.select_related("snapshot__personal", "rulebook"))
        return Response(SpreadSerializer(get_object_or_404(rows, pk=crossing)).data)


class ReleaseRequestSerializer(serializers.Serializer[Any]):
    """Which crossings to release: those named, or all that are held by a cause."""

    crossings = serializers.ListField(child=serializers.IntegerField(), required=False, max_length=10_000)
    cause = serializers.CharField(required=False, max_length=40)
    bridge = serializers.SlugField(required=False)

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """Something must be named, or everything would go."""
        if not attrs.get("crossings") and not attrs.get("cause"):
            raise serializers.ValidationError("Expected crossings or a cause.")
        return attrs


class ReleasedSerializer(serializers.Serializer[Any]):
    """How many were released."""

    released = serializers.IntegerField()


class ReleaseView(InWorkspace):
    """Releasing what is held."""

    needs = {"POST": Role.OPERATE}

    @extend_schema(operation_id="crossings_release", request=ReleaseRequestSerializer, responses=ReleasedSerializer)
    def post(self, request: Request, workspace: str) -> Response:
        """Try held, differing or left out documents again under the rules in force."""
        given = ReleaseRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        asked = given.validated_data
        rows = self.own(Crossing.objects.all())
        if asked.get("crossings"):
            rows = rows.filter(pk__in=asked["crossings"])
        if asked.get("cause"):
            rows = rows.filter(cause=asked["cause"])
        if asked.get("bridge"):
            rows = rows.filter(bridge__slug=asked["bridge"])
        return Response({"released": releases.release(rows, self.workspace, self.person)})


class DocumentFilter(django_filters.FilterSet):
    """What a list of documents can be narrowed to."""

    bridge = django_filters.CharFilter("crossing__bridge__slug")
    connection = django_filters.CharFilter("connection__slug")
    state = django_filters.MultipleChoiceFilter(choices=DocumentState.choices)
    order_number = django_filters.CharFilter("crossing__number")
    books_number = django_filters.CharFilter()

    class Meta:
        model = Document
        fields: list[str] = []


class DocumentsView(InWorkspace, generics.ListAPIView[Document]):
    """All documents in the books."""

    serializer_class = DocumentSerializer
    filterset_class = DocumentFilter

    def get_queryset(self) -> QuerySet[Document]:
        """Of this workspace."""
        return self.own(Document.objects.select_related("connection", "crossing__bridge"))


class DocumentView(InWorkspace):
    """One document in the books."""

    @extend_schema(operation_id="documents_read", responses=SpreadDocumentSerializer)
    def get(self, request: Request, workspace: str, document: int) -> Response:
        """As planned, as settled, as read back."""
        rows = self.own(Document.objects.select_related("connection", "crossing__bridge"))
        return Response(SpreadDocumentSerializer(get_object_or_404(rows, pk=document)).data)
