"""Refunds: what came back of an order becomes a credit note, and the money that went back."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any, cast

from inkwell_bridge.core.amendments import with_money_taken_back
from inkwell_bridge.core.books import BooksDocument
from inkwell_bridge.core.commerce import (
    Order,
    Refund,
    SourceDocument,
    SourceKind,
    Teller,
    books_digest,
    counted_once,
)
from inkwell_bridge.core.exchange_rates import ExchangeRate
from inkwell_bridge.core.planner import Articles, Outcome, Owing, Plan, PlanningContext, believed, plan_refund
from inkwell_bridge.core.proof import Section
from inkwell_bridge.core.rulebook import Rulebook
from inkwell_bridge.service.bridges.rules import parsed
from inkwell_bridge.service.carriage import awaited_money
from inkwell_bridge.service.carriage.amending import OWING, changed_since_posted, owing_to, posted_shares, standing
from inkwell_bridge.service.carriage.carrying import Carrying
from inkwell_bridge.service.carriage.daily_rates import posted_rate, rates_for
from inkwell_bridge.service.carriage.deposits import come_off_the_sale, refunds_lock
from inkwell_bridge.service.carriage.kinds import register
from inkwell_bridge.service.carriage.kinds.base import BaseKind, Versions, planning_context
from inkwell_bridge.service.carriage.kinds.orders import OrderUnder, articles_of_crossings
from inkwell_bridge.service.carriage.kinds.protocol import Concluded, Gathered, Listed
from inkwell_bridge.service.carriage.models import Crossing, Snapshot
from inkwell_bridge.service.carriage.open_balances import today
from inkwell_bridge.service.carriage.refunds import (
    BEFORE,
    ORDERS,
    WAITS_FOR_ORDER,
    held_before,
    order_first,
    orders_of,
    refunded_before,
    what_came,
)
from inkwell_bridge.service.carriage.releases import retry_held
from inkwell_bridge.service.carriage.snapshots import document_of
from inkwell_bridge.service.carriage.states import CrossingState


class RefundsKind(BaseKind):
    """A refund. It waits for its order, and is planned under the versions that the order was posted under."""

    name = "refunds"
    source_kind = SourceKind.REFUNDS
    section = Section.REFUNDS
    passing_causes = WAITS_FOR_ORDER
    parent_kind = ORDERS
    hears_of_money = True

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
            money=counted_once(refund.payments),
            sign=-1,
        )

    def rules_missing(self, rulebook: Rulebook) -> str:
        """Rules for orders, which those for refunds go with."""
        return "its rulebook says nothing of orders" if rulebook.orders is None else ""

    def lock_names(self, crossing: Crossing) -> Sequence[str]:
        """One after the other of one order: each counts what those before it took back."""
        return refunds_lock(crossing, crossing.parent_source_id)

    def gather(self, carryings: Sequence[Carrying]) -> Sequence[Gathered | Exception]:
        """The order and what it was posted under; or what becomes of the refund without one."""
        versions = Versions(carryings[0].crossing.bridge)
        orders = orders_of(carryings[0].crossing.bridge, [cast(Refund, one.source) for one in carryings])
        answers: dict[Carrying, Gathered | Exception] = {}
        under: list[tuple[Carrying, OrderUnder]] = []
        for one in carryings:
            refund, (version, master_data) = cast(Refund, one.source), one.under or versions.now
            order = orders.get(refund.order_id)
            # One that stands in the books in part goes on, whatever has become of its order since.
            begun = any(document.begun for document in one.documents)
            found = order_first(one.crossing, refund, order, begun=begun)
            if isinstance(found, Plan):
                book = parsed(version)
                answers[one] = Gathered(version=version, rulebook=book, master_data=master_data, ready=found)
            elif found is not None:
                answers[one] = found
            elif order is not None:
                # Rehearsed, it is as if nothing of its order had been posted yet.
                book = parsed(version if one.under else order.rulebook or version)
                of_order = believed(cast(Order, document_of(order.snapshot)), book.payments)
                posted = () if one.under else order.documents_in_order
                under.append((one, OrderUnder(order, posted, of_order, book)))
        if under:
            # The articles of the order, not of the refund: what came back stands on the items that it was sold on.
            articles = articles_of_crossings([order for _, order in under])
            before = refunded_before([one for one, _ in under])
            late = come_off_the_sale(
                [(cast(Refund, one.source).id, order.crossing, order.documents) for one, order in under]
            )
            owing = owing_to([one for one, _ in under], [order for _, order in under])
            daily = _rates(under)
            held = held_before([one for one, _ in under])
            for (one, order_under), *found in zip(under, articles, before, late, owing, daily, held, strict=True):
                answers[one] = _of_order(one, order_under, *found, versions=versions)
            for one in _changed_in_money_alone([one for one, _ in under]):
                answers[one] = replace(cast(Gathered, answers[one]), earlier=True)
        return [answers[one] for one in carryings]

    def plan(self, source: SourceDocument, gathered: Gathered) -> Plan:
        """See ``core.planner.plan_refund``."""
        return plan_refund(cast(Refund, source), **gathered.context)

    def amended(self, carrying: Carrying, gathered: Gathered, theirs: Mapping[str, BooksDocument]) -> Plan:
        """As it is, with what takes back the money that did not stay. Only its money can have changed."""
        context = cast(PlanningContext, gathered.planning)
        wanted = self.plan(cast(Refund, carrying.source), gathered)
        if wanted.outcome is not Outcome.CARRY:
            return wanted
        posted = [theirs.get(one.external_reference, one) for one in standing(carrying.documents)]
        return with_money_taken_back(
            wanted, posted, source=context.source, source_id=carrying.crossing.source_id,
            day=today(carrying.crossing.bridge), amendment=1,
            periods=context if context.rulebook.periods.locked == "first open day" else None,
        )  # fmt: skip

    def after(self, concluded: Sequence[Concluded]) -> None:
        """What they wait for may have come while they were looked at; and the bank may have their money."""
        awaited_money.tell(concluded)
        retry_held(what_came([one for one in concluded if one.state in (CrossingState.HELD, CrossingState.DIFFERS)]))


def _changed_in_money_alone(refunds: Sequence[Carrying]) -> list[Carrying]:
    """Those that changed after they were posted by what others told of their money, and by nothing else; one statement,
    and none where nothing changed."""
    changed = [one for one in refunds if one.under is None and changed_since_posted(one)]
    keys = [one.crossing.posted_snapshot_id for one in changed if one.crossing.posted_snapshot_id]
    if not keys:
        return []
    posted = Snapshot.objects.filter(workspace=changed[0].crossing.workspace_id).in_bulk(keys)
    found = []
    for one in changed:
        then = posted.get(one.crossing.posted_snapshot_id or 0)
        if then is not None and _told_there(Refund.read(then.content)) == _told_there(cast(Refund, one.source)):
            found.append(one)
    return found


def _told_there(refund: Refund) -> str:
    """A digest of what the sales side itself says of it."""
    own = tuple(one for one in refund.payments if one.told_by is Teller.SALES_SIDE)
    return books_digest(refund.model_copy(update={"payments": own}))


def _rates(under: Sequence[tuple[Carrying, OrderUnder]]) -> list[tuple[ExchangeRate, ...]]:
    """The rates that each refund and its order may go by."""
    bridge = under[0][0].crossing.bridge
    of_refunds = [(cast(Refund, one.source), order.rules) for one, order in under]
    of_orders = [(order.order, order.rules) for _, order in under]
    found = rates_for([*of_refunds, *of_orders], bridge)
    return [(*found[place], *found[place + len(under)]) for place in range(len(under))]


def _of_order(
    one: Carrying,
    order_under: OrderUnder,
    articles: Articles,
    before: Sequence[Snapshot],
    late: bool,
    owing: Owing,
    daily_rates: tuple[ExchangeRate, ...],
    held: Sequence[Refund],
    *,
    versions: Versions,
) -> Gathered:
    crossing, order, book = order_under.crossing, order_under.order, order_under.rules
    # Credited as it was charged: by the rules and rates of the sale, whatever is in force by now.
    posted_under = (crossing.rulebook or versions.now[0], crossing.master_data or versions.now[1])
    version, master_data = one.under or posted_under
    context = {
        "order": order,
        "context": planning_context(
            one.crossing.bridge,
            book,
            master_data,
            articles,
            posted_shares=posted_shares(order_under.crossing),
            locked_until=None if book.periods.locked == "hold" else versions.locked_until,
            exchange_rate=posted_rate(order_under.crossing) if one.under is None else None,
            daily_rates=daily_rates,
        ),
        "owing": owing,
        "refunded_before": [Refund.read(snapshot.content) for snapshot in before],
        "held_before": held,
        "final_invoice": late,
    }
    pinned: dict[str, Any] = {"articles": articles.as_json()} if book.items else {}
    # Which refunds went before decides what is left to give back; planned again, it is these and no others.
    if before:
        pinned[BEFORE] = [snapshot.pk for snapshot in before]
    if owing.all > 0:
        pinned[OWING] = owing.as_json()
    return Gathered(version=version, rulebook=book, master_data=master_data, context=context,
                    buyer=order.buyer, pinned=pinned)  # fmt: skip


register(RefundsKind())
