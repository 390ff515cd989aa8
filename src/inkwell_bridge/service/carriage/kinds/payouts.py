"""Payouts: what a provider or a marketplace pays out, as one journal each."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace
from decimal import Decimal
from typing import cast
from zoneinfo import ZoneInfo

from django.db import connection, transaction
from django.dispatch import Signal

from inkwell_bridge.core.books import BooksDocument, Journal, Role
from inkwell_bridge.core.commerce import Payout, SourceDocument, SourceKind
from inkwell_bridge.core.findings import Cause
from inkwell_bridge.core.planner import OF_ORDERS, Outcome, PayoutContext, Plan, plan_payout
from inkwell_bridge.core.planner.payouts import OF_NO_ORDER
from inkwell_bridge.core.rulebook import Rulebook
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage import movements
from inkwell_bridge.service.carriage.amending import amended_journal, changed_since_posted
from inkwell_bridge.service.carriage.carrying import Carrying
from inkwell_bridge.service.carriage.kinds import register
from inkwell_bridge.service.carriage.kinds.base import BaseKind, gathered_under
from inkwell_bridge.service.carriage.kinds.protocol import Concluded, Gathered, Listed
from inkwell_bridge.service.carriage.models import Crossing, Snapshot
from inkwell_bridge.service.carriage.releases import carry_again, retry_held
from inkwell_bridge.service.carriage.states import CrossingState
from inkwell_bridge.service.carriage.steps import WITHOUT_CONTACT
from inkwell_bridge.service.connections.ends import dialect_of
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.reference.pinned import master_data_of

# So many of those with money in suspense are looked at in one go, the newest.
MOST_LOOKED_AT = 500
# Sent with the books that payouts were carried into: they are awaited at the bank from now on.
payouts_carried = Signal()


class PayoutsKind(BaseKind):
    """The takings of some days, less what was kept of them."""

    name = "payouts"
    source_kind = SourceKind.PAYOUTS
    passing_causes = frozenset({Cause.ORDER_FIRST})
    # Nobody is invoiced by it, so no contact is looked for.
    steps = WITHOUT_CONTACT

    def listed(self, source: SourceDocument) -> Listed:
        """What arrives, on the day that it was paid out. It is the money of sales that were counted already."""
        payout = cast(Payout, source)
        return Listed(
            moment=payout.paid_at,
            currency=payout.currency,
            gross=payout.total,
            paid_out=[one for one in payout.entries if one.kind in OF_ORDERS and one.transaction],
            ties=False,
        )

    def rules_missing(self, rulebook: Rulebook) -> str:
        """The accounts of payouts."""
        return "" if rulebook.payouts else "The rulebook says nothing of payouts."

    def ends_cannot(self, bridge: Bridge) -> str:
        """A sales side that pays out, and books that take journals."""
        missing = super().ends_cannot(bridge)
        if missing:
            return missing
        if Role.JOURNAL not in dialect_of(bridge.books).capabilities.documents:
            return f"{bridge.books.name} takes no journals"
        return ""

    def gather(self, carryings: Sequence[Carrying]) -> Sequence[Gathered | Exception]:
        """Which of their transactions orders and refunds told of that cross to the same books; one statement."""
        bridge = carryings[0].crossing.bridge
        wanted = set().union(*(_of_orders(cast(Payout, one.source)) for one in carryings))
        known = movements.known_to(bridge.books, wanted)
        found = zip(carryings, gathered_under(carryings), strict=True)
        return [_with_context(one, gathered, bridge, known) for one, gathered in found]

    def plan(self, source: SourceDocument, gathered: Gathered) -> Plan:
        """See ``core.planner.plan_payout``."""
        return plan_payout(cast(Payout, source), cast(PayoutContext, gathered.context))

    def amended(self, carrying: Carrying, gathered: Gathered, theirs: Mapping[str, BooksDocument]) -> Plan:
        """A journal of the difference, on the day that the provider corrected it; of an order that was found since, on
        the day of the payout itself."""
        payout, context = cast(Payout, carrying.source), cast(PayoutContext, gathered.context)
        corrected_on = payout.changed_at.astimezone(ZoneInfo(context.time_zone)).date()
        wanted = plan_payout(payout, context)
        if gathered.more_is_known and wanted.documents:
            corrected_on = cast(Journal, wanted.documents[0]).date
        return amended_journal(carrying, theirs, wanted, context, day=corrected_on)

    def after(self, concluded: Sequence[Concluded]) -> None:
        """Tell whoever waits for them, and let go those whose orders have all come since; two statements, and one that
        lets them go."""
        if any(one.state == CrossingState.CARRIED for one in concluded):
            books = concluded[0].crossing.bridge.books
            transaction.on_commit(lambda: payouts_carried.send(Connection, books=books), robust=True)
        waiting = [one.crossing for one in concluded if one.cause is Cause.ORDER_FIRST]
        if not waiting:
            return
        bridge = waiting[0].bridge
        told = Snapshot.objects.filter(workspace=bridge.workspace_id).in_bulk([one.snapshot_id for one in waiting])
        wanted = {one: _of_orders(Payout.read(told[one.snapshot_id].content)) for one in waiting}
        known = movements.known_to(bridge.books, set().union(*wanted.values()))
        retry_held([one for one, transactions in wanted.items() if transactions <= known])

    def look_again(self) -> None:
        """Carry once more what has money in suspense whose order has come since. Two statements, and two for each of
        their books."""
        with connection.cursor() as cursor:
            cursor.execute(_IN_SUSPENSE, [MOST_LOOKED_AT])
            rows = Crossing.objects.filter(pk__in=[key for (key,) in cursor.fetchall()])
        by_books: dict[Connection, list[Crossing]] = defaultdict(list)
        for row in rows.select_related("bridge__books", "snapshot").prefetch_related("shares__document"):
            by_books[row.bridge.books].append(row)
        for books, crossings in by_books.items():
            payouts = {one: Payout.read(one.snapshot.content) for one in crossings if one.snapshot.content}
            known = movements.known_to(books, set().union(*map(_of_orders, payouts.values())))
            carry_again(one for one, payout in payouts.items() if _suspended(one) != _of_no_order(payout, known))


# The literal is that of the index, so that it is found whatever the statement's plan.
_IN_SUSPENSE = """
    SELECT id FROM carriage_crossing
    WHERE kind = 'payouts' AND findings @> '[{"id": "PAYOUT-N001"}]' AND state = 'carried' ORDER BY id DESC LIMIT %s
"""


def _suspended(crossing: Crossing) -> Decimal:
    """What its journals have put into suspense."""
    journals = [one.planned for one in crossing.documents_in_order if one.posting_at and one.planned]
    lines = [line for journal in journals for line in journal["lines"] if line["text"] == OF_NO_ORDER]
    return -sum((Decimal(line["base"]) for line in lines), Decimal(0))


def _of_no_order(payout: Payout, known: Collection[str]) -> Decimal:
    strange = [one for one in payout.entries if one.kind in OF_ORDERS and one.transaction not in known]
    return sum((one.amount for one in strange), Decimal(0))


def _of_orders(payout: Payout) -> set[str]:
    # One without a number is among them, and is never known: it must not let its payout go.
    return {entry.transaction for entry in payout.entries if entry.kind in OF_ORDERS}


def _with_context(one: Carrying, gathered: Gathered, bridge: Bridge, known: frozenset[str]) -> Gathered:
    if gathered.ready is not None:
        return gathered
    # A lane does not run without them; but what was held may be let go under rules that have dropped them since.
    if gathered.rulebook.payouts is None:
        return replace(gathered, ready=Plan(outcome=Outcome.LEFT_OUT, left_out_by="/payouts"))
    context = PayoutContext(
        source=bridge.source.slug,
        rules=gathered.rulebook.payouts,
        periods=gathered.rulebook.periods,
        master_data=master_data_of(gathered.master_data),
        time_zone=bridge.company.time_zone,
        known=known,
        locked_until=gathered.locked_until,
    )
    # Rehearsed, it is as if nothing of it were posted.
    changed = one.under is None and changed_since_posted(one)
    more = one.under is None and not changed and one.decided and _has_suspense(one.crossing)
    return replace(gathered, context=context, earlier=changed or more or None, more_is_known=more)


def _has_suspense(crossing: Crossing) -> bool:
    return any(finding["id"] == "PAYOUT-N001" for finding in crossing.findings)


register(PayoutsKind())
