"""Refunds and the orders that they take back from: an order goes first, whichever arrived first."""

from __future__ import annotations

from decimal import Decimal

from django.db.models import Sum

from inkwell_bridge.core.books import Role
from inkwell_bridge.core.commerce import Refund
from inkwell_bridge.core.findings import Cause, Finding, Level
from inkwell_bridge.core.planner import Outcome, Plan
from inkwell_bridge.service.carriage.deposits import carried, refunds_of
from inkwell_bridge.service.carriage.models import Crossing
from inkwell_bridge.service.carriage.runs import defer_carrying
from inkwell_bridge.service.carriage.states import CrossingState
from inkwell_bridge.service.later import TryLater, after_pause

ZERO = Decimal(0)
ORDERS = "orders"
# Causes that pass by themselves once the order is carried, or carried further.
WAITS_FOR_ORDER = (Cause.ORDER_FIRST, Cause.INVOICE_FIRST)
ORDER_LEFT_OUT = "planner:order-left-out"


def order_of(crossing: Crossing, refund: Refund, *, begun: bool) -> Crossing | Plan:
    """The crossing of the order that a refund takes back from; or what becomes of the refund without one.

    A refund that has ``begun`` goes on whatever became of its order since, which may be waiting for it.

    Raises:
        TryLater: the order is still on its way.
    """
    order = (
        Crossing.objects.select_related(
            "snapshot", "rulebook__bridge", "master_data", "bridge__company", "bridge__source", "bridge__books"
        )
        .filter(
            workspace=crossing.workspace_id,
            bridge=crossing.bridge_id,
            kind=ORDERS,
            source_id=refund.order_id,
        )
        .first()
    )
    if order is not None and (begun or order.state == CrossingState.CARRIED):
        return order
    if order is not None and order.state == CrossingState.WAITING:
        raise TryLater(f"Order {order.number} goes first.", after_pause(crossing.tries))
    if order is not None and order.state == CrossingState.LEFT_OUT:
        return Plan(outcome=Outcome.LEFT_OUT, left_out_by=ORDER_LEFT_OUT)
    return Plan(outcome=Outcome.HOLD, findings=(_order_first(refund, order),))


def _order_first(refund: Refund, order: Crossing | None) -> Finding:
    if order is None:
        why = "which no run has read"
        hint = "It goes by itself once the order is carried; enter it by hand if the order never will be."
    elif order.state == CrossingState.ADOPTED:
        why = "which somebody typed into the books"
        hint = "Enter the refund in the books by hand, beside that document."
    else:
        why = f"which is {order.state}"
        hint = "It goes by itself once the order is carried: mend what holds the order."
    text = f"Refund {refund.number} takes back from order {refund.order_number}, {why}."
    return Finding(id="REFUND-E004", level=Level.ERROR, text=text, hint=hint, at="/order_id", cause=Cause.ORDER_FIRST)


def refunded_before(crossing: Crossing, refund: Refund) -> Decimal:
    """What other refunds of the same order have taken back already."""
    others = carried(refunds_of(crossing.bridge, refund.order_id)).exclude(pk=crossing.pk)
    return others.aggregate(total=Sum("gross"))["total"] or ZERO


def still_waits(crossing: Crossing, cause: Cause) -> bool:
    """Whether what a refund waits for still is not there: it may have come while the refund was looked at."""
    orders = Crossing.objects.filter(
        workspace=crossing.workspace_id, bridge=crossing.bridge_id, kind=ORDERS, source_id=crossing.parent_source_id,
        state=CrossingState.CARRIED,
    )  # fmt: skip
    if cause is Cause.INVOICE_FIRST:
        orders = orders.filter(documents__role=Role.INVOICE)
    return not orders.exists()


def retry_held_refunds(order: Crossing) -> None:
    """Let the refunds that waited for this order go."""
    waiting = refunds_of(order.bridge, order.source_id).filter(state=CrossingState.HELD, cause__in=WAITS_FOR_ORDER)
    retry_held(*waiting.select_related("bridge__books"))


def retry_held(*refunds: Crossing) -> None:
    """Let held refunds go again."""
    if refunds:
        pks = [crossing.pk for crossing in refunds]
        Crossing.objects.filter(pk__in=pks).update(state=CrossingState.WAITING, cause="", tries=0)
        defer_carrying(refunds)
