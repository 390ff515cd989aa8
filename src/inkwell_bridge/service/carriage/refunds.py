"""Refunds and the orders that they take back from: an order goes first, whichever arrived first."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

from django.db.models import Exists, OuterRef, Prefetch

from inkwell_bridge.core.books import Role
from inkwell_bridge.core.commerce import Refund
from inkwell_bridge.core.findings import Cause, Finding, Level
from inkwell_bridge.core.planner import Outcome, Plan
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage.carrying import Carrying
from inkwell_bridge.service.carriage.deposits import carried, refunds_of
from inkwell_bridge.service.carriage.kinds.protocol import Concluded
from inkwell_bridge.service.carriage.models import Crossing, Document, DocumentSource, Snapshot
from inkwell_bridge.service.carriage.releases import retry_held
from inkwell_bridge.service.carriage.states import CrossingState, Trial
from inkwell_bridge.service.later import TryLater, after_pause

ORDERS = "orders"
# Causes that pass by themselves once the order is carried, or carried further.
WAITS_FOR_ORDER = frozenset({Cause.ORDER_FIRST, Cause.INVOICE_FIRST})
ORDER_LEFT_OUT = "planner:order-left-out"


def orders_of(bridge: Bridge, refunds: Sequence[Refund]) -> dict[str, Crossing]:
    """The crossings of the orders that refunds take back from, by the orders' ids; two statements, however many."""
    orders = Crossing.objects.select_related(
        "snapshot__personal", "rulebook__bridge", "master_data", "bridge__company", "bridge__source", "bridge__books"
    ).filter(workspace=bridge.workspace_id, bridge=bridge, kind=ORDERS, source_id__in={one.order_id for one in refunds})
    # By one statement: whoever works on an order may take its drafts away meanwhile.
    shares = Prefetch("shares", DocumentSource.objects.select_related("document"))
    return {order.source_id: order for order in orders.prefetch_related(shares)}


def order_first(crossing: Crossing, refund: Refund, order: Crossing | None, *, begun: bool) -> Plan | TryLater | None:
    """What becomes of a refund without its order: nothing to say where the order is there to take back from.

    A refund that has ``begun`` goes on whatever became of its order since, which may be waiting for it.
    """
    on_trial = order is not None and order.trial != Trial.NONE
    if order is not None and (begun or (order.state == CrossingState.CARRIED and not on_trial)):
        return None
    if order is not None and order.state == CrossingState.WAITING:
        return TryLater(f"Order {order.number} goes first.", after_pause(crossing.tries))
    if order is not None and order.state == CrossingState.LEFT_OUT and not on_trial:
        return Plan(outcome=Outcome.LEFT_OUT, left_out_by=ORDER_LEFT_OUT)
    return Plan(outcome=Outcome.HOLD, findings=(_order_first(refund, order),))


def _order_first(refund: Refund, order: Crossing | None) -> Finding:
    if order is None:
        why = "which no run has read"
        hint = "It goes by itself once the order is carried; enter it by hand if the order never will be."
    elif order.trial != Trial.NONE:
        why = "which is on trial, or was"
        hint = "It goes by itself once the order is carried for good."
    elif order.state == CrossingState.ADOPTED:
        why = "which somebody typed into the books"
        hint = "Enter the refund in the books by hand, beside that document."
    else:
        why = f"which is {order.state}"
        hint = "It goes by itself once the order is carried: mend what holds the order."
    text = f"Refund {refund.number} takes back from order {refund.order_number}, {why}."
    return Finding(id="REFUND-E004", level=Level.ERROR, text=text, hint=hint, at="/order_id", cause=Cause.ORDER_FIRST)


BEFORE = "refunded_before"


def refunded_before(refunds: Sequence[Carrying]) -> list[list[Snapshot]]:
    """The refunds of the same order that went before each of these: as they were kept with it once it has begun, so
    that planned again it comes to the same; else those that are in the books by now. Two statements at most."""
    bridge = refunds[0].crossing.bridge
    kept = {one: one.crossing.pinned[BEFORE] for one in refunds if _has_begun(one) and BEFORE in one.crossing.pinned}
    snapshots = Snapshot.objects.filter(workspace=bridge.workspace_id).in_bulk(
        [pk for pks in kept.values() for pk in pks]
    )
    parents = {one.crossing.parent_source_id for one in refunds if one not in kept}
    others: dict[str, list[Crossing]] = defaultdict(list)
    if parents:
        rows = carried(refunds_of(bridge, *parents)).select_related("snapshot", "posted_snapshot")
        for row in rows.order_by("moment", "pk"):
            others[row.parent_source_id].append(row)
    return [
        [snapshots[pk] for pk in kept[one] if pk in snapshots]
        if one in kept
        else [
            other.posted_snapshot or other.snapshot
            for other in others[one.crossing.parent_source_id]
            if other.pk != one.crossing.pk
        ]
        for one in refunds
    ]


def held_before(refunds: Sequence[Carrying]) -> list[list[Refund]]:
    """The refunds of the same order that were read before each of these and wait for a person; one statement.

    The earlier of two is never held back by the later: else neither would ever go.
    """
    bridge = refunds[0].crossing.bridge
    rows = refunds_of(bridge, *{one.crossing.parent_source_id for one in refunds}).filter(
        state=CrossingState.HELD, snapshot__content__isnull=False
    )
    held: dict[str, list[Crossing]] = defaultdict(list)
    for row in rows.select_related("snapshot").order_by("pk"):
        held[row.parent_source_id].append(row)
    return [
        [Refund.read(row.snapshot.content) for row in held[one.crossing.parent_source_id] if row.pk < one.crossing.pk]
        for one in refunds
    ]


def _has_begun(one: Carrying) -> bool:
    return any(document.begun for document in one.documents)


def what_came(stopped: Sequence[Concluded]) -> list[Crossing]:
    """Those of these stopped refunds for which what they wait for came while they were looked at; one statement."""
    waiting = [one for one in stopped if one.cause in WAITS_FOR_ORDER]
    if not waiting:
        return []
    bridge, parents = waiting[0].crossing.bridge, {one.crossing.parent_source_id for one in waiting}
    orders = Crossing.objects.filter(
        workspace=bridge.workspace_id, bridge=bridge, kind=ORDERS, source_id__in=parents, state=CrossingState.CARRIED,
        trial=Trial.NONE,
    )  # fmt: skip
    invoice = Document.objects.filter(crossings=OuterRef("pk"), role=Role.INVOICE)
    carried_orders = dict(orders.annotate(invoiced=Exists(invoice)).values_list("source_id", "invoiced"))
    return [
        one.crossing
        for one in waiting
        if carried_orders.get(one.crossing.parent_source_id) is not None
        and (one.cause is not Cause.INVOICE_FIRST or carried_orders[one.crossing.parent_source_id])
    ]


def retry_held_refunds(orders: Sequence[Crossing]) -> None:
    """Let the refunds that waited for these orders go; all of one bridge."""
    refunds = refunds_of(orders[0].bridge, *(order.source_id for order in orders))
    waiting = refunds.filter(state=CrossingState.HELD, cause__in=WAITS_FOR_ORDER)
    retry_held(waiting.select_related("bridge__books"))
