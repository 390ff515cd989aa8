"""What stands in the books of orders that changed after they were posted, and what their refunds took off."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import cast

from inkwell_bridge.core.amendments import PostedSale
from inkwell_bridge.core.books import BooksDocument, CreditNote, RefundPayment, Role
from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.planner import Plan
from inkwell_bridge.core.rulebook.orders import OrderRules
from inkwell_bridge.service.carriage.carrying import Carrying
from inkwell_bridge.service.carriage.deposits import refunds_of
from inkwell_bridge.service.carriage.models import Crossing, Document, DocumentSource, Snapshot
from inkwell_bridge.service.carriage.states import CrossingState, DocumentState

ZERO = Decimal(0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Earlier:
    """An order as it was when it was posted, and what its refunds have taken off since."""

    before: Order
    credited: Sequence[CreditNote]
    repaid: Decimal


def changed_since_posted(carrying: Carrying) -> bool:
    """Whether something that matters to the books changed since the documents were made."""
    posted = carrying.crossing.posted_snapshot
    return carrying.decided and (posted is None or posted.books_digest != carrying.crossing.snapshot.books_digest)


def is_amended_by(rules: OrderRules, order: Order) -> bool:
    """Whether the rules let the difference be posted; else a person looks."""
    return rules.cancelled == "credit" if order.cancelled else rules.edited == "amend"


def earlier_of(changed: Sequence[Carrying]) -> dict[Carrying, Earlier]:
    """What was earlier of each of these orders, all of one bridge. Two statements, however many."""
    if not changed:
        return {}
    bridge = changed[0].crossing.bridge
    keys = [one.crossing.posted_snapshot_id for one in changed if one.crossing.posted_snapshot_id]
    snapshots = Snapshot.objects.filter(workspace=bridge.workspace_id).in_bulk(keys)
    refunded = _refunded(changed)
    return {
        one: Earlier(
            before=Order.read(snapshots[cast(int, one.crossing.posted_snapshot_id)].content),
            credited=[part for part in refunded[one.crossing.source_id] if isinstance(part, CreditNote)],
            repaid=sum(
                (part.amount for part in refunded[one.crossing.source_id] if isinstance(part, RefundPayment)), ZERO
            ),
        )
        for one in changed
    }


def _refunded(changed: Sequence[Carrying]) -> dict[str, list[BooksDocument]]:
    """What the refunds of each order posted, by the order's id, whatever has become of the refunds since."""
    bridge = changed[0].crossing.bridge
    rows = DocumentSource.objects.filter(
        crossing__in=refunds_of(bridge, *(one.crossing.source_id for one in changed)),
        document__posting_at__isnull=False,
    ).select_related("document", "crossing")  # fmt: skip
    found: dict[str, list[BooksDocument]] = defaultdict(list)
    for row in rows.order_by("crossing", "part"):
        found[row.crossing.parent_source_id].append(as_planned(row.document))
    return found


def refunds_under_way(orders: Sequence[Crossing]) -> set[str]:
    """The orders of which a refund has begun and goes on by itself: what that leaves nobody knows yet. One
    statement."""
    refunds = refunds_of(orders[0].bridge, *(one.source_id for one in orders)).filter(state=CrossingState.WAITING)
    begun = refunds.filter(documents__posting_at__isnull=False)
    return set(begun.values_list("parent_source_id", flat=True))


def as_planned(document: Document) -> BooksDocument:
    """A document as it was planned."""
    return Role(document.role).shape.read(document.planned)


def posted_sale(carrying: Carrying, earlier: Earlier, theirs: Mapping[str, BooksDocument]) -> PostedSale:
    """What stands in the books of one order; ``theirs`` count as the books have them."""
    posted = [one for one in carrying.documents if one.posting_at]
    standing = [one for one in posted if one.state != DocumentState.CANCELLED]
    return PostedSale(
        documents=[theirs.get(one.external_reference) or as_planned(one) for one in standing],
        plan=Plan.read(carrying.crossing.planned),
        before=earlier.before,
        credited=earlier.credited,
        repaid=earlier.repaid,
        amendments=max((one.amendment for one in posted), default=0),
    )
