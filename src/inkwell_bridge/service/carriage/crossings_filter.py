"""What a list of source documents can be narrowed to; each filter is answered by an index, of however many rows."""

from __future__ import annotations

from typing import Any

import django_filters
from django.db.models import Exists, OuterRef, Q, QuerySet

from inkwell_bridge.service.carriage.models import MOMENT_OR_FIRST, Crossing, DocumentSource, RunEntry
from inkwell_bridge.service.carriage.states import CrossingState, EntryOutcome

TRIGRAM = 3
# A search is for something common where so many of the newest have it.
LOOKED_AT, COMMON = 1000, 25


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
    search = django_filters.CharFilter(
        method="found", label="Part of either side's number; of fewer than three characters, its beginning"
    )

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
        """Those whose number, on either side, has that in it.

        What many have is found by going down the list; what few have by the indexes of both numbers. Either way is
        slow for the other: a million matches are a lot to sort, and a list of a million is long to go down for nothing.
        Trigrams know no text of fewer than three characters, but the beginning of one.
        """
        here = {"workspace__slug": self.request.parser_context["kwargs"]["workspace"] if self.request else ""}
        has = "istartswith" if len(value) < TRIGRAM else "icontains"
        ours = Q(**{f"number__{has}": value})
        shares = DocumentSource.objects.filter(**{f"document__books_number__{has}": value})
        either = ours | Exists(shares.filter(crossing=OuterRef("pk")))
        newest = Crossing.objects.filter(**here).order_by(MOMENT_OR_FIRST.desc(), "-pk").values("pk")[:LOOKED_AT]
        if Crossing.objects.filter(either, pk__in=newest)[:COMMON].count() == COMMON:
            return rows.filter(either)
        matches = Crossing.objects.filter(ours, **here).values("pk")
        return rows.filter(pk__in=matches.union(shares.filter(**here).values("crossing"), all=True))
