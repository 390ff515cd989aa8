"""What is left open of orders, and which small balances a run gives up."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from datetime import date, timedelta
from decimal import Decimal
from zoneinfo import ZoneInfo

from django.db import transaction
from django.db.models import Exists, OuterRef, Q, QuerySet

from inkwell_bridge.core.amendments import open_balance, with_write_off
from inkwell_bridge.core.books import BooksDocument
from inkwell_bridge.core.planner import Plan, is_ours
from inkwell_bridge.core.rulebook import Rulebook
from inkwell_bridge.service import clock
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.bridges.rules import in_force, parsed
from inkwell_bridge.service.carriage.amending import as_planned, refund_documents
from inkwell_bridge.service.carriage.carrying import Carrying
from inkwell_bridge.service.carriage.models import OPEN_STATES, Crossing, DocumentSource, OpenBalance, Run, RunEntry
from inkwell_bridge.service.carriage.runs import defer_carrying
from inkwell_bridge.service.carriage.states import CrossingState, DocumentState, Trial

ORDERS = "orders"
# So many are given up by one run; the next goes on.
MOST_AT_ONCE = 500


def today(bridge: Bridge) -> date:
    """The day by the company's clocks."""
    return clock.now().astimezone(ZoneInfo(bridge.company.time_zone)).date()


def posted_of(bridge: Bridge, order_ids: Sequence[str]) -> dict[str, tuple[list[BooksDocument], list[BooksDocument]]]:
    """The documents that are posted of each of these orders, and those of its refunds, as they were planned; two
    statements, however many."""
    rows = DocumentSource.objects.filter(
        crossing__workspace=bridge.workspace_id, crossing__bridge=bridge, crossing__kind=ORDERS,
        crossing__source_id__in=order_ids, document__posting_at__isnull=False,
    ).exclude(document__state=DocumentState.CANCELLED)  # fmt: skip
    own: dict[str, list[BooksDocument]] = defaultdict(list)
    for row in rows.select_related("document", "crossing").order_by("crossing", "part"):
        # What was adopted has no plan: somebody else keeps its account.
        if row.document.planned:
            own[row.crossing.source_id].append(as_planned(row.document))
    refunded = refund_documents(bridge, order_ids)
    return {one: (own[one], [as_planned(row.document) for row in refunded[one]]) for one in order_ids}


def keep(concluded: Sequence[Carrying]) -> None:
    """Keep what is open of the orders that these are, or belong to; all of one bridge.

    Nothing where payments are left for later: then nobody here knows what is open. Expects a transaction.
    """
    counted = [one for one in concluded if one.gathered is None or one.gathered.rulebook.payments is not None]
    if not counted or ORDERS not in (counted[0].kind.name, counted[0].kind.parent_kind):
        return
    bridge = counted[0].crossing.bridge
    orders = _orders_of(bridge, counted)
    rows, settled = [], []
    for source_id, (own, refunded) in posted_of(bridge, list(orders)).items():
        found = open_balance(own, refunded)
        if found is None or not found.amount:
            settled.append(orders[source_id])
            continue
        rows.append(
            OpenBalance(workspace_id=bridge.workspace_id, bridge=bridge, crossing_id=orders[source_id],
                        amount=found.amount, currency=found.currency, since=found.since)
        )  # fmt: skip
    if settled:
        OpenBalance.objects.filter(crossing__in=settled).delete()
    OpenBalance.objects.bulk_create(
        rows, update_conflicts=True, unique_fields=["crossing"], update_fields=["amount", "currency", "since"]
    )


def _orders_of(bridge: Bridge, concluded: Sequence[Carrying]) -> dict[str, int]:
    """The keys of the orders that these are or belong to, by the orders' ids, but for what is on trial."""
    if concluded[0].kind.name == ORDERS:
        return {one.crossing.source_id: one.crossing.pk for one in concluded if one.crossing.trial == Trial.NONE}
    found = Crossing.objects.filter(
        workspace=bridge.workspace_id, bridge=bridge, kind=ORDERS, trial=Trial.NONE,
        source_id__in={one.crossing.parent_source_id for one in concluded},
    )  # fmt: skip
    return dict(found.values_list("source_id", "pk"))


def enter_due(run: Run) -> None:
    """Let a run give up what the rules in force say: the orders whose balance is small and old enough go once more.

    Not those of which a refund is still on its way: what it takes off is not known yet.
    """
    bridge = run.bridge
    version = in_force(bridge)
    book = parsed(version) if version is not None else None
    if book is None or book.write_offs is None:
        return
    pending = _pending(bridge).filter(parent_source_id=OuterRef("crossing__source_id"))
    due = OpenBalance.objects.filter(
        _within(book, bridge), bridge=bridge, crossing__state=CrossingState.CARRIED, crossing__trial=Trial.NONE,
        since__lte=today(bridge) - timedelta(days=book.write_offs.after_days),
    ).exclude(Exists(pending)).exclude(crossing__entries__run=run)  # fmt: skip
    pks = list(due.order_by("since", "pk").values_list("crossing", flat=True)[:MOST_AT_ONCE])
    with transaction.atomic():
        found = list(
            Crossing.objects.select_related("bridge__books")
            .filter(pk__in=pks, state=CrossingState.CARRIED)
            .select_for_update(of=("self",))
        )
        RunEntry.objects.bulk_create(
            [RunEntry(workspace_id=run.workspace_id, run=run, crossing=one) for one in found], ignore_conflicts=True
        )
        Crossing.objects.filter(pk__in=[one.pk for one in found]).update(state=CrossingState.WAITING, tries=0)
        defer_carrying(found)


def _pending(bridge: Bridge) -> QuerySet[Crossing]:
    """What belongs to an order and has not come to its end: what it takes off is not known yet."""
    rows = Crossing.objects.filter(workspace=bridge.workspace_id, bridge=bridge, state__in=OPEN_STATES)
    return rows.exclude(parent_source_id="")


def _within(book: Rulebook, bridge: Bridge) -> Q:
    """The balances that are small enough, in each currency that has a limit."""
    rules = book.write_offs
    assert rules is not None
    limits: dict[str, Decimal] = {bridge.company.currency: rules.up_to, **rules.by_currency}
    within = Q(pk__in=[])
    for currency, limit in limits.items():
        within |= Q(currency=currency, amount__gte=-limit, amount__lte=limit)
    return within


def plans_with_write_offs(carryings: Sequence[tuple[Carrying, Plan]]) -> list[Plan]:
    """The plans of orders that stand in the books unchanged, each with what is given up of it by now.

    By the rules in force: that a penny is asked for no more is decided today, and not when the order was posted.
    """
    bridge = carryings[0][0].crossing.bridge
    version = in_force(bridge)
    book = parsed(version) if version is not None else None
    if book is None or book.write_offs is None:
        return [plan for _, plan in carryings]
    posted, day = posted_of(bridge, [one.crossing.source_id for one, _ in carryings]), today(bridge)
    wait = set(_pending(bridge).filter(parent_source_id__in=posted).values_list("parent_source_id", flat=True))
    made = []
    for one, plan in carryings:
        context = one.gathered.planning if one.gathered is not None else None
        if any(is_ours(money.transaction) for money in getattr(one.source, "payments", ())):
            # Money was entered in the books besides: what is open nobody here knows.
            made.append(plan)
            continue
        if context is None or one.crossing.trial != Trial.NONE or one.crossing.source_id in wait:
            made.append(plan)
            continue
        own, refunded = posted[one.crossing.source_id]
        now = context.model_copy(update={"rulebook": book.for_orders})
        made.append(with_write_off(plan, one.crossing.source_id, one.crossing.number, own, refunded, now, day))
    return made
