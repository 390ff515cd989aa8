"""Runs: started, followed, stopped."""

from __future__ import annotations

from typing import Any

import django_filters
from django.db.models import QuerySet
from drf_spectacular.utils import extend_schema, extend_schema_field
from rest_framework import generics, serializers, status
from rest_framework.request import Request
from rest_framework.response import Response

from inkwell_bridge.service.api.access import InWorkspace
from inkwell_bridge.service.api.fields import Strict, of_our_time
from inkwell_bridge.service.api.read_only import ReadOnlySerializer
from inkwell_bridge.service.bridges.api import OneBridge
from inkwell_bridge.service.bridges.lanes import lane_names
from inkwell_bridge.service.bridges.naming import named
from inkwell_bridge.service.carriage import runs, totals
from inkwell_bridge.service.carriage.amounts_api import RunTotalsSerializer
from inkwell_bridge.service.carriage.crossings_filter import workspace_of
from inkwell_bridge.service.carriage.models import Run
from inkwell_bridge.service.carriage.states import EntryOutcome, RunState


class CountsSerializer(serializers.Serializer[Any]):
    """How many documents a run read, and how many came to what."""

    read = serializers.IntegerField()
    pending = serializers.IntegerField()
    unchanged = serializers.IntegerField()
    waiting = serializers.IntegerField()
    carried = serializers.IntegerField()
    held = serializers.IntegerField()
    differs = serializers.IntegerField()
    left_out = serializers.IntegerField()
    adopted = serializers.IntegerField()


class RunSerializer(ReadOnlySerializer[Run]):
    """A run; ``counts`` move while it is under way."""

    bridge = serializers.CharField(source="bridge.slug", read_only=True)
    started_by = serializers.CharField(source="started_by.email", default="", read_only=True)
    counts = serializers.SerializerMethodField()
    numbers = serializers.ListField(child=serializers.CharField(), read_only=True)
    lanes = serializers.ListField(child=serializers.CharField(), read_only=True)
    outcomes = serializers.ListField(child=serializers.CharField(), read_only=True)

    class Meta:
        model = Run
        fields = (
            "id",
            "bridge",
            "purpose",
            "state",
            "started_by",
            "by_timetable",
            "numbers",
            "lanes",
            "first_day",
            "last_day",
            "again",
            "outcomes",
            "started_at",
            "ended_at",
            "trouble",
            "counts",
        )

    @extend_schema_field(CountsSerializer)
    def get_counts(self, run: Run) -> dict[str, int]:
        """Counted at once for all runs of a page."""
        root = self.root
        if not hasattr(root, "_counts"):
            rows = root.instance if isinstance(root.instance, list) else [run]
            root._counts = runs.counts([row.pk for row in rows])  # type: ignore[attr-defined]
        return root._counts[run.pk]  # type: ignore[attr-defined, no-any-return]


class RunFilter(django_filters.FilterSet):
    """What a list of runs can be narrowed to."""

    bridge__slug = django_filters.CharFilter(method="over_bridge")
    state = django_filters.ChoiceFilter(choices=RunState.choices)

    class Meta:
        model = Run
        fields: list[str] = []

    def over_bridge(self, rows: QuerySet[Run], _: str, value: str) -> QuerySet[Run]:
        """Those of a bridge that there is."""
        return rows.filter(bridge__in=named(workspace_of(self), value))


class RunsView(InWorkspace, generics.ListAPIView[Run]):
    """All runs, newest first."""

    serializer_class = RunSerializer
    filterset_class = RunFilter

    def get_queryset(self) -> QuerySet[Run]:
        """Of this workspace."""
        return self.own(Run.objects.select_related("bridge", "started_by"))


class WaitsSerializer(serializers.Serializer[Any]):
    """An end that could not be asked, and when it is tried again."""

    text = serializers.CharField()
    next_try_at = serializers.DateTimeField()
    documents = serializers.IntegerField(help_text="How many wait with it; none while the run reads.")


class RunWithTotalsSerializer(RunSerializer):
    """One run, with both sides' totals of what it carried."""

    totals = serializers.SerializerMethodField()
    waits = serializers.SerializerMethodField(help_text="The end that it waits for; nothing where it goes on.")

    class Meta(RunSerializer.Meta):
        fields = (*RunSerializer.Meta.fields, "totals", "waits")  # type: ignore[assignment]

    @extend_schema_field(WaitsSerializer(allow_null=True))
    def get_waits(self, run: Run) -> Any:
        """Why, and until when."""
        found = runs.waits(run)
        return None if found is None else WaitsSerializer(found).data

    @extend_schema_field(RunTotalsSerializer(many=True))
    def get_totals(self, run: Run) -> Any:
        """Both sides, by currency."""
        return RunTotalsSerializer(totals.of_run(run), many=True).data


class RunView(InWorkspace):
    """One run."""

    @extend_schema(operation_id="runs_read", responses=RunWithTotalsSerializer)
    def get(self, request: Request, workspace: str, run: int) -> Response:
        """Its state, counts and totals, while it is under way as well as after."""
        found = self.numbered(self.own(Run.objects.select_related("bridge", "started_by")), "run", run)
        return Response(RunWithTotalsSerializer(found).data)


class RunRequestSerializer(Strict):
    """What to read: everything new, where nothing is said."""

    numbers = serializers.ListField(
        child=serializers.CharField(max_length=120), required=False, allow_empty=False, max_length=100,
        help_text="These orders alone, whatever lanes are on.",
    )  # fmt: skip
    lanes = serializers.ListField(
        child=serializers.CharField(max_length=30), required=False, allow_empty=False, max_length=30,
        help_text="These lanes alone, of those that are on.",
    )  # fmt: skip
    first_day = serializers.DateField(
        required=False, validators=[of_our_time],
        help_text="Only what is dated on this day or later. A lane that was never read begins there.",
    )  # fmt: skip
    last_day = serializers.DateField(
        required=False, validators=[of_our_time], help_text="Only what is dated on this day or before."
    )

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """Orders by their numbers need nothing besides, and days have an order."""
        if "numbers" in attrs and len(attrs) > 1:
            raise serializers.ValidationError("Expected numbers, or lanes and days, and not both.")
        first, last = attrs.get("first_day"), attrs.get("last_day")
        if first and last and last < first:
            raise serializers.ValidationError({"last_day": [f"Expected {first} or later."]})
        return attrs

    def validate_lanes(self, named: list[str]) -> list[str]:
        """Lanes that there are."""
        for unknown in sorted(set(named) - set(lane_names())):
            raise serializers.ValidationError(f"There is no lane {unknown!r}; there are {', '.join(lane_names())}.")
        return named


class RunAgainRequestSerializer(Strict):
    """What of a run to try again."""

    outcomes = serializers.MultipleChoiceField(
        choices=[EntryOutcome.HELD, EntryOutcome.DIFFERS, EntryOutcome.LEFT_OUT, EntryOutcome.WAITING,
                 EntryOutcome.CARRIED, EntryOutcome.ADOPTED],
        required=False, allow_empty=False, help_text="Without it, what is held or differs.",
    )  # fmt: skip


class RunAgainView(InWorkspace):
    """Some or all of a run, once more."""

    @extend_schema(operation_id="runs_again", request=RunAgainRequestSerializer, responses={201: RunSerializer})
    def post(self, request: Request, workspace: str, run: int) -> Response:
        """Read anew what came to these outcomes, let go what is held of it, and carry it; what stands is not posted
        again."""
        rows = Run.objects.select_related("bridge__workspace", "bridge__source", "bridge__books")
        found = self.numbered(self.own(rows), "run", run)
        given = RunAgainRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        outcomes = given.validated_data.get("outcomes") or (EntryOutcome.HELD, EntryOutcome.DIFFERS)
        chosen = runs.Choice(again=found, outcomes=[EntryOutcome(one) for one in sorted(outcomes)])
        started = runs.start(found.bridge, self.person, chosen)
        return Response(RunSerializer(started).data, status=status.HTTP_201_CREATED)


class StopView(InWorkspace):
    """Ending a run by a person's word."""

    @extend_schema(operation_id="runs_stop", request=None, responses=RunSerializer)
    def post(self, request: Request, workspace: str, run: int) -> Response:
        """Let the bridge start another; what this one has read is carried all the same."""
        found = self.numbered(self.own(Run.objects.select_related("bridge", "started_by", "workspace")), "run", run)
        return Response(RunSerializer(runs.stop(found, self.person)).data)


class StartRunView(OneBridge):
    """Starting a run."""

    @extend_schema(operation_id="runs_start", request=RunRequestSerializer, responses={201: RunSerializer})
    def post(self, request: Request, workspace: str, bridge: str) -> Response:
        """Read what is new and carry it; or only some lanes, some days, or the orders named."""
        given = RunRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        run = runs.start(self.bridge(), self.person, runs.Choice(**given.validated_data))
        return Response(RunSerializer(run).data, status=status.HTTP_201_CREATED)
