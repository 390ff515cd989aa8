"""Both sides of a period, every difference named, and what waits for a person."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from datetime import date
from decimal import Decimal
from typing import Any

from django.db.models import Count, Sum

from inkwell_bridge.core.commerce import SourceKind
from inkwell_bridge.core.proof import Totals
from inkwell_bridge.service.carriage.models import Crossing, Document
from inkwell_bridge.service.carriage.states import CrossingState, DocumentState
from inkwell_bridge.service.carriage.totals import (
    SUMS,
    Aside,
    aside_by_currency,
    sales_by_currency,
    sides,
    standing_for_sales,
    totals_of,
)
from inkwell_bridge.service.people.models import Workspace

ZERO = Decimal(0)
# What stands between the two sides: why an order of the source is not in the books.
NAMED = {
    CrossingState.LEFT_OUT: "left_out",
    CrossingState.HELD: "held",
    CrossingState.WAITING: "waiting",
}


def of_period(workspace: Workspace, first: date, last: date, *, bridge: str = "") -> list[dict[str, Any]]:
    """Both sides of a period by currency, with every difference named.

    ``unexplained`` is what no name accounts for: it is zero where the books are right.
    """
    orders = Crossing.objects.filter(workspace=workspace, kind=SourceKind.ORDERS, business_date__range=(first, last))
    documents = standing_for_sales(
        Document.objects.filter(workspace=workspace, crossing__business_date__range=(first, last))
    )
    if bridge:
        orders, documents = orders.filter(bridge__slug=bridge), documents.filter(crossing__bridge__slug=bridge)
    states: dict[str, dict[str, Totals]] = defaultdict(dict)
    for row in orders.values("currency", "state").annotate(**SUMS).order_by("currency"):
        states[row["currency"]][row["state"]] = totals_of(row)
    books = sales_by_currency(documents)
    adopted = sales_by_currency(documents.filter(state=DocumentState.ADOPTED))
    aside = aside_by_currency(orders.filter(state=CrossingState.CARRIED))
    return [
        _period(
            currency,
            states[currency],
            books.get(currency, Totals()),
            adopted.get(currency, Totals()),
            aside.get(currency, Aside()),
        )
        for currency in sorted(states.keys() | books.keys())
    ]


def _period(currency: str, states: dict[str, Totals], books: Totals, adopted: Totals, aside: Aside) -> dict[str, Any]:
    source = _added(states.values())
    both = sides(currency, source, books, aside)
    difference: Totals = both["difference"]
    named = {name: states.get(state, Totals()) for state, name in NAMED.items()}
    # Somebody typed those in, and the books are believed.
    named["adopted"] = states.get(CrossingState.ADOPTED, Totals()).less(adopted)
    crossed = difference.less(_added(named.values()))
    # The books compute tax themselves: what they call net and tax may differ while the gross is the same.
    named["rounding"] = Totals(net=crossed.net, tax=crossed.tax) if crossed.tie else Totals()
    return {**both, **named, "unexplained": crossed.less(named["rounding"])}


def _added(many: Iterable[Totals]) -> Totals:
    result = Totals()
    for one in many:
        result = Totals(
            count=result.count + one.count,
            net=result.net + one.net,
            tax=result.tax + one.tax,
            gross=result.gross + one.gross,
        )
    return result


def holds(workspace: Workspace) -> list[dict[str, Any]]:
    """What waits for a person, by cause and currency, with the money behind each; the largest first."""
    rows = (
        Crossing.objects.filter(workspace=workspace, state__in=(CrossingState.HELD, CrossingState.DIFFERS))
        .values("cause", "currency")
        .annotate(count=Count("id"), sum_gross=Sum("gross"))
        .order_by("-count", "cause")
    )
    return [
        {"cause": row["cause"], "currency": row["currency"], "count": row["count"], "gross": row["sum_gross"] or ZERO}
        for row in rows
    ]
