"""Payouts: what a provider or a marketplace pays out, as one journal each."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import cast
from zoneinfo import ZoneInfo

from django.db import connection

from inkwell_bridge.core.books import BooksDocument, Journal, Role
from inkwell_bridge.core.commerce import Payout, SourceDocument, SourceKind
from inkwell_bridge.core.findings import Cause
from inkwell_bridge.core.planner import OF_ORDERS, Outcome, PayoutContext, Plan, plan_payout
from inkwell_bridge.core.planner.payouts import IN_SUSPENSE, OF_NO_ORDER
from inkwell_bridge.core.rulebook import Rulebook
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage import awaited_money, movements
from inkwell_bridge.service.carriage.amending import amended_journal, changed_since_posted
from inkwell_bridge.service.carriage.carrying import Carrying
from inkwell_bridge.service.carriage.kinds import register
from inkwell_bridge.service.carriage.kinds.base import BaseKind, gathered_under
from inkwell_bridge.service.carriage.kinds.protocol import Concluded, Gathered, Listed
from inkwell_bridge.service.carriage.models import Crossing, Snapshot
from inkwell_bridge.service.carriage.releases import carry_again, retry_held
from inkwell_bridge.service.carriage.steps import WITHOUT_CONTACT
from inkwell_bridge.service.connections.ends import dialect_of
from inkwell_bridge.service.reference.pinned import master_data_of


class PayoutsKind(BaseKind):
    """The takings of some days, less what was kept of them."""

    name = "payouts"
    source_kind = SourceKind.PAYOUTS
    is_money_alone = True
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
        awaited_money.tell(concluded)
        waiting = [one.crossing for one in concluded if one.cause is Cause.ORDER_FIRST]
        if not waiting:
            return
        bridge = waiting[0].bridge
        told = Snapshot.objects.filter(workspace=bridge.workspace_id).in_bulk([one.snapshot_id for one in waiting])
        wanted = {one: _of_orders(Payout.read(told[one.snapshot_id].content)) for one in waiting}
        known = movements.known_to(bridge.books, set().union(*wanted.values()))
        retry_held([one for one, transactions in wanted.items() if transactions <= known])

    def look_again(self) -> None:
        """Carry once more what has money in suspense whose order has come since. One statement, and two that let them
        go."""
        with connection.cursor() as cursor:
            cursor.execute(_FOUND_SINCE, {"text": OF_NO_ORDER, "of_orders": [str(kind) for kind in OF_ORDERS]})
            found = [key for (key,) in cursor.fetchall()]
        carry_again(Crossing.objects.filter(pk__in=found).select_related("bridge__books"))


# What stands in suspense of a payout, by its journals, is not what its entries of no known order come to by now; and
# nobody decided that it stays so. The literal is that of the index, so that it is used whatever the plan of this.
_FOUND_SINCE = """
    SELECT crossing.id
    FROM carriage_crossing AS crossing
    JOIN bridges_bridge AS bridge ON bridge.id = crossing.bridge_id
    JOIN carriage_snapshot AS snapshot ON snapshot.id = crossing.snapshot_id
    CROSS JOIN LATERAL (
        SELECT COALESCE(sum((entry ->> 'amount')::numeric), 0) AS amount
        FROM jsonb_array_elements(snapshot.content -> 'entries') AS entry
        WHERE entry ->> 'kind' = ANY(%(of_orders)s) AND NOT EXISTS (
            SELECT 1 FROM carriage_moneymovement AS told
            JOIN carriage_crossing AS source ON source.id = told.crossing_id
            JOIN bridges_bridge AS its ON its.id = source.bridge_id AND its.books_id = bridge.books_id
            WHERE told.workspace_id = crossing.workspace_id AND told.transaction = entry ->> 'transaction'
              AND told.kind <> 'paid out')
    ) AS of_no_order
    CROSS JOIN LATERAL (
        SELECT COALESCE(-sum((line ->> 'base')::numeric), 0) AS amount
        FROM carriage_documentsource AS share JOIN carriage_document AS document ON document.id = share.document_id
        CROSS JOIN LATERAL jsonb_array_elements(COALESCE(document.counts_as, document.planned) -> 'lines') AS line
        WHERE share.crossing_id = crossing.id AND document.posting_at IS NOT NULL AND document.state <> 'cancelled'
              AND NOT document.put_right AND line ->> 'text' = %(text)s
    ) AS suspended
    WHERE crossing.kind = 'payouts' AND crossing.findings @> '[{"id": "PAYOUT-N001"}]' AND crossing.state = 'carried'
      AND crossing.decision IS NULL AND suspended.amount <> of_no_order.amount
    ORDER BY crossing.id LIMIT 500
"""


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
    return any(finding["id"] == IN_SUSPENSE for finding in crossing.findings)


register(PayoutsKind())
