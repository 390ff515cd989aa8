"""Who may do what in a workspace, and the trail of what was done."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.db.models import QuerySet
from rest_framework import generics, serializers

from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.api.read_only import ReadOnlySerializer
from inkwell_bridge.service.people.models import Membership, Person, TrailEntry
from inkwell_bridge.service.people.roles import Role
from inkwell_bridge.service.people.trail import record


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
