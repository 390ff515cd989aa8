"""Working a rehearsal: its documents planned twice, counted, and those that change kept."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import structlog
from django.db import transaction
from django.utils import timezone

from inkwell_bridge.core.commerce import Order, Refund, SourceDocument
from inkwell_bridge.core.coverage import Coverage, suggestion
from inkwell_bridge.core.rehearsal import Compared, Conditions, OddOnes, reach_of
from inkwell_bridge.core.rehearsal import Rehearsal as Sums
from inkwell_bridge.service.asked_work import WorkState
from inkwell_bridge.service.carriage.models import Crossing
from inkwell_bridge.service.carriage.refunds import orders_of
from inkwell_bridge.service.carriage.snapshots import document_of
from inkwell_bridge.service.rehearsals.models import ChangedPlan, Rehearsal
from inkwell_bridge.service.rehearsals.planning import Past, Planned, Rules, in_chunks, of_period
from inkwell_bridge.service.rows import insert_rows

log = structlog.get_logger("inkwell.rehearsals")

# So many that change are kept to be opened one by one; all are counted.
MOST_KEPT = 20_000
MOST_SHOWN = 20


def work(rehearsal: Rehearsal) -> None:
    """Go over the period's documents from the first to the last; begun again, it comes to the same.

    Reads the database alone; writes how far it is after each chunk, and ends where somebody has cancelled it.

    Raises:
        EndError: nothing was loaded from the books yet, and they do not answer.
    """
    bridge = rehearsal.bridge
    rows = of_period(bridge, rehearsal.first, rehearsal.last)
    total = rows.count()
    ChangedPlan.objects.filter(workspace=rehearsal.workspace_id, rehearsal=rehearsal).delete()
    active = rehearsal.while_active
    if not active.update(state=WorkState.RUNNING, total=total, done=0, changed=0, trouble=""):
        return
    working = _Working(rehearsal)
    done = 0
    for chunk in in_chunks(rows):
        working.take(chunk)
        done += len(chunk)
        if not active.update(done=done, changed=working.sums.changed):
            return
    active.update(
        state=WorkState.ENDED, ended_at=timezone.now(), done=total, changed=working.sums.changed,
        result=working.result(), coverage=working.coverage_values(),
    )  # fmt: skip
    log.info("rehearsal.ended", workspace=rehearsal.workspace_id, rehearsal=rehearsal.pk, documents=done)


class _Working:
    """The sums of one rehearsal while it goes on."""

    def __init__(self, rehearsal: Rehearsal) -> None:
        self._rehearsal, bridge = rehearsal, rehearsal.bridge
        self._after = Rules(rehearsal.rulebook, bridge)
        self._before = Rules(rehearsal.since, bridge) if rehearsal.since else self._after
        self._reach = reach_of(self._before.book, self._after.book)
        self._kept = 0
        self.sums, self._coverage, self._odd = Sums(), Coverage(), OddOnes()
        self._conditions = Conditions(self._after.book.orders)

    def take(self, chunk: Sequence[Past]) -> None:
        """Plan a chunk by both versions, the second time only what the change can reach."""
        before = self._before.plan(chunk)
        reached = [past for past, order in zip(chunk, self._orders(chunk), strict=True) if self._reaches(order)]
        after = dict(zip((past.crossing.pk for past in reached), self._after.plan(reached), strict=True))
        changed: list[tuple[Crossing, Compared]] = []
        for past, planned in zip(chunk, before, strict=True):
            now = after.get(past.crossing.pk)
            compared = self.sums.add(planned.plan, now.plan if now else None)
            if compared.differs:
                changed.append((past.crossing, compared))
            self._cover(past.source, now or planned)
            if isinstance(past.source, Order):
                self._odd.add(past.source.number, (now or planned).plan)
        self._keep(changed)

    def _reaches(self, order: Order | None) -> bool:
        if self._reach.is_nothing:
            return False
        return order is None or self._reach.touches(order)

    def _orders(self, chunk: Sequence[Past]) -> list[Order | None]:
        """The order that each is or belongs to; none where it is neither, or has none here."""
        refunds = [past.source for past in chunk if isinstance(past.source, Refund)]
        known = orders_of(self._rehearsal.bridge, refunds) if refunds and not self._reach.is_nothing else {}
        of_refunds = {key: document_of(order.snapshot) for key, order in known.items() if not order.snapshot.problem}
        return [self._order_of(past.source, of_refunds) for past in chunk]

    def _order_of(self, source: SourceDocument, of_refunds: dict[str, SourceDocument]) -> Order | None:
        found = of_refunds.get(source.order_id) if isinstance(source, Refund) else source
        return found if isinstance(found, Order) else None

    def _cover(self, source: SourceDocument, planned: Planned) -> None:
        # What the rules as they are to be make of it; an order whose plan needed none has nothing to be asked.
        if isinstance(source, Order) and planned.context is not None:
            context, rules = planned.context, self._after.book.for_orders
            if context.rulebook is not rules:
                context = context.model_copy(update={"rulebook": rules})
            try:
                self._coverage.add(source, context)
                self._conditions.add(source, context)
            except Exception:
                log.exception("rehearsal.coverage-failed", order=source.number)

    def _keep(self, changed: Sequence[tuple[Crossing, Compared]]) -> None:
        kept = changed[: max(MOST_KEPT - self._kept, 0)]
        self._kept += len(kept)
        with transaction.atomic():
            insert_rows(
                [
                    ChangedPlan(
                        workspace_id=self._rehearsal.workspace_id, rehearsal=self._rehearsal, crossing=crossing,
                        before=compared.before.value, after=compared.after.value,
                        why=compared.why, changes=[one.as_json() for one in compared.changes[:MOST_SHOWN]],
                    )
                    for crossing, compared in kept
                ]
            )  # fmt: skip

    def result(self) -> dict[str, Any]:
        """What it came to."""
        sums = self.sums
        return {
            "documents": sums.documents,
            "outcomes": [one.as_json() for one in sums.outcomes],
            "totals": [one.as_json() for one in sums.totals],
            "findings": [one.as_json() for one in sums.findings],
            "conditions": [one.as_json() for one in self._conditions.hits()],
            "odd_ones": [one.as_json() for one in self._odd.chosen()],
            "further": {aspect.value: count for aspect, count in self._coverage.further.items()},
        }

    def coverage_values(self) -> list[dict[str, Any]]:
        """Every value that the orders hold, with what would map it where nothing does."""
        books, values = self._after.master_data, []
        for met in self._coverage.values():
            proposed = suggestion(met, books)
            values.append({**met.as_json(), "suggestion": proposed._asdict() if proposed else None})
        return values
