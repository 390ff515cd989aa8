"""Giving a connection to another company."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.service.connections.connections_api import OneConnection
from inkwell_bridge.service.connections.serializers import ConnectionSerializer
from inkwell_bridge.service.links import switching
from inkwell_bridge.service.people.models import Company
from inkwell_bridge.service.people.roles import Role


class SwitchRequestSerializer(serializers.Serializer[Any]):
    """The name of the company, typed as the end says it; which of the client's companies it is; and, once it is known
    what ends, that this is meant."""

    confirm = serializers.BooleanField(default=False)
    company_name = serializers.CharField(max_length=200)
    company = serializers.SlugField(required=False)


class SwitchView(OneConnection):
    """Giving a connection to another company."""

    needs = {"POST": Role.OWN}

    @extend_schema(operation_id="connections_switch", request=SwitchRequestSerializer, responses=ConnectionSerializer)
    def post(self, request: Request, workspace: str, connection: str) -> Response:
        """End every link, switch the lanes off, and start clean with the company that the end says it is."""
        given = SwitchRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        slug = given.validated_data.get("company")
        company = self.named(Company.objects.all(), "company", slug) if slug else None
        found = self.connection()
        asked = given.validated_data
        switching.switch(
            found, self.person, typed=asked["company_name"], company=company, confirmed=asked["confirm"]
        )  # fmt: skip
        return Response(ConnectionSerializer(found, context={"view": self}).data)


class SwitchBackView(OneConnection):
    """Taking back that a connection was given to another company."""

    needs = {"POST": Role.OWN}

    @extend_schema(operation_id="connections_switch_back", request=None, responses=ConnectionSerializer)
    def post(self, request: Request, workspace: str, connection: str) -> Response:
        """Bring back what ended, within a day, once the end says again that it is the former company's."""
        found = switching.switch_back(self.connection(), self.person)
        return Response(ConnectionSerializer(found, context={"view": self}).data)
