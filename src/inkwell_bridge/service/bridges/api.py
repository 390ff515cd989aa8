"""Bridges: made, their lanes switched, their rulebooks written and published, their timetables set."""

from __future__ import annotations

from typing import Any, ClassVar

from django.db import transaction
from django.db.models import Prefetch, QuerySet
from django.http import Http404
from drf_spectacular.utils import extend_schema, extend_schema_field
from rest_framework import generics, serializers
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.service import queue
from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.api.fields import BySlug, Strict
from inkwell_bridge.service.api.read_only import ReadOnlySerializer
from inkwell_bridge.service.bridges.lanes import ends_cannot, lane_names, switch
from inkwell_bridge.service.bridges.models import Bridge, Lane, RulebookVersion
from inkwell_bridge.service.bridges.rules import in_force, newest_version
from inkwell_bridge.service.bridges.timetable_serializers import TimetableSerializer
from inkwell_bridge.service.bridges.timetables import timetable_of
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.people.models import Company
from inkwell_bridge.service.people.roles import Role
from inkwell_bridge.service.people.trail import record


class LaneSerializer(ReadOnlySerializer[Lane]):
    """One kind of document over a bridge."""

    class Meta:
        model = Lane
        fields: tuple[str, ...] = ("kind", "on", "read_up_to")


class LaneWithTimetableSerializer(LaneSerializer):
    """The same with its own timetable; without one it runs whenever the bridge does."""

    timetable = serializers.SerializerMethodField()
    ends_cannot = serializers.SerializerMethodField(
        help_text="What the ends of the bridge cannot do for it; nothing where it may be switched on."
    )

    class Meta(LaneSerializer.Meta):
        fields = (*LaneSerializer.Meta.fields, "timetable", "ends_cannot")

    def get_ends_cannot(self, lane: Lane) -> str:
        """In words."""
        return ends_cannot(self.context["bridge"], lane.kind)

    @extend_schema_field(TimetableSerializer(allow_null=True))
    def get_timetable(self, lane: Lane) -> dict[str, Any] | None:
        """When it runs by itself, apart from the others."""
        found = timetable_of(self.context["bridge"], lane.kind)
        return TimetableSerializer(found).data if found else None


class LaneSwitchSerializer(serializers.Serializer[Any]):
    """On or off."""

    on = serializers.BooleanField()


class BridgeSerializer(serializers.ModelSerializer[Bridge]):
    """A bridge."""

    source = BySlug(queryset=Connection.objects.none())
    books = BySlug(queryset=Connection.objects.none())
    company = BySlug(queryset=Company.objects.none())
    time_zone = serializers.CharField(source="company.time_zone", read_only=True, help_text="The company's.")
    lanes = serializers.SerializerMethodField()
    timetable = serializers.SerializerMethodField()
    rulebook_in_force = serializers.SerializerMethodField()

    class Meta:
        model = Bridge
        fields = (
            "slug",
            "name",
            "source",
            "books",
            "company",
            "time_zone",
            "starts_on",
            "paused_at",
            "lanes",
            "timetable",
            "rulebook_in_force",
        )
        read_only_fields = ("paused_at",)
        extra_kwargs: ClassVar[dict[str, Any]] = {
            "starts_on": {"required": False, "help_text": "Orders placed before this day are adopted or left out."}
        }

    def get_fields(self) -> dict[str, Any]:
        """Only the workspace's own ends and companies can be named."""
        fields = super().get_fields()
        view = self.context.get("view")
        if isinstance(view, InWorkspace) and hasattr(view, "workspace"):
            ends = Connection.current.filter(workspace=view.workspace)
            fields["source"].queryset = ends.filter(side="sales")  # type: ignore[attr-defined]
            fields["books"].queryset = ends.filter(side="books")  # type: ignore[attr-defined]
            fields["company"].queryset = Company.objects.filter(workspace=view.workspace)  # type: ignore[attr-defined]
        return fields

    @extend_schema_field(LaneWithTimetableSerializer(many=True))
    def get_lanes(self, bridge: Bridge) -> Any:
        """A lane for each kind of document; one that came with a later version is off."""
        there = {lane.kind: lane for lane in bridge.lanes.all()}
        lanes = [there.get(name) or Lane(kind=name) for name in lane_names()]
        return LaneWithTimetableSerializer(lanes, many=True, context={"bridge": bridge}).data

    @extend_schema_field(TimetableSerializer(allow_null=True))
    def get_timetable(self, bridge: Bridge) -> dict[str, Any] | None:
        """When its lanes run by themselves, but for those that have a timetable of their own."""
        found = timetable_of(bridge)
        return TimetableSerializer(found).data if found else None

    def get_rulebook_in_force(self, bridge: Bridge) -> int | None:
        """Number of the published rulebook that is in force."""
        return max((version.number for version in bridge.rulebooks.all() if version.published_at), default=None)


WITH_PARTS = Bridge.current.select_related("workspace", "source", "books", "company", "paused_by").prefetch_related(
    "lanes", "timetables", Prefetch("rulebooks", RulebookVersion.objects.only("number", "published_at", "bridge_id"))
)


class BridgesView(InWorkspace, generics.ListCreateAPIView[Bridge]):
    """The bridges of a workspace."""

    serializer_class = BridgeSerializer
    needs = {"POST": Role.EDIT}
    sort = ("slug",)

    def get_queryset(self) -> QuerySet[Bridge]:
        """Of this workspace."""
        return self.own(WITH_PARTS)

    @transaction.atomic
    def perform_create(self, serializer: Any) -> None:
        """Keep it, with its lanes off."""
        slug = serializer.validated_data["slug"]
        if self.own(Bridge.current.filter(slug=slug)).exists():
            raise serializers.ValidationError({"slug": [f"A bridge '{slug}' is here already."]})
        bridge = serializer.save(workspace=self.workspace)
        Lane.objects.bulk_create(Lane(workspace=self.workspace, bridge=bridge, kind=kind) for kind in lane_names())
        # Reference data of both ends may have been loaded before they had a bridge between them.
        arguments = {"workspace_id": self.workspace.pk, "connection_id": bridge.books_id}
        queue.defer(queue.MATCH, [queue.Call(arguments=arguments)])
        record(self.workspace, self.person, "bridge.created", slug)


class OneBridge(InWorkspace):
    """A view about one bridge."""

    def bridge(self) -> Bridge:
        """The bridge named in the address."""
        found: Bridge = self.named(WITH_PARTS, "bridge", self.kwargs["bridge"])
        return found

    def version(self, bridge: Bridge, number: int | None) -> RulebookVersion | None:
        """The version of its rules with that number; nothing where none is named."""
        if number is None:
            return None
        found: RulebookVersion = self.numbered(bridge.rulebooks.all(), "version", number, field="number")
        return found

    def version_to_try(self, bridge: Bridge, number: int | None) -> RulebookVersion | None:
        """The same; without a number the one in force, else the newest. Nothing where there are no rules."""
        return self.version(bridge, number) or in_force(bridge) or newest_version(bridge)


class BridgeChangeSerializer(Strict, serializers.ModelSerializer[Bridge]):
    """What can be changed of a bridge."""

    class Meta:
        model = Bridge
        fields = ("name", "starts_on")


class BridgeView(OneBridge):
    """One bridge."""

    needs = {"PATCH": Role.EDIT}

    @extend_schema(operation_id="bridges_read", responses=BridgeSerializer)
    def get(self, request: Request, workspace: str, bridge: str) -> Response:
        """It, with its lanes and timetable."""
        return Response(BridgeSerializer(self.bridge()).data)

    @extend_schema(operation_id="bridges_change", request=BridgeChangeSerializer, responses=BridgeSerializer)
    @transaction.atomic
    def patch(self, request: Request, workspace: str, bridge: str) -> Response:
        """Change its name, or the day from which it carries."""
        found = self.bridge()
        given = BridgeChangeSerializer(found, data=request.data, partial=True)
        given.is_valid(raise_exception=True)
        was = {name: str(getattr(found, name)) for name in given.validated_data}
        # Only what was given: somebody else may have changed, or removed, the bridge since it was read.
        if given.validated_data:
            Bridge.current.filter(pk=found.pk).update(**given.validated_data)
        told = {name: str(value) for name, value in given.validated_data.items()}
        record(self.workspace, self.person, "bridge.changed", bridge, **told, was=was)
        return Response(BridgeSerializer(self.bridge()).data)


class LaneView(OneBridge):
    """A lane's switch."""

    needs = {"PATCH": Role.EDIT}

    @extend_schema(operation_id="lanes_switch", request=LaneSwitchSerializer, responses=LaneSerializer)
    def patch(self, request: Request, workspace: str, bridge: str, kind: str) -> Response:
        """Switch a kind of document on or off."""
        if kind not in lane_names():
            raise Http404
        found = self.bridge()
        given = LaneSwitchSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        return Response(LaneSerializer(switch(found, self.person, kind, on=given.validated_data["on"])).data)
