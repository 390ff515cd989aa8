"""Receipts: money that somebody entered in the books, told to the orders at the sales side that it pays."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, cast

from inkwell_bridge.core.commerce import Receipt, SourceDocument, SourceKind, WriteBackKind
from inkwell_bridge.core.planner import PaidOrder, Plan, plan_receipt
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage.carrying import Carrying
from inkwell_bridge.service.carriage.kinds import register
from inkwell_bridge.service.carriage.kinds.base import BaseKind, gathered_under
from inkwell_bridge.service.carriage.kinds.protocol import Direction, Gathered, Listed
from inkwell_bridge.service.carriage.models import Crossing, DocumentSource
from inkwell_bridge.service.carriage.steps import WITHOUT_CONTACT
from inkwell_bridge.service.connections.ends import dialect_of

ORDERS = "orders"


class ReceiptsKind(BaseKind):
    """Money in the books that was not posted from here: whoever reads them leaves out what bears our own mark."""

    name = "receipts"
    source_kind = SourceKind.RECEIPTS
    direction = Direction.BOOKS_TO_SALES
    # No contact is looked for: the order at the sales side is the buyer's already.
    steps = WITHOUT_CONTACT

    def listed(self, source: SourceDocument) -> Listed:
        """Its amount, on the day that it came in."""
        receipt = cast(Receipt, source)
        return Listed(moment=receipt.received_at, currency=receipt.currency, gross=receipt.amount, ties=False)

    def ends_cannot(self, bridge: Bridge) -> str:
        """Books that tell of receipts, and a sales side that takes payments."""
        books, sales = dialect_of(bridge.books), dialect_of(bridge.source)
        if not books.capabilities.tells_of_receipts:
            return f"{bridge.books.name} does not tell of money that is entered there"
        if WriteBackKind.PAYMENT not in sales.capabilities.writes_back:
            return f"{bridge.source.name} takes no word of payments"
        return ""

    def gather(self, carryings: Sequence[Carrying]) -> Sequence[Gathered | Exception]:
        """The orders behind what each is set against; two statements, however many."""
        bridge = carryings[0].crossing.bridge
        receipts = [cast(Receipt, one.source) for one in carryings]
        by_reference = _behind(bridge, [part.external_reference for one in receipts for part in one.settles])
        by_number = _numbered(bridge, [one.order_number for one in receipts if one.order_number])
        return [
            Gathered(
                version=found.version,
                rulebook=found.rulebook,
                master_data=found.master_data,
                context={
                    "books": bridge.books.slug,
                    "by_reference": by_reference,
                    "by_number": by_number.get(receipt.order_number),
                },
            )
            for receipt, found in zip(receipts, gathered_under(carryings), strict=True)
        ]

    def plan(self, source: SourceDocument, gathered: Gathered) -> Plan:
        """See ``core.planner.plan_receipt``."""
        return plan_receipt(cast(Receipt, source), **cast(dict[str, Any], gathered.context))


def _behind(bridge: Bridge, references: Sequence[str]) -> dict[str, PaidOrder]:
    """The orders of this bridge behind documents of the books, by the documents' references."""
    rows = DocumentSource.objects.select_related("document", "crossing").filter(
        crossing__workspace=bridge.workspace_id, crossing__bridge=bridge, crossing__kind=ORDERS,
        document__connection=bridge.books_id, document__external_reference__in=references,
    )  # fmt: skip
    return {row.document.external_reference: _paid(row.crossing) for row in rows}


def _numbered(bridge: Bridge, numbers: Sequence[str]) -> dict[str, PaidOrder]:
    """The orders of this bridge by their numbers."""
    rows = Crossing.objects.filter(
        workspace=bridge.workspace_id, bridge=bridge, kind=ORDERS, number__in=numbers
    ).only("source_id", "number", "currency")  # fmt: skip
    return {row.number: _paid(row) for row in rows}


def _paid(order: Crossing) -> PaidOrder:
    return PaidOrder(source_id=order.source_id, number=order.number, currency=order.currency)


register(ReceiptsKind())
