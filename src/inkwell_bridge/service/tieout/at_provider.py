"""Money that a payment provider took for orders that nobody here knows: no list of the shop showed them."""

from __future__ import annotations

from datetime import date

from django.db.models import QuerySet

from inkwell_bridge.core.findings import Cause
from inkwell_bridge.service.carriage.kinds import all_kinds
from inkwell_bridge.service.carriage.models import Crossing
from inkwell_bridge.service.carriage.states import CrossingState
from inkwell_bridge.service.tieout.scope import Scope


def known_to_provider_only(scope: Scope) -> QuerySet[Crossing]:
    """The charges of a period whose order was never read; they count on no side, for what they are of is not known."""
    return scope.of(_charges(), "business_date")


def days_known_to_provider_only(since: date) -> set[tuple[int, date]]:
    """The bridges and days on which there are any; one statement."""
    rows = _charges().filter(business_date__gte=since).order_by()
    return {(bridge, day) for bridge, day in rows.values_list("bridge", "business_date").distinct() if day}


def _charges() -> QuerySet[Crossing]:
    kinds = [kind.name for kind in all_kinds().values() if kind.names_missing]
    return Crossing.objects.filter(kind__in=kinds, state=CrossingState.HELD, cause=Cause.ORDER_FIRST.value)
