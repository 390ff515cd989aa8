"""Who may do what in a workspace, and the trail of what was done."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.db.models import QuerySet
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import generics, serializers, status
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.api.read_only import ReadOnlySerializer
from inkwell_bridge.service.people.models import Membership, Token, TrailEntry, Workspace
from inkwell_bridge.service.people.roles import Role
from inkwell_bridge.service.people.trail import record
from inkwell_bridge.service.refusal import Refusal


class MemberSerializer(serializers.ModelSerializer[Membership]):
    """A person with a role."""

    email = serializers.EmailField(source="person.email")
    name = serializers.CharField(source="person.name", read_only=True)

    class Meta:
        model = Membership
        fields = ("id", "email", "name", "role")


class NoRoleYet(Refusal):
    """Whoever has no role here is invited first."""

    code = "no-role-yet"
    hint = "Invite them: their role counts once they have come by the link."


class LastOwner(Refusal):
    """Nobody would be left who may do everything."""

    code = "last-owner"
    hint = "Give somebody else the role of an owner first."


class _People(InWorkspace):
    """What is asked whoever's role changes."""

    def _keep_an_owner(self, leaving: QuerySet[Membership]) -> None:
        """See to it that somebody stays who may give roles; two owners at once cannot both go."""
        Workspace.objects.select_for_update().get(pk=self.workspace.pk)
        owners = self.own(Membership.objects.filter(role=Role.OWN))
        left = leaving.filter(role=Role.OWN)
        if left and not owners.exclude(pk__in=[one.pk for one in left]).exists():
            raise LastOwner(f"{left[0].person.email} is the only owner of {self.workspace.name}.")


class PeopleView(_People, generics.ListCreateAPIView[Membership]):
    """Who may do what here."""

    serializer_class = MemberSerializer
    needs = {"POST": Role.OWN}

    def get_queryset(self) -> QuerySet[Membership]:
        """Of this workspace."""
        return self.own(Membership.objects.select_related("person"))

    @transaction.atomic
    def perform_create(self, serializer: Any) -> None:
        """Give somebody who has a role here another one in its place."""
        given = serializer.validated_data
        email, role = given["person"]["email"].lower(), given["role"]
        rows = self.own(Membership.objects.select_related("person").filter(person__email=email))
        if role != Role.OWN:
            self._keep_an_owner(rows)
        serializer.instance = rows.first()
        if serializer.instance is None:
            raise NoRoleYet(f"{email} has no role in {self.workspace.name} yet.")
        was = serializer.instance.role
        rows.update(role=role)
        serializer.instance.role = role
        record(self.workspace, self.person, "role.given", email, role=role, was=was)


class PersonView(_People):
    """One person's role here."""

    needs = {"DELETE": Role.OWN}

    @extend_schema(operation_id="people_remove", responses={204: None})
    @transaction.atomic
    def delete(self, request: Request, workspace: str, number: int) -> Response:
        """Take a person's role away, and their tokens for this workspace; what they did stays in the trail."""
        rows = self.own(Membership.objects.select_related("person").filter(pk=number))
        self._keep_an_owner(rows)
        member = get_object_or_404(rows)
        Token.objects.filter(person=member.person, workspace=self.workspace).delete()
        member.delete()
        record(self.workspace, self.person, "role.taken", member.person.email, role=member.role)
        return Response(status=status.HTTP_204_NO_CONTENT)


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
