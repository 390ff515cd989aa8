"""Refunds of what was paid ahead, before it is delivered: the final invoice delivers what is left.

Which refunds went before is kept with the order's crossing once its final invoice is on its way: planned again, it
comes to the same documents, whatever is given back later; and that comes off the sale.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from django.db.models import Q, QuerySet

from inkwell_bridge.core.findings import Cause
from inkwell_bridge.core.planner import Plan, is_final_invoice
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage.carrying import Carrying
from inkwell_bridge.service.carriage.holding import Hold, hold
from inkwell_bridge.service.carriage.models import Crossing, Document, Snapshot
from inkwell_bridge.service.carriage.states import CrossingState
from inkwell_bridge.service.later import TryLater, after_pause

REFUNDS = "refunds"
_BEGUN = Q(documents__posting_at__isnull=False) | Q(documents__intended_at__isnull=False) | ~Q(documents__books_id="")


def refunds_of(bridge: Bridge, *order_ids: str) -> QuerySet[Crossing]:
    """The refunds of these orders."""
    return Crossing.objects.filter(
        workspace=bridge.workspace_id, bridge=bridge, kind=REFUNDS, parent_source_id__in=order_ids
    )


def refunds_lock(crossing: Crossing, order_id: str) -> tuple[str, ...]:
    """The lock under which refunds of one order go one after the other."""
    return (f"refunds:{crossing.workspace_id}:{crossing.bridge_id}:{order_id}",)


def carried(refunds: QuerySet[Crossing]) -> QuerySet[Crossing]:
    """Those that are in the books."""
    return refunds.filter(state__in=(CrossingState.CARRIED, CrossingState.DIFFERS))


def final_invoice_begun(documents: Sequence[Document]) -> bool:
    """Whether the final invoice of an order may be in the books: what is given back from then on is of a sale."""
    return any(document.begun and document.is_final_invoice for document in documents)


def refunds_before_invoice(orders: Sequence[Carrying]) -> list[list[Snapshot]]:
    """The refunds before each order's final invoice: as they were kept with it, or all that are in the books by now."""
    kept = {one: _kept_before(one.crossing) for one in orders if final_invoice_begun(one.documents)}
    snapshots = _snapshots(orders[0].crossing.bridge, kept.values())
    still_open = [one.crossing.source_id for one in orders if one not in kept]
    by_now = refunds_by_now(orders[0].crossing.bridge, still_open)
    then = {one: [snapshots[pk] for pk in sorted(pks) if pk in snapshots] for one, pks in kept.items()}
    return [then[one] if one in then else by_now[one.crossing.source_id] for one in orders]


def _snapshots(bridge: Bridge, kept: Iterable[Sequence[int]]) -> dict[int, Snapshot]:
    keys = [pk for pks in kept for pk in pks]
    return Snapshot.objects.filter(workspace=bridge.workspace_id).in_bulk(keys) if keys else {}


def _kept_before(order: Crossing) -> list[int]:
    return list(order.pinned.get("refunds_before_invoice", []))


def refunds_by_now(bridge: Bridge, order_ids: Sequence[str]) -> dict[str, list[Snapshot]]:
    """The refunds of each order that are in the books by now; one statement."""
    found: dict[str, list[Snapshot]] = {order_id: [] for order_id in order_ids}
    if order_ids:
        for refund in carried(refunds_of(bridge, *order_ids)).select_related("snapshot").order_by("snapshot"):
            found[refund.parent_source_id].append(refund.snapshot)
    return found


def come_off_the_sale(refunds: Sequence[tuple[str, Crossing, Sequence[Document]]]) -> list[bool]:
    """Whether each of these refunds, by its id with its order's crossing and documents, comes after the final invoice
    of its order. One statement at most."""
    kept = [_kept_before(order) if final_invoice_begun(documents) else None for _, order, documents in refunds]
    snapshots = _snapshots(refunds[0][1].bridge, [pks for pks in kept if pks])
    return [
        pks is not None and refund not in {snapshots[pk].source_id for pk in pks if pk in snapshots}
        for (refund, _, _), pks in zip(refunds, kept, strict=True)
    ]


def has_final_invoice(plan: Plan) -> bool:
    """Whether a plan delivers what was paid ahead."""
    return any(is_final_invoice(document) for document in plan.documents)


def refunds_to_end_first(orders: Sequence[Carrying]) -> list[TryLater | Hold | None]:
    """For each order what a refund that has begun makes of it: that one ends before the final invoice goes, for nobody
    knows yet what it leaves. One statement.

    ``TryLater`` where the refund goes on by itself, ``Hold`` where it is held for a person, nothing where none has
    begun.
    """
    open_still = (CrossingState.WAITING, CrossingState.HELD)
    ids = [one.crossing.source_id for one in orders if not final_invoice_begun(one.documents)]
    begun = refunds_of(orders[0].crossing.bridge, *ids).filter(_BEGUN, state__in=open_still)
    # One that goes on by itself is waited for first; what is held then is a person's.
    first = {refund.parent_source_id: refund for refund in begun.order_by("state")}
    return [_ends_first(one.crossing, first.get(one.crossing.source_id)) for one in orders]


def _ends_first(order: Crossing, refund: Crossing | None) -> TryLater | Hold | None:
    if refund is None:
        return None
    if refund.state == CrossingState.WAITING:
        return TryLater(f"Refund {refund.number} of it goes first.", after_pause(order.tries))
    return hold(
        "REFUND-E006",
        Cause.SOURCE_CHANGED,
        f"Refund {refund.number} has begun and is held, so that nobody knows what is left to deliver of order "
        f"{order.number}.",
        "Mend what holds the refund and release it, then release the order.",
    )
