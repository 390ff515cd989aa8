"""Orders: what a buyer was charged for becomes the documents of a sale, and its payments receipts."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, cast

from inkwell_bridge.core.commerce import Order, Refund, SourceDocument, SourceKind
from inkwell_bridge.core.findings import Cause
from inkwell_bridge.core.planner import Articles, Plan, plan_order
from inkwell_bridge.core.rulebook import Rulebook
from inkwell_bridge.service.carriage.articles import articles_for
from inkwell_bridge.service.carriage.deposits import (
    has_final_invoice,
    let_refunds_end,
    refunds_before_invoice,
    refunds_lock,
)
from inkwell_bridge.service.carriage.kinds import register
from inkwell_bridge.service.carriage.kinds.base import (
    BaseKind,
    account_of,
    gathered_under,
    planning_context,
    versions,
)
from inkwell_bridge.service.carriage.kinds.protocol import Gathered, Listed
from inkwell_bridge.service.carriage.models import Crossing, Document
from inkwell_bridge.service.carriage.refunds import retry_held_refunds
from inkwell_bridge.service.carriage.states import CrossingState
from inkwell_bridge.service.carriage.steps import (
    adopt_typed_in,
    find_contact,
    hold_where_planned,
    keep_adopted,
    plan_documents,
    post_documents,
    prove_documents,
)


class OrdersKind(BaseKind):
    """An order. What somebody typed into the books for it is adopted; once something of it was posted, it is decided
    that it crosses."""

    name = "orders"
    source_kind = SourceKind.ORDERS
    posts_sales = True
    steps = (
        keep_adopted, plan_documents, adopt_typed_in, hold_where_planned, find_contact, post_documents, prove_documents,
    )  # fmt: skip

    def listed(self, source: SourceDocument) -> Listed:
        """Its own totals, as printed for the buyer."""
        order = cast(Order, source)
        return Listed(
            moment=order.placed_at,
            currency=order.currency,
            net=order.total - order.tax_total,
            tax=order.tax_total,
            gross=order.total,
            money=order.payments,
        )

    def rules_missing(self, rulebook: Rulebook) -> str:
        """Rules for orders."""
        return "its rulebook says nothing of orders" if rulebook.orders is None else ""

    def lock_names(self, crossing: Crossing) -> Sequence[str]:
        """None of its refunds while what was paid ahead is delivered."""
        return refunds_lock(crossing, crossing.source_id) if _has_deposits(crossing) else ()

    def gather(self, crossing: Crossing, source: SourceDocument, documents: Sequence[Document]) -> Gathered:
        """Versions, articles, and the refunds before the final invoice; each as it was kept once it is posted."""
        order = cast(Order, source)
        found = gathered_under(crossing, *versions(crossing, documents))
        if found.ready is not None:
            return found
        articles = articles_of_crossing(crossing, documents, order, found.rulebook)
        before = refunds_before_invoice(crossing, documents) if _has_deposits(crossing) else []
        context = planning_context(
            crossing.bridge,
            found.rulebook,
            found.master_data,
            articles,
            refunds_before_invoice=tuple(Refund.read(snapshot.content) for snapshot in before),
            decided=any(document.posting_at or document.proved_at for document in documents),
        )
        return Gathered(
            version=found.version,
            rulebook=found.rulebook,
            master_data=found.master_data,
            context=context,
            account_id=account_of(order),
            pinned=_pinned(articles, found.rulebook, [snapshot.pk for snapshot in before]),
        )

    def plan(self, source: SourceDocument, gathered: Gathered) -> Plan:
        """See ``core.planner.plan_order``."""
        return plan_order(cast(Order, source), gathered.context)

    def before_posting(self, plan: Plan, crossing: Crossing, documents: Sequence[Document]) -> None:
        """A refund that has begun ends before the final invoice goes: nobody knows yet what it leaves."""
        if has_final_invoice(plan):
            let_refunds_end(crossing, documents)

    def after(self, crossing: Crossing, state: CrossingState, cause: Cause | None) -> None:
        """Refunds that waited for it go."""
        if state == CrossingState.CARRIED:
            retry_held_refunds(crossing)

    def is_cancelled(self, source: SourceDocument) -> bool:
        """By its status."""
        return cast(Order, source).cancelled


def articles_of_crossing(
    crossing: Crossing, documents: Sequence[Document], order: Order, book: Rulebook
) -> Articles:  # fmt: skip
    """As they were when the first document was posted; else as they are now."""
    pinned = crossing.pinned.get("articles")
    if pinned is not None and any(document.posting_at for document in documents):
        return Articles.read(pinned)
    return articles_for(order, crossing.bridge, book.items)


def _pinned(articles: Articles, book: Rulebook, refunds: list[int]) -> dict[str, Any]:
    pinned: dict[str, Any] = {"articles": articles.as_json()} if book.items else {}
    return pinned | ({"refunds_before_invoice": refunds} if refunds else {})


def _has_deposits(crossing: Crossing) -> bool:
    lines = (crossing.snapshot.content or {}).get("lines", ())
    return any(line.get("nature") == "deposit" for line in lines)


register(OrdersKind())
