"""What a list of source documents can be narrowed to; each filter is answered by an index, of however many rows."""

from __future__ import annotations

from datetime import UTC, date, datetime, time, timedelta
from typing import Any

import django_filters
from django.db.models import Exists, OuterRef, Q, QuerySet, Subquery
from rest_framework.exceptions import ValidationError

from inkwell_bridge.core.findings import Cause
from inkwell_bridge.service.api.fields import of_our_time
from inkwell_bridge.service.bridges.naming import named
from inkwell_bridge.service.carriage.kinds import all_kinds
from inkwell_bridge.service.carriage.models import MOMENT_OR_FIRST, Crossing, Document, DocumentSource, RunEntry
from inkwell_bridge.service.carriage.states import CrossingState, EntryOutcome

TRIGRAM = 3
# A search is for something common where so many of the newest have it.
LOOKED_AT, COMMON = 1000, 25
MOST_FOUND = 5000
# How far a business day, on a company's clocks, may lie from the same day in UTC: the list is in the order of moments,
# and goes straight to them.
CLOCKS = timedelta(hours=15)


def workspace_of(filters: django_filters.FilterSet) -> int:
    """The key of the workspace that is looked at. Every index begins with it: by its name, PostgreSQL would not know
    which part of one to read."""
    return int(filters.request.parser_context["view"].workspace.pk)


class CrossingFilter(django_filters.FilterSet):
    """What a list of crossings can be narrowed to."""

    bridge = django_filters.CharFilter(method="over_bridge")
    kind = django_filters.CharFilter(method="of_kind", label="Only of this kind, such as payouts")
    state = django_filters.MultipleChoiceFilter(choices=CrossingState.choices)
    cause = django_filters.ChoiceFilter(choices=[(str(cause), str(cause)) for cause in Cause])
    run = django_filters.NumberFilter(method="with_run")
    outcome = django_filters.ChoiceFilter(choices=EntryOutcome.choices, method="with_outcome")
    placed_from = django_filters.DateFilter("business_date", method="from_day", validators=[of_our_time])
    placed_to = django_filters.DateFilter("business_date", method="to_day", validators=[of_our_time])
    differing = django_filters.BooleanFilter(method="with_difference", label="Only where the penny was settled")
    search = django_filters.CharFilter(
        method="found", label="Part of either side's number; of fewer than three characters, its beginning"
    )

    class Meta:
        model = Crossing
        fields: list[str] = []

    def over_bridge(self, rows: QuerySet[Crossing], _: str, value: str) -> QuerySet[Crossing]:
        """Those over a bridge that there is: of one that there is not, an empty list would say that all is well."""
        return rows.filter(bridge__in=named(workspace_of(self), value))

    def of_kind(self, rows: QuerySet[Crossing], _: str, value: str) -> QuerySet[Crossing]:
        """Those of a kind that there is."""
        if value not in all_kinds():
            raise ValidationError({"kind": [f"Expected one of {', '.join(all_kinds())}."]})
        return rows.filter(kind=value)

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
        here = {"workspace": workspace_of(self)}
        has = "istartswith" if len(value) < TRIGRAM else "icontains"
        ours = Q(**{f"number__{has}": value})
        shares = DocumentSource.objects.filter(**{f"document__books_number__{has}": value})
        if not _is_common(value, here, whole=len(value) >= TRIGRAM):
            matches = Crossing.objects.filter(ours, **here).values_list("pk", flat=True)
            theirs = shares.filter(**here).values_list("crossing", flat=True)
            keys = list(matches.union(theirs, all=True)[: MOST_FOUND + 1])
            if len(keys) <= MOST_FOUND:
                return rows.filter(pk__in=keys)
        # A scalar and no EXISTS: of that one PostgreSQL would make a table of all matches before the first row is read.
        share = shares.filter(crossing=OuterRef("pk")).values("pk")[:1]
        return rows.annotate(match=Subquery(share)).filter(ours | Q(match__isnull=False))

    def from_day(self, rows: QuerySet[Crossing], _: str, value: date) -> QuerySet[Crossing]:
        """Of that business day or later."""
        return rows.filter(business_date__gte=value, moment_or_first__gte=_midnight(value) - CLOCKS)

    def to_day(self, rows: QuerySet[Crossing], _: str, value: date) -> QuerySet[Crossing]:
        """Of that business day or earlier."""
        return rows.filter(business_date__lte=value, moment_or_first__lt=_midnight(value) + timedelta(days=1) + CLOCKS)


def _midnight(day: date) -> datetime:
    return datetime.combine(day, time(), tzinfo=UTC)


def _is_common(value: str, here: dict[str, int], *, whole: bool) -> bool:
    """Whether many of the newest have it, on either side; two short looks at indexes."""
    newest = Crossing.objects.filter(**here).order_by(MOMENT_OR_FIRST.desc(), "-pk").values_list("number", flat=True)
    posted = Document.objects.filter(**here).order_by("-pk").values_list("books_number", flat=True)
    wanted = value.upper()
    for numbers in (newest[:LOOKED_AT], posted[:LOOKED_AT]):
        found = sum(wanted in number.upper() if whole else number.upper().startswith(wanted) for number in numbers)
        if found >= COMMON:
            return True
    return False
