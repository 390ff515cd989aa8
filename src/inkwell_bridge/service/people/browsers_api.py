"""The browsers one is signed in with, and ending their sessions."""

from __future__ import annotations

from django.db.models import QuerySet
from django.utils import timezone
from drf_spectacular.utils import extend_schema
from rest_framework import generics, serializers, status
from rest_framework.exceptions import NotFound
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from inkwell_bridge.service.api.read_only import ReadOnlySerializer
from inkwell_bridge.service.people.browser_sessions import digest
from inkwell_bridge.service.people.models import BrowserSession
from inkwell_bridge.service.people.proving import OwnAccount


class BrowserSessionSerializer(ReadOnlySerializer[BrowserSession]):
    """A session: from where and with what it began. ``current``: the one that asks."""

    current = serializers.SerializerMethodField()
    ends_at = serializers.DateTimeField(source="expire_date", read_only=True)

    class Meta:
        model = BrowserSession
        fields = ("number", "started_at", "last_used_at", "ends_at", "address", "browser", "current")

    def get_current(self, row: BrowserSession) -> bool:
        """Whether it is the one that asks."""
        return bool(row.session_key == _current(self.context["request"]))


def _current(request: Request) -> str:
    return digest(request.session.session_key or "")


def _own(request: Request) -> QuerySet[BrowserSession]:
    return BrowserSession.objects.filter(person=request.user.pk, expire_date__gt=timezone.now())


class BrowserSessionsView(generics.ListAPIView[BrowserSession]):
    """The sessions of whoever asks."""

    permission_classes = (OwnAccount,)
    serializer_class = BrowserSessionSerializer
    sort = ("-last_used_at", "number")

    def get_queryset(self) -> QuerySet[BrowserSession]:
        """One's own, the last used first."""
        if getattr(self, "swagger_fake_view", False):
            return BrowserSession.objects.none()
        return _own(self.request)

    @extend_schema(operation_id="sessions_end_others", responses={204: None})
    def delete(self, request: Request) -> Response:
        """End all but the one that asks."""
        _own(request).exclude(session_key=_current(request)).delete()
        return Response(status=status.HTTP_204_NO_CONTENT)


class BrowserSessionView(APIView):
    """One session."""

    permission_classes = (OwnAccount,)

    @extend_schema(operation_id="sessions_end", responses={204: None})
    def delete(self, request: Request, number: int) -> Response:
        """End it: its browser has to sign in anew."""
        ended, _ = _own(request).filter(number=number).delete()
        if not ended:
            raise NotFound(f"You have no session {number}.")
        return Response(status=status.HTTP_204_NO_CONTENT)
