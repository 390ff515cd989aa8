"""Timetables of bridges and of their lanes: shown, set, taken away, and tried before they are set."""

from __future__ import annotations

from typing import Any

from django.http import Http404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers, status
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.core.timetable import Timetable as Table
from inkwell_bridge.core.timetable import coming, in_words, to_rule
from inkwell_bridge.service import clock
from inkwell_bridge.service.bridges.api import OneBridge
from inkwell_bridge.service.bridges.lanes import lane_names
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.bridges.timetable_serializers import (
    TIMES_SHOWN,
    TableSerializer,
    TimetableRequestSerializer,
    WholeTimetableSerializer,
    in_fields,
)
from inkwell_bridge.service.bridges.timetables import EVERY_LANE, remove_timetable, set_timetable, timetable_of
from inkwell_bridge.service.people.roles import Role


class TimetableView(OneBridge):
    """When a bridge runs by itself."""

    needs = {"PUT": Role.OPERATE, "DELETE": Role.OPERATE}

    def lane(self) -> str:
        """Whose timetable it is: every lane's that has none of its own."""
        return EVERY_LANE

    @extend_schema(operation_id="timetable_read", responses=WholeTimetableSerializer)
    def get(self, request: Request, workspace: str, bridge: str, kind: str = EVERY_LANE) -> Response:
        """The timetable, if there is one."""
        found = timetable_of(self.bridge(), self.lane())
        if found is None:
            raise Http404
        return Response(WholeTimetableSerializer(found).data)

    @extend_schema(operation_id="timetable_set", request=TimetableRequestSerializer, responses=WholeTimetableSerializer)
    def put(self, request: Request, workspace: str, bridge: str, kind: str = EVERY_LANE) -> Response:
        """Let it run by itself, by the clocks of the company unless another time zone is named."""
        found = self.bridge()
        timetable = set_timetable(found, self.person, _asked(request, found), kind=self.lane())
        return Response(WholeTimetableSerializer(timetable).data)

    @extend_schema(operation_id="timetable_remove", responses={204: None})
    def delete(self, request: Request, workspace: str, bridge: str, kind: str = EVERY_LANE) -> Response:
        """Let it run only when somebody starts it; a lane, whenever the bridge runs."""
        remove_timetable(self.bridge(), self.person, kind=self.lane())
        return Response(status=status.HTTP_204_NO_CONTENT)


class LaneTimetableView(TimetableView):
    """When one lane of a bridge runs by itself, apart from the others."""

    def lane(self) -> str:
        """The lane named in the address."""
        kind: str = self.kwargs["kind"]
        if kind not in lane_names():
            raise Http404
        return kind

    @extend_schema(operation_id="lane_timetable_read", responses=WholeTimetableSerializer)
    def get(self, request: Request, workspace: str, bridge: str, kind: str = EVERY_LANE) -> Response:
        """The lane's own timetable, if it has one."""
        return super().get(request, workspace, bridge, kind)

    @extend_schema(
        operation_id="lane_timetable_set", request=TimetableRequestSerializer, responses=WholeTimetableSerializer
    )
    def put(self, request: Request, workspace: str, bridge: str, kind: str = EVERY_LANE) -> Response:
        """Let the lane run by itself, by a timetable of its own."""
        return super().put(request, workspace, bridge, kind)

    @extend_schema(operation_id="lane_timetable_remove", responses={204: None})
    def delete(self, request: Request, workspace: str, bridge: str, kind: str = EVERY_LANE) -> Response:
        """Let the lane run whenever the bridge does."""
        return super().delete(request, workspace, bridge, kind)


class TriedTimetableSerializer(serializers.Serializer[Any]):
    """What a timetable would be."""

    rule = serializers.CharField()
    time_zone = serializers.CharField()
    words = serializers.CharField()
    table = TableSerializer()
    coming = serializers.ListField(child=serializers.DateTimeField())


class TryTimetableView(OneBridge):
    """A timetable looked at before it is set."""

    needs = {"POST": Role.SEE}

    @extend_schema(operation_id="timetable_try", request=TimetableRequestSerializer, responses=TriedTimetableSerializer)
    def post(self, request: Request, workspace: str, bridge: str) -> Response:
        """How it reads in words, in fields and as rules, and its next ten times; nothing is changed."""
        table = _asked(request, self.bridge())
        found = {
            "rule": to_rule(table),
            "time_zone": table.time_zone,
            "words": in_words(table),
            "table": in_fields(table),
            "coming": coming(table, clock.now(), TIMES_SHOWN),
        }
        return Response(TriedTimetableSerializer(found).data)


def _asked(request: Request, bridge: Bridge) -> Table:
    given = TimetableRequestSerializer(data=request.data, context={"time_zone": bridge.company.time_zone})
    given.is_valid(raise_exception=True)
    return given.parsed()
