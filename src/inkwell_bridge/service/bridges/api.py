"""Bridges: made, their lanes switched, their rulebooks written and published, their timetables set."""

from __future__ import annotations

import re
from datetime import time
from typing import Any, ClassVar

from django.db import transaction
from django.db.models import Prefetch, QuerySet
from django.http import Http404
from drf_spectacular.utils import extend_schema, extend_schema_field
from rest_framework import generics, serializers, status
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.core.timetable import coming, daily, every, in_words
from inkwell_bridge.service import queue
from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.api.fields import BySlug, Strict, TimeZoneField
from inkwell_bridge.service.api.read_only import ReadOnlySerializer
from inkwell_bridge.service.bridges.lanes import lane_names, switch
from inkwell_bridge.service.bridges.models import Bridge, Lane, RulebookVersion, Timetable
from inkwell_bridge.service.bridges.rules import in_force, newest_version
from inkwell_bridge.service.bridges.timetables import remove_timetable, set_timetable
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.people.models import Company
from inkwell_bridge.service.people.roles import Role
from inkwell_bridge.service.people.trail import record

TIMES_SHOWN = 10


class TimetableSerializer(ReadOnlySerializer[Timetable]):
    """When a bridge runs by itself: by a recurrence rule (RFC 5545), and in words."""

    words = serializers.SerializerMethodField()

    class Meta:
        model = Timetable
        fields: tuple[str, ...] = ("rule", "time_zone", "next_at", "words")

    def get_words(self, timetable: Timetable) -> str:
        """Such as: daily at 18:30 (Europe/London)."""
        return in_words(timetable.rule, timetable.time_zone)


class TimesSerializer(TimetableSerializer):
    """The same with the next ten times; a list of bridges does without, for each time is worked out."""

    coming = serializers.SerializerMethodField()

    class Meta(TimetableSerializer.Meta):
        fields = (*TimetableSerializer.Meta.fields, "coming")

    @extend_schema_field(serializers.ListField(child=serializers.DateTimeField()))
    def get_coming(self, timetable: Timetable) -> list[str]:
        """The first of them is ``next_at``."""
        at = timetable.next_at
        found = coming(timetable.rule, at, zone=timetable.time_zone, start=at, count=TIMES_SHOWN)
        return [serializers.DateTimeField().to_representation(one) for one in found]


class TimetableRequestSerializer(serializers.Serializer[Any]):
    """Either every so many minutes, or daily at a time such as 18:30."""

    every_minutes = serializers.IntegerField(min_value=1, max_value=1440, required=False)
    daily_at = serializers.RegexField(re.compile(r"^([01]\d|2[0-3]):[0-5]\d$"), required=False)
    time_zone = TimeZoneField(required=False)

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """Exactly one of the two."""
        if ("every_minutes" in attrs) == ("daily_at" in attrs):
            raise serializers.ValidationError("Expected either every_minutes or daily_at.")
        return attrs

    def rule(self) -> str:
        """The recurrence rule."""
        given = self.validated_data
        return (
            every(given["every_minutes"]) if "every_minutes" in given else daily(time.fromisoformat(given["daily_at"]))
        )


class LaneSerializer(ReadOnlySerializer[Lane]):
    """One kind of document over a bridge."""

    class Meta:
        model = Lane
        fields = ("kind", "on", "read_up_to")


class LaneSwitchSerializer(serializers.Serializer[Any]):
    """On or off."""

    on = serializers.BooleanField()


class BridgeSerializer(serializers.ModelSerializer[Bridge]):
    """A bridge."""

    source = BySlug(queryset=Connection.objects.none())
    books = BySlug(queryset=Connection.objects.none())
    company = BySlug(queryset=Company.objects.none())
    lanes = serializers.SerializerMethodField()
    timetable = serializers.SerializerMethodField()
    rulebook_in_force = serializers.SerializerMethodField()

    class Meta:
        model = Bridge
        fields = ("slug", "name", "source", "books", "company", "starts_on", "lanes", "timetable", "rulebook_in_force")
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

    @extend_schema_field(LaneSerializer(many=True))
    def get_lanes(self, bridge: Bridge) -> Any:
        """A lane for each kind of document; one that came with a later version is off."""
        there = {lane.kind: lane for lane in bridge.lanes.all()}
        return LaneSerializer([there.get(name) or Lane(kind=name) for name in lane_names()], many=True).data

    @extend_schema_field(TimetableSerializer)
    def get_timetable(self, bridge: Bridge) -> TimetableSerializer | None:
        """When it runs by itself, if it does."""
        found = getattr(bridge, "timetable", None)
        return TimetableSerializer(found).data if found else None  # type: ignore[return-value]

    def get_rulebook_in_force(self, bridge: Bridge) -> int | None:
        """Number of the published rulebook that is in force."""
        return max((version.number for version in bridge.rulebooks.all() if version.published_at), default=None)


WITH_PARTS = Bridge.current.select_related("workspace", "source", "books", "company", "timetable").prefetch_related(
    "lanes", Prefetch("rulebooks", RulebookVersion.objects.only("number", "published_at", "bridge_id"))
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
        # Only what was given: somebody else may have changed, or removed, the bridge since it was read.
        if given.validated_data:
            Bridge.current.filter(pk=found.pk).update(**given.validated_data)
        told = {name: str(value) for name, value in given.validated_data.items()}
        record(self.workspace, self.person, "bridge.changed", bridge, **told)
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


class TimetableView(OneBridge):
    """When a bridge runs by itself."""

    needs = {"PUT": Role.OPERATE, "DELETE": Role.OPERATE}

    @extend_schema(operation_id="timetable_read", responses=TimesSerializer)
    def get(self, request: Request, workspace: str, bridge: str) -> Response:
        """The timetable, if there is one."""
        found = getattr(self.bridge(), "timetable", None)
        if found is None:
            raise Http404
        return Response(TimesSerializer(found).data)

    @extend_schema(operation_id="timetable_set", request=TimetableRequestSerializer, responses=TimesSerializer)
    def put(self, request: Request, workspace: str, bridge: str) -> Response:
        """Let it run every so many minutes, or daily at a time of the company's wall clock."""
        given = TimetableRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        found = self.bridge()
        zone = given.validated_data.get("time_zone", found.company.time_zone)
        return Response(TimesSerializer(set_timetable(found, self.person, given.rule(), zone)).data)

    @extend_schema(operation_id="timetable_remove", responses={204: None})
    def delete(self, request: Request, workspace: str, bridge: str) -> Response:
        """Let it run only when somebody starts it."""
        remove_timetable(self.bridge(), self.person)
        return Response(status=status.HTTP_204_NO_CONTENT)
