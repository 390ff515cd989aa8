"""Both sides of a period, every difference named, and what waits for a person."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from datetime import date
from decimal import Decimal
from typing import Any

from django.db.models import Count, F, Q, QuerySet, Sum

from inkwell_bridge.core.proof import Totals
from inkwell_bridge.service.carriage.models import Crossing, Figure
from inkwell_bridge.service.carriage.states import CrossingState, Grain, Side
from inkwell_bridge.service.carriage.totals import SALES, SUMS, by_currency, sales_kinds, sides, totals_of
from inkwell_bridge.service.people.models import Workspace

ZERO = Decimal(0)
# What stands between the two sides: why an order of the source is not in the books.
NAMED = {
    CrossingState.LEFT_OUT: "left_out",
    CrossingState.HELD: "held",
    CrossingState.WAITING: "waiting",
}


def figures_of(workspace: Workspace, bridge: str) -> QuerySet[Figure]:
    """The figures of a workspace, or of one of its bridges."""
    found = Figure.objects.filter(workspace=workspace)
    return found.filter(bridge__slug=bridge) if bridge else found


def of_period(workspace: Workspace, first: date, last: date, *, bridge: str = "") -> list[dict[str, Any]]:
    """Both sides of a period by currency, with every difference named; each side by its own day.

    ``unexplained`` is what no name accounts for: it is zero where the books are right. Nothing is named by being left
    over: ``rounding`` is the sum of what the penny rules settled and of taxes that the books computed otherwise for the
    same code, document by document, and ``cut_off`` what both sides have on days of different periods.
    """
    every = figures_of(workspace, bridge)
    within = every.filter(date__range=(first, last)).exclude(side=Side.RECONCILING)
    # What is named explains the source's amounts, so it counts with the source's day, whichever day the books have.
    named = every.filter(side=Side.RECONCILING, crossing__business_date__range=(first, last))
    found = by_currency(within)
    for currency, reasons in by_currency(named).items():
        found[currency] |= reasons
    states = _by_state(within)
    cut_off = _cut_off(every, first, last)
    currencies = found.keys() | states.keys() | cut_off.keys()
    return [
        _period(currency, found.get(currency, {}), states[currency], cut_off.get(currency, Totals()))
        for currency in sorted(currencies)
    ]


def _by_state(within: QuerySet[Figure]) -> dict[str, dict[str, Totals]]:
    """The source's totals by what became of its documents; what the books hold of adopted ones is under ``books``."""
    states: dict[str, dict[str, Totals]] = defaultdict(dict)
    kinds = sales_kinds()
    source = within.filter(side=Side.SOURCE, grain=Grain.DOCUMENT, role__in=kinds, crossing__kind__in=kinds)
    for row in source.values("currency", state=F("crossing__state")).annotate(**SUMS).order_by("currency"):
        states[row["currency"]][row["state"]] = totals_of(row)
    adopted = within.filter(
        side=Side.BOOKS, grain=Grain.DOCUMENT, role__in=SALES, crossing__state=CrossingState.ADOPTED
    )  # fmt: skip
    for row in adopted.values("currency").annotate(**SUMS).order_by("currency"):
        states[row["currency"]]["books"] = totals_of(row)
    return states


def _cut_off(every: QuerySet[Figure], first: date, last: date) -> dict[str, Totals]:
    """What the books have of this period's orders in another period, less what they have here of another period's."""
    books = every.filter(
        side=Side.BOOKS, grain=Grain.DOCUMENT, role__in=SALES, crossing__kind__in=sales_kinds()
    ).exclude(crossing__state=CrossingState.ADOPTED)  # fmt: skip
    ours, here = Q(crossing__business_date__range=(first, last)), Q(date__range=(first, last))
    result: dict[str, Totals] = defaultdict(Totals)
    for rows, sign in ((books.filter(ours).exclude(here), 1), (books.filter(here).exclude(ours), -1)):
        for row in rows.values("currency").annotate(**SUMS).order_by("currency"):
            found = totals_of(row)
            before = result[row["currency"]]
            result[row["currency"]] = before.plus(found) if sign > 0 else before.less(found)
    return result


def _period(
    currency: str, sums: dict[str, Totals], states: dict[str, Totals], cut_off: Totals
) -> dict[str, Any]:  # fmt: skip
    both = sides(currency, sums)
    named = {name: states.get(state, Totals()) for state, name in NAMED.items()}
    # Somebody typed those in, and the books are believed.
    named["adopted"] = states.get(CrossingState.ADOPTED, Totals()).less(states.get("books", Totals()))
    named["cut_off"] = cut_off
    difference: Totals = both["difference"]
    explained = _added([*named.values(), both["tax_lines"], both["rounding"]])
    return {**both, **named, "unexplained": difference.less(explained)}


def _added(many: Iterable[Totals]) -> Totals:
    result = Totals()
    for one in many:
        result = result.plus(one)
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
