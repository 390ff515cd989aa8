"""The switches that pause a bridge or a connection."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.service.bridges.api import BridgeSerializer, OneBridge
from inkwell_bridge.service.carriage.pausing import go_on, pause
from inkwell_bridge.service.connections.connections_api import OneConnection
from inkwell_bridge.service.connections.serializers import ConnectionSerializer


class PauseBridgeView(OneBridge):
    """A bridge's switch."""

    @extend_schema(operation_id="bridges_pause", request=None, responses=BridgeSerializer)
    def put(self, request: Request, workspace: str, bridge: str) -> Response:
        """Let nothing cross until it goes on; what is under way at an end is brought to its end."""
        pause(self.bridge(), self.person)
        return self._answer()

    @extend_schema(operation_id="bridges_go_on", responses=BridgeSerializer)
    def delete(self, request: Request, workspace: str, bridge: str) -> Response:
        """Let it go on: what its timetables missed is made up for once, and what waited goes at once."""
        go_on(self.bridge(), self.person)
        return self._answer()

    def _answer(self) -> Response:
        return Response(BridgeSerializer(self.bridge()).data)


class PauseConnectionView(OneConnection):
    """A connection's switch."""

    @extend_schema(operation_id="connections_pause", request=None, responses=ConnectionSerializer)
    def put(self, request: Request, workspace: str, connection: str) -> Response:
        """Let nothing be read from it or sent to it, by any bridge, until it goes on."""
        pause(self.connection(), self.person)
        return self._answer()

    @extend_schema(operation_id="connections_go_on", responses=ConnectionSerializer)
    def delete(self, request: Request, workspace: str, connection: str) -> Response:
        """Let it go on: what its bridges' timetables missed is made up for once, and what waited goes at once."""
        go_on(self.connection(), self.person)
        return self._answer()

    def _answer(self) -> Response:
        found: dict[str, Any] = ConnectionSerializer(self.connection(), context={"view": self}).data
        return Response(found)
