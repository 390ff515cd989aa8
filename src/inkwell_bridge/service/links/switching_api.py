"""Giving a connection to another company."""

from __future__ import annotations

from typing import Any

from django.shortcuts import get_object_or_404
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
    """The name of the company, typed as the end says it; and which of the client's companies it is."""

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
        company = get_object_or_404(self.own(Company.objects.all()), slug=slug) if slug else None
        found = self.connection()
        switching.switch(found, self.person, typed=given.validated_data["company_name"], company=company)
        return Response(ConnectionSerializer(found, context={"view": self}).data)
