"""Both sides of a period, every difference named, and what waits for a person."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal
from typing import Any

from django.db.models import BooleanField, Case, CharField, Count, ExpressionWrapper, F, Q, QuerySet, Sum, Value, When

from inkwell_bridge.core.proof import Totals
from inkwell_bridge.service.carriage.decided import ACCEPTED
from inkwell_bridge.service.carriage.models import Crossing, Figure
from inkwell_bridge.service.carriage.states import CrossingState, DecisionKind, Grain, Side
from inkwell_bridge.service.carriage.totals import SALES, SUMS, by_currency, of_sales, sales_kinds, sides, totals_of
from inkwell_bridge.service.people.models import Workspace

ZERO = Decimal(0)
# Carried as it was posted, by somebody's decision, though the source says something else by now.
_KEPT = "kept"
# Carried though the books hold something else than was planned: somebody accepted that difference.
_ACCEPTED = "accepted"
# What stands between the two sides: why an order of the source is not in the books, or not as it is.
NAMED = {
    CrossingState.LEFT_OUT.value: "left_out",
    CrossingState.HELD.value: "held",
    CrossingState.WAITING.value: "waiting",
    _KEPT: "kept",
    _ACCEPTED: "accepted",
}
_STANDING = Case(
    When(
        crossing__state=CrossingState.CARRIED, crossing__decision__kind=DecisionKind.KEEP_POSTED.value,
        then=Value(_KEPT),
    ),
    When(crossing__state=CrossingState.CARRIED, crossing__decision__has_key=ACCEPTED, then=Value(_ACCEPTED)),
    default=F("crossing__state"),
    output_field=CharField(),
)  # fmt: skip


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
    ours = Q(crossing__business_date__range=(first, last))
    found: dict[str, _Sums] = defaultdict(_Sums)
    # One statement for both sides: what each of its rows counts towards is told apart here.
    for row in _within(every, first, last, ours):
        found[row["currency"]].add(row)
    # What is named explains the source's amounts, so it counts with the source's day, whichever day the books have.
    reconciling = every.filter(ours, side=Side.RECONCILING)
    for currency, reasons in by_currency(reconciling).items():
        found[currency].sides |= reasons
    # Of what is named by its state the whole difference is, so no other name takes a part of it.
    named = reconciling.filter(of_sales()).annotate(standing=_STANDING).filter(standing__in=NAMED)
    for row in named.values("currency", "standing").annotate(**SUMS).order_by("currency"):
        found[row["currency"]].known(row)
    # What the books have of this period's orders in another period.
    elsewhere = every.filter(_POSTED & ours, crossing__kind__in=sales_kinds()).exclude(date__range=(first, last))
    for row in elsewhere.values("currency", standing=_STANDING).annotate(**SUMS).order_by("currency"):
        found[row["currency"]].cut_off = found[row["currency"]].cut_off.plus(totals_of(row))
        found[row["currency"]].known(row)
    return [_period(currency, found[currency]) for currency in sorted(found)]


# The documents of sales in the books that were posted from here, and not typed in by somebody.
_POSTED = Q(side=Side.BOOKS, grain=Grain.DOCUMENT, role__in=SALES) & ~Q(crossing__state=CrossingState.ADOPTED)


def _within(every: QuerySet[Figure], first: date, last: date, ours: Q) -> QuerySet[Figure, dict[str, Any]]:
    """The sales of both sides whose day is in the period, by what became of them and whether their order's is too."""
    within = every.filter(of_sales(), date__range=(first, last)).exclude(side=Side.RECONCILING)
    is_ours = ExpressionWrapper(ours, output_field=BooleanField())
    by = within.values("currency", "side", standing=_STANDING, is_ours=is_ours)
    return by.annotate(**SUMS).order_by("currency")


@dataclass(slots=True)
class _Sums:
    """The sums of one currency: of both sides and the named reasons, of the source by what became of its documents (of
    adopted ones those of the books too, under ``books``), of what the books and the named reasons have of those
    (``accounted``), and of what the books have in another period."""

    sides: dict[str, Totals] = field(default_factory=dict)
    states: dict[str, Totals] = field(default_factory=dict)
    accounted: dict[str, Totals] = field(default_factory=dict)
    cut_off: Totals = field(default_factory=Totals)

    def known(self, row: dict[str, Any]) -> None:
        """Count what is in the books, or has another name already, of a document that did not cross in full."""
        state = row["standing"]
        if state in NAMED:
            self.accounted[state] = self.accounted.get(state, Totals()).plus(totals_of(row))

    def add(self, row: dict[str, Any]) -> None:
        """Count a row of both sides."""
        side, state, found = row["side"], row["standing"], totals_of(row)
        self.sides[side] = self.sides.get(side, Totals()).plus(found)
        if side == Side.SOURCE:
            self.states[state] = self.states.get(state, Totals()).plus(found)
        elif state == CrossingState.ADOPTED:
            self.states["books"] = self.states.get("books", Totals()).plus(found)
        elif not row["is_ours"]:
            # Here of another period's order.
            self.cut_off = self.cut_off.less(found)
        else:
            # An order may be held, or wait, while an invoice of it stands in the books.
            self.known(row)


def _period(currency: str, sums: _Sums) -> dict[str, Any]:
    both, states = sides(currency, sums.sides), sums.states
    named = {
        name: states.get(state, Totals()).less(sums.accounted.get(state, Totals())) for state, name in NAMED.items()
    }
    # Somebody typed those in, and the books are believed.
    named["adopted"] = states.get(CrossingState.ADOPTED, Totals()).less(states.get("books", Totals()))
    named["cut_off"] = sums.cut_off
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
