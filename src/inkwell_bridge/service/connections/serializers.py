"""What a connection says of itself, and what is said to make or change one. Credentials go in and never come out."""

from __future__ import annotations

from typing import Any, ClassVar

from drf_spectacular.utils import extend_schema_field
from jsonschema import Draft202012Validator
from rest_framework import serializers

from inkwell_bridge.core.books import BooksCapabilities
from inkwell_bridge.ends.contract import EndKind, kinds
from inkwell_bridge.ends.errors import Refused
from inkwell_bridge.ends.oauth import CONSENT_PAGE
from inkwell_bridge.service import vault
from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.api.fields import BySlug
from inkwell_bridge.service.connections import actions, signing_in
from inkwell_bridge.service.connections.ends import owner_of
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.connections.pasted import mended_address, mended_credentials
from inkwell_bridge.service.people.models import Company


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

    company = BySlug(queryset=Company.objects.none(), allow_null=True, required=False)
    address = serializers.CharField(max_length=500, trim_whitespace=False)
    credentials = serializers.DictField(
        child=serializers.CharField(max_length=500, trim_whitespace=False), write_only=True
    )
    described = serializers.SerializerMethodField()
    checking = serializers.BooleanField(read_only=True, help_text="A check that was asked for is not done yet.")
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
            "checking",
            "last_contact_at",
            "described",
            "settled_company",
            "key_expires_at",
            "credentials_entered",
            "signed_in",
            "check_every_minutes",
            "reload_every_hours",
            "paused_at",
            "mended",
        )
        read_only_fields = (
            "side",
            "state",
            "state_text",
            "checked_at",
            "last_contact_at",
            "settled_company",
            "paused_at",
        )
        extra_kwargs: ClassVar[dict[str, Any]] = {
            "key_expires_at": {"required": False, "help_text": "When the key ends; an end that knows tells it itself."},
            "check_every_minutes": {"max_value": 10_080, "required": False, "help_text": "0: only when somebody asks."},
            "reload_every_hours": {"max_value": 8_760, "required": False, "help_text": "0: only when somebody asks."},
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


def only_what_is_made_once(dialect: EndKind) -> None:
    """Refuse books in which nothing could be made once: they know no keys, and cannot be searched by our reference."""
    able = dialect.capabilities
    if isinstance(able, BooksCapabilities) and not (able.idempotency_keys or able.search_by_reference):
        text = (
            f"{dialect.title} has no idempotency keys and cannot be searched by a reference, so after a call without "
            "an answer nobody could tell whether a document was made. It cannot be connected."
        )
        raise serializers.ValidationError({"kind": [text]})
