"""Going to the provider of identities and coming back."""

from __future__ import annotations

from typing import Any

from django.contrib.auth import login
from django.http import HttpResponse, HttpResponseRedirect
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.authentication import SessionAuthentication
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.throttling import ScopedRateThrottle
from rest_framework.views import APIView

from inkwell_bridge.service.api.outward import asks_outside
from inkwell_bridge.service.people import openid
from inkwell_bridge.service.people.browser_sessions import note_origin
from inkwell_bridge.service.refusal import Refusal

BACK = "/api/v1/session/openid/back"
BACKEND = "django.contrib.auth.backends.ModelBackend"
LONGEST = 4_000


class OpenIdBeginSerializer(serializers.Serializer[Any]):
    """``invitation``: what stands behind the # of an invitation's link, where one is taken up by it."""

    invitation = serializers.CharField(required=False, allow_blank=True, default="", max_length=200)


class ProviderPageSerializer(serializers.Serializer[Any]):
    """Where the browser goes on."""

    page = serializers.CharField()


class BeginView(APIView):
    """Beginning to sign in through the provider."""

    permission_classes = (AllowAny,)
    throttle_classes = (ScopedRateThrottle,)
    throttle_scope = "sign-in"

    @extend_schema(operation_id="session_openid_begin", request=OpenIdBeginSerializer, responses=ProviderPageSerializer)
    @asks_outside
    def post(self, request: Request) -> Response:
        """The provider's page; who comes back from it is signed in."""
        SessionAuthentication().enforce_csrf(request)
        given = OpenIdBeginSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        return Response(
            {"page": openid.begin(request.session, request.build_absolute_uri(BACK), **given.validated_data)}
        )


class BackView(APIView):
    """Coming back from the provider."""

    permission_classes = (AllowAny,)
    throttle_classes = (ScopedRateThrottle,)
    throttle_scope = "sign-in"

    @extend_schema(exclude=True)
    def get(self, request: Request) -> HttpResponse:
        """Sign in and go on to the console; where that fails, its first page says why."""
        state, code, error = (request.query_params.get(name, "")[:LONGEST] for name in ("state", "code", "error"))
        try:
            person = asks_outside(openid.finish)(request.session, state=state, code=code, error=error)
        except Refusal as refused:
            return HttpResponseRedirect(f"/?refused={refused.code}")
        note_origin(request)
        login(request._request, person, backend=BACKEND)
        return HttpResponseRedirect("/")
