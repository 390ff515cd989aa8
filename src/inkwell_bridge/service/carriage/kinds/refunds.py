"""Refunds: what came back of an order becomes a credit note, and the money that went back."""

from __future__ import annotations

from collections.abc import Sequence
from typing import cast

from inkwell_bridge.core.commerce import Order, Refund, SourceDocument, SourceKind
from inkwell_bridge.core.findings import Cause
from inkwell_bridge.core.planner import Plan, plan_refund
from inkwell_bridge.core.rulebook import Rulebook
from inkwell_bridge.service.bridges.rules import parsed
from inkwell_bridge.service.carriage.deposits import comes_off_the_sale, refunds_lock
from inkwell_bridge.service.carriage.kinds import register
from inkwell_bridge.service.carriage.kinds.base import BaseKind, account_of, planning_context, versions
from inkwell_bridge.service.carriage.kinds.orders import articles_of_crossing
from inkwell_bridge.service.carriage.kinds.protocol import Gathered, Listed
from inkwell_bridge.service.carriage.models import Crossing, Document
from inkwell_bridge.service.carriage.refunds import WAITS_FOR_ORDER, order_of, refunded_before, retry_held, still_waits
from inkwell_bridge.service.carriage.snapshots import document_of
from inkwell_bridge.service.carriage.states import CrossingState


class RefundsKind(BaseKind):
    """A refund. It waits for its order, and is planned under the versions that the order was posted under."""

    name = "refunds"
    source_kind = SourceKind.REFUNDS

    def listed(self, source: SourceDocument) -> Listed:
        """Its own totals; its order is its parent."""
        refund = cast(Refund, source)
        return Listed(
            moment=refund.refunded_at,
            currency=refund.currency,
            net=refund.total - refund.tax_total,
            tax=refund.tax_total,
            gross=refund.total,
            parent_source_id=refund.order_id,
            money=refund.payments,
            sign=-1,
        )

    def rules_missing(self, rulebook: Rulebook) -> str:
        """Rules for orders, which those for refunds go with."""
        return "its rulebook says nothing of orders" if rulebook.orders is None else ""

    def lock_names(self, crossing: Crossing) -> Sequence[str]:
        """One after the other of one order: each counts what those before it took back."""
        return refunds_lock(crossing, crossing.parent_source_id)

    def gather(self, crossing: Crossing, source: SourceDocument, documents: Sequence[Document]) -> Gathered:
        """The order and what it was posted under; or what becomes of the refund without one."""
        refund = cast(Refund, source)
        version, master_data = versions(crossing, [])
        found = order_of(crossing, refund, begun=any(document.begun for document in documents))
        if isinstance(found, Plan):
            return Gathered(version=version, rulebook=parsed(version), master_data=master_data, ready=found)
        version, master_data = found.rulebook or version, found.master_data or master_data
        book = parsed(version)
        order = cast(Order, document_of(found.snapshot))
        of_order = list(found.documents.all())
        articles = articles_of_crossing(found, of_order, order, book)
        context = {
            "order": order,
            "context": planning_context(crossing.bridge, book, master_data, articles),
            "refunded_before": refunded_before(crossing, refund),
            "final_invoice": comes_off_the_sale(refund.id, found, of_order),
        }
        pinned = {"articles": articles.as_json()} if book.items else {}
        return Gathered(version=version, rulebook=book, master_data=master_data, context=context,
                        account_id=account_of(order), pinned=pinned)  # fmt: skip

    def plan(self, source: SourceDocument, gathered: Gathered) -> Plan:
        """See ``core.planner.plan_refund``."""
        return plan_refund(cast(Refund, source), **gathered.context)

    def after(self, crossing: Crossing, state: CrossingState, cause: Cause | None) -> None:
        """What it waits for may have come while it was looked at."""
        stopped = state in (CrossingState.HELD, CrossingState.DIFFERS)
        if stopped and cause in WAITS_FOR_ORDER and not still_waits(crossing, cause):
            retry_held(crossing)


register(RefundsKind())
