"""Do the figures tie, and what needs a person."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import timedelta
from typing import Any

from django.db.models import Min
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.core.proof import SheetRow
from inkwell_bridge.service import clock
from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.api.not_here import not_here
from inkwell_bridge.service.api.read_only import ReadOnlySerializer
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.bridges.naming import named
from inkwell_bridge.service.carriage.amounts_api import AmountField
from inkwell_bridge.service.carriage.models import Run
from inkwell_bridge.service.carriage.runs_api import RunSerializer
from inkwell_bridge.service.connections.models import Connection, ConnectionState
from inkwell_bridge.service.people.models import Company
from inkwell_bridge.service.tieout import behind, sheet, waiting
from inkwell_bridge.service.tieout.accounts import named as named_accounts
from inkwell_bridge.service.tieout.behind import Wanted
from inkwell_bridge.service.tieout.paid_out import paid_out
from inkwell_bridge.service.tieout.scope import Scope
from inkwell_bridge.service.tieout.serializers import (
    BehindRequestSerializer,
    BehindSerializer,
    DifferingSerializer,
    PaidOutSerializer,
    PeriodRequestSerializer,
    SheetRowSerializer,
    TieOutSerializer,
)

# A year, and the month before and after it.
MOST_DAYS = timedelta(days=427)


def _scope(view: InWorkspace, query: Any) -> Scope:
    """The period and the bridges that a call asks for.

    Raises:
        ValidationError: a day is none, the last lies before the first, or there is no such bridge or company.
    """
    given = PeriodRequestSerializer(data=query)
    given.is_valid(raise_exception=True)
    asked = given.validated_data
    if asked["bridge"]:
        named(view.workspace.pk, asked["bridge"])
    companies = Company.objects.filter(workspace=view.workspace)
    if asked["company"] and not companies.filter(slug=asked["company"]).exists():
        raise serializers.ValidationError({"company": [not_here("company", asked["company"], companies)]})
    return Scope(view.workspace, **{name: asked[name] for name in ("first", "last", "bridge", "company")})


class TieOutView(InWorkspace):
    """Both sides of a period."""

    @extend_schema(operation_id="tie_out_read", parameters=[PeriodRequestSerializer], responses=TieOutSerializer)
    def get(self, request: Request, workspace: str) -> Response:
        """The sheet: sales, refunds and both together, by tax code, by account of the books and by tender; each
        difference by its reasons."""
        scope = _scope(self, request.query_params.dict())
        tables = sheet.whole(scope)
        found = {
            "first": scope.first, "last": scope.last, "rows": tables.headline, "tax_codes": tables.tax_codes,
            "accounts": named_accounts(tables.accounts, self.workspace), "tenders": tables.tenders,
        }  # fmt: skip
        return Response(TieOutSerializer(found | _verdict([row for table in tables for row in table], scope)).data)


def _verdict(rows: Sequence[SheetRow], scope: Scope) -> dict[str, Any]:
    differing = sheet.differing(scope)
    return {
        "ties": all(row.ties for row in rows) and not differing,
        "differing": [{"reason": reason.value, "documents": number} for reason, number in differing],
    }


class TieOutDaysView(InWorkspace):
    """Both sides of a period, day by day."""

    @extend_schema(
        operation_id="tie_out_days", parameters=[PeriodRequestSerializer], responses=SheetRowSerializer(many=True)
    )
    def get(self, request: Request, workspace: str) -> Response:
        """The rows of sales, refunds and both together for each day on which anything stands on a side; of 427 days at
        most."""
        scope = _scope(self, request.query_params.dict())
        if scope.last - scope.first > MOST_DAYS:
            raise serializers.ValidationError({"last": [f"Day by day at most {MOST_DAYS.days} days are told at once."]})
        return Response(SheetRowSerializer(sheet.headline(scope, "day"), many=True).data)


class TieOutBridgesView(InWorkspace):
    """Both sides of a period, bridge by bridge."""

    @extend_schema(
        operation_id="tie_out_bridges", parameters=[PeriodRequestSerializer], responses=SheetRowSerializer(many=True)
    )
    def get(self, request: Request, workspace: str) -> Response:
        """The rows of sales, refunds and both together for each bridge."""
        rows = sheet.headline(_scope(self, request.query_params.dict()), "bridge")
        return Response(SheetRowSerializer(rows, many=True).data)


class TieOutPayoutsView(InWorkspace):
    """What was paid out in a period."""

    @extend_schema(
        operation_id="tie_out_payouts", parameters=[PeriodRequestSerializer], responses=PaidOutSerializer(many=True)
    )
    def get(self, request: Request, workspace: str) -> Response:
        """Charges, fees and whatever else providers took or gave, kind by kind, and what they paid out: as they tell
        it, and as the journals of their payouts stand in the books."""
        found = paid_out(_scope(self, request.query_params.dict()))
        rows = [{**row._asdict(), "difference": row.difference} for row in found]
        return Response(PaidOutSerializer(rows, many=True).data)


class TieOutDocumentsView(InWorkspace):
    """The source documents behind an amount of the sheet."""

    @extend_schema(
        operation_id="tie_out_documents", parameters=[PeriodRequestSerializer, BehindRequestSerializer],
        responses=BehindSerializer,
    )  # fmt: skip
    def get(self, request: Request, workspace: str) -> Response:
        """Each document with what it has on both sides, and between them; those with the smallest number first.

        With a ``reason``, those whose difference it accounts for alone; pages lead on ``after`` the last one.
        """
        query = request.query_params.dict()
        scope = _scope(self, query)
        given = BehindRequestSerializer(data=query)
        given.is_valid(raise_exception=True)
        rows, more = behind.documents(scope, Wanted(**given.validated_data))
        return Response(BehindSerializer({"documents": rows, "after": rows[-1].crossing.pk if more else None}).data)


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


class DayTiesSerializer(serializers.Serializer[Any]):
    """Whether both sides of a day tie, over one bridge."""

    day = serializers.DateField()
    ties = serializers.BooleanField()


class BridgeTodaySerializer(serializers.Serializer[Any]):
    """A bridge, its last run, when it runs next by itself, and which days of the month tie; of days on which nothing
    stands on a side nothing is told."""

    slug = serializers.CharField()
    name = serializers.CharField()
    time_zone = serializers.CharField()
    next_at = serializers.DateTimeField(allow_null=True)
    last_run = RunSerializer(allow_null=True)
    days = DayTiesSerializer(many=True)


class TodaySerializer(serializers.Serializer[Any]):
    """What needs a person now, and whether the figures of the month tie."""

    now = serializers.DateTimeField()
    holds = HoldSerializer(many=True)
    troubled = TroubledSerializer(many=True)
    bridges = BridgeTodaySerializer(many=True)
    first = serializers.DateField(help_text="Of the month that the rows are of.")
    last = serializers.DateField()
    ties = serializers.BooleanField()
    differing = DifferingSerializer(many=True)
    rows = SheetRowSerializer(many=True)


class TodayView(InWorkspace):
    """The first page of a day's work."""

    @extend_schema(operation_id="today_read", responses=TodaySerializer)
    def get(self, request: Request, workspace: str) -> Response:
        """What needs a person now, and whether the figures of the month tie."""
        scope = _scope(self, {})
        figures = list(sheet.figures_by(scope, "bridge", "day"))
        rows, days = sheet.headline_of(figures), sheet.open_days(figures)
        verdict = _verdict(rows, scope)
        # The rows are of sales and refunds; money or a tax code may be open all the same, as on the sheet itself.
        verdict["ties"] &= not any(is_open for of_bridge in days.values() for is_open in of_bridge.values())
        quiet = (ConnectionState.NEW, ConnectionState.CONNECTED)
        troubled = Connection.current.filter(workspace=self.workspace).exclude(state__in=quiet)
        return Response(
            {
                "now": clock.now(),
                "holds": HoldSerializer(waiting.holds(self.workspace), many=True).data,
                "troubled": TroubledSerializer(troubled.order_by("slug"), many=True).data,
                "bridges": self._bridges(days),
                "first": scope.first,
                "last": scope.last,
                "ties": verdict["ties"],
                "differing": verdict["differing"],
                "rows": SheetRowSerializer(rows, many=True).data,
            }
        )

    def _bridges(self, days: dict[str, dict[str, bool]]) -> list[dict[str, Any]]:
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
                "days": [
                    {"day": day, "ties": not is_open} for day, is_open in sorted(days.get(bridge.slug, {}).items())
                ],
            }
            for bridge in bridges
        ]
