"""Do the figures tie, and what needs a person."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from django.db.models import Min
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.service import clock
from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.api.fields import of_our_time
from inkwell_bridge.service.api.read_only import ReadOnlySerializer
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.bridges.naming import named
from inkwell_bridge.service.carriage.amounts_api import AmountField, RunTotalsSerializer, SideTotalsSerializer
from inkwell_bridge.service.carriage.models import Run
from inkwell_bridge.service.carriage.runs_api import RunSerializer
from inkwell_bridge.service.connections.models import Connection, ConnectionState
from inkwell_bridge.service.tieout import breakdown, period


class PeriodSerializer(RunTotalsSerializer):
    """Both sides of a period in one currency, with every difference named; ``unexplained`` should be zero.

    ``held``, ``waiting`` and ``left_out`` are what the source says of such documents less what the books have of them
    already; ``kept`` the same of those that a person let stand as they were posted, ``accepted`` of those whose
    difference in the books a person accepted. ``cut_off`` is what both sides have
    on days of different periods, ``tax_lines`` what is tax to the buyer and stands on a line of its own in the books,
    ``rounding`` what the penny rules settled and the taxes that the books computed otherwise for the same code.
    """

    left_out = SideTotalsSerializer()
    adopted = SideTotalsSerializer()
    held = SideTotalsSerializer()
    kept = SideTotalsSerializer()
    accepted = SideTotalsSerializer()
    waiting = SideTotalsSerializer()
    cut_off = SideTotalsSerializer()
    tax_lines = SideTotalsSerializer()
    rounding = SideTotalsSerializer()
    unexplained = SideTotalsSerializer()


class PeriodRequestSerializer(serializers.Serializer[Any]):
    """A period, by the company's own dates; without one, the current month."""

    first = serializers.DateField(required=False, validators=[of_our_time])
    last = serializers.DateField(required=False, validators=[of_our_time])
    bridge = serializers.SlugField(required=False, default="")

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """The current month where nothing is said, and its days in order."""
        today = clock.now().date()
        attrs.setdefault("first", today.replace(day=1))
        attrs.setdefault(
            "last", (attrs["first"].replace(day=28) + timedelta(days=4)).replace(day=1) - timedelta(days=1)
        )
        if attrs["first"] > attrs["last"]:
            raise serializers.ValidationError({"last": ["The last day lies before the first."]})
        return attrs


class TieOutSerializer(serializers.Serializer[Any]):
    """A period and its totals, by currency."""

    first = serializers.DateField()
    last = serializers.DateField()
    totals = PeriodSerializer(many=True)


class TaxCodeSerializer(serializers.Serializer[Any]):
    """The lines of one tax code: as the rules code the source's amounts, as the books hold them, and the difference.

    ``rounding`` is the part of it that has a name; ``unexplained`` should be zero. Credit notes count against."""

    currency = serializers.CharField()
    tax_code = serializers.CharField()
    source = SideTotalsSerializer()
    books = SideTotalsSerializer()
    difference = SideTotalsSerializer()
    rounding = SideTotalsSerializer()
    unexplained = SideTotalsSerializer()


class TenderSerializer(serializers.Serializer[Any]):
    """The money of one tender: at the sales side, what of it never comes as money, in the books, and the difference.

    What went back counts against."""

    currency = serializers.CharField()
    tender = serializers.CharField()
    count = serializers.IntegerField()
    source = AmountField()
    aside = AmountField()
    books = AmountField()
    difference = AmountField()


class TieOutInFullSerializer(TieOutSerializer):
    """A period and its totals, by currency, tax code and tender."""

    tax_codes = TaxCodeSerializer(many=True)
    tenders = TenderSerializer(many=True)


def _tie_out(view: InWorkspace, query: Any) -> dict[str, Any]:
    given = PeriodRequestSerializer(data=query)
    given.is_valid(raise_exception=True)
    asked = given.validated_data
    if asked["bridge"]:
        named(view.workspace.pk, asked["bridge"])
    found = period.of_period(view.workspace, asked["first"], asked["last"], bridge=asked["bridge"])
    return {"first": asked["first"], "last": asked["last"], "totals": found}


class TieOutView(InWorkspace):
    """Both sides of a period."""

    @extend_schema(operation_id="tie_out_read", parameters=[PeriodRequestSerializer], responses=TieOutInFullSerializer)
    def get(self, request: Request, workspace: str) -> Response:
        """Count, net, tax and gross on both sides, and the difference by name; by tax code and tender besides."""
        found = _tie_out(self, request.query_params.dict())
        of_period = (self.workspace, found["first"], found["last"])
        bridge = str(request.query_params.get("bridge", ""))
        found["tax_codes"] = breakdown.by_tax_code(*of_period, bridge=bridge)
        found["tenders"] = breakdown.by_tender(*of_period, bridge=bridge)
        return Response(TieOutInFullSerializer(found).data)


class HoldSerializer(serializers.Serializer[Any]):
    """A cause, and how many documents and how much money wait behind it."""

    cause = serializers.CharField()
    currency = serializers.CharField()
    count = serializers.IntegerField()
    gross = AmountField()


class TroubledSerializer(ReadOnlySerializer[Connection]):
    """An end that does not answer as it should."""

    class Meta:
        model = Connection
        fields = ("slug", "name", "state", "state_text", "checked_at")


class BridgeTodaySerializer(serializers.Serializer[Any]):
    """A bridge, its last run, and when it runs next by itself."""

    slug = serializers.CharField()
    name = serializers.CharField()
    time_zone = serializers.CharField()
    next_at = serializers.DateTimeField(allow_null=True)
    last_run = RunSerializer(allow_null=True)


class TodaySerializer(serializers.Serializer[Any]):
    """What needs a person now, and whether the figures of the month tie."""

    now = serializers.DateTimeField()
    holds = HoldSerializer(many=True)
    troubled = TroubledSerializer(many=True)
    bridges = BridgeTodaySerializer(many=True)
    tie_out = TieOutSerializer()


class TodayView(InWorkspace):
    """The first page of a day's work."""

    @extend_schema(operation_id="today_read", responses=TodaySerializer)
    def get(self, request: Request, workspace: str) -> Response:
        """What needs a person now, and whether the figures of the month tie."""
        quiet = (ConnectionState.NEW, ConnectionState.CONNECTED)
        troubled = Connection.current.filter(workspace=self.workspace).exclude(state__in=quiet)
        return Response(
            {
                "now": clock.now(),
                "holds": HoldSerializer(period.holds(self.workspace), many=True).data,
                "troubled": TroubledSerializer(troubled.order_by("slug"), many=True).data,
                "bridges": self._bridges(),
                "tie_out": TieOutSerializer(_tie_out(self, {})).data,
            }
        )

    def _bridges(self) -> list[dict[str, Any]]:
        bridges = list(
            Bridge.current.filter(workspace=self.workspace)
            .select_related("company")
            .annotate(next_at=Min("timetables__next_at"))
            .order_by("slug")
        )
        newest = list(
            Run.objects.filter(workspace=self.workspace)
            .select_related("bridge", "started_by")
            .order_by("bridge_id", "-id")
            .distinct("bridge_id")
        )
        serialized = RunSerializer(newest, many=True).data
        last = {run.bridge_id: data for run, data in zip(newest, serialized, strict=True)}
        return [
            {
                "slug": bridge.slug,
                "name": bridge.name,
                "time_zone": bridge.company.time_zone,
                "next_at": bridge.next_at,
                "last_run": last.get(bridge.pk),
            }
            for bridge in bridges
        ]
