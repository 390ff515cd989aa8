"""Moments of an order that become the days of its documents, on the company's clocks."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from datetime import date, datetime

from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.findings import Cause, Finding, Level
from inkwell_bridge.core.planner.planning_context import PlanningContext

# Where each moment stands in the order, and what to do where it has none.
SOURCES = {"placed": "/placed_at", "paid": "/payments", "dispatched": "/history"}
_MISSING = {
    "paid": ("payment, and none has come in with a date", "nobody has paid for"),
    "dispatched": ("dispatch, and the sales side tells of none", "have not left yet"),
}


def moment_of(order: Order, which: str) -> datetime | None:
    """When an order was placed, paid or dispatched."""
    found: datetime | None = getattr(order, f"{which}_at")
    return found


def day_of(order: Order, which: str, context: PlanningContext) -> date:
    """The day of a moment that ``undated`` has seen to be there."""
    return context.day(moment_of(order, which) or order.placed_at)


def undated(order: Order, wanted: Iterable[str]) -> Iterator[Finding]:
    """An error for each moment that a document is to be dated by, and that the order does not have."""
    for which in sorted({*wanted} - {"document"}):
        if moment_of(order, which) is None:
            what, orders = _MISSING[which]
            yield Finding(
                id="DATE-E001",
                level=Level.ERROR,
                at=SOURCES[which],
                cause=Cause.RULE_MISSING,
                text=f"Order {order.number} is to be dated by its {what}.",
                hint=f"Date orders by when they were placed, or leave out those that {orders}.",
            )
