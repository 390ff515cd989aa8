"""Connections: made, changed, checked, loaded. Credentials go in and never come out."""

from __future__ import annotations

from typing import Any, ClassVar

from django.db.models import QuerySet
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema, extend_schema_field
from jsonschema import Draft202012Validator
from rest_framework import generics, serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from inkwell_bridge.core.books import BooksCapabilities
from inkwell_bridge.ends.contract import EndKind, kinds
from inkwell_bridge.ends.errors import Refused
from inkwell_bridge.ends.oauth import CONSENT_PAGE
from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.connections import actions, signing_in, vault
from inkwell_bridge.service.connections.ends import dialect_of, owner_of
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.connections.pasted import mended_address, mended_credentials
from inkwell_bridge.service.people.models import Company
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


class SignedInSerializer(serializers.Serializer[Any]):
    """Who signed in at an end through its consent page, and when; neither where nobody has yet."""

    at = serializers.DateTimeField(allow_null=True)
    by = serializers.CharField()


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
    credentials_entered = serializers.SerializerMethodField(help_text="The names of what was entered, never more.")
    signed_in = serializers.SerializerMethodField(help_text="Absent where nobody signs in through a consent page.")
    mended = serializers.SerializerMethodField(help_text="What was mended of the pasted address and credentials.")

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
            "heard_at",
            "described",
            "settled_company",
            "key_expires_at",
            "credentials_entered",
            "signed_in",
            "check_every_minutes",
            "reload_every_hours",
            "mended",
        )
        read_only_fields = ("side", "state", "state_text", "checked_at", "heard_at", "settled_company")
        extra_kwargs: ClassVar[dict[str, Any]] = {
            "key_expires_at": {"required": False, "help_text": "When the key ends; an end that knows tells it itself."},
            "check_every_minutes": {"max_value": 10_080, "required": False, "help_text": "0: by hand alone."},
            "reload_every_hours": {"max_value": 8_760, "required": False, "help_text": "0: by hand alone."},
        }

    def __init__(self, *args: Any, **options: Any) -> None:
        super().__init__(*args, **options)
        self._mended: list[str] = []

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

    def get_credentials_entered(self, connection: Connection) -> list[str]:
        """The names of what was entered."""
        owner = owner_of(connection.workspace.slug, connection.slug)
        return sorted(vault.unseal_or_nothing(connection.credentials, owner=owner))

    @extend_schema_field(DescribedSerializer)
    def get_described(self, connection: Connection) -> DescribedSerializer | None:
        """What the end said of itself."""
        return connection.described or None

    @extend_schema_field(SignedInSerializer(allow_null=True))
    def get_signed_in(self, connection: Connection) -> dict[str, Any] | None:
        """Who signed in, and when."""
        if kinds()[connection.kind].consent is None or signing_in.grant_of(connection) != CONSENT_PAGE:
            return None
        grant = getattr(connection, "grant", None)
        by = grant.by.name if grant and grant.by else ""
        return SignedInSerializer({"at": grant.signed_in_at if grant else None, "by": by}).data

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
            address, mended = mended_address(pasted)
            actions.judge_address(address)
        except (ValueError, Refused) as error:
            raise serializers.ValidationError(f"{error}") from error
        self._mended += mended
        return address

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """Credentials as the dialect's form wants them."""
        name = attrs.get("kind") or (self.instance.kind if self.instance else "")
        if "credentials" in attrs:
            schema = kinds()[name].credentials_schema
            attrs["credentials"], mended = mended_credentials(attrs["credentials"], schema)
            self._mended += mended
            if self.instance is not None:
                # What is not entered anew stays as it was.
                schema = {**schema, "required": []}
            # Only the rule that is broken is told, never the value: it may be a secret.
            wrong = sorted({_place(error) for error in Draft202012Validator(schema).iter_errors(attrs["credentials"])})
            if wrong:
                raise serializers.ValidationError({"credentials": wrong})
        if self.instance is None:
            attrs["side"] = kinds()[name].side
        return attrs

    def mended_by_validation(self) -> list[str]:
        """What was mended of what was pasted."""
        return self._mended


def _place(error: Any) -> str:
    if error.validator == "required":
        missing = [name for name in error.validator_value if name not in error.instance]
        return f"Expected {', '.join(missing)}."
    if error.validator == "additionalProperties":
        return f"Expected only {', '.join(error.schema['properties'])}."
    return f"{'/'.join(map(str, error.absolute_path))} does not fit: {error.validator} {error.validator_value}."


def _only_what_is_made_once(dialect: EndKind) -> None:
    """Refuse books in which nothing could be made once: they know no keys, and cannot be searched by our reference."""
    able = dialect.capabilities
    if isinstance(able, BooksCapabilities) and not (able.idempotency_keys or able.search_by_reference):
        text = (
            f"{dialect.title} has no idempotency keys and cannot be searched by a reference, so after a call without "
            "an answer nobody could tell whether a document was made. It cannot be connected."
        )
        raise serializers.ValidationError({"kind": [text]})


class ConnectionsView(InWorkspace, generics.ListCreateAPIView[Connection]):
    """The ends of a workspace."""

    serializer_class = ConnectionSerializer
    needs = {"POST": Role.EDIT}
    filterset_fields = ("side", "kind", "state")
    sort = ("slug",)

    def get_queryset(self) -> QuerySet[Connection]:
        """Of this workspace."""
        return self.own(Connection.objects.select_related("company", "workspace", "grant__by"))

    def perform_create(self, serializer: Any) -> None:
        """Keep it, and check it at once."""
        fields = dict(serializer.validated_data)
        credentials = fields.pop("credentials")
        if self.own(Connection.objects.filter(slug=fields["slug"])).exists():
            raise serializers.ValidationError({"slug": [f"A connection '{fields['slug']}' is here already."]})
        _only_what_is_made_once(dialect_of(Connection(**fields)))
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
        """Keep the change, and check it at once."""
        fields = dict(serializer.validated_data)
        credentials = fields.pop("credentials", None)
        connection = serializer.instance
        if "company" in fields and fields["company"] != connection.company and connection.settled_company:
            raise OtherCompany(connection)
        changed = tuple(name for name, value in fields.items() if getattr(connection, name) != value)
        for name in changed:
            setattr(connection, name, fields[name])
        actions.save(connection, self.person, credentials=credentials, changed=changed)
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
