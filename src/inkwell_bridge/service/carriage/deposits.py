"""What was given back of deposits before they are delivered: the final invoice delivers what is left of them.

Which refunds went before is kept with the order's crossing once its final invoice is on its way: planned again, it
comes to the same documents, whatever is given back later; and that comes off the sale.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from django.db.models import Q, QuerySet

from inkwell_bridge.core.commerce import Nature, SourceKind
from inkwell_bridge.core.findings import Cause
from inkwell_bridge.core.planner import Plan, ends_deposits
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage.holding import hold
from inkwell_bridge.service.carriage.models import Crossing, Document, Snapshot
from inkwell_bridge.service.carriage.states import CrossingState
from inkwell_bridge.service.later import TryLater, after_pause

_BEGUN = Q(documents__posting_at__isnull=False) | Q(documents__intended_at__isnull=False) | ~Q(documents__books_id="")


def refunds_of(bridge: Bridge, order_id: str) -> QuerySet[Crossing]:
    """The refunds of an order."""
    return Crossing.objects.filter(
        workspace=bridge.workspace_id, bridge=bridge, kind=SourceKind.REFUNDS, snapshot__content__order_id=order_id
    )


def carried(refunds: QuerySet[Crossing]) -> QuerySet[Crossing]:
    """Those that are in the books."""
    return refunds.filter(state__in=(CrossingState.CARRIED, CrossingState.DIFFERS))


def has_deposits(content: dict[str, Any] | None) -> bool:
    """Whether an order, as it was fetched, has something that is paid ahead."""
    return any(line.get("nature") == Nature.DEPOSIT for line in (content or {}).get("lines", ()))


def final_invoice_begun(documents: Sequence[Document]) -> bool:
    """Whether the final invoice of an order may be in the books: what is given back from then on is of a sale."""
    return any(document.begun and ends_deposits(document.mark) for document in documents)


def went_before(crossing: Crossing, documents: Sequence[Document]) -> list[Snapshot]:
    """The refunds before an order's final invoice: as they were kept with it, or all that are in the books by now."""
    if not has_deposits(crossing.snapshot.content):
        return []
    if final_invoice_begun(documents):
        return list(Snapshot.objects.filter(workspace=crossing.workspace_id, pk__in=crossing.given_back).order_by("pk"))
    return given_back_by_now(crossing.bridge, crossing.source_id)


def given_back_by_now(bridge: Bridge, order_id: str) -> list[Snapshot]:
    """The refunds of an order that are in the books by now."""
    found = carried(refunds_of(bridge, order_id)).select_related("snapshot").order_by("snapshot")
    return [refund.snapshot for refund in found]


def is_of_the_sale(refund_id: str, order: Crossing, documents: Sequence[Document]) -> bool:
    """Whether a refund comes after the final invoice of its order."""
    if not final_invoice_begun(documents):
        return False
    before = Snapshot.objects.filter(workspace=order.workspace_id, pk__in=order.given_back, source_id=refund_id)
    return not before.exists()


def delivers(plan: Plan) -> bool:
    """Whether a plan has a final invoice that ends deposits."""
    return any(ends_deposits(document.mark) for document in plan.documents)


def let_refunds_end(plan: Plan, crossing: Crossing, documents: Sequence[Document]) -> None:
    """Let a refund that has begun end before the final invoice goes: nobody knows yet what it leaves.

    Raises:
        TryLater: it goes on by itself.
        Hold: it is held for a person.
    """
    if not delivers(plan) or final_invoice_begun(documents):
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
