"""Removing bridges and connections. Each is removed where it is read and changed, so its view is extended here."""

from __future__ import annotations

from drf_spectacular.utils import extend_schema
from rest_framework import status
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.service.api.confirmed import CONFIRM, is_confirmed
from inkwell_bridge.service.bridges.api import BridgeView
from inkwell_bridge.service.carriage import removal
from inkwell_bridge.service.connections.connections_api import ConnectionView
from inkwell_bridge.service.people.roles import Role


class RemovableBridgeView(BridgeView):
    """One bridge: read, changed, removed."""

    needs = {**BridgeView.needs, "DELETE": Role.OWN}

    @extend_schema(operation_id="bridges_remove", parameters=[CONFIRM], responses={204: None})
    def delete(self, request: Request, workspace: str, bridge: str) -> Response:
        """Remove it; what was carried stays to be read."""
        removal.remove_bridge(self.bridge(), self.person, confirmed=is_confirmed(request))
        return Response(status=status.HTTP_204_NO_CONTENT)


class RemovableConnectionView(ConnectionView):
    """One connection: read, changed, removed."""

    needs = {**ConnectionView.needs, "DELETE": Role.OWN}
    http_method_names = [*ConnectionView.http_method_names, "delete"]

    @extend_schema(operation_id="connections_remove", parameters=[CONFIRM], responses={204: None})
    def delete(self, request: Request, workspace: str, connection: str) -> Response:
        """Remove it, once no bridge stands on it; its credentials are erased."""
        removal.remove_connection(self.connection(), self.person, confirmed=is_confirmed(request))
        return Response(status=status.HTTP_204_NO_CONTENT)
