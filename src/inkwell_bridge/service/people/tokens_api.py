"""Tokens: keys for programs."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from django.db.models import QuerySet
from django.utils import timezone
from drf_spectacular.utils import extend_schema
from rest_framework import generics, serializers, status
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.throttling import ScopedRateThrottle

from inkwell_bridge.service.api.fields import BySlug
from inkwell_bridge.service.people.authentication import WARNED_BEFORE, new_token, token_of
from inkwell_bridge.service.people.models import Token, Workspace
from inkwell_bridge.service.people.roles import Role, allows
from inkwell_bridge.service.people.sessions_api import SignInSerializer, who_signs_in


def within_reach(request: Request) -> QuerySet[Token]:
    """One's own tokens, as far as a request reaches: a token sees and withdraws none that may do more than itself."""
    rows = Token.objects.filter(person=request.user)
    token = token_of(request)
    if token is None:
        return rows
    if token.workspace_id is not None:
        rows = rows.filter(workspace=token.workspace_id)
    return rows.filter(role__in=[role for role in Role.values if allows(token.role, role)])


class TokenSerializer(serializers.ModelSerializer[Token]):
    """A token as it is listed: without its text."""

    workspace = BySlug(queryset=Workspace.objects.all(), allow_null=True, required=False)

    ends_soon = serializers.SerializerMethodField()

    class Meta:
        model = Token
        fields = ("id", "name", "workspace", "role", "created_at", "expires_at", "last_used_at", "ends_soon")
        read_only_fields = ("created_at", "last_used_at")

    def get_ends_soon(self, token: Token) -> bool:
        """Whether it ends within two weeks."""
        return token.expires_at is not None and token.expires_at < timezone.now() + WARNED_BEFORE

    def validate_expires_at(self, value: datetime | None) -> datetime | None:
        """A token that has ended before it begins opens nothing, and whoever made it would look for another reason."""
        if value is not None and value <= timezone.now():
            raise serializers.ValidationError("Expected a moment to come.")
        return value


class NewTokenRequestSerializer(SignInSerializer, TokenSerializer):
    """What a new token takes."""

    class Meta(TokenSerializer.Meta):
        fields = ("email", "password", "code", "name", "workspace", "role", "expires_at")  # type: ignore[assignment]


class NewTokenSerializer(serializers.Serializer[Any]):
    """A new token; its text is shown this once."""

    token = serializers.CharField()


class TokensView(generics.ListAPIView[Token]):
    """The tokens of the person who asks."""

    serializer_class = TokenSerializer
    throttle_scope = "sign-in"

    def get_permissions(self) -> list[Any]:
        """Making one takes e-mail and password, not a session."""
        return [AllowAny()] if self.request.method == "POST" else super().get_permissions()

    def get_throttles(self) -> list[Any]:
        """Guessing passwords is slowed down; looking is not."""
        return [ScopedRateThrottle()] if self.request.method == "POST" else []

    def get_queryset(self) -> QuerySet[Token]:
        """Only one's own."""
        if getattr(self, "swagger_fake_view", False):
            return Token.objects.none()
        return within_reach(self.request).select_related("workspace")

    @extend_schema(operation_id="tokens_create", request=NewTokenRequestSerializer, responses={201: NewTokenSerializer})
    def post(self, request: Request) -> Response:
        """Make a token for a program."""
        person = who_signs_in(request)
        given = TokenSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        text = new_token(person, **given.validated_data)
        return Response({"token": text}, status=status.HTTP_201_CREATED)


class TokenView(generics.DestroyAPIView[Token]):
    """One token."""

    serializer_class = TokenSerializer

    def get_queryset(self) -> QuerySet[Token]:
        """Only one's own."""
        return within_reach(self.request)
