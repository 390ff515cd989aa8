"""Erasing what tells of one buyer."""

from __future__ import annotations

from typing import Any

from django.db.models import QuerySet
from drf_spectacular.utils import extend_schema
from rest_framework import generics, serializers, status
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.api.read_only import ReadOnlySerializer
from inkwell_bridge.service.carriage import erasing
from inkwell_bridge.service.carriage.models import Erasure
from inkwell_bridge.service.people.roles import Role


class ErasureRequestSerializer(serializers.Serializer[Any]):
    """The e-mail of the buyer."""

    email = serializers.EmailField(max_length=320)


class ErasureSerializer(ReadOnlySerializer[Erasure]):
    """How far an erasure is: what was gone over, what was erased, and the numbers of what has not crossed yet and
    therefore keeps its buyer."""

    asked_by = serializers.CharField(source="asked_by.email", read_only=True)
    kept = serializers.ListField(child=serializers.CharField(), read_only=True)

    class Meta:
        model = Erasure
        fields = ("id", "asked_by", "asked_at", "ended_at", "looked_at", "snapshots", "names", "kept")


class ErasuresView(InWorkspace, generics.ListAPIView[Erasure]):
    """All erasures, newest first; and asking for one."""

    serializer_class = ErasureSerializer
    needs = {"POST": Role.OWN}

    def get_queryset(self) -> QuerySet[Erasure]:
        """Of this workspace."""
        return self.own(Erasure.objects.select_related("asked_by"))

    @extend_schema(operation_id="erasures_ask", request=ErasureRequestSerializer, responses={202: ErasureSerializer})
    def post(self, request: Request, workspace: str) -> Response:
        """Erase all that tells of the buyer with that e-mail, in the background; figures and history stay."""
        given = ErasureRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        asked = erasing.ask(self.workspace, self.person, given.validated_data["email"])
        return Response(ErasureSerializer(asked).data, status=status.HTTP_202_ACCEPTED)


class ErasureView(InWorkspace):
    """One erasure."""

    @extend_schema(operation_id="erasures_read", responses=ErasureSerializer)
    def get(self, request: Request, workspace: str, number: int) -> Response:
        """How far it is."""
        found = self.numbered(self.own(Erasure.objects.select_related("asked_by")), "erasure", number)
        return Response(ErasureSerializer(found).data)
