"""Refunds of what was paid ahead, before it is delivered: the final invoice delivers what is left.

Which refunds went before is kept with the order's crossing once its final invoice is on its way: planned again, it
comes to the same documents, whatever is given back later; and that comes off the sale.
"""

from __future__ import annotations

from collections.abc import Sequence

from django.db.models import Q, QuerySet

from inkwell_bridge.core.findings import Cause
from inkwell_bridge.core.planner import Plan, is_final_invoice
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage.carrying import Carrying
from inkwell_bridge.service.carriage.holding import hold
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


def refunds_before_invoice(carryings: Sequence[Carrying]) -> list[list[Snapshot]]:
    """The refunds before each order's final invoice: as they were kept with it, or all that are in the books by now."""
    kept = {id(one): _kept_before(one.crossing) for one in carryings if final_invoice_begun(one.documents)}
    snapshots = Snapshot.objects.in_bulk([pk for pks in kept.values() for pk in pks]) if kept else {}
    still_open = [one.crossing.source_id for one in carryings if id(one) not in kept]
    by_now = refunds_by_now(carryings[0].crossing.bridge, still_open)
    return [
        [snapshots[pk] for pk in sorted(kept[id(one)]) if pk in snapshots]
        if id(one) in kept
        else by_now[one.crossing.source_id]
        for one in carryings
    ]


def _kept_before(order: Crossing) -> list[int]:
    return list(order.pinned.get("refunds_before_invoice", []))


def refunds_by_now(bridge: Bridge, order_ids: Sequence[str]) -> dict[str, list[Snapshot]]:
    """The refunds of each order that are in the books by now; one statement."""
    found: dict[str, list[Snapshot]] = {order_id: [] for order_id in order_ids}
    if order_ids:
        for refund in carried(refunds_of(bridge, *order_ids)).select_related("snapshot").order_by("snapshot"):
            found[refund.parent_source_id].append(refund.snapshot)
    return found


def comes_off_the_sale(refund_id: str, order: Crossing, documents: Sequence[Document]) -> bool:
    """Whether a refund comes after the final invoice of its order."""
    if not final_invoice_begun(documents):
        return False
    kept = _kept_before(order)
    before = Snapshot.objects.filter(workspace=order.workspace_id, pk__in=kept, source_id=refund_id)
    return not (kept and before.exists())


def has_final_invoice(plan: Plan) -> bool:
    """Whether a plan delivers what was paid ahead."""
    return any(is_final_invoice(document) for document in plan.documents)


def let_refunds_end(crossing: Crossing, documents: Sequence[Document]) -> None:
    """Let a refund that has begun end before the final invoice goes: nobody knows yet what it leaves.

    Raises:
        TryLater: it goes on by itself.
        Hold: it is held for a person.
    """
    if final_invoice_begun(documents):
        return
    open_still = (CrossingState.WAITING, CrossingState.HELD)
    begun = refunds_of(crossing.bridge, crossing.source_id).filter(_BEGUN, state__in=open_still).order_by("-state")
    refund = begun.first()
    if refund is None:
        return
    if refund.state == CrossingState.WAITING:
        raise TryLater(f"Refund {refund.number} of it goes first.", after_pause(crossing.tries))
    raise hold(
        "REFUND-E006",
        Cause.SOURCE_CHANGED,
        f"Refund {refund.number} has begun and is held, so that nobody knows what is left to deliver of order "
        f"{crossing.number}.",
        "Mend what holds the refund and release it, then release the order.",
    )
