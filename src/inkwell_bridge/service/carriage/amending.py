"""What stands in the books of orders that changed after they were posted, and what their refunds took off."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Any, Protocol, cast

from inkwell_bridge.core.amendments import MarketplaceTax, PostedJournals, PostedSale, owing_of, plan_journal_amendment
from inkwell_bridge.core.books import BooksDocument, Journal, MasterData, Role
from inkwell_bridge.core.commerce import Order, Refund
from inkwell_bridge.core.planner import Owing, Plan, PostedShare, external_reference
from inkwell_bridge.core.rulebook.orders import OrderRules
from inkwell_bridge.core.rulebook.periods import PeriodRules
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage.carrying import Carrying
from inkwell_bridge.service.carriage.daily_rates import posted_rate
from inkwell_bridge.service.carriage.deposits import refunds_of
from inkwell_bridge.service.carriage.models import (
    COUNTED_DOCUMENT,
    Crossing,
    Document,
    DocumentSource,
    Snapshot,
)
from inkwell_bridge.service.carriage.states import CrossingState, DocumentState

ZERO = Decimal(0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Earlier:
    """An order as it was when it was posted, and what its refunds have taken off since; ``first`` is the number of one
    that has begun and goes on by itself; ``marketplace_tax_returned`` and ``refunds`` see ``PostedSale``."""

    before: Order
    refunded: Sequence[BooksDocument]
    refunds: Sequence[Refund] = ()
    marketplace_tax_returned: Decimal = ZERO
    first: str = ""


def changed_since_posted(carrying: Carrying) -> bool:
    """Whether something that matters to the books changed since the documents were made."""
    posted = carrying.crossing.posted_snapshot
    return carrying.decided and (posted is None or posted.books_digest != carrying.crossing.snapshot.books_digest)


def is_amended_by(rules: OrderRules, order: Order) -> bool:
    """Whether the rules let the difference be posted; else a person looks."""
    return rules.cancelled == "credit" if order.cancelled else rules.edited == "amend"


def earlier_of(changed: Sequence[Carrying]) -> dict[Carrying, Earlier]:
    """What was earlier of each of these orders, all of one bridge. Two statements, however many, and one more for
    refunds of converted orders."""
    if not changed:
        return {}
    bridge = changed[0].crossing.bridge
    keys = [one.crossing.posted_snapshot_id for one in changed if one.crossing.posted_snapshot_id]
    snapshots = Snapshot.objects.filter(workspace=bridge.workspace_id).in_bulk(keys)
    refunded = refund_documents(bridge, [one.crossing.source_id for one in changed])
    refunds = _refunds_as_told([row for one in changed if _is_converted(one.crossing)
                                for row in refunded[one.crossing.source_id]])  # fmt: skip
    return {
        one: Earlier(
            before=Order.read(snapshots[cast(int, one.crossing.posted_snapshot_id)].content),
            refunded=[as_planned(row.document) for row in refunded[one.crossing.source_id]],
            refunds=refunds[one.crossing.source_id],
            marketplace_tax_returned=_returned(_plans_of(refunded[one.crossing.source_id])),
            first=next(
                (
                    row.crossing.number
                    for row in refunded[one.crossing.source_id]
                    if row.crossing.state == CrossingState.WAITING
                ),
                "",
            ),
        )
        for one in changed
    }


def _refunds_as_told(rows: Sequence[DocumentSource]) -> dict[str, list[Refund]]:
    """These refunds as the sales side told them when they were posted, by their order's id; one statement at most."""
    crossings = {row.crossing_id: row.crossing for row in rows}
    keys = {one.pk: one.posted_snapshot_id or one.snapshot_id for one in crossings.values()}
    told = Snapshot.objects.filter(workspace=rows[0].workspace_id).in_bulk(keys.values()) if rows else {}
    found: dict[str, list[Refund]] = defaultdict(list)
    for one in crossings.values():
        found[one.parent_source_id].append(Refund.read(told[keys[one.pk]].content))
    return found


def _is_converted(order: Crossing) -> bool:
    return bool((order.planned or {}).get("converted"))


def refund_documents(bridge: Bridge, orders: Sequence[str]) -> dict[str, list[DocumentSource]]:
    """What the refunds of each order posted, by the order's id, whatever has become of the refunds since. One
    statement."""
    rows = DocumentSource.objects.filter(
        COUNTED_DOCUMENT, crossing__in=refunds_of(bridge, *orders),
    ).select_related("document", "crossing")  # fmt: skip
    found: dict[str, list[DocumentSource]] = defaultdict(list)
    for row in rows.order_by("crossing", "part"):
        found[row.crossing.parent_source_id].append(row)
    return found


def as_planned(document: Document) -> BooksDocument:
    """A document as it was planned, with whatever was made since to put it right."""
    return Role(document.role).shape.read(document.counts_as or document.planned)


def is_counted(document: Document) -> bool:
    """Whether it stands at its end, and counts for itself: see ``COUNTED_DOCUMENT``."""
    return bool(document.posting_at) and document.state != DocumentState.CANCELLED and not document.put_right


def standing(documents: Sequence[Document]) -> list[BooksDocument]:
    """Those that are posted and not cancelled. What was adopted has no plan: somebody else keeps its account."""
    return [as_planned(one) for one in documents if one.planned and is_counted(one)]


def posted_sale(carrying: Carrying, earlier: Earlier, theirs: Mapping[str, BooksDocument]) -> PostedSale:
    """What stands in the books of one order; ``theirs`` count as the books have them."""
    posted = [one for one in carrying.documents if one.posting_at]
    there = [one for one in posted if is_counted(one)]
    return PostedSale(
        documents=[theirs.get(one.external_reference) or as_planned(one) for one in there],
        plan=Plan.read(carrying.crossing.planned),
        before=earlier.before,
        refunded=earlier.refunded,
        refunds=earlier.refunds,
        marketplace_tax_returned=earlier.marketplace_tax_returned,
        amendments=max((one.amendment for one in posted), default=0),
    )


def posted_journals(carrying: Carrying, theirs: Mapping[str, BooksDocument]) -> PostedJournals:
    """What stands in the books of one that becomes journals; ``theirs`` count as the books have them."""
    posted = [one for one in carrying.documents if is_counted(one)]
    return PostedJournals(
        documents=[cast(Journal, theirs.get(one.external_reference) or as_planned(one)) for one in posted],
        plan=Plan.read(carrying.crossing.planned),
        amendments=max((one.amendment for one in carrying.documents), default=0),
    )


class JournalContext(Protocol):
    """What the journals of a source are planned with."""

    @property
    def source(self) -> str:
        """The unchanging name of the connection that it comes from."""

    @property
    def periods(self) -> PeriodRules:
        """The rules for locked days."""

    @property
    def master_data(self) -> MasterData:
        """The books' own, with their periods."""

    @property
    def locked_until(self) -> date | None:
        """Up to when they are locked, as far as anybody knows by now."""


def amended_journal(
    carrying: Carrying, theirs: Mapping[str, BooksDocument], wanted: Plan, context: JournalContext, *, day: date
) -> Plan:
    """The plan that brings the journals of a source to what is wanted by now, changed on that day."""
    there = posted_journals(carrying, theirs)
    number = there.amendments + 2
    return plan_journal_amendment(
        wanted,
        there,
        external_reference=external_reference(context.source, carrying.crossing.source_id, Role.JOURNAL, number),
        day=day,
        periods=context if context.periods.locked == "first open day" else None,
    )


# Where what was owed is kept with a refund that has begun: planned again, it pays the same.
OWING = "owing"


class OrderCrossing(Protocol):
    """An order with its crossing and its documents."""

    @property
    def crossing(self) -> Crossing:
        """Its crossing."""

    @property
    def documents(self) -> Sequence[Document]:
        """What it became."""

    @property
    def order(self) -> Order:
        """As it is now."""


def owing_to(refunds: Sequence[Carrying], orders: Sequence[OrderCrossing]) -> list[Owing]:
    """What each refund may pay, of the order beside it: as it was kept once it has begun, else what other refunds left
    of it. One statement, and none where no order changed after it was posted, was paid too much, or was converted."""
    amended = [one.crossing.source_id for one in orders if _may_owe(one)]
    bridge = refunds[0].crossing.bridge
    refunded = refund_documents(bridge, amended) if amended else {}
    return [_owing(one, order, refunded.get(order.crossing.source_id, ()))
            for one, order in zip(refunds, orders, strict=True)]  # fmt: skip


def _may_owe(order: OrderCrossing) -> bool:
    """Whether anything may be owed to the buyer of an order: it changed, or too much was paid; of a converted one it is
    asked for what its money came to in the books."""
    amended = any(one.amendment and one.posting_at for one in order.documents)
    return amended or order.order.received > order.order.total or _is_converted(order.crossing)


def _owing(refund: Carrying, order: OrderCrossing, refunded: Sequence[DocumentSource]) -> Owing:
    if any(document.begun for document in refund.documents) and OWING in refund.crossing.pinned:
        return Owing.read(refund.crossing.pinned[OWING])
    if not _may_owe(order):
        return Owing()
    others = [row for row in refunded if row.crossing_id != refund.crossing.pk]
    planned = order.crossing.planned or {}
    return owing_of(
        order.order,
        standing(order.documents),
        [as_planned(row.document) for row in others],
        called_off=bool(planned.get("called_off")),
        rate=posted_rate(order.crossing) if _is_converted(order.crossing) else None,
        tax=_marketplace_tax(planned, _plans_of(others)),
        beyond=Decimal(planned.get("beyond_order") or 0),
    )


def _plans_of(refunds: Iterable[DocumentSource]) -> list[Mapping[str, Any]]:
    """The plan of each refund, once however many documents it made."""
    return list({row.crossing_id: row.crossing.planned or {} for row in refunds}.values())


def _returned(refunds: Sequence[Mapping[str, Any]]) -> Decimal:
    return sum((Decimal(one.get("marketplace_tax_returned") or 0) for one in refunds), ZERO)


def _marketplace_tax(order: Mapping[str, Any], refunds: Sequence[Mapping[str, Any]]) -> MarketplaceTax:
    """What plans say of the tax that a marketplace keeps: of the order as it is, and of what its refunds gave back."""

    def named(plan: Mapping[str, Any]) -> Decimal:
        return sum((Decimal(one["amount"]) for one in plan.get("withheld", ())), ZERO)

    credited = sum(map(named, refunds), ZERO)
    return MarketplaceTax(now=named(order), credited=credited, returned=_returned(refunds))


def posted_shares(order: Crossing) -> tuple[PostedShare, ...]:
    """What the charges of an order bear of its discounts, where it was amended; else the order itself tells."""
    return tuple(PostedShare.model_validate(one) for one in (order.planned or {}).get("posted_shares", ()))
