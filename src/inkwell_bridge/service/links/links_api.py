"""Links: what is certain, and how much is open."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

import django_filters
from django.db.models import Q, QuerySet
from django.http import Http404
from drf_spectacular.utils import extend_schema, extend_schema_field
from rest_framework import generics, serializers
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.core.linking import LinkKind
from inkwell_bridge.service import queue
from inkwell_bridge.service.api.search import WordFilter
from inkwell_bridge.service.bridges.api import OneBridge
from inkwell_bridge.service.links.between import Between
from inkwell_bridge.service.links.models import Link
from inkwell_bridge.service.people.roles import Role
from inkwell_bridge.service.reference.api import NameSerializer
from inkwell_bridge.service.reference.models import Entry


class OneKind(OneBridge):
    """A view about one kind of link over a bridge."""

    needs = {"POST": Role.EDIT}

    def between(self) -> Between:
        """The two ends, and what is linked."""
        kind = self.kwargs["kind"]
        if kind not in set(LinkKind):
            raise Http404
        return Between.of(self.bridge(), LinkKind(kind))


class LinkTargetSerializer(serializers.Serializer[Any]):
    """Where a link leads: an item or contact of the books, and how many of it one sold is."""

    id = serializers.CharField(max_length=120)
    quantity = serializers.DecimalField(max_digits=15, decimal_places=6, min_value=Decimal("0.000001"), default=1)
    share = serializers.DecimalField(
        max_digits=15, decimal_places=6, min_value=Decimal(0), allow_null=True, default=None
    )


class LinkShownSerializer(LinkTargetSerializer):
    """A link that stands; ``rule`` tells how it came about: a rule's name, ``person`` or ``import``."""

    id = serializers.CharField(source="target_id")  # type: ignore[assignment]
    code = serializers.CharField(source="target_code")
    rule = serializers.CharField()


class LinkedSerializer(NameSerializer):
    """One of the sales side, with where it leads.

    ``state`` is ``linked``, ``none`` (there is no counterpart) or ``open`` (nobody has said).
    """

    state = serializers.SerializerMethodField()
    links = serializers.SerializerMethodField()

    class Meta(NameSerializer.Meta):
        fields = (*NameSerializer.Meta.fields, "state", "links")  # type: ignore[assignment]

    def _links(self, entry: Entry) -> list[Link]:
        found: dict[str, list[Link]] = self.context["links"]
        return found.get(entry.source_id, [])

    @extend_schema_field(serializers.ChoiceField(choices=["linked", "none", "open"]))
    def get_state(self, entry: Entry) -> str:
        """How it stands."""
        links = self._links(entry)
        if not links:
            return "open"
        return "linked" if links[0].target_id else "none"

    @extend_schema_field(LinkShownSerializer(many=True))
    def get_links(self, entry: Entry) -> Any:
        """Where it leads."""
        links = [link for link in self._links(entry) if link.target_id]
        return LinkShownSerializer(links, many=True).data


class LinkedFilter(WordFilter):
    """Search and state."""

    state = django_filters.ChoiceFilter(
        choices=[("linked", "Linked"), ("none", "No counterpart"), ("open", "Open")], method="by_state"
    )

    class Meta:
        model = Entry
        fields = ("active",)

    def by_state(self, rows: QuerySet[Entry], name: str, state: str) -> QuerySet[Entry]:
        """How it stands."""
        return rows.filter({"open": Q(answered=False), "none": Q(none=True)}.get(state, Q(answered=True, none=False)))


class LinksView(OneKind, generics.ListAPIView[Entry]):
    """Everything of the sales side, with where it leads."""

    serializer_class = LinkedSerializer
    filterset_class = LinkedFilter
    sort = ("code", "id")

    def get_queryset(self) -> QuerySet[Entry]:
        """Of this bridge and kind."""
        if getattr(self, "swagger_fake_view", False):
            return Entry.objects.none()
        return self.between().sold_with_answers()

    def paginate_queryset(self, queryset: Any) -> Any:
        """The page's links are read with it, all in one statement."""
        page = super().paginate_queryset(queryset)
        self._links: dict[str, list[Link]] = {}
        for link in self.between().links().filter(key__in=[entry.source_id for entry in page or ()]).order_by("pk"):
            self._links.setdefault(link.key, []).append(link)
        return page

    def get_serializer_context(self) -> dict[str, Any]:
        """See ``LinkedSerializer``."""
        return {**super().get_serializer_context(), "links": getattr(self, "_links", {})}


class LinkCountsSerializer(serializers.Serializer[Any]):
    """How many are linked, have no counterpart, and are open; ``matching``: the rules are still linking what is
    certain."""

    linked = serializers.IntegerField()
    none = serializers.IntegerField()
    open = serializers.IntegerField()
    version = serializers.IntegerField(help_text="The number of the newest change; 0 where there was none.")
    matching = serializers.BooleanField()


def counts(between: Between) -> dict[str, Any]:
    """See ``LinkCountsSerializer``."""
    rows = between.sold_with_answers()
    newest = between.changes().values_list("pk", flat=True).first()
    return {
        "linked": rows.filter(answered=True, none=False).count(),
        "none": rows.filter(none=True).count(),
        "open": rows.filter(answered=False, active=True).count(),
        "version": newest or 0,
        "matching": bool(queue.pending(queue.MATCH, "connection_id", (between.source.pk, between.books.pk))),
    }


class LinkCountsView(OneKind):
    """How far the linking is."""

    @extend_schema(operation_id="links_counts", responses=LinkCountsSerializer)
    def get(self, request: Request, workspace: str, bridge: str, kind: str) -> Response:
        """The counts."""
        return Response(LinkCountsSerializer(counts(self.between())).data)
