"""Signing in at an end through its consent page."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.service.api.fields import Strict
from inkwell_bridge.service.api.outward import asks_outside
from inkwell_bridge.service.connections import actions, signing_in
from inkwell_bridge.service.connections.connections_api import OneConnection
from inkwell_bridge.service.connections.serializers import ConnectionSerializer
from inkwell_bridge.service.people.roles import Role


class BeginSerializer(Strict):
    """Where the consent page sends the browser back to: this service, or a listener on loopback."""

    return_to = serializers.CharField(max_length=500)


class BegunSerializer(serializers.Serializer[Any]):
    """Where the browser goes, and until when; ``state`` comes back with it."""

    page = serializers.CharField()
    state = serializers.CharField()
    ends_at = serializers.DateTimeField()


class FinishSerializer(Strict):
    """What the browser came back with: ``code``, or the ``error`` that the page named."""

    state = serializers.CharField(max_length=400)
    code = serializers.CharField(max_length=2000, required=False, default="", allow_blank=True)
    error = serializers.CharField(max_length=200, required=False, default="", allow_blank=True)


class SignInView(OneConnection):
    """Beginning to sign in."""

    needs = {"POST": Role.EDIT}

    @extend_schema(operation_id="connections_sign_in", request=BeginSerializer, responses=BegunSerializer)
    def post(self, request: Request, workspace: str, connection: str) -> Response:
        """Begin a sign-in (RFC 6749 with the proof key of RFC 7636); it is finished by the same person."""
        given = BeginSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        origin = request.build_absolute_uri("/").rstrip("/")
        begun = signing_in.begin(
            self.connection(), self.person, return_to=given.validated_data["return_to"], own_origin=origin
        )
        return Response(BegunSerializer(begun).data)


class FinishView(OneConnection):
    """Finishing a sign-in."""

    needs = {"POST": Role.EDIT}

    @extend_schema(operation_id="connections_sign_in_finish", request=FinishSerializer, responses=ConnectionSerializer)
    @asks_outside
    def post(self, request: Request, workspace: str, connection: str) -> Response:
        """Keep the token that came of it, and have the end checked at once."""
        given = FinishSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        found = self.connection()
        signing_in.finish(found, self.person, **given.validated_data)
        actions.ask_for_check(found)
        return Response(ConnectionSerializer(found, context={"view": self}).data)
