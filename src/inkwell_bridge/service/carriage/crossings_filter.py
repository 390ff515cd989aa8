"""What a list of source documents can be narrowed to; each filter is answered by an index, of however many rows."""

from __future__ import annotations

from typing import Any

import django_filters
from django.db.models import Exists, OuterRef, QuerySet

from inkwell_bridge.service.carriage.models import Crossing, DocumentSource, RunEntry
from inkwell_bridge.service.carriage.states import CrossingState, EntryOutcome


class CrossingFilter(django_filters.FilterSet):
    """What a list of crossings can be narrowed to."""

    bridge = django_filters.CharFilter("bridge__slug")
    state = django_filters.MultipleChoiceFilter(choices=CrossingState.choices)
    cause = django_filters.CharFilter()
    run = django_filters.NumberFilter(method="with_run")
    outcome = django_filters.ChoiceFilter(choices=EntryOutcome.choices, method="with_outcome")
    placed_from = django_filters.DateFilter("business_date", "gte")
    placed_to = django_filters.DateFilter("business_date", "lte")
    differing = django_filters.BooleanFilter(method="with_difference", label="Only where the penny was settled")
    search = django_filters.CharFilter(method="found", label="Part of either side's number")

    class Meta:
        model = Crossing
        fields: list[str] = []

    def with_run(self, rows: QuerySet[Crossing], _: str, value: Any) -> QuerySet[Crossing]:
        """Those that a run had to do with."""
        return rows.filter(Exists(RunEntry.objects.filter(crossing=OuterRef("pk"), run=value)))

    def with_outcome(self, rows: QuerySet[Crossing], _: str, value: str) -> QuerySet[Crossing]:
        """Those that came to an outcome in the run named beside it."""
        entries = RunEntry.objects.filter(crossing=OuterRef("pk"), outcome=value)
        run = self.data.get("run")
        return rows.filter(Exists(entries.filter(run=run) if run and str(run).isdigit() else entries))

    def with_difference(self, rows: QuerySet[Crossing], _: str, value: bool) -> QuerySet[Crossing]:
        """Those where the books computed another total, or those where they did not."""
        shares = DocumentSource.objects.filter(crossing=OuterRef("pk"), document__difference__isnull=False)
        differing = Exists(shares.exclude(document__difference=0))
        return rows.filter(differing) if value else rows.filter(~differing)

    def found(self, rows: QuerySet[Crossing], _: str, value: str) -> QuerySet[Crossing]:
        """Those whose number, on either side, has that in it; each side is looked up by its own index."""
        ours = Crossing.objects.filter(number__icontains=value).values("pk")
        theirs = DocumentSource.objects.filter(document__books_number__icontains=value).values("crossing")
        workspace = self.request.parser_context["kwargs"]["workspace"] if self.request else ""
        here = {"workspace__slug": workspace}
        return rows.filter(pk__in=ours.filter(**here).union(theirs.filter(**here), all=True))
