"""Connections: made, changed, checked, loaded. Credentials go in and never come out."""

from __future__ import annotations

from typing import Any

from django.db.models import QuerySet
from django.http import Http404
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema, extend_schema_field
from jsonschema import Draft202012Validator
from rest_framework import generics, serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from inkwell_bridge.ends.contract import EndKind, kinds
from inkwell_bridge.ends.errors import EndError
from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.api.problem import Conflict
from inkwell_bridge.service.connections import actions
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.connections.vault import Unreadable
from inkwell_bridge.service.people.models import Company
from inkwell_bridge.service.people.roles import Role


class KindSerializer(serializers.Serializer[Any]):
    """A dialect that connections can speak, with the form of its credentials (JSON Schema)."""

    name = serializers.CharField()
    title = serializers.CharField()
    side = serializers.ChoiceField(choices=["sales", "books"])
    credentials_schema = serializers.JSONField()
    capabilities = serializers.SerializerMethodField()

    @extend_schema_field(serializers.DictField())
    def get_capabilities(self, kind: EndKind) -> dict[str, Any]:
        """What ends of this kind can and cannot do."""
        return kind.capabilities.as_json()


class KindsView(APIView):
    """The dialects that are installed."""

    @extend_schema(operation_id="kinds_list", responses=KindSerializer(many=True))
    def get(self, request: Request) -> Response:
        """All of them, by name."""
        return Response(KindSerializer([kind for _, kind in sorted(kinds().items())], many=True).data)


class PermissionSerializer(serializers.Serializer[Any]):
    """A right that the work needs, and what to do where it is missing."""

    name = serializers.CharField()
    granted = serializers.BooleanField()
    remedy = serializers.CharField()


class DescribedSerializer(serializers.Serializer[Any]):
    """What an end said of itself when it was last checked."""

    company = serializers.CharField()
    currency = serializers.CharField()
    time_zone = serializers.CharField()
    languages = serializers.ListField(child=serializers.CharField())
    permissions = PermissionSerializer(many=True)


class ConnectionSerializer(serializers.ModelSerializer[Connection]):
    """A connection. ``credentials`` are written and never read back."""

    company = serializers.SlugRelatedField(
        slug_field="slug", queryset=Company.objects.none(), allow_null=True, required=False
    )
    address = serializers.CharField(max_length=500, trim_whitespace=False)
    credentials = serializers.DictField(
        child=serializers.CharField(max_length=500, trim_whitespace=False), write_only=True
    )
    described = serializers.SerializerMethodField()
    mended = serializers.SerializerMethodField(help_text="What was taken away from the pasted address.")

    class Meta:
        model = Connection
        fields = (
            "slug",
            "name",
            "kind",
            "side",
            "company",
            "address",
            "credentials",
            "state",
            "state_text",
            "checked_at",
            "described",
            "mended",
        )
        read_only_fields = ("side", "state", "state_text", "checked_at")

    def get_fields(self) -> dict[str, Any]:
        """Only the workspace's own companies can be named; name and dialect stay as they were made."""
        fields = super().get_fields()
        view = self.context.get("view")
        if isinstance(view, InWorkspace) and hasattr(view, "workspace"):
            fields["company"].queryset = Company.objects.filter(workspace=view.workspace)  # type: ignore[attr-defined]
        if isinstance(self.instance, Connection):
            fields["slug"].read_only = fields["kind"].read_only = True
            fields["credentials"].required = False
        return fields

    @extend_schema_field(DescribedSerializer)
    def get_described(self, connection: Connection) -> DescribedSerializer | None:
        """What the end said of itself."""
        return connection.described or None

    def get_mended(self, connection: Connection) -> list[str]:
        """What was taken away from the pasted address; told once, when it is entered."""
        return list(getattr(connection, "mended", []))

    def validate_kind(self, name: str) -> str:
        """A dialect that is installed."""
        if name not in kinds():
            raise serializers.ValidationError(f"Expected one of {', '.join(sorted(kinds()))}, got {name!r}.")
        return name

    def validate_address(self, pasted: str) -> str:
        """A clean address; what was mended is said in the answer."""
        try:
            address, self._mended = actions.mended_address(pasted)
        except ValueError as error:
            raise serializers.ValidationError(f"{error}") from error
        return address

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """Credentials as the dialect's form wants them."""
        name = attrs.get("kind") or (self.instance.kind if self.instance else "")
        if "credentials" in attrs:
            attrs["credentials"] = actions.mended_credentials(attrs["credentials"])
            schema = kinds()[name].credentials_schema
            # Only the rule that is broken is told, never the value: it may be a secret.
            wrong = sorted({_place(error) for error in Draft202012Validator(schema).iter_errors(attrs["credentials"])})
            if wrong:
                raise serializers.ValidationError({"credentials": wrong})
        if self.instance is None:
            attrs["side"] = kinds()[name].side
        return attrs

    def mended_by_validation(self) -> list[str]:
        """What ``validate_address`` took away."""
        return getattr(self, "_mended", [])


def _place(error: Any) -> str:
    if error.validator == "required":
        missing = [name for name in error.validator_value if name not in error.instance]
        return f"Expected {', '.join(missing)}."
    if error.validator == "additionalProperties":
        return f"Expected only {', '.join(error.schema['properties'])}."
    return f"{'/'.join(map(str, error.absolute_path))} does not fit: {error.validator} {error.validator_value}."


class ConnectionsView(InWorkspace, generics.ListCreateAPIView[Connection]):
    """The ends of a workspace."""

    serializer_class = ConnectionSerializer
    needs = {"POST": Role.EDIT}
    filterset_fields = ("side", "kind", "state")
    sort = ("slug",)

    def get_queryset(self) -> QuerySet[Connection]:
        """Of this workspace."""
        return self.own(Connection.objects.select_related("company"))

    def perform_create(self, serializer: Any) -> None:
        """Keep it, and check it at once."""
        fields = dict(serializer.validated_data)
        credentials = fields.pop("credentials")
        if self.own(Connection.objects.filter(slug=fields["slug"])).exists():
            raise serializers.ValidationError({"slug": [f"A connection '{fields['slug']}' is here already."]})
        connection = actions.save(Connection(workspace=self.workspace, **fields), self.person, credentials=credentials)
        actions.check(connection)
        connection.mended = serializer.mended_by_validation()  # type: ignore[attr-defined]
        serializer.instance = connection


class OneConnection(InWorkspace):
    """A view about one connection."""

    def connection(self) -> Connection:
        """The connection named in the address."""
        rows = self.own(Connection.objects.select_related("workspace", "company"))
        return get_object_or_404(rows, slug=self.kwargs["connection"])


class ConnectionView(OneConnection, generics.RetrieveUpdateAPIView[Connection]):
    """One connection."""

    serializer_class = ConnectionSerializer
    needs = {"PATCH": Role.EDIT}
    http_method_names = ["get", "patch", "head", "options"]

    def get_object(self) -> Connection:
        """The connection named in the address."""
        return self.connection()

    def perform_update(self, serializer: Any) -> None:
        """Keep the change, and check it at once."""
        fields = dict(serializer.validated_data)
        credentials = fields.pop("credentials", None)
        connection = serializer.instance
        for name, value in fields.items():
            setattr(connection, name, value)
        actions.save(connection, self.person, credentials=credentials)
        actions.check(connection)
        connection.mended = serializer.mended_by_validation()


class CheckView(OneConnection):
    """Checking a connection."""

    @extend_schema(operation_id="connections_check", request=None, responses=ConnectionSerializer)
    def post(self, request: Request, workspace: str, connection: str) -> Response:
        """Ask the end who it is and what we may do; the answer is the connection with its new state."""
        found = self.connection()
        actions.check(found)
        return Response(ConnectionSerializer(found, context={"view": self}).data)


class ReferenceSerializer(serializers.Serializer[Any]):
    """What an end calls things."""

    loaded_at = serializers.DateTimeField()
    checksum = serializers.CharField()
    content = serializers.JSONField()


class ReferenceView(OneConnection):
    """What the end calls things: accounts and tax codes of books, tax classes and payment methods of a shop."""

    @extend_schema(operation_id="reference_read", responses=ReferenceSerializer)
    def get(self, request: Request, workspace: str, connection: str) -> Response:
        """What was loaded last."""
        load = actions.newest_reference(self.connection())
        if load is None:
            raise Http404
        return Response(ReferenceSerializer(load).data)

    @extend_schema(operation_id="reference_load", request=None, responses=ReferenceSerializer)
    def post(self, request: Request, workspace: str, connection: str) -> Response:
        """Load it anew."""
        found = self.connection()
        try:
            load = actions.load_reference(found)
        except (EndError, Unreadable) as error:
            actions.note(found, error)
            raise Conflict(f"{found.name} could not be asked: {error}") from error
        return Response(ReferenceSerializer(load).data)
