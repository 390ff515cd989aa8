"""Signing in and out, and tokens."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.contrib.auth import login, logout
from django.utils.decorators import method_decorator
from django.views.decorators.csrf import ensure_csrf_cookie
from drf_spectacular.utils import extend_schema
from rest_framework import serializers, status
from rest_framework.authentication import SessionAuthentication
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.throttling import ScopedRateThrottle
from rest_framework.views import APIView

from inkwell_bridge.service import clock
from inkwell_bridge.service.people.authentication import token_of
from inkwell_bridge.service.people.browser_sessions import note_origin
from inkwell_bridge.service.people.models import Membership, Person, Token
from inkwell_bridge.service.people.proving import ProofSerializer, prove
from inkwell_bridge.service.people.roles import Role, lower


class SignInSerializer(ProofSerializer):
    """An e-mail and a password, with a code where the second factor is on."""

    email = serializers.EmailField()


class EntrySerializer(serializers.Serializer[Any]):
    """A workspace and one's role in it."""

    slug = serializers.SlugField()
    name = serializers.CharField()
    role = serializers.ChoiceField(choices=Role.choices)


class SessionSerializer(serializers.Serializer[Any]):
    """Who is signed in, and the service's idea of the present moment.

    ``provider``: the name of who else people can sign in through; ``mails``: whether links to choose a password anew
    can be mailed.
    """

    signed_in = serializers.BooleanField()
    name = serializers.CharField()
    email = serializers.CharField()
    now = serializers.DateTimeField()
    provider = serializers.CharField()
    mails = serializers.BooleanField()
    workspaces = EntrySerializer(many=True)


def session_of(person: Any, token: Token | None = None) -> dict[str, Any]:
    """Who is signed in, and the workspaces that they have a role in; under a token no more than it reaches."""
    provider = settings.OPENID.name if settings.OPENID else ""
    common = {"now": clock.now(), "provider": provider, "mails": bool(settings.EMAIL_HOST)}
    if not person.is_authenticated:
        return {**common, "signed_in": False, "name": "", "email": "", "workspaces": []}
    entries = Membership.objects.filter(person=person).select_related("workspace").order_by("workspace__slug")
    if token is not None and token.workspace_id is not None:
        entries = entries.filter(workspace=token.workspace_id)
    return {
        **common,
        "signed_in": True,
        "name": person.name,
        "email": person.email,
        "workspaces": [
            {
                "slug": entry.workspace.slug,
                "name": entry.workspace.name,
                "role": lower(entry.role, token.role) if token is not None else entry.role,
            }
            for entry in entries
        ],
    }


def who_signs_in(request: Request) -> Person:
    """The person whose e-mail, password and code were sent.

    Raises:
        AuthenticationFailed, CodeNeeded, Throttled: see ``prove``.
    """
    given = SignInSerializer(data=request.data)
    given.is_valid(raise_exception=True)
    email, password, code = (given.validated_data[field] for field in ("email", "password", "code"))
    return prove(request, email.lower(), password, code, wrong="This e-mail and password do not belong together.")


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
        return Response(SessionSerializer(session_of(request.user, token_of(request))).data)

    @extend_schema(operation_id="session_sign_in", request=SignInSerializer, responses=SessionSerializer)
    def post(self, request: Request) -> Response:
        """Sign in; the browser gets a session cookie."""
        # Nobody is signed in yet, so DRF would not ask for the token that keeps other sites from doing this.
        SessionAuthentication().enforce_csrf(request)
        person = who_signs_in(request)
        note_origin(request)
        login(request._request, person)
        return Response(SessionSerializer(session_of(person)).data)

    @extend_schema(operation_id="session_sign_out", request=None, responses={204: None})
    def delete(self, request: Request) -> Response:
        """Sign out."""
        logout(request._request)
        return Response(status=status.HTTP_204_NO_CONTENT)
