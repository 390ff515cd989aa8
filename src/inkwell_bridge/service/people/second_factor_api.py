"""Turning the second factor on and off."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers, status
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.throttling import ScopedRateThrottle
from rest_framework.views import APIView

from inkwell_bridge.service.people import second_factor
from inkwell_bridge.service.people.models import RecoveryCode, SecondFactor
from inkwell_bridge.service.people.proving import OwnAccount, ProofSerializer, prove_again


class SecondFactorSerializer(serializers.Serializer[Any]):
    """Whether it is on, since when, and how many recovery codes are left."""

    on = serializers.BooleanField()
    since = serializers.DateTimeField(allow_null=True)
    recovery_codes = serializers.IntegerField()


class OfferedSecretSerializer(serializers.Serializer[Any]):
    """A secret for an authenticator app: as text, as ``otpauth:`` address, and as a picture (``data:``) to scan."""

    secret = serializers.CharField()
    address = serializers.CharField()
    picture = serializers.CharField()


class CodeSerializer(serializers.Serializer[Any]):
    """A code that the app shows."""

    code = serializers.CharField(max_length=10)


class RecoveryCodesSerializer(serializers.Serializer[Any]):
    """Codes for whoever has lost the app; shown this once, each good once."""

    recovery_codes = serializers.ListField(child=serializers.CharField())


class _SecondFactor(APIView):
    permission_classes = (OwnAccount,)
    throttle_scope = "sign-in"

    def get_throttles(self) -> list[Any]:
        """Guessing codes is slowed down; looking is not."""
        return [] if self.request.method == "GET" else [ScopedRateThrottle()]


class SecondFactorView(_SecondFactor):
    """One's second factor."""

    @extend_schema(operation_id="second_factor_read", responses=SecondFactorSerializer)
    def get(self, request: Request) -> Response:
        """Whether it is on."""
        found = SecondFactor.objects.filter(person=request.user, confirmed_at__isnull=False).first()
        left = RecoveryCode.objects.filter(person=request.user).count()
        told = {"on": found is not None, "since": found and found.confirmed_at, "recovery_codes": left}
        return Response(SecondFactorSerializer(told).data)

    @extend_schema(operation_id="second_factor_begin", request=ProofSerializer, responses=OfferedSecretSerializer)
    def post(self, request: Request) -> Response:
        """Begin: a secret to put into an app. It counts once a code of it was confirmed."""
        return Response(OfferedSecretSerializer(asdict(second_factor.offer(prove_again(request)))).data)


class ConfirmView(_SecondFactor):
    """Turning it on."""

    @extend_schema(operation_id="second_factor_confirm", request=CodeSerializer, responses=RecoveryCodesSerializer)
    def post(self, request: Request) -> Response:
        """With a code of the app. From now on signing in takes one."""
        given = CodeSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        return Response({"recovery_codes": second_factor.confirm(request.user, given.validated_data["code"])})


class TurnOffView(_SecondFactor):
    """Turning it off."""

    @extend_schema(operation_id="second_factor_turn_off", request=ProofSerializer, responses={204: None})
    def post(self, request: Request) -> Response:
        """With password and code. From now on the password is enough."""
        second_factor.turn_off(prove_again(request))
        return Response(status=status.HTTP_204_NO_CONTENT)


class RecoveryCodesView(_SecondFactor):
    """The recovery codes."""

    @extend_schema(operation_id="second_factor_renew_codes", request=ProofSerializer, responses=RecoveryCodesSerializer)
    def post(self, request: Request) -> Response:
        """New ones in place of those there are, with password and code."""
        return Response({"recovery_codes": second_factor.renew_recovery_codes(prove_again(request))})
