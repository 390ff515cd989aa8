"""What a check found lacking: kept until another check of the same days finds otherwise."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from datetime import date
from typing import Protocol, TypeVar

from django.db import transaction
from django.db.models import Model, QuerySet, Sum
from django.db.models.functions import Abs, Greatest

from inkwell_bridge.core.completeness import NumberGap, SumIn
from inkwell_bridge.core.proof import Reason
from inkwell_bridge.service.carriage.kinds.protocol import Kind
from inkwell_bridge.service.carriage.models import Crossing
from inkwell_bridge.service.completeness.models import CompletenessCheck, Lacking

_Row = TypeVar("_Row", bound=Model)
# Over a bridge that was removed nothing crosses any more.
_ROWS = Lacking.objects.filter(bridge__removed_at=None)


class OfPeriod(Protocol):
    """Days, and the bridges that are meant."""

    def of(self, rows: QuerySet[_Row]) -> QuerySet[_Row]:
        """Those of these rows that are in it."""


class Missed(Protocol):
    """A listed document that could not be fetched."""

    source_id: str
    number: str
    currency: str
    gross: object
    day: date


def keep(
    check: CompletenessCheck, kind: Kind, not_fetched: Iterable[Missed], counted: Sequence[SumIn],
    gaps: Sequence[NumberGap],
) -> None:  # fmt: skip
    """Let what is lacking of a kind on the days of a check be this, and nothing else. What was lacking before, and is
    so still, keeps its row."""
    wanted = {_name(row): row for row in _rows(check, kind, not_fetched, counted, gaps)}
    with transaction.atomic():
        of_days = Lacking.objects.filter(bridge=check.bridge, kind=kind.name, date__range=(check.first, check.last))
        there = {_name(row): row for row in of_days.select_for_update()}
        Lacking.objects.filter(pk__in=[row.pk for name, row in there.items() if name not in wanted]).delete()
        Lacking.objects.bulk_create(row for name, row in wanted.items() if name not in there)


def _name(row: Lacking) -> tuple[object, ...]:
    """All that is told of one: with another amount it is another."""
    return row.reason, row.source_id, row.number, row.currency, row.date, row.count, row.gross


def _rows(
    check: CompletenessCheck, kind: Kind, not_fetched: Iterable[Missed], counted: Sequence[SumIn],
    gaps: Sequence[NumberGap],
) -> Iterator[Lacking]:  # fmt: skip
    base = {"workspace_id": check.workspace_id, "bridge": check.bridge, "kind": kind.name}
    for one in not_fetched:
        yield Lacking(**base, reason=Reason.NOT_FETCHED, source_id=one.source_id, number=one.number, date=one.day,
                      currency=one.currency, gross=one.gross)  # fmt: skip
    for sums in counted:
        yield Lacking(**base, reason=Reason.NOT_LISTED, date=check.last, currency=sums.currency, count=sums.count,
                      gross=sums.gross)  # fmt: skip
    days = _days_of(check, kind, [gap.after for gap in gaps])
    for gap in gaps:
        yield Lacking(**base, reason=Reason.ONLY_NUMBER, number=gap.number, date=days.get(gap.after, check.last))


def _days_of(check: CompletenessCheck, kind: Kind, numbers: Sequence[str]) -> dict[str, date]:
    """The days of the documents before the gaps, as far as they lie within the check."""
    rows = Crossing.objects.filter(
        workspace=check.workspace_id, bridge=check.bridge, kind=kind.name, number__in=numbers
    )
    days = dict(rows.values_list("number", "business_date"))
    return {number: day for number, day in days.items() if day and check.first <= day <= check.last}


def lacking_of(scope: OfPeriod) -> QuerySet[Lacking]:
    """What is lacking in a period: the days' own, in their order."""
    return scope.of(_ROWS).order_by("date", "pk")


def counts_of(scope: OfPeriod) -> list[tuple[Reason, int]]:
    """How many documents are lacking, by the reason; one statement."""
    rows = scope.of(_ROWS).order_by().values("reason").annotate(number=Sum(Greatest(Abs("count"), 1)))
    return [(Reason(row["reason"]), row["number"]) for row in rows]
