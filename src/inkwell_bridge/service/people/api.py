"""Signing in, tokens, workspaces, companies, people and the trail."""

from __future__ import annotations

from typing import Any

from django.contrib.auth import authenticate, login, logout
from django.db import transaction
from django.db.models import QuerySet
from django.utils.decorators import method_decorator
from django.views.decorators.csrf import ensure_csrf_cookie
from drf_spectacular.utils import extend_schema
from rest_framework import generics, serializers, status
from rest_framework.authentication import SessionAuthentication
from rest_framework.exceptions import AuthenticationFailed, PermissionDenied
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.throttling import ScopedRateThrottle
from rest_framework.views import APIView

from inkwell_bridge.service import clock
from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.api.fields import TimeZoneField
from inkwell_bridge.service.api.read_only import ReadOnlySerializer
from inkwell_bridge.service.people.authentication import new_token
from inkwell_bridge.service.people.models import Company, Membership, Person, Token, TrailEntry, Workspace
from inkwell_bridge.service.people.roles import Role
from inkwell_bridge.service.people.trail import record


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


def _session(person: Any) -> dict[str, Any]:
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
        return Response(SessionSerializer(_session(request.user)).data)

    @extend_schema(operation_id="session_sign_in", request=SignInSerializer, responses=SessionSerializer)
    def post(self, request: Request) -> Response:
        """Sign in; the browser gets a session cookie."""
        # Nobody is signed in yet, so DRF would not ask for the token that keeps other sites from doing this.
        SessionAuthentication().enforce_csrf(request)
        person = _person(request)
        login(request._request, person)
        return Response(SessionSerializer(_session(person)).data)

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


class NewWorkspaceSerializer(serializers.Serializer[Any]):
    """A workspace to open."""

    slug = serializers.SlugField(max_length=60)
    name = serializers.CharField(max_length=200)

    def validate_slug(self, slug: str) -> str:
        """A name that is free."""
        if Workspace.objects.filter(slug=slug).exists():
            raise serializers.ValidationError(f"The name '{slug}' is taken.")
        return slug


class WorkspacesView(APIView):
    """The workspaces one has a role in."""

    @extend_schema(operation_id="workspaces_list", responses=EntrySerializer(many=True))
    def get(self, request: Request) -> Response:
        """All of them, by name."""
        return Response(_session(request.user)["workspaces"])

    @extend_schema(operation_id="workspaces_open", request=NewWorkspaceSerializer, responses={201: EntrySerializer})
    @transaction.atomic
    def post(self, request: Request) -> Response:
        """Open one for another client; whoever owns one may, and owns the new one too."""
        bound = isinstance(request.auth, Token) and (request.auth.workspace_id or request.auth.role != Role.OWN)
        if bound or not Membership.objects.filter(person=request.user, role=Role.OWN).exists():
            raise PermissionDenied("Only who owns a workspace may open another.")
        given = NewWorkspaceSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        workspace = Workspace.objects.create(**given.validated_data)
        Membership.objects.create(workspace=workspace, person=request.user, role=Role.OWN)
        record(workspace, request.user, "workspace.opened", workspace.slug)
        entry = {"slug": workspace.slug, "name": workspace.name, "role": Role.OWN}
        return Response(EntrySerializer(entry).data, status=status.HTTP_201_CREATED)


class WorkspaceView(InWorkspace):
    """One workspace."""

    @extend_schema(operation_id="workspaces_read", responses=EntrySerializer)
    def get(self, request: Request, workspace: str) -> Response:
        """Its name, and one's role in it."""
        return Response({"slug": self.workspace.slug, "name": self.workspace.name, "role": self.role})


class CompanySerializer(serializers.ModelSerializer[Company]):
    """A company of the client."""

    currency = serializers.RegexField(r"^[A-Z]{3}$", help_text="ISO 4217")
    country = serializers.RegexField(r"^[A-Z]{2}$", help_text="ISO 3166-1 alpha-2")
    time_zone = TimeZoneField()

    class Meta:
        model = Company
        fields = ("slug", "name", "country", "currency", "time_zone")


class CompaniesView(InWorkspace, generics.ListCreateAPIView[Company]):
    """The client's companies."""

    serializer_class = CompanySerializer
    needs = {"POST": Role.OWN}
    sort = ("slug",)

    def get_queryset(self) -> QuerySet[Company]:
        """Of this workspace."""
        return self.own(Company.objects.all())

    def perform_create(self, serializer: Any) -> None:
        """Keep it, and say so in the trail."""
        slug = serializer.validated_data["slug"]
        if self.own(Company.objects.filter(slug=slug)).exists():
            raise serializers.ValidationError({"slug": [f"A company '{slug}' is here already."]})
        serializer.save(workspace=self.workspace)
        record(self.workspace, self.person, "company.created", slug)


class MemberSerializer(serializers.ModelSerializer[Membership]):
    """A person with a role; a password is only taken for somebody who is new to this service."""

    email = serializers.EmailField(source="person.email")
    name = serializers.CharField(source="person.name", required=False, allow_blank=True, default="", max_length=200)
    password = serializers.CharField(write_only=True, required=False, min_length=12, max_length=500)

    class Meta:
        model = Membership
        fields = ("id", "email", "name", "role", "password")


class PeopleView(InWorkspace, generics.ListCreateAPIView[Membership]):
    """Who may do what here."""

    serializer_class = MemberSerializer
    needs = {"POST": Role.OWN}

    def get_queryset(self) -> QuerySet[Membership]:
        """Of this workspace."""
        return self.own(Membership.objects.select_related("person"))

    @transaction.atomic
    def perform_create(self, serializer: Any) -> None:
        """Give a person a role, in place of the one they had."""
        given = serializer.validated_data
        email = given["person"]["email"].lower()
        person = Person.objects.filter(email=email).first()
        if person is None:
            if "password" not in given:
                raise serializers.ValidationError({"password": ["Somebody new to this service needs a password."]})
            person = Person.objects.create_user(email, given["password"], name=given["person"]["name"] or email)
        serializer.instance, _ = Membership.objects.update_or_create(
            workspace=self.workspace, person=person, defaults={"role": given["role"]}
        )
        record(self.workspace, self.person, "role.given", email, role=given["role"])


class TrailSerializer(ReadOnlySerializer[TrailEntry]):
    """Who did what, when; no person means the timetable."""

    person = serializers.CharField(source="person.email", default="", read_only=True)

    class Meta:
        model = TrailEntry
        fields = ("id", "at", "person", "action", "about", "details")


class TrailView(InWorkspace, generics.ListAPIView[TrailEntry]):
    """What was done here, newest first."""

    serializer_class = TrailSerializer

    def get_queryset(self) -> QuerySet[TrailEntry]:
        """Of this workspace."""
        return self.own(TrailEntry.objects.select_related("person"))
