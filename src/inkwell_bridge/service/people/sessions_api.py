"""Signing in and out, and tokens."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from django.contrib.auth import authenticate, login, logout
from django.db.models import QuerySet
from django.utils import timezone
from django.utils.decorators import method_decorator
from django.views.decorators.csrf import ensure_csrf_cookie
from drf_spectacular.utils import extend_schema
from rest_framework import generics, serializers, status
from rest_framework.authentication import SessionAuthentication
from rest_framework.exceptions import AuthenticationFailed
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.throttling import ScopedRateThrottle
from rest_framework.views import APIView

from inkwell_bridge.service import clock
from inkwell_bridge.service.people.authentication import new_token
from inkwell_bridge.service.people.models import Membership, Person, Token, Workspace
from inkwell_bridge.service.people.roles import Role


class SignInSerializer(serializers.Serializer[Any]):
    """An e-mail and a password."""

    email = serializers.EmailField()
    password = serializers.CharField(max_length=500, trim_whitespace=False, write_only=True)


class EntrySerializer(serializers.Serializer[Any]):
    """A workspace and one's role in it."""

    slug = serializers.SlugField()
    name = serializers.CharField()
    role = serializers.ChoiceField(choices=Role.choices)


class SessionSerializer(serializers.Serializer[Any]):
    """Who is signed in, and the service's idea of the present moment."""

    signed_in = serializers.BooleanField()
    name = serializers.CharField()
    email = serializers.CharField()
    now = serializers.DateTimeField()
    workspaces = EntrySerializer(many=True)


def session_of(person: Any) -> dict[str, Any]:
    """Who is signed in, and the workspaces that they have a role in."""
    if not person.is_authenticated:
        return {"signed_in": False, "name": "", "email": "", "now": clock.now(), "workspaces": []}
    entries = Membership.objects.filter(person=person).select_related("workspace").order_by("workspace__slug")
    return {
        "signed_in": True,
        "name": person.name,
        "email": person.email,
        "now": clock.now(),
        "workspaces": [
            {"slug": entry.workspace.slug, "name": entry.workspace.name, "role": entry.role} for entry in entries
        ],
    }


def _person(request: Request) -> Person:
    given = SignInSerializer(data=request.data)
    given.is_valid(raise_exception=True)
    email, password = given.validated_data["email"].lower(), given.validated_data["password"]
    person = authenticate(request, username=email, password=password)
    if person is None:
        raise AuthenticationFailed("This e-mail and password do not belong together.")
    return person  # type: ignore[return-value]


@method_decorator(ensure_csrf_cookie, name="dispatch")
class SessionView(APIView):
    """The session of a browser."""

    permission_classes = (AllowAny,)
    throttle_scope = "sign-in"

    def get_throttles(self) -> list[Any]:
        """Guessing passwords is slowed down; asking who one is is not."""
        return [ScopedRateThrottle()] if self.request.method == "POST" else []

    @extend_schema(operation_id="session_read", responses=SessionSerializer)
    def get(self, request: Request) -> Response:
        """Who is signed in."""
        return Response(SessionSerializer(session_of(request.user)).data)

    @extend_schema(operation_id="session_sign_in", request=SignInSerializer, responses=SessionSerializer)
    def post(self, request: Request) -> Response:
        """Sign in; the browser gets a session cookie."""
        # Nobody is signed in yet, so DRF would not ask for the token that keeps other sites from doing this.
        SessionAuthentication().enforce_csrf(request)
        person = _person(request)
        login(request._request, person)
        return Response(SessionSerializer(session_of(person)).data)

    @extend_schema(operation_id="session_sign_out", request=None, responses={204: None})
    def delete(self, request: Request) -> Response:
        """Sign out."""
        logout(request._request)
        return Response(status=status.HTTP_204_NO_CONTENT)


class TokenSerializer(serializers.ModelSerializer[Token]):
    """A token as it is listed: without its text."""

    workspace = serializers.SlugRelatedField(
        slug_field="slug", queryset=Workspace.objects.all(), allow_null=True, required=False
    )

    class Meta:
        model = Token
        fields = ("id", "name", "workspace", "role", "created_at", "expires_at")
        read_only_fields = ("created_at",)

    def validate_expires_at(self, value: datetime | None) -> datetime | None:
        """A token that has ended before it begins opens nothing, and whoever made it would look for another reason."""
        if value is not None and value <= timezone.now():
            raise serializers.ValidationError("Expected a moment to come.")
        return value


class NewTokenRequestSerializer(SignInSerializer, TokenSerializer):
    """What a new token takes."""

    class Meta(TokenSerializer.Meta):
        fields = ("email", "password", "name", "workspace", "role", "expires_at")  # type: ignore[assignment]


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
        """See ``SessionView.get_throttles``."""
        return [ScopedRateThrottle()] if self.request.method == "POST" else []

    def get_queryset(self) -> QuerySet[Token]:
        """Only one's own."""
        if getattr(self, "swagger_fake_view", False):
            return Token.objects.none()
        return Token.objects.filter(person=self.request.user).select_related("workspace")

    @extend_schema(operation_id="tokens_create", request=NewTokenRequestSerializer, responses={201: NewTokenSerializer})
    def post(self, request: Request) -> Response:
        """Make a token for a program."""
        person = _person(request)
        given = TokenSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        text = new_token(person, **given.validated_data)
        return Response({"token": text}, status=status.HTTP_201_CREATED)


class TokenView(generics.DestroyAPIView[Token]):
    """One token."""

    serializer_class = TokenSerializer

    def get_queryset(self) -> QuerySet[Token]:
        """Only one's own."""
        return Token.objects.filter(person=self.request.user)
