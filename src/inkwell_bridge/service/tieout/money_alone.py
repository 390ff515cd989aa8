"""Money that stands in no section of the sheet: payouts, what arrived of them, and payments of the books' invoices.

What of it was carried is proved document by document. What was not is lacking in the books, so a period does not tie.
"""

from __future__ import annotations

from datetime import date

from django.db.models import QuerySet

from inkwell_bridge.service.carriage.kinds import all_kinds
from inkwell_bridge.service.carriage.models import Crossing
from inkwell_bridge.service.carriage.states import CrossingState, Trial
from inkwell_bridge.service.tieout.scope import Scope


def not_carried(scope: Scope) -> QuerySet[Crossing]:
    """What of a period is held, for its ``cause``, or waits, by its business date."""
    return scope.of(_money(CrossingState.HELD, CrossingState.WAITING), "business_date")


def days_with_held(since: date) -> set[tuple[int, date]]:
    """The bridges and days of which any is held; what waits goes on by itself. One statement."""
    rows = _money(CrossingState.HELD).filter(business_date__gte=since).order_by()
    return {(bridge, day) for bridge, day in rows.values_list("bridge", "business_date").distinct() if day}


def _money(*states: CrossingState) -> QuerySet[Crossing]:
    kinds = [kind.name for kind in all_kinds().values() if kind.is_money_alone]
    return Crossing.objects.filter(kind__in=kinds, state__in=states, trial=Trial.NONE)
