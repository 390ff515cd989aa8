"""Reference data of both ends: loaded in the background, looked through, with what changed since the last time."""

from __future__ import annotations

from typing import Any

import django_filters
from django.db.models import Count, Q, QuerySet
from django.http import Http404
from drf_spectacular.utils import extend_schema
from rest_framework import generics, serializers, status
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.ends.errors import EndError
from inkwell_bridge.service.api.fields import Strict
from inkwell_bridge.service.api.outward import asks_outside
from inkwell_bridge.service.api.problem import Conflict
from inkwell_bridge.service.api.read_only import ReadOnlySerializer
from inkwell_bridge.service.api.search import WordFilter
from inkwell_bridge.service.connections import actions as connections
from inkwell_bridge.service.connections.connections_api import OneConnection
from inkwell_bridge.service.reference import loading as loadings
from inkwell_bridge.service.reference.models import Entry, Loading, LoadingState, Part
from inkwell_bridge.service.reference.pinned import load_master_data, newest_master_data
from inkwell_bridge.service.vault import Unreadable


class ReferenceSerializer(serializers.Serializer[Any]):
    """An end's reference data, but for its long lists."""

    loaded_at = serializers.DateTimeField()
    checksum = serializers.CharField()
    content = serializers.JSONField()


class ReferenceView(OneConnection):
    """The short lists as plans are made under them: accounts and tax codes of books, tax classes of a shop."""

    @extend_schema(operation_id="reference_read", responses=ReferenceSerializer)
    def get(self, request: Request, workspace: str, connection: str) -> Response:
        """What was loaded last."""
        load = newest_master_data(self.connection())
        if load is None:
            raise Http404
        return Response(ReferenceSerializer(load).data)

    @extend_schema(operation_id="reference_load", request=None, responses=ReferenceSerializer)
    @asks_outside
    def post(self, request: Request, workspace: str, connection: str) -> Response:
        """Load them anew, at once."""
        found = self.connection()
        try:
            load = load_master_data(found)
        except (EndError, Unreadable) as error:
            connections.note(found, error)
            raise Conflict(f"{found.name} could not be asked: {error}") from error
        return Response(ReferenceSerializer(load).data)


class LoadingSerializer(ReadOnlySerializer[Loading]):
    """One going-over of one part of an end's names; ``read`` moves while it is under way.

    ``expected`` is how many there are, where the end tells. ``first``: nothing was known before, so all is new.
    """

    asked_by = serializers.CharField(source="asked_by.email", default="", read_only=True)

    class Meta:
        model = Loading
        fields = ("id", "part", "state", "asked_by", "asked_at", "ended_at", "first", "read", "expected", "added",
                  "changed", "gone", "unreadable", "trouble")  # fmt: skip


class LoadRequestSerializer(Strict):
    """Which parts; all that the end has, where none is named."""

    parts = serializers.ListField(
        child=serializers.ChoiceField(choices=Part.choices), required=False, allow_empty=False
    )


class LoadingsView(OneConnection, generics.ListAPIView[Loading]):
    """The goings-over of an end."""

    serializer_class = LoadingSerializer

    def get_queryset(self) -> QuerySet[Loading]:
        """Of this connection, newest first."""
        rows = self.own(Loading.objects.select_related("asked_by"))
        return rows.filter(connection=self.connection()) if self.kwargs else rows

    # All of them at once, and so no page of a list.
    @extend_schema(
        operation_id="loadings_ask",
        request=LoadRequestSerializer,
        responses={202: {"type": "array", "items": {"$ref": "#/components/schemas/Loading"}}},
    )
    def post(self, request: Request, workspace: str, connection: str) -> Response:
        """Have it gone over in the background; what is under way already is answered as it is."""
        given = LoadRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        asked = loadings.ask(self.connection(), self.person, given.validated_data.get("parts"))
        return Response(LoadingSerializer(asked, many=True).data, status=status.HTTP_202_ACCEPTED)


class NameKindSerializer(serializers.Serializer[Any]):
    """One list: how many entries it has, and what the last loading changed in it."""

    kind = serializers.CharField()
    count = serializers.IntegerField()
    added = serializers.IntegerField()
    changed = serializers.IntegerField()
    gone = serializers.IntegerField()


def _changes(connection_id: int) -> dict[str, Q]:
    """What the newest loadings of an end added, changed and found gone; a first loading adds nothing worth telling."""
    ended = Loading.objects.filter(connection=connection_id, state=LoadingState.ENDED)
    newest = list(ended.order_by("part", "-pk").distinct("part").values_list("pk", "first"))
    telling = [pk for pk, first in newest if not first]
    return {
        "added": Q(added_in__in=telling),
        "changed": Q(changed_in__in=telling, gone_in__isnull=True),
        "gone": Q(gone_in__in=telling),
    }


class NameKindsView(OneConnection):
    """The lists of an end."""

    @extend_schema(operation_id="names_kinds", responses=NameKindSerializer(many=True))
    def get(self, request: Request, workspace: str, connection: str) -> Response:
        """Each with how many entries it has, and what the last loading changed in it."""
        found = self.connection()
        rows = (
            self.own(Entry.objects.filter(connection=found))
            .values("kind")
            .annotate(
                count=Count("pk", filter=Q(gone_in__isnull=True)),
                **{name: Count("pk", filter=condition) for name, condition in _changes(found.pk).items()},
            )
            .order_by("kind")
        )
        return Response(NameKindSerializer(rows, many=True).data)


class NameSerializer(ReadOnlySerializer[Entry]):
    """One thing that an end has a name for; ``gone`` tells that the last loading did not find it."""

    gone = serializers.SerializerMethodField()

    class Meta:
        model = Entry
        fields = ("id", "source_id", "kind", "code", "name", "details", "active", "gone")

    def get_gone(self, entry: Entry) -> bool:
        """Whether it has gone."""
        return entry.gone_in_id is not None


class NameFilter(WordFilter):
    """Search and filters; ``change`` is what the last loading did."""

    change = django_filters.ChoiceFilter(choices=[("added", "Added"), ("changed", "Changed"), ("gone", "Gone")],
                                         method="by_change")  # fmt: skip

    class Meta:
        model = Entry
        fields = ("active",)

    def by_change(self, rows: QuerySet[Entry], name: str, change: str) -> QuerySet[Entry]:
        """The view has chosen those rows already: without this filter it leaves out what has gone."""
        return rows


class NamesView(OneConnection, generics.ListAPIView[Entry]):
    """One list of an end."""

    serializer_class = NameSerializer
    filterset_class = NameFilter
    sort = ("code", "id")

    def get_queryset(self) -> QuerySet[Entry]:
        """Of this connection and kind; what has gone only where it is asked for."""
        rows = self.own(Entry.objects.all())
        if not self.kwargs:
            return rows
        connection = self.connection()
        rows = rows.filter(connection=connection, kind=self.kwargs["kind"])
        change = self.request.query_params.get("change", "")
        changes = _changes(connection.pk)
        return rows.filter(changes[change]) if change in changes else rows.filter(gone_in__isnull=True)
