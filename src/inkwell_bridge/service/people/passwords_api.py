"""Changing one's password, and choosing another where it was forgotten."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.contrib.auth import update_session_auth_hash
from drf_spectacular.utils import extend_schema
from rest_framework import serializers, status
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.throttling import ScopedRateThrottle
from rest_framework.views import APIView

from inkwell_bridge.service import queue
from inkwell_bridge.service.people import brake, passwords
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.people.proving import OwnAccount, ProofSerializer, prove_again
from inkwell_bridge.service.refusal import Refusal


class NoMailServer(Refusal):
    """Nothing can be mailed."""

    code = "no-mail-server"
    hint = "Whoever runs the service sets a new password on its machine: see “People and mail” in docs/operate."


class ChosenSerializer(serializers.Serializer[Any]):
    """The password that is chosen. ``withdraw_tokens``: one's tokens end too."""

    new_password = serializers.CharField(max_length=500, trim_whitespace=False, write_only=True)
    withdraw_tokens = serializers.BooleanField(required=False, default=False)


class ChangePasswordRequestSerializer(ProofSerializer, ChosenSerializer):
    """The password that one has, and the one that is chosen."""


class PasswordView(APIView):
    """One's own password."""

    permission_classes = (OwnAccount,)
    throttle_classes = (ScopedRateThrottle,)
    throttle_scope = "sign-in"

    @extend_schema(operation_id="password_change", request=ChangePasswordRequestSerializer, responses={204: None})
    def post(self, request: Request) -> Response:
        """Change it; the session that asks stays, every other ends."""
        given = ChosenSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        person = prove_again(request)
        passwords.choose(
            person, given.validated_data["new_password"], withdraw_tokens=given.validated_data["withdraw_tokens"]
        )
        update_session_auth_hash(request._request, person)
        return Response(status=status.HTTP_204_NO_CONTENT)


class ResetRequestSerializer(serializers.Serializer[Any]):
    """Whose password was forgotten."""

    email = serializers.EmailField()


class ResetView(APIView):
    """A password that was forgotten."""

    permission_classes = (AllowAny,)
    throttle_classes = (ScopedRateThrottle,)
    throttle_scope = "sign-in"

    @extend_schema(operation_id="password_reset", request=ResetRequestSerializer, responses={202: None})
    def post(self, request: Request) -> Response:
        """Mail the link to choose another by, where there is such an account.

        The answer is the same where there is none, and takes as long.
        """
        given = ResetRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        if not settings.EMAIL_HOST:
            raise NoMailServer("The service has no mail server to send a link by.")
        email = given.validated_data["email"].lower()
        person = Person.objects.filter(email=email, is_active=True).only("pk").first()
        number = person.pk if person is not None and brake.may_mail(email) else 0
        arguments = {"person_id": number, "page": request.build_absolute_uri("/password")}
        queue.defer(queue.MAIL_RESET, [queue.Call(arguments=arguments, priority=queue.ASKED_FOR)])
        return Response(status=status.HTTP_202_ACCEPTED)


class ChooseRequestSerializer(ChosenSerializer):
    """What stands behind the # of the link, and the password that is chosen."""

    secret = serializers.CharField(max_length=200)


class ChooseView(APIView):
    """Choosing a password by a link."""

    permission_classes = (AllowAny,)
    throttle_classes = (ScopedRateThrottle,)
    throttle_scope = "sign-in"

    @extend_schema(operation_id="password_choose", request=ChooseRequestSerializer, responses={204: None})
    def post(self, request: Request) -> Response:
        """Choose it; every session ends. Sign in afterwards as ever, with a code where the second factor is on."""
        given = ChooseRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        asked = given.validated_data
        person = passwords.of_link(asked["secret"])
        passwords.choose(person, asked["new_password"], withdraw_tokens=asked["withdraw_tokens"])
        return Response(status=status.HTTP_204_NO_CONTENT)
