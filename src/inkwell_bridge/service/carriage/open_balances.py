"""What is left open of orders, and which small balances a run gives up."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from datetime import date, timedelta
from decimal import Decimal
from typing import Any
from zoneinfo import ZoneInfo

from django.db import transaction
from django.db.models import Exists, OuterRef, Q, QuerySet

from inkwell_bridge.core import amendments as core
from inkwell_bridge.core.amendments import with_write_off
from inkwell_bridge.core.books import BooksDocument
from inkwell_bridge.core.planner import Plan, on_open_days, prefix_of
from inkwell_bridge.core.rulebook import Rulebook
from inkwell_bridge.service import clock
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.bridges.rules import in_force, parsed
from inkwell_bridge.service.carriage.amending import as_planned, refund_documents, standing
from inkwell_bridge.service.carriage.carrying import Carrying
from inkwell_bridge.service.carriage.models import (
    COUNTED_DOCUMENT,
    OPEN_STATES,
    Crossing,
    Document,
    DocumentSource,
    OpenBalance,
    Run,
    RunEntry,
)
from inkwell_bridge.service.carriage.runs import defer_carrying
from inkwell_bridge.service.carriage.states import CrossingState, Trial

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
        COUNTED_DOCUMENT, crossing__workspace=bridge.workspace_id, crossing__bridge=bridge, crossing__kind=ORDERS,
        crossing__source_id__in=order_ids,
    )  # fmt: skip
    own: dict[str, list[Document]] = defaultdict(list)
    for row in rows.select_related("document", "crossing").order_by("crossing", "part"):
        own[row.crossing.source_id].append(row.document)
    refunded = refund_documents(bridge, order_ids)
    return {one: (standing(own[one]), [as_planned(row.document) for row in refunded[one]]) for one in order_ids}


def keep(concluded: Sequence[Carrying]) -> None:
    """Keep what is open of the orders that these are, or belong to; all of one bridge.

    Of what nobody here knows there is no row: where payments are left for later, or money was entered in the books
    besides. Two statements, and two more for refunds. Expects a transaction.
    """
    counted = [one for one in concluded if one.gathered is None or one.gathered.rulebook.payments is not None]
    if not counted or ORDERS not in (counted[0].kind.name, counted[0].kind.parent_kind):
        return
    bridge = counted[0].crossing.bridge
    rows, settled = [], []
    for crossing_id, found in _open_of(bridge, counted).items():
        if found is None or not found.amount:
            settled.append(crossing_id)
        else:
            rows.append(
                OpenBalance(workspace_id=bridge.workspace_id, bridge=bridge, crossing_id=crossing_id,
                            amount=found.amount, currency=found.currency, since=found.since)
            )  # fmt: skip
    if settled:
        OpenBalance.objects.filter(crossing__in=settled).delete()
    OpenBalance.objects.bulk_create(
        rows, update_conflicts=True, unique_fields=["crossing"], update_fields=["amount", "currency", "since"]
    )


def _open_of(bridge: Bridge, concluded: Sequence[Carrying]) -> dict[int, core.OpenBalance | None]:
    """What is open of the orders that these are or belong to, by the orders' keys; what is on trial left out."""
    if concluded[0].kind.name == ORDERS:
        orders = {one.crossing.source_id: one for one in concluded if one.crossing.trial == Trial.NONE}
        refunded = refund_documents(bridge, list(orders))
        # Their own documents are at hand: they were posted or read back just now.
        both = {
            one.crossing.pk: (standing(one.documents), [as_planned(row.document) for row in refunded[source_id]])
            for source_id, one in orders.items()
        }
        money = {one.crossing.pk: one.crossing.snapshot.content for one in orders.values()}
    else:
        parents = Crossing.objects.filter(
            workspace=bridge.workspace_id, bridge=bridge, kind=ORDERS, trial=Trial.NONE,
            source_id__in={one.crossing.parent_source_id for one in concluded},
        ).select_related("snapshot")  # fmt: skip
        keys = {one.source_id: one.pk for one in parents}
        money = {one.pk: one.snapshot.content for one in parents}
        both = {keys[source_id]: documents for source_id, documents in posted_of(bridge, list(keys)).items()}
    mark = prefix_of(bridge.books.slug)
    return {
        pk: None if _has_money_of_books(money[pk], mark) else core.open_balance(*documents)
        for pk, documents in both.items()
    }


def _has_money_of_books(content: Mapping[str, Any] | None, mark: str) -> bool:
    """Whether an order was paid by money that somebody entered in the books: what is open of it nobody here knows."""
    return any(str(one["transaction"]).startswith(mark) for one in (content or {}).get("payments") or ())


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
    mark = prefix_of(bridge.books.slug)
    wait = set(_pending(bridge).filter(parent_source_id__in=posted).values_list("parent_source_id", flat=True))
    made = []
    for one, plan in carryings:
        context = one.gathered.planning if one.gathered is not None else None
        unknown = one.crossing.source_id in wait or _has_money_of_books(one.crossing.snapshot.content, mark)
        if context is None or one.crossing.trial != Trial.NONE or unknown:
            made.append(plan)
            continue
        own, refunded = posted[one.crossing.source_id]
        now = context.model_copy(update={"rulebook": book.for_orders})
        given_up = with_write_off(plan, one.crossing.source_id, one.crossing.number, own, refunded, now, day)
        # Today may lie in a period that is locked already.
        made.append(on_open_days(given_up, now, keep=[document.external_reference for document in own]))
    return made
