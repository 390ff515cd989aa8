"""Connections: made, changed, checked; and what kinds there are."""

from __future__ import annotations

from typing import Any

from django.db.models import QuerySet
from drf_spectacular.utils import extend_schema, extend_schema_field
from rest_framework import generics, serializers, status
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from inkwell_bridge.ends.contract import EndKind, kinds
from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.connections import actions
from inkwell_bridge.service.connections.ends import dialect_of
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.connections.serializers import (
    ConnectionSerializer,
    only_what_is_made_once,
)
from inkwell_bridge.service.people.roles import Role
from inkwell_bridge.service.refusal import Refusal


class KindSerializer(serializers.Serializer[Any]):
    """A dialect that connections can speak, with the form of its credentials (JSON Schema)."""

    name = serializers.CharField()
    title = serializers.CharField()
    side = serializers.ChoiceField(choices=["sales", "books"])
    credentials_schema = serializers.JSONField()
    capabilities = serializers.SerializerMethodField()
    has_consent_page = serializers.SerializerMethodField()

    @extend_schema_field(serializers.DictField())
    def get_capabilities(self, kind: EndKind) -> dict[str, Any]:
        """What ends of this kind can and cannot do."""
        return kind.capabilities.as_json()

    def get_has_consent_page(self, kind: EndKind) -> bool:
        """Whether people can sign in through a page of the end itself."""
        return kind.consent is not None


class KindsView(APIView):
    """The dialects that are installed."""

    @extend_schema(operation_id="kinds_list", responses=KindSerializer(many=True))
    def get(self, request: Request) -> Response:
        """All of them, by name."""
        return Response(KindSerializer([kind for _, kind in sorted(kinds().items())], many=True).data)


class ConnectionsView(InWorkspace, generics.ListCreateAPIView[Connection]):
    """The ends of a workspace."""

    serializer_class = ConnectionSerializer
    needs = {"POST": Role.EDIT}
    filterset_fields = ("side", "kind", "state")
    sort = ("slug",)

    def get_queryset(self) -> QuerySet[Connection]:
        """Of this workspace."""
        return self.own(Connection.current.select_related("company", "workspace", "grant__by"))

    def perform_create(self, serializer: Any) -> None:
        """Keep it, and have it checked at once."""
        fields = dict(serializer.validated_data)
        credentials = fields.pop("credentials")
        if self.own(Connection.current.filter(slug=fields["slug"])).exists():
            raise serializers.ValidationError({"slug": [f"A connection '{fields['slug']}' is here already."]})
        only_what_is_made_once(dialect_of(Connection(**fields)))
        connection = actions.save(Connection(workspace=self.workspace, **fields), self.person, credentials=credentials)
        actions.ask_for_check(connection)
        connection.mended = serializer.mended_by_validation()  # type: ignore[attr-defined]
        serializer.instance = connection


class OneConnection(InWorkspace):
    """A view about one connection."""

    def connection(self) -> Connection:
        """The connection named in the address."""
        rows = Connection.current.select_related("workspace", "company")
        found: Connection = self.named(rows, "connection", self.kwargs["connection"])
        return found


class OtherCompany(Refusal):
    """A connection with links cannot be given to another company in passing."""

    code = "linked-to-company"
    hint = "Switch the connection, which asks for the company's name, keeps the old links as history and starts clean."

    def __init__(self, connection: Connection) -> None:
        super().__init__(
            f"What is linked and posted through {connection.name} belongs to {connection.settled_company}."
        )


class ConnectionView(OneConnection, generics.RetrieveUpdateAPIView[Connection]):
    """One connection."""

    serializer_class = ConnectionSerializer
    needs = {"PATCH": Role.EDIT}
    http_method_names = ["get", "patch", "head", "options"]

    def get_object(self) -> Connection:
        """The connection named in the address."""
        return self.connection()

    def perform_update(self, serializer: Any) -> None:
        """Keep the change, and have it checked at once."""
        fields = dict(serializer.validated_data)
        credentials = fields.pop("credentials", None)
        connection = serializer.instance
        if "company" in fields and fields["company"] != connection.company and connection.settled_company:
            raise OtherCompany(connection)
        was = {name: getattr(connection, name) for name, value in fields.items() if getattr(connection, name) != value}
        for name in was:
            setattr(connection, name, fields[name])
        actions.save(connection, self.person, credentials=credentials, was=was)
        actions.ask_for_check(connection)
        connection.mended = serializer.mended_by_validation()


class CheckView(OneConnection):
    """Checking a connection."""

    @extend_schema(operation_id="connections_check", request=None, responses={202: ConnectionSerializer})
    def post(self, request: Request, workspace: str, connection: str) -> Response:
        """Have a worker ask the end who it is and what we may do; ``checking`` says until when."""
        found = self.connection()
        actions.ask_for_check(found)
        return Response(ConnectionSerializer(found, context={"view": self}).data, status=status.HTTP_202_ACCEPTED)
