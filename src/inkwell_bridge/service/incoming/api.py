"""Where an end calls us: its address, its secrets, its registration; and the calls that came."""

from __future__ import annotations

import re
from typing import Any

from django.db.models import QuerySet
from django.http import Http404
from django.utils import timezone
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiResponse, extend_schema, extend_schema_field
from rest_framework import generics, serializers, status
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.api.fields import Strict
from inkwell_bridge.service.api.outward import asks_outside
from inkwell_bridge.service.api.problem import MEDIA_TYPE
from inkwell_bridge.service.api.read_only import ReadOnlySerializer
from inkwell_bridge.service.connections.connections_api import OneConnection
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.incoming import addresses
from inkwell_bridge.service.incoming.models import CallAddress, CallSecret, IncomingCall
from inkwell_bridge.service.people.roles import Role
from inkwell_bridge.service.people.trail import record

# An end of a kind that does not call.
_CALLS_NOBODY = {(409, MEDIA_TYPE): OpenApiResponse(OpenApiTypes.OBJECT, description="It does not call.")}
_SECRET = re.compile(r"whsec_[A-Za-z0-9+/]{16,200}={0,2}")


class CallSecretSerializer(ReadOnlySerializer[CallSecret]):
    """A secret that calls may be signed with; its text is shown once, when it is made."""

    made_by = serializers.CharField(source="made_by.email", default="", read_only=True)

    class Meta:
        model = CallSecret
        fields = ("id", "made_at", "made_by", "ends_at")


class CallAddressSerializer(ReadOnlySerializer[CallAddress]):
    """Where an end calls us, and when it last did."""

    address = serializers.SerializerMethodField()
    can_register = serializers.SerializerMethodField(help_text="Whether the end can be told through its interface.")
    secrets = serializers.SerializerMethodField()
    should_be_heard_by = serializers.DateTimeField(allow_null=True)
    silent = serializers.SerializerMethodField(help_text="Whether that time is past.")

    class Meta:
        model = CallAddress
        fields = (
            "address",
            "can_register",
            "secrets",
            "expected_within_minutes",
            "last_call_at",
            "should_be_heard_by",
            "silent",
            "refused",
            "last_refused_at",
            "last_refused_why",
        )

    def get_address(self, row: CallAddress) -> str:
        """To be entered at the other end."""
        return _outward(self.context["request"], row)

    def get_can_register(self, row: CallAddress) -> bool:
        """By its dialect."""
        return addresses.able(row.connection).registers_calls

    @extend_schema_field(CallSecretSerializer(many=True))
    def get_secrets(self, row: CallAddress) -> Any:
        """Those that are good now, the newest first."""
        return CallSecretSerializer(addresses.good_secrets(row.connection), many=True).data

    def get_silent(self, row: CallAddress) -> bool:
        """A quiet end promises nothing; a silent one should have called."""
        by = row.should_be_heard_by
        return by is not None and by < timezone.now()


class ExpectedSerializer(Strict):
    """How long an end may be silent."""

    expected_within_minutes = serializers.IntegerField(
        min_value=0, max_value=60 * 24 * 31, help_text="0: it promises nothing."
    )


class OneAddress(OneConnection):
    """A view about the address of a connection."""

    def row(self) -> CallAddress:
        """Made when it is first asked for."""
        found = self.connection()
        addresses.able(found)
        return addresses.address_of(found)

    def answer(self) -> Response:
        """It, as it stands."""
        return Response(CallAddressSerializer(self.row(), context={"request": self.request}).data)


class CallAddressView(OneAddress):
    """Where an end calls us."""

    needs = {"GET": Role.SEE, "PATCH": Role.EDIT}

    @extend_schema(operation_id="call_address_read", responses={200: CallAddressSerializer, **_CALLS_NOBODY})
    def get(self, request: Request, workspace: str, connection: str) -> Response:
        """The address to register there, the secrets that are good, and when it last called."""
        return self.answer()

    @extend_schema(operation_id="call_address_change", request=ExpectedSerializer, responses=CallAddressSerializer)
    def patch(self, request: Request, workspace: str, connection: str) -> Response:
        """Say how long it may be silent."""
        given = ExpectedSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        row, minutes = self.row(), given.validated_data["expected_within_minutes"]
        CallAddress.objects.filter(pk=row.pk).update(expected_within_minutes=minutes)
        was = row.expected_within_minutes
        record(self.workspace, self.person, "calls.expected", connection, minutes=minutes, was=was)
        return self.answer()


class NewSecretRequestSerializer(Strict):
    """A secret that the other end gave; without it, we make one."""

    secret = serializers.RegexField(_SECRET, required=False, max_length=210, help_text="whsec_ and base64.")


class NewSecretSerializer(serializers.Serializer[Any]):
    """A secret, shown this once."""

    secret = serializers.CharField()


class CallSecretsView(OneAddress):
    """The secrets of an end's calls."""

    needs = {"POST": Role.EDIT}

    @extend_schema(
        operation_id="call_secrets_make", request=NewSecretRequestSerializer, responses={201: NewSecretSerializer}
    )
    def post(self, request: Request, workspace: str, connection: str) -> Response:
        """Make one, or enter the one that the other end gave; the one before stays good for a day."""
        given = NewSecretRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        row = self.row()
        secret = addresses.new_secret(row.connection, self.person, given=given.validated_data.get("secret", ""))
        return Response({"secret": secret}, status=status.HTTP_201_CREATED)


class CallSecretView(OneAddress):
    """One secret of an end's calls."""

    needs = {"DELETE": Role.EDIT}

    @extend_schema(operation_id="call_secrets_end", responses={204: None})
    def delete(self, request: Request, workspace: str, connection: str, secret: int) -> Response:
        """Refuse what is signed with it from now on."""
        if not addresses.end_secret(self.row().connection, self.person, secret):
            raise Http404
        return Response(status=status.HTTP_204_NO_CONTENT)


class RegistrationSerializer(serializers.Serializer[Any]):
    """What the end says of whom it calls."""

    registered_to = serializers.CharField(allow_blank=True, help_text="Empty: nobody.")
    is_ours = serializers.BooleanField()


class RegistrationView(OneAddress):
    """The registration of our address at an end that can be told."""

    needs = {"PUT": Role.EDIT, "DELETE": Role.EDIT}

    @extend_schema(operation_id="call_registration_read", responses={200: RegistrationSerializer, **_CALLS_NOBODY})
    @asks_outside
    def get(self, request: Request, workspace: str, connection: str) -> Response:
        """Ask the end whom it calls."""
        return self._answer(self.row())

    @extend_schema(operation_id="call_registration_set", request=None, responses=RegistrationSerializer)
    @asks_outside
    def put(self, request: Request, workspace: str, connection: str) -> Response:
        """Have the end call us, signed with a new secret; again, to renew it."""
        row = self.row()
        addresses.register(row.connection, self.person, _outward(request, row))
        return self._answer(row)

    @extend_schema(operation_id="call_registration_end", responses={204: None})
    @asks_outside
    def delete(self, request: Request, workspace: str, connection: str) -> Response:
        """Have the end call nobody."""
        addresses.end_registration(self.row().connection, self.person)
        return Response(status=status.HTTP_204_NO_CONTENT)

    def _answer(self, row: CallAddress) -> Response:
        there = addresses.registered_to(row.connection)
        return Response({"registered_to": there, "is_ours": there == _outward(self.request, row)})


class IncomingCallSerializer(ReadOnlySerializer[IncomingCall]):
    """A call that came: what it said of which document, and what became of it."""

    connection = serializers.CharField(source="connection.slug", read_only=True)

    class Meta:
        model = IncomingCall
        fields = ("id", "connection", "call_id", "kind", "number", "happened_at", "received_at", "looked_at", "state")


class IncomingCallsView(InWorkspace, generics.ListAPIView[IncomingCall]):
    """The calls of one end, the newest first."""

    serializer_class = IncomingCallSerializer
    filterset_fields = ("state", "number")
    sort = ("-id",)

    def get_queryset(self) -> QuerySet[IncomingCall]:
        """Of that connection."""
        rows = self.own(IncomingCall.objects.select_related("connection"))
        if getattr(self, "swagger_fake_view", False):
            return rows
        found = self.named(Connection.current.all(), "connection", self.kwargs["connection"])
        return rows.filter(connection=found)


def _outward(request: Request, row: CallAddress) -> str:
    return request.build_absolute_uri(f"/incoming/{row.key}")
