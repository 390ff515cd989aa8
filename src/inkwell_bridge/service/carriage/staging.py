"""Reading what is new at the source: page by page, each page kept whole or not at all.

A run reads from a little before the newest change seen so far: what shares its time with the last
document read, or was still being written then, is read again and recognised by its fingerprint. No time
of change is trusted alone: what is still open on our side is read again by its id.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from django.db import transaction
from django.db.models import Q, QuerySet
from django.utils import timezone

from inkwell_bridge.core.commerce import Customer, Order, Refund, SourceDocument, SourceKind
from inkwell_bridge.ends.contract import SalesEnd
from inkwell_bridge.ends.errors import Away
from inkwell_bridge.ends.shapes import Fetched, Page
from inkwell_bridge.service import clock
from inkwell_bridge.service.bridges.models import Lane
from inkwell_bridge.service.carriage import snapshots
from inkwell_bridge.service.carriage.models import Crossing, Run, RunEntry, Snapshot
from inkwell_bridge.service.carriage.runs import defer_carrying, end_if_done, in_date_order
from inkwell_bridge.service.carriage.states import CrossingState, EntryOutcome, RunState

OVERLAP = timedelta(minutes=15)
# Once a day a run reads from days before: a page of the source may have left something out.
LOOKS_BACK = timedelta(days=3)
LOOKS_BACK_EVERY = timedelta(hours=20)
# What is open is read again for so long; what stays open longer waits for its own time of change.
STAYS_OPEN = timedelta(days=60)
MOST_OPEN = 2000
MOST_PAGES = 100_000
MOST_EMPTY_PAGES = 20


def read_all(run: Run, end: SalesEnd) -> None:
    """Read everything new for a run, lane by lane; what one page gave stays, also when the next one fails.

    Raises:
        EndError: the source failed on the way; the place reached is not moved on.
    """
    if run.numbers:
        _read_numbers(run, end)
    else:
        for lane in Lane.objects.filter(workspace=run.workspace_id, bridge=run.bridge_id, on=True).order_by("kind"):
            _read_lane(run, end, lane)
    with transaction.atomic():
        if in_date_order(run.bridge):
            # A later page may have brought an earlier date, so nothing goes before everything was read.
            pending = Crossing.objects.filter(entries__run=run, entries__outcome=EntryOutcome.PENDING)
            defer_carrying(pending.select_related("bridge__books"))
        Run.objects.filter(pk=run.pk, state=RunState.READING).update(state=RunState.CARRYING, trouble="")
        end_if_done([run.pk])


def _read_numbers(run: Run, end: SalesEnd) -> None:
    """Read the orders named; one that the source does not have ends the run with its number."""
    found = [end.document(SourceKind.ORDERS, number) for number in run.numbers]
    keep_page(run, SourceKind.ORDERS, found)


def _read_lane(run: Run, end: SalesEnd, lane: Lane) -> None:
    kind, newest = SourceKind(lane.kind), lane.read_up_to
    started = clock.now()
    looks_back = lane.looked_back_at is None or started - lane.looked_back_at > LOOKS_BACK_EVERY
    overlap = LOOKS_BACK if looks_back else OVERLAP
    for page in _pages(end, kind, lane.read_up_to - overlap if lane.read_up_to else None):
        keep_page(run, kind, page.documents)
        changes = [document.changed_at for document in page.documents if document.changed_at]
        newest = max([*changes, *([newest] if newest else [])], default=None)
    _read_open_again(run, end, kind)
    Lane.objects.filter(pk=lane.pk).update(
        read_up_to=newest, looked_back_at=started if looks_back else lane.looked_back_at
    )


def _pages(end: SalesEnd, kind: SourceKind, since: datetime | None) -> Iterator[Page]:
    page = end.documents(kind, changed_since=since)
    yield page
    seen = set() if page.next is None else {page.next}
    empty = 0
    while page.next:
        page = end.documents(kind, changed_since=since, page=page.next)
        yield page
        empty = 0 if page.documents else empty + 1
        if empty > MOST_EMPTY_PAGES:
            raise Away("The source's pages lead on and on without a document.")
        if page.next is not None and (page.next in seen or len(seen) >= MOST_PAGES):
            raise Away("The source's pages lead in a circle, so they could not be read to the end.")
        seen.add(page.next or "")


def _read_open_again(run: Run, end: SalesEnd, kind: SourceKind) -> None:
    """Read again by id what has not crossed yet, and was not on the pages just read."""
    open_still = _open(run, kind).exclude(entries__run=run).order_by("-pk").values_list("source_id", flat=True)
    ids = list(open_still[:MOST_OPEN])
    if ids:
        keep_page(run, kind, end.again(kind, ids))


def _open(run: Run, kind: SourceKind) -> QuerySet[Crossing]:
    recent = Q(business_date__gte=(clock.now() - STAYS_OPEN).date())
    # What could not be understood has no date; it is read again until it can be.
    undated = Q(business_date__isnull=True) & ~Q(source_id="")
    return Crossing.objects.filter(
        recent | undated, workspace=run.workspace_id, bridge=run.bridge_id, kind=kind.value
    ).exclude(state__in=(CrossingState.CARRIED, CrossingState.ADOPTED))


@transaction.atomic
def keep_page(run: Run, kind: SourceKind, documents: Sequence[Fetched], *, carry: bool = True) -> None:
    """Keep one page: snapshots, crossings, the run's entries and, with ``carry``, the jobs that carry them."""
    latest = {document.id: document for document in documents}
    known = {
        crossing.source_id: crossing
        for crossing in Crossing.objects.select_related("snapshot", "bridge__books").filter(
            workspace=run.workspace_id, bridge=run.bridge_id, kind=kind.value, source_id__in=latest
        )
    }
    changed = [document for document in latest.values() if _changed(known.get(document.id), document)]
    kept = snapshots.keep(run.bridge.source, kind, changed, at=timezone.now())
    fresh = [_crossing(run, kind, document, kept[document.id]) for document in changed if document.id not in known]
    Crossing.objects.bulk_create(fresh)
    again = [
        _renewed(known[document.id], run, document, kept[document.id]) for document in changed if document.id in known
    ]
    Crossing.objects.bulk_update(again, ["snapshot", "number", "state", "cause", *_FIGURES])
    pending = [*fresh, *again, *(crossing for crossing in known.values() if _unfinished(crossing, kept))]
    _enter(run, pending, EntryOutcome.PENDING)
    done = {crossing.pk for crossing in pending}
    _enter(run, [crossing for crossing in known.values() if crossing.pk not in done], EntryOutcome.UNCHANGED)
    if carry and not in_date_order(run.bridge):
        defer_carrying(pending)


_FIGURES = ("placed_at", "business_date", "currency", "net", "tax", "gross")


def _changed(crossing: Crossing | None, document: Fetched) -> bool:
    return crossing is None or crossing.snapshot.fingerprint != snapshots.mark_of(document)


def _unfinished(crossing: Crossing, kept: dict[str, Snapshot]) -> bool:
    return crossing.state == CrossingState.WAITING and crossing.source_id not in kept


def _crossing(run: Run, kind: SourceKind, document: Fetched, snapshot: Snapshot) -> Crossing:
    crossing = Crossing(
        workspace_id=run.workspace_id,
        bridge=run.bridge,
        kind=kind.value,
        source_id=document.id,
        number=document.number,
        snapshot=snapshot,
    )
    _set_figures(crossing, run, document.document)
    return crossing


def _renewed(crossing: Crossing, run: Run, document: Fetched, snapshot: Snapshot) -> Crossing:
    crossing.snapshot, crossing.number = snapshot, document.number
    crossing.state, crossing.cause = CrossingState.WAITING, ""
    _set_figures(crossing, run, document.document)
    return crossing


def _set_figures(crossing: Crossing, run: Run, document: SourceDocument | None) -> None:
    if isinstance(document, Order):
        crossing.placed_at = document.placed_at
        crossing.currency = document.currency
        crossing.net, crossing.tax = document.total - document.tax_total, document.tax_total
        crossing.gross = document.total
    elif isinstance(document, Refund):
        crossing.placed_at = document.refunded_at
        crossing.currency = document.currency
        crossing.net, crossing.tax = document.total - document.tax_total, document.tax_total
        crossing.gross = document.total
    elif isinstance(document, Customer):
        crossing.placed_at = document.changed_at
    if crossing.placed_at:
        crossing.business_date = crossing.placed_at.astimezone(ZoneInfo(run.bridge.company.time_zone)).date()


def _enter(run: Run, crossings: Sequence[Crossing], outcome: EntryOutcome) -> None:
    RunEntry.objects.bulk_create(
        [
            RunEntry(workspace_id=run.workspace_id, run=run, crossing=crossing, outcome=outcome)
            for crossing in crossings
        ],
        ignore_conflicts=True,
    )
