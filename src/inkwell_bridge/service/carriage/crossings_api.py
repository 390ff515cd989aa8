"""Source documents and what became of them: listed, shown on both pages, released."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from django.db.models import Prefetch, QuerySet
from drf_spectacular.utils import extend_schema, extend_schema_field
from rest_framework import generics, serializers
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.core.findings import Cause
from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.api.findings import FindingSerializer
from inkwell_bridge.service.api.read_only import ReadOnlySerializer
from inkwell_bridge.service.bridges.naming import named
from inkwell_bridge.service.carriage import movements, releases, told_payments
from inkwell_bridge.service.carriage.amendments_api import (
    AmendmentSerializer,
    SourceChangeSerializer,
    amendments_of,
    changes_since_posted,
)
from inkwell_bridge.service.carriage.amounts_api import AmountField, written
from inkwell_bridge.service.carriage.crossings_filter import CrossingFilter
from inkwell_bridge.service.carriage.documents_api import (
    SOURCES,
    DocumentSerializer,
    SpreadDocumentSerializer,
    in_brief,
)
from inkwell_bridge.service.carriage.in_books import InBooksSerializer, in_books
from inkwell_bridge.service.carriage.models import (
    GROSS_OR_LEAST,
    MOMENT_OR_FIRST,
    Crossing,
    CrossingEvent,
    DocumentSource,
)
from inkwell_bridge.service.carriage.snapshots import buyer_of
from inkwell_bridge.service.people.roles import Role
from inkwell_bridge.service.reference.models import Entry, Part


class CrossingSerializer(ReadOnlySerializer[Crossing]):
    """A source document and what became of it, in brief; net, tax and gross are the source's own."""

    bridge = serializers.CharField(source="bridge.slug", read_only=True)
    time_zone = serializers.CharField(source="bridge.company.time_zone", read_only=True)
    net, tax, gross = AmountField(), AmountField(), AmountField()
    placed_at = serializers.DateTimeField(source="moment", read_only=True)
    documents = serializers.SerializerMethodField()
    in_books = serializers.SerializerMethodField(help_text="What all its documents come to there, in a line.")

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
            "trial",
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
            "in_books",
            "updated_at",
        )

    @extend_schema_field(DocumentSerializer(many=True))
    def get_documents(self, crossing: Crossing) -> list[dict[str, Any]]:
        """Those of one alone are read now; a list reads those of a page at once, see ``_shown``."""
        return in_brief([crossing.pk]).get(crossing.pk, [])

    @extend_schema_field(InBooksSerializer(allow_null=True))
    def get_in_books(self, crossing: Crossing) -> dict[str, Any] | None:
        """The same of one alone."""
        return in_books(in_brief([crossing.pk]).get(crossing.pk, []), crossing.currency)


# What a list shows of a row under the name that the query has it by; documents come by a statement of their own.
_COLUMNS = {
    **{name: name for name in CrossingSerializer.Meta.fields if name not in ("documents", "in_books")},
    "bridge": "bridge__slug",
    "time_zone": "bridge__company__time_zone",
    "placed_at": "moment",
}
_AMOUNTS = ("net", "tax", "gross")
# What a page goes on from, besides columns that are shown.
_SORTED_BY = ("moment_or_first", "gross_or_least")


def _shown(row: dict[str, Any], documents: list[dict[str, Any]]) -> dict[str, Any]:
    """A row of a list as ``CrossingSerializer`` writes it.

    Made into objects and asked field by field, the rows of a page took as long as all else of it together.
    """
    shown = {name: row[column] for name, column in _COLUMNS.items()}
    for name in _AMOUNTS:
        shown[name] = written(shown[name], row["currency"])
    shown["documents"], shown["in_books"] = documents, in_books(documents, row["currency"])
    return shown


# Shares and their documents by one statement: between two of them a trial may be taken back, or drafts made anew.
_SHARES = Prefetch("shares", DocumentSource.objects.select_related("document__connection"))
_IN_FULL = Crossing.objects.select_related("bridge__company", "snapshot__personal", "rulebook").prefetch_related(
    _SHARES, Prefetch("shares__document__sources", SOURCES), "events__person"
)

MOST_FOLLOWING = 100


class CrossingsView(InWorkspace, generics.ListAPIView[Crossing]):
    """All source documents and what became of them."""

    serializer_class = CrossingSerializer
    filterset_class = CrossingFilter
    sort = ("-moment_or_first", "-id")
    sorts = {
        "placed": ("moment_or_first", "id"),
        "-placed": ("-moment_or_first", "-id"),
        "gross": ("gross_or_least", "id"),
        "-gross": ("-gross_or_least", "-id"),
        "number": ("number", "id"),
        "-number": ("-number", "-id"),
    }

    def list(self, request: Request, *args: Any, **kwargs: Any) -> Response:
        """A page of them."""
        rows = self.filter_queryset(self.get_queryset()).values(*_COLUMNS.values(), *_SORTED_BY)
        page: Any = self.paginate_queryset(rows)
        documents = in_brief([row["id"] for row in page])
        return self.get_paginated_response([_shown(row, documents.get(row["id"], [])) for row in page])

    def get_queryset(self) -> QuerySet[Crossing]:
        """Of this workspace."""
        rows = self.own(Crossing.objects.all())
        return rows.annotate(moment_or_first=MOMENT_OR_FIRST, gross_or_least=GROSS_OR_LEAST)


class EventSerializer(ReadOnlySerializer[CrossingEvent]):
    """Something that happened to a source document on its way."""

    by = serializers.CharField(source="person.email", default="", read_only=True)
    run = serializers.IntegerField(source="run_id", read_only=True, allow_null=True)

    class Meta:
        model = CrossingEvent
        fields = ("at", "kind", "by", "run", "document", "detail")


class ContactSerializer(serializers.Serializer[Any]):
    """The contact in the books; no name where the contacts were not loaded since it was made."""

    id = serializers.CharField()
    code = serializers.CharField()
    name = serializers.CharField()


class FollowingSerializer(ReadOnlySerializer[Crossing]):
    """A document that belongs to this one, such as a refund of it, or a payout that its money is in."""

    gross = AmountField()

    class Meta:
        model = Crossing
        fields = ("id", "kind", "number", "state", "cause", "currency", "gross")


class SpreadSerializer(CrossingSerializer):
    """One crossing in full: the order as the buyer saw it, the documents, and the reason of every amount."""

    contact = serializers.SerializerMethodField()
    following = serializers.SerializerMethodField(
        help_text="What belongs to it, such as its refunds, the payouts that its money is in, and their bank lines."
    )
    order = serializers.SerializerMethodField()
    buyer = serializers.SerializerMethodField()
    documents = SpreadDocumentSerializer(many=True, read_only=True, source="documents_in_order")
    history = EventSerializer(many=True, read_only=True, source="events_in_order")
    reasons = serializers.SerializerMethodField()
    findings = FindingSerializer(many=True)
    changes = serializers.SerializerMethodField(
        help_text="What is another at the sales side since it was posted; people and addresses are not compared."
    )
    amendments = serializers.SerializerMethodField(
        help_text="The changes that further documents made good; the documents of each bear its number."
    )
    rulebook = serializers.IntegerField(source="rulebook.number", default=None, read_only=True)
    links_version = serializers.SerializerMethodField(help_text="The version of the links it was planned under.")
    source_checksum = serializers.CharField(source="snapshot.checksum", read_only=True)
    fetched_at = serializers.DateTimeField(source="snapshot.fetched_at", read_only=True)

    class Meta(CrossingSerializer.Meta):
        fields = (
            *CrossingSerializer.Meta.fields,
            "order",
            "buyer",
            "contact",
            "following",
            "reasons",
            "findings",  # type: ignore[assignment]
            "changes",
            "amendments",
            "rulebook",
            "links_version",
            "source_checksum",
            "fetched_at",
            "history",
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

    @extend_schema_field(ContactSerializer(allow_null=True))
    def get_contact(self, crossing: Crossing) -> dict[str, str] | None:
        """To whom its documents are made out."""
        made = next((one for one in crossing.documents_in_order if one.contact_id), None)
        if made is None:
            return None
        entries = Entry.objects.filter(connection=made.connection_id, kind=Part.CONTACTS, source_id=made.contact_id)
        code, name = entries.values_list("code", "name").first() or ("", "")
        return {"id": made.contact_id, "code": code, "name": name}

    @extend_schema_field(FollowingSerializer(many=True))
    def get_following(self, crossing: Crossing) -> Any:
        """What names it as the one it belongs to, over the same bridge; its money's way to the bank; and whose money it
        told of."""
        rows = Crossing.objects.filter(
            workspace=crossing.workspace_id, bridge=crossing.bridge_id, parent_source_id=crossing.source_id
        ).exclude(kind=crossing.kind)  # fmt: skip
        payouts = list(movements.payouts_of(crossing).order_by("pk")[:MOST_FOLLOWING])
        # A payout belongs to nobody, and is asked for itself.
        arrivals = movements.arrivals_of(payouts or [crossing]).order_by("pk")[:MOST_FOLLOWING]
        told = told_payments.told_by(crossing).order_by("pk")[:MOST_FOLLOWING]
        found = [*rows.order_by("pk")[:MOST_FOLLOWING], *payouts, *arrivals, *told]
        return FollowingSerializer(found, many=True).data

    @extend_schema_field(SourceChangeSerializer(many=True))
    def get_changes(self, crossing: Crossing) -> Any:
        """Before and after."""
        return SourceChangeSerializer(changes_since_posted(crossing), many=True).data

    @extend_schema_field(AmendmentSerializer(many=True))
    def get_amendments(self, crossing: Crossing) -> Any:
        """One for each change that was made good."""
        return AmendmentSerializer(amendments_of(crossing), many=True).data

    def get_links_version(self, crossing: Crossing) -> int | None:
        """The number of the newest change of links at that time."""
        found: int | None = (crossing.pinned.get("articles") or {}).get("links")
        return found

    @extend_schema_field(serializers.JSONField())
    def get_reasons(self, crossing: Crossing) -> Any:
        """Why each value stands where it stands, and why it is not as it was planned."""
        planned = (crossing.planned or {}).get("reasons", [])
        return [*planned, *(reason for reason in _settled(crossing))]


def _settled(crossing: Crossing) -> Iterator[dict[str, Any]]:
    """Why a document is not as it was planned: said as of the first, and here of its own place in the plan."""
    for index, document in enumerate(crossing.documents_in_order):
        for reason in document.reasons:
            yield {**reason, "target": reason["target"].replace("/documents/0/", f"/documents/{index}/", 1)}


class CrossingView(InWorkspace):
    """One crossing."""

    @extend_schema(operation_id="crossings_read", responses=SpreadSerializer)
    def get(self, request: Request, workspace: str, crossing: int) -> Response:
        """Both sides, with the reasons."""
        rows = self.own(_IN_FULL)
        return Response(SpreadSerializer(self.numbered(rows, "document", crossing)).data)


class ReleaseRequestSerializer(serializers.Serializer[Any]):
    """Which crossings to release: those named, or all that are held by a cause."""

    crossings = serializers.ListField(child=serializers.IntegerField(), required=False, max_length=10_000)
    cause = serializers.ChoiceField(choices=[str(cause) for cause in Cause], required=False)
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
            rows = rows.filter(bridge__in=named(self.workspace.pk, asked["bridge"]))
        return Response({"released": releases.release(rows, self.workspace, self.person)})
