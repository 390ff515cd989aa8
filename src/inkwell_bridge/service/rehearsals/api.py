"""Rehearsals: asked for, followed, cancelled, and what they came to."""

from __future__ import annotations

from typing import Any

from django.db.models import QuerySet
from drf_spectacular.utils import extend_schema, extend_schema_field
from rest_framework import generics, serializers, status
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.core.planner import Outcome
from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.api.period import PeriodSerializer
from inkwell_bridge.service.api.read_only import ReadOnlySerializer
from inkwell_bridge.service.bridges.api import OneBridge
from inkwell_bridge.service.bridges.rules import in_force, newest_version
from inkwell_bridge.service.people.roles import Role
from inkwell_bridge.service.rehearsals import asking
from inkwell_bridge.service.rehearsals.models import Rehearsal


class OutcomeCountSerializer(serializers.Serializer[Any]):
    """So many documents with one outcome before, and this one after."""

    before = serializers.ChoiceField(choices=[one.value for one in Outcome])
    after = serializers.ChoiceField(choices=[one.value for one in Outcome])
    count = serializers.IntegerField()


class TotalChangeSerializer(serializers.Serializer[Any]):
    """What documents come to under one account, money account, tax code or value of a dimension; ``before`` and
    ``after`` are net, or what moved."""

    of = serializers.CharField()
    code = serializers.CharField()
    currency = serializers.CharField()
    before = serializers.CharField()
    after = serializers.CharField()
    tax_before = serializers.CharField()
    tax_after = serializers.CharField()


class FindingCountSerializer(serializers.Serializer[Any]):
    """A finding that comes or goes, and on how many documents."""

    id = serializers.CharField()
    level = serializers.CharField()
    came = serializers.IntegerField()
    went = serializers.IntegerField()
    text = serializers.CharField()


class OddOneSerializer(serializers.Serializer[Any]):
    """An order that stands for others: for what, and how many share it."""

    number = serializers.CharField()
    why = serializers.CharField()
    orders = serializers.IntegerField()


class ConditionHitsSerializer(serializers.Serializer[Any]):
    """An expression of a condition, the orders that it is true of, and those for which it came to nothing."""

    expression = serializers.CharField()
    orders = serializers.IntegerField()
    unclear = serializers.IntegerField()


class RehearsalHeadSerializer(ReadOnlySerializer[Rehearsal]):
    """How far a rehearsal is. ``since`` is the version that it compares with; none where coverage alone was asked."""

    bridge = serializers.CharField(source="bridge.slug", read_only=True)
    rulebook = serializers.IntegerField(source="rulebook.number", read_only=True)
    since = serializers.IntegerField(source="since.number", default=None, read_only=True, allow_null=True)
    asked_by = serializers.CharField(source="asked_by.email", default="", read_only=True)

    class Meta:
        model = Rehearsal
        fields = ("id", "bridge", "rulebook", "since", "first", "last", "state", "asked_by", "asked_at", "ended_at",
                  "total", "done", "changed", "trouble")  # fmt: skip


class RehearsalSerializer(RehearsalHeadSerializer):
    """A rehearsal with what it came to; nothing of that before it has ended."""

    outcomes = serializers.SerializerMethodField()
    totals = serializers.SerializerMethodField()
    findings = serializers.SerializerMethodField()
    conditions = serializers.SerializerMethodField()
    odd_ones = serializers.SerializerMethodField()
    further = serializers.SerializerMethodField()

    class Meta(RehearsalHeadSerializer.Meta):
        fields = (
            *RehearsalHeadSerializer.Meta.fields,
            "outcomes",
            "totals",
            "findings",
            "conditions",
            "odd_ones",
            "further",
        )  # type: ignore[assignment]

    @extend_schema_field(OutcomeCountSerializer(many=True))
    def get_outcomes(self, rehearsal: Rehearsal) -> Any:
        """How many documents went from each outcome to each."""
        return rehearsal.result.get("outcomes", [])

    @extend_schema_field(TotalChangeSerializer(many=True))
    def get_totals(self, rehearsal: Rehearsal) -> Any:
        """Both sums of every account and code, those that differ first."""
        return rehearsal.result.get("totals", [])

    @extend_schema_field(FindingCountSerializer(many=True))
    def get_findings(self, rehearsal: Rehearsal) -> Any:
        """Those that come and go."""
        return rehearsal.result.get("findings", [])

    @extend_schema_field(ConditionHitsSerializer(many=True))
    def get_conditions(self, rehearsal: Rehearsal) -> Any:
        """How many orders each condition of the version is true of."""
        return rehearsal.result.get("conditions", [])

    @extend_schema_field(OddOneSerializer(many=True))
    def get_odd_ones(self, rehearsal: Rehearsal) -> Any:
        """One order of each kind that the rules treat differently, the rarest first."""
        return rehearsal.result.get("odd_ones", [])

    @extend_schema_field(serializers.DictField(child=serializers.IntegerField()))
    def get_further(self, rehearsal: Rehearsal) -> Any:
        """How often values were met that coverage does not list, by what they are: of each kind it keeps 2,000."""
        return rehearsal.result.get("further", {})


class RehearsalRequestSerializer(PeriodSerializer):
    """A version of the rules, and the documents to rehearse it on.

    Without ``rulebook`` the newest version, without ``since`` the one in force; with ``compare`` off nothing is
    compared, and coverage alone is asked for. Without days, the last whole month.
    """

    rulebook = serializers.IntegerField(required=False, min_value=1, max_value=10**6)
    since = serializers.IntegerField(required=False, min_value=1, max_value=10**6)
    compare = serializers.BooleanField(required=False, default=True)


# What orders hold can be megabytes, and only its own call asks for it.
_ROWS = Rehearsal.objects.select_related("bridge", "rulebook", "since", "asked_by").defer("coverage")


class RehearsalsView(OneBridge, generics.ListAPIView[Rehearsal]):
    """The rehearsals of a bridge, newest first; and asking for one."""

    serializer_class = RehearsalHeadSerializer
    needs = {"POST": Role.OPERATE}

    def get_queryset(self) -> QuerySet[Rehearsal]:
        """Of this bridge."""
        rows = self.own(_ROWS.defer("result"))
        return rows.filter(bridge=self.bridge()) if self.kwargs else rows

    @extend_schema(
        operation_id="rehearsals_ask", request=RehearsalRequestSerializer, responses={202: RehearsalSerializer}
    )
    def post(self, request: Request, workspace: str, bridge: str) -> Response:
        """Have past documents planned under a version of the rules, in the background; nothing is sent."""
        given = RehearsalRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        found, said = self.bridge(), given.validated_data
        rulebook = self.version(found, said.get("rulebook")) or newest_version(found)
        if rulebook is None:
            raise asking.CannotRehearse(f"{found.name} has no rulebook yet.")
        since = (self.version(found, said.get("since")) or in_force(found)) if said["compare"] else None
        rehearsal = asking.ask(
            found, self.person, rulebook=rulebook, since=since, first=said["first"], last=said["last"]
        )
        return Response(RehearsalSerializer(rehearsal).data, status=status.HTTP_202_ACCEPTED)


class OneRehearsal(InWorkspace):
    """A view about one rehearsal."""

    def rehearsal(self) -> Rehearsal:
        """The one named in the address."""
        rows = self.own(
            _ROWS.select_related("bridge__company", "bridge__source__workspace", "bridge__books__workspace")
        )
        found: Rehearsal = self.numbered(rows, "rehearsal", self.kwargs["number"])
        return found


class RehearsalView(OneRehearsal):
    """One rehearsal."""

    @extend_schema(operation_id="rehearsals_read", responses=RehearsalSerializer)
    def get(self, request: Request, workspace: str, number: int) -> Response:
        """How far it is, and what it came to."""
        return Response(RehearsalSerializer(self.rehearsal()).data)


class CancelRehearsalView(OneRehearsal):
    """Cancelling a rehearsal."""

    @extend_schema(operation_id="rehearsals_cancel", request=None, responses=RehearsalSerializer)
    def post(self, request: Request, workspace: str, number: int) -> Response:
        """End it after the documents that it is at; one that has ended stays as it is."""
        rehearsal = self.rehearsal()
        rehearsal.cancel()
        return Response(RehearsalSerializer(rehearsal).data)
