"""Orders: what a buyer was charged for becomes the documents of a sale, and its payments receipts."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from typing import Any, NamedTuple, cast

from inkwell_bridge.core.amendments import plan_amendment
from inkwell_bridge.core.books import BooksDocument
from inkwell_bridge.core.commerce import (
    MoneyState,
    Order,
    Payment,
    Refund,
    SourceDocument,
    SourceKind,
    Teller,
    WriteBackKind,
    counted_once,
)
from inkwell_bridge.core.exchange_rates import ExchangeRate
from inkwell_bridge.core.planner import Articles, Plan, plan_order
from inkwell_bridge.core.proof import Section
from inkwell_bridge.core.rulebook import Rulebook
from inkwell_bridge.ends.shapes import AddNote, AddPayment, AddTag, WriteBack
from inkwell_bridge.service.bridges.models import Lane
from inkwell_bridge.service.bridges.rules import parsed
from inkwell_bridge.service.carriage import awaited_money
from inkwell_bridge.service.carriage.amending import (
    Earlier,
    changed_since_posted,
    earlier_of,
    is_amended_by,
    posted_sale,
)
from inkwell_bridge.service.carriage.articles import articles_for
from inkwell_bridge.service.carriage.carrying import Carrying
from inkwell_bridge.service.carriage.daily_rates import posted_rate, rates_for
from inkwell_bridge.service.carriage.decided import posts_difference
from inkwell_bridge.service.carriage.deposits import (
    has_final_invoice,
    refunds_before_invoice,
    refunds_lock,
    refunds_to_end_first,
)
from inkwell_bridge.service.carriage.kinds import register
from inkwell_bridge.service.carriage.kinds.base import (
    BaseKind,
    gathered_under,
    planning_context,
)
from inkwell_bridge.service.carriage.kinds.protocol import Concluded, Gathered, Listed
from inkwell_bridge.service.carriage.models import Crossing, Document, Snapshot
from inkwell_bridge.service.carriage.open_balances import plans_with_write_offs
from inkwell_bridge.service.carriage.refunds import retry_held_refunds
from inkwell_bridge.service.carriage.states import CrossingState, Trial
from inkwell_bridge.service.carriage.steps import (
    FROM_CONTACT,
    adopt_typed_in,
    as_drafts,
    hold_where_planned,
    keep_adopted,
    plan_documents,
    take_back_trial,
)
from inkwell_bridge.service.carriage.steps.write_back import said_of
from inkwell_bridge.service.connections.ends import dialect_of
from inkwell_bridge.service.later import TryLater, after_pause

# The lane by which the sales side hears of money that somebody entered in the books.
RECEIPTS = "receipts"
# The documents that stand for the sale; its number is the one that people ask for.
_SALE = frozenset({"invoice", "sales order", "cash sale"})


class OrdersKind(BaseKind):
    """An order. What somebody typed into the books for it is adopted; once something of it was posted, it is decided
    that it crosses."""

    name = "orders"
    source_kind = SourceKind.ORDERS
    section = Section.SALES
    hears_of_money = True
    # What may end an order early comes first. What somebody typed in is looked for once there is a plan to compare it
    # with, and before anything is held: such an order stands in the books, whether our rules fit it or not.
    steps = (keep_adopted, take_back_trial, plan_documents, adopt_typed_in, hold_where_planned, *FROM_CONTACT)

    def listed(self, source: SourceDocument) -> Listed:
        """Its own totals, as printed for the buyer."""
        order = cast(Order, source)
        return Listed(
            moment=order.placed_at,
            currency=order.currency,
            net=order.total - order.tax_total,
            tax=order.tax_total,
            gross=order.total,
            money=counted_once(order.payments),
        )

    def rules_missing(self, rulebook: Rulebook) -> str:
        """Rules for orders."""
        return "its rulebook says nothing of orders" if rulebook.orders is None else ""

    def lock_names(self, crossing: Crossing) -> Sequence[str]:
        """None of its refunds while what was paid ahead is delivered, or while it is amended."""
        amended = crossing.posted_snapshot_id not in (None, crossing.snapshot_id)
        return refunds_lock(crossing, crossing.source_id) if amended or _has_deposits(crossing) else ()

    def gather(self, carryings: Sequence[Carrying]) -> Sequence[Gathered | Exception]:
        """Versions, articles, and the refunds before the final invoice; each as it was kept once it is posted."""
        found = gathered_under(carryings)
        # Where the plan is known without planning, nothing else of an order is asked for.
        ready = [(one, gathered) for one, gathered in zip(carryings, found, strict=True) if gathered.ready is None]
        articles = articles_of_crossings(
            [
                OrderUnder(one.crossing, one.documents, cast(Order, one.source), gathered.rulebook)
                for one, gathered in ready
            ]
        )
        ahead = [one for one in carryings if _has_deposits(one.crossing)]
        before = dict(zip(ahead, refunds_before_invoice(ahead), strict=True)) if ahead else {}
        earlier = earlier_of([one for one, gathered in ready if _is_amended(one, gathered)])
        asked = [(cast(Order, one.source), gathered.rulebook) for one, gathered in ready]
        rates = rates_for(asked, carryings[0].crossing.bridge)
        planned = {
            one: _gathered(one, gathered, of_order, before.get(one, []), earlier.get(one), daily)
            for (one, gathered), of_order, daily in zip(ready, articles, rates, strict=True)
        }
        return [planned.get(one, gathered) for one, gathered in zip(carryings, found, strict=True)]

    def plan(self, source: SourceDocument, gathered: Gathered) -> Plan:
        """See ``core.planner.plan_order``; on trial all of it is left as drafts."""
        plan = plan_order(cast(Order, source), gathered.context)
        return as_drafts(plan, gathered.context.capabilities) if gathered.on_trial else plan

    def amended(self, carrying: Carrying, gathered: Gathered, theirs: Mapping[str, BooksDocument]) -> Plan:
        """See ``core.amendments.plan_amendment``."""
        earlier = cast(Earlier, gathered.earlier)
        if earlier.first:
            # What that takes off the sale nobody knows yet.
            raise TryLater(f"Refund {earlier.first} of it goes first.", after_pause(carrying.crossing.tries))
        sale = posted_sale(carrying, earlier, theirs)
        return plan_amendment(cast(Order, carrying.source), sale, gathered.context)

    def given_up(self, carryings: Sequence[tuple[Carrying, Plan]]) -> Sequence[Plan]:
        """A small balance, by the rules that the order was posted under or, where those say nothing, by those in force.
        Two statements, and none where no rules give anything up."""
        return plans_with_write_offs(carryings)

    def before_posting(self, planned: Sequence[tuple[Carrying, Plan]]) -> Sequence[Exception | None]:
        """A refund that has begun ends before the final invoice goes."""
        final = [one for one, plan in planned if has_final_invoice(plan)]
        first = dict(zip(final, refunds_to_end_first(final), strict=True)) if final else {}
        return [first.get(one) for one, _ in planned]

    def written_back(self, carrying: Carrying) -> Sequence[WriteBack]:
        """Money that the bank told of, where the sales side hears of money in the books; a tag and a note, by the rules
        that it was posted under. What was written before is left out."""
        version = carrying.crossing.rulebook
        book = parsed(version) if version is not None else None
        said = book.orders.written_back if book is not None and book.orders is not None else None
        document = next((one for one in carrying.documents if one.role in _SALE), None)
        order_id = carrying.crossing.source_id
        wanted: list[WriteBack] = [*_money_to_tell(carrying)]
        if said is not None and document is not None:
            note = said.note_of(document.books_number or document.books_id, document.link)
            wanted += [AddTag(id=order_id, tag=said.tag)] if said.tag else []
            wanted += [AddNote(id=order_id, text=note)] if note else []
        # The shop would take each of them again; but the trail there, and our calls, would grow with every run.
        return [what for what in wanted if said_of(what) not in carrying.crossing.written_back]

    def after(self, concluded: Sequence[Concluded]) -> None:
        """Refunds that waited for them go."""
        awaited_money.tell(concluded)
        # What is on trial may be taken back: nothing is credited against it.
        carried = [
            one.crossing for one in concluded if one.state == CrossingState.CARRIED and one.crossing.trial == Trial.NONE
        ]
        if carried:
            retry_held_refunds(carried)

    def is_cancelled(self, source: SourceDocument) -> bool:
        """By its status."""
        return cast(Order, source).cancelled


def _money_to_tell(carrying: Carrying) -> Iterator[AddPayment]:
    """What the bank told of an order and the sales side does not know: told where the lane of receipts is on. One
    statement, and none where the bank told of nothing."""
    bridge, said = carrying.crossing.bridge, (carrying.crossing.snapshot.content or {}).get("payments", ())
    by_bank = [Payment.read(one) for one in said if one.get("told_by") == Teller.BANK]
    told = [one for one in by_bank if one.state is MoneyState.RECEIVED]
    takes = WriteBackKind.PAYMENT in dialect_of(bridge.source).capabilities.writes_back
    if not told or not takes or not Lane.objects.filter(bridge=bridge, kind=RECEIPTS, on=True).exists():
        return
    for one in told:
        yield AddPayment(id=carrying.crossing.source_id, payment=one)


def _is_amended(one: Carrying, found: Gathered) -> bool:
    """Whether what changed of it since it was posted is posted too, and nobody need look."""
    if one.under is not None or one.crossing.posted_snapshot_id is None or not changed_since_posted(one):
        return False
    by_rule = is_amended_by(found.rulebook.for_orders.orders, cast(Order, one.source))
    return by_rule or posts_difference(one.crossing)


def _gathered(
    one: Carrying, found: Gathered, articles: Articles, before: Sequence[Snapshot], earlier: Earlier | None,
    daily_rates: tuple[ExchangeRate, ...],
) -> Gathered:  # fmt: skip
    context = planning_context(
        one.crossing.bridge,
        found.rulebook,
        found.master_data,
        articles,
        refunds_before_invoice=tuple(Refund.read(snapshot.content) for snapshot in before),
        decided=one.decided,
        locked_until=found.locked_until,
        # Posted once, it goes by that rate for ever; rehearsed, it is as if nothing of it were posted.
        exchange_rate=posted_rate(one.crossing) if one.decided and one.under is None else None,
        daily_rates=daily_rates,
    )
    return replace(
        found,
        context=context,
        buyer=cast(Order, one.source).buyer,
        # Where it is rehearsed or tried nothing is sent at all.
        on_trial=one.crossing.trial == Trial.SENT and one.under is None,
        earlier=earlier,
        pinned=_pinned(articles, found.rulebook, [snapshot.pk for snapshot in before]),
    )


class OrderUnder(NamedTuple):
    """An order's crossing, its documents, the order itself, and the rules that it is planned under."""

    crossing: Crossing
    documents: Sequence[Document]
    order: Order
    rules: Rulebook


def articles_of_crossings(orders: Sequence[OrderUnder]) -> list[Articles]:
    """Of each order as they were when its first document was posted; else as they are now. All of one bridge."""
    kept = [_kept_articles(one) for one in orders]
    asked = [(one.order, one.rules.items) for one, articles in zip(orders, kept, strict=True) if articles is None]
    now = iter(articles_for(asked, orders[0].crossing.bridge) if asked else [])
    return [next(now) if articles is None else articles for articles in kept]


def _kept_articles(one: OrderUnder) -> Articles | None:
    pinned = one.crossing.pinned.get("articles")
    # Until something is posted a link that was made since counts; afterwards the same plan must come of it again.
    if pinned is None or not any(document.posting_at for document in one.documents):
        return None
    return Articles.read(pinned)


def _pinned(articles: Articles, book: Rulebook, refunds: list[int]) -> dict[str, Any]:
    pinned: dict[str, Any] = {"articles": articles.as_json()} if book.items else {}
    return pinned | ({"refunds_before_invoice": refunds} if refunds else {})


def _has_deposits(crossing: Crossing) -> bool:
    lines = (crossing.snapshot.content or {}).get("lines", ())
    return any(line.get("nature") == "deposit" for line in lines)


register(OrdersKind())
