"""Inviting people, and taking an invitation up."""

from __future__ import annotations

from typing import Any

from django.db.models import QuerySet
from drf_spectacular.utils import extend_schema
from rest_framework import generics, serializers, status
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.throttling import ScopedRateThrottle
from rest_framework.views import APIView

from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.api.read_only import ReadOnlySerializer
from inkwell_bridge.service.people import invitations
from inkwell_bridge.service.people.models import Invitation, Membership
from inkwell_bridge.service.people.proving import ProofSerializer, prove
from inkwell_bridge.service.people.roles import Role
from inkwell_bridge.service.people.sessions_api import EntrySerializer
from inkwell_bridge.service.people.trail import record
from inkwell_bridge.service.refusal import Refusal


class HasRole(Refusal):
    """Somebody who has a role already is not invited again."""

    code = "has-role"
    hint = "Change their role in place of inviting them."


class InvitationSerializer(ReadOnlySerializer[Invitation]):
    """Somebody who was invited and has not come yet."""

    invited_by = serializers.CharField(source="invited_by.email", read_only=True)

    class Meta:
        model = Invitation
        fields = ("id", "email", "name", "role", "invited_by", "invited_at", "ends_at")


class InviteRequestSerializer(serializers.Serializer[Any]):
    """Whom to invite, and what they may do."""

    email = serializers.EmailField()
    role = serializers.ChoiceField(choices=Role.choices)
    name = serializers.CharField(required=False, allow_blank=True, default="", max_length=200)


class InvitedSerializer(InvitationSerializer):
    """A new invitation. ``link`` is for handing on, and shown this once; it is empty where it was mailed."""

    link = serializers.CharField(read_only=True)

    class Meta(InvitationSerializer.Meta):
        fields = (*InvitationSerializer.Meta.fields, "link")  # type: ignore[assignment]


class InvitationsView(InWorkspace, generics.ListAPIView[Invitation]):
    """Who was invited and has not come yet."""

    serializer_class = InvitationSerializer
    needs = {"POST": Role.OWN}

    def get_queryset(self) -> QuerySet[Invitation]:
        """Of this workspace."""
        return self.own(Invitation.objects.select_related("invited_by"))

    @extend_schema(operation_id="people_invite", request=InviteRequestSerializer, responses={201: InvitedSerializer})
    def post(self, request: Request, workspace: str) -> Response:
        """Invite somebody. Their role counts once they have come by the link, which works once and for a day."""
        given = InviteRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        asked = given.validated_data
        if self.own(Membership.objects.filter(person__email=asked["email"].lower())).exists():
            raise HasRole(f"{asked['email']} has a role here already.")
        invitation, link = invitations.invite(
            self.workspace, self.person, page=request.build_absolute_uri("/invitation"), **asked
        )
        invitation.link = link  # type: ignore[attr-defined]
        return Response(InvitedSerializer(invitation).data, status=status.HTTP_201_CREATED)


class InvitationView(InWorkspace):
    """One invitation."""

    needs = {"DELETE": Role.OWN}

    @extend_schema(operation_id="people_withdraw_invitation", responses={204: None})
    def delete(self, request: Request, workspace: str, number: int) -> Response:
        """Withdraw it; its link opens nothing any more."""
        found = self.numbered(self.own(Invitation.objects.all()), "invitation", number)
        found.delete()
        record(self.workspace, self.person, "invitation.withdrawn", found.email)
        return Response(status=status.HTTP_204_NO_CONTENT)


class LinkSerializer(serializers.Serializer[Any]):
    """What stands behind the # of an invitation's link."""

    secret = serializers.CharField(max_length=200)


class InvitedToSerializer(serializers.Serializer[Any]):
    """What an invitation is to; ``has_account``: its address has a password already, which is asked for."""

    workspace = serializers.CharField(source="workspace.name")
    email = serializers.CharField()
    name = serializers.CharField()
    role = serializers.ChoiceField(choices=Role.choices)
    invited_by = serializers.CharField(source="invited_by.name")
    ends_at = serializers.DateTimeField()
    has_account = serializers.SerializerMethodField()

    def get_has_account(self, invitation: Invitation) -> bool:
        """Told to nobody but who has the link."""
        return invitations.has_account(invitation.email)


class AcceptRequestSerializer(LinkSerializer, ProofSerializer):
    """The password that one has (with a code where the second factor is on), or the one that is chosen now, with one's
    name."""

    name = serializers.CharField(required=False, allow_blank=True, default="", max_length=200)


class _ByLink(APIView):
    """For whoever has the link, signed in or not; guessing is slowed down like guessing passwords."""

    permission_classes = (AllowAny,)
    throttle_classes = (ScopedRateThrottle,)
    throttle_scope = "sign-in"


class InvitedToView(_ByLink):
    """Looking at an invitation."""

    @extend_schema(operation_id="invitations_read", request=LinkSerializer, responses=InvitedToSerializer)
    def post(self, request: Request) -> Response:
        """What it is to. The secret goes in the body, for addresses are logged."""
        given = LinkSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        return Response(InvitedToSerializer(invitations.read(given.validated_data["secret"])).data)


class AcceptView(_ByLink):
    """Taking an invitation up."""

    @extend_schema(operation_id="invitations_accept", request=AcceptRequestSerializer, responses=EntrySerializer)
    def post(self, request: Request) -> Response:
        """Come in; the answer is the workspace and one's role there. Sign in afterwards as ever."""
        given = AcceptRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        secret, password, name, code = (given.validated_data[field] for field in ("secret", "password", "name", "code"))
        email = invitations.read(secret).email
        person = None
        if invitations.has_account(email):
            wrong = "There is an account for this address, and this is not its password."
            person = prove(request, email, password, code, wrong=wrong)
        found = invitations.accept(secret, person, password=password, name=name)
        entry = {"slug": found.workspace.slug, "name": found.workspace.name, "role": found.role}
        return Response(EntrySerializer(entry).data)
