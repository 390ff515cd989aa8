"""Trials: one order carried for real as drafts, and their ends."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers, status
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.api.fields import Strict
from inkwell_bridge.service.bridges.api import OneBridge
from inkwell_bridge.service.carriage import trials
from inkwell_bridge.service.carriage.crossings_api import CrossingSerializer
from inkwell_bridge.service.carriage.models import Crossing
from inkwell_bridge.service.carriage.runs_api import RunSerializer
from inkwell_bridge.service.people.roles import Role


class TrialRequestSerializer(Strict):
    """The order's number as people know it; the version to send it under, else the one in force, or the newest."""

    number = serializers.CharField(max_length=120)
    rulebook = serializers.IntegerField(required=False, min_value=1, max_value=10**6)


class TrialsView(OneBridge):
    """Carrying one order on trial."""

    needs = {"POST": Role.OPERATE}

    @extend_schema(operation_id="trials_start", request=TrialRequestSerializer, responses={201: RunSerializer})
    def post(self, request: Request, workspace: str, bridge: str) -> Response:
        """Make its documents in the books as drafts, read them back and prove them; nothing is posted."""
        given = TrialRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        found, number = self.bridge(), given.validated_data.get("rulebook")
        version = self.version_to_try(found, number)
        run = trials.start(found, self.person, given.validated_data["number"], version)
        return Response(RunSerializer(run).data, status=status.HTTP_201_CREATED)


class OneTrial(InWorkspace):
    """A view about an order on trial."""

    needs = {"POST": Role.OPERATE}

    def crossing(self, number: int) -> Crossing:
        """The one named in the address."""
        rows = self.own(Crossing.objects.select_related("bridge__company", "bridge__workspace", "bridge__books"))
        found: Crossing = self.numbered(rows, "document", number)
        return found

    def shown(self, crossing: Crossing) -> dict[str, Any]:
        """As a list shows it."""
        said: dict[str, Any] = CrossingSerializer(self.crossing(crossing.pk)).data
        return said


class TakeBackView(OneTrial):
    """Taking back what a trial left in the books."""

    @extend_schema(operation_id="trials_take_back", request=None, responses=CrossingSerializer)
    def post(self, request: Request, workspace: str, crossing: int) -> Response:
        """Have its drafts voided there, in the background; then it is left out until a run comes to it."""
        return Response(self.shown(trials.take_back(self.crossing(crossing), self.person)))


class CarryForGoodView(OneTrial):
    """Carrying an order that was on trial."""

    @extend_schema(operation_id="trials_carry", request=None, responses=CrossingSerializer)
    def post(self, request: Request, workspace: str, crossing: int) -> Response:
        """Let it go like any other, under the rules in force: what stands there as a draft is posted."""
        return Response(self.shown(trials.carry_for_good(self.crossing(crossing), self.person)))
