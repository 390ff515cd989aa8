"""Reading what is new at the source: page by page, each page kept whole or not at all.

A run reads from a little before the newest change seen so far: what shares its time with the last
document read, or was still being written then, is read again and recognised by its fingerprint.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from django.db import transaction
from django.utils import timezone

from inkwell_bridge.core.commerce import Order
from inkwell_bridge.ends.contract import Fetched, Page, SalesEnd
from inkwell_bridge.ends.errors import Away
from inkwell_bridge.service.bridges.models import Lane
from inkwell_bridge.service.carriage import snapshots
from inkwell_bridge.service.carriage.models import Crossing, Run, RunEntry, Snapshot
from inkwell_bridge.service.carriage.runs import defer_carrying, end_if_done
from inkwell_bridge.service.carriage.states import CrossingState, EntryOutcome, RunState

OVERLAP = timedelta(minutes=15)


def read_all(run: Run, end: SalesEnd) -> None:
    """Read everything new for a run; what one page gave stays, also when the next one fails.

    Raises:
        EndError: the source failed on the way; the place reached is not moved on.
    """
    lane = Lane.objects.get(workspace=run.workspace_id, bridge=run.bridge_id, kind="orders")
    newest = lane.read_up_to
    for page in _pages(end, lane.read_up_to - OVERLAP if lane.read_up_to else None):
        keep_page(run, page.documents)
        changes = [document.changed_at for document in page.documents if document.changed_at]
        newest = max([*changes, *([newest] if newest else [])], default=None)
    with transaction.atomic():
        Lane.objects.filter(pk=lane.pk).update(read_up_to=newest)
        Run.objects.filter(pk=run.pk, state=RunState.READING).update(state=RunState.CARRYING, trouble="")
        end_if_done([run.pk])


def _pages(end: SalesEnd, since: datetime | None) -> Iterator[Page]:
    page = end.orders(changed_since=since)
    yield page
    seen = set() if page.next is None else {page.next}
    while page.next:
        page = end.orders(changed_since=since, page=page.next)
        yield page
        if page.next is not None and page.next in seen:
            raise Away("The source's pages lead in a circle, so they could not be read to the end.")
        seen.add(page.next or "")


@transaction.atomic
def keep_page(run: Run, documents: Sequence[Fetched]) -> None:
    """Keep one page: snapshots, crossings, the run's entries and the jobs that carry them, all in one."""
    latest = {document.id: document for document in documents}
    known = {
        crossing.source_id: crossing
        for crossing in Crossing.objects.select_related("snapshot").filter(
            workspace=run.workspace_id, bridge=run.bridge_id, kind="orders", source_id__in=latest
        )
    }
    changed = [document for document in latest.values() if _changed(known.get(document.id), document)]
    kept = snapshots.keep(run.bridge.source, changed, at=timezone.now())
    fresh = [_crossing(run, document, kept[document.id]) for document in changed if document.id not in known]
    Crossing.objects.bulk_create(fresh)
    again = [
        _renewed(known[document.id], run, document, kept[document.id]) for document in changed if document.id in known
    ]
    Crossing.objects.bulk_update(again, ["snapshot", "number", "state", "cause", *_FIGURES])
    pending = [*fresh, *again, *(crossing for crossing in known.values() if _unfinished(crossing, kept))]
    _enter(run, pending, EntryOutcome.PENDING)
    done = {crossing.pk for crossing in pending}
    _enter(run, [crossing for crossing in known.values() if crossing.pk not in done], EntryOutcome.UNCHANGED)
    defer_carrying(pending)


_FIGURES = ("placed_at", "business_date", "currency", "net", "tax", "gross")


def _changed(crossing: Crossing | None, document: Fetched) -> bool:
    return crossing is None or crossing.snapshot.fingerprint != snapshots.mark_of(document)


def _unfinished(crossing: Crossing, kept: dict[str, Snapshot]) -> bool:
    return crossing.state == CrossingState.WAITING and crossing.source_id not in kept


def _crossing(run: Run, document: Fetched, snapshot: Snapshot) -> Crossing:
    crossing = Crossing(
        workspace_id=run.workspace_id,
        bridge=run.bridge,
        source_id=document.id,
        number=document.number,
        snapshot=snapshot,
    )
    _set_figures(crossing, run, document.order)
    return crossing


def _renewed(crossing: Crossing, run: Run, document: Fetched, snapshot: Snapshot) -> Crossing:
    crossing.snapshot, crossing.number = snapshot, document.number
    crossing.state, crossing.cause = CrossingState.WAITING, ""
    _set_figures(crossing, run, document.order)
    return crossing


def _set_figures(crossing: Crossing, run: Run, order: Order | None) -> None:
    if order is None:
        return
    crossing.placed_at = order.placed_at
    crossing.business_date = order.placed_at.astimezone(ZoneInfo(run.bridge.company.time_zone)).date()
    crossing.currency = order.currency
    crossing.net, crossing.tax, crossing.gross = order.total - order.tax_total, order.tax_total, order.total


def _enter(run: Run, crossings: Sequence[Crossing], outcome: EntryOutcome) -> None:
    RunEntry.objects.bulk_create(
        [
            RunEntry(workspace_id=run.workspace_id, run=run, crossing=crossing, outcome=outcome)
            for crossing in crossings
        ],
        ignore_conflicts=True,
    )
