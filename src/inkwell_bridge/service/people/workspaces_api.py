"""Workspaces and the companies in them."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.db.models import QuerySet
from drf_spectacular.utils import extend_schema
from rest_framework import generics, serializers, status
from rest_framework.exceptions import PermissionDenied
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.api.fields import Strict, TimeZoneField
from inkwell_bridge.service.people.authentication import token_of
from inkwell_bridge.service.people.models import Company, Membership, Token, Workspace
from inkwell_bridge.service.people.roles import Role
from inkwell_bridge.service.people.sessions_api import EntrySerializer, session_of
from inkwell_bridge.service.people.trail import record

# What the console and the service serve under these addresses stands beside the workspaces.
RESERVED = frozenset({"api", "alive", "assets", "invitation", "password", "signed-in", "static"})


class NewWorkspaceSerializer(serializers.Serializer[Any]):
    """A workspace to open."""

    slug = serializers.SlugField(max_length=60)
    name = serializers.CharField(max_length=200)

    def validate_slug(self, slug: str) -> str:
        """A name that is free, and no address of the service's own."""
        if slug in RESERVED:
            raise serializers.ValidationError(f"The name '{slug}' is an address of the service itself.")
        if Workspace.objects.filter(slug=slug).exists():
            raise serializers.ValidationError(f"The name '{slug}' is taken.")
        return slug


class WorkspacesView(APIView):
    """The workspaces one has a role in."""

    @extend_schema(operation_id="workspaces_list", responses=EntrySerializer(many=True))
    def get(self, request: Request) -> Response:
        """All of them, by name."""
        return Response(session_of(request.user, token_of(request))["workspaces"])

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
        fields = ("slug", "name", "country", "currency", "time_zone", "two_close", "report_language")


class ChangedCompanySerializer(Strict, serializers.ModelSerializer[Company]):
    """What of a company may change: its figures are in its currency and on its clocks for good."""

    class Meta:
        model = Company
        fields = ("name", "two_close", "report_language")


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


class CompanyView(InWorkspace):
    """One company."""

    needs = {"PATCH": Role.OWN}

    @extend_schema(operation_id="companies_read", responses=CompanySerializer)
    def get(self, request: Request, workspace: str, company: str) -> Response:
        """The company, and the rules for closing its months."""
        return Response(CompanySerializer(self.named(Company.objects.all(), "company", company)).data)

    @extend_schema(operation_id="companies_change", request=ChangedCompanySerializer, responses=CompanySerializer)
    @transaction.atomic
    def patch(self, request: Request, workspace: str, company: str) -> Response:
        """Change its name, the language of its reports, or whether two people close its months."""
        found: Company = self.named(Company.objects.select_for_update(), "company", company)
        given = ChangedCompanySerializer(found, data=request.data, partial=True)
        given.is_valid(raise_exception=True)
        was = {name: getattr(found, name) for name in given.validated_data}
        given.save()
        record(self.workspace, self.person, "company.changed", company, **given.validated_data, was=was)
        return Response(CompanySerializer(found).data)
