"""Reading what is new at the origin: page by page, each page kept whole or not at all.

A run reads from a little before the newest change seen so far: what shares its time with the last
document read, or was still being written then, is read again and recognised by its digest. No time
of change is trusted alone: what is still open on our side is read again by its id when it is due, the longest unread
first. The place reached is kept with each page, so that a first load that fails goes on where it was.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from datetime import UTC, datetime, time, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from django.db import transaction
from django.db.models import F, Q
from django.utils import timezone

from inkwell_bridge.core.proof import Side
from inkwell_bridge.ends.errors import Away
from inkwell_bridge.ends.shapes import Fetched, Page
from inkwell_bridge.service import clock
from inkwell_bridge.service.bridges.models import Bridge, Lane
from inkwell_bridge.service.carriage import figures, gone, movements, snapshots, told_payments
from inkwell_bridge.service.carriage.kinds import UnknownKind, all_kinds, kind_named
from inkwell_bridge.service.carriage.kinds.protocol import Direction, Kind, Listed, origin_of
from inkwell_bridge.service.carriage.models import OPEN_STATES, Crossing, CrossingEvent, Run, RunEntry, Snapshot
from inkwell_bridge.service.carriage.open_balances import enter_due
from inkwell_bridge.service.carriage.releases import release
from inkwell_bridge.service.carriage.runs import BY_NUMBER, defer_carrying, end_if_done, in_date_order
from inkwell_bridge.service.carriage.states import (
    CrossingState,
    EntryOutcome,
    EventKind,
    RunPurpose,
    RunState,
    Trial,
)
from inkwell_bridge.service.connections.ends import end_of, sales_end
from inkwell_bridge.service.locks import transaction_under
from inkwell_bridge.service.rows import insert_rows, write_rows

OVERLAP = timedelta(minutes=15)
# Once a day a run reads from days before: a page of the source may have left something out.
LOOKS_BACK = timedelta(days=3)
LOOKS_BACK_EVERY = timedelta(hours=20)
# What is open is read again for so long; what stays open longer waits for its own time of change.
STAYS_OPEN = timedelta(days=60)
# So soon after it was read, an open document is read again by its id; with each time twice as long, up to a day.
READ_AGAIN_AFTER = timedelta(minutes=1)
READ_AGAIN_AT_LEAST = timedelta(days=1)
MOST_OPEN = 500
MOST_PAGES = 100_000
MOST_EMPTY_PAGES = 20


def read_all(run: Run) -> None:
    """Read everything new for a run, lane by lane; what one page gave stays, also when the next one fails.

    Expects no transaction: each page is one of its own. Repeated, it reads on from the last page that was kept.

    Raises:
        EndError: the origin failed on the way.
    """
    if run.numbers:
        _read_numbers(run)
    elif run.outcomes:
        _read_again(run)
    else:
        lanes = Lane.objects.filter(workspace=run.workspace_id, bridge=run.bridge_id, on=True)
        for lane in in_order_of_work(lanes.filter(kind__in=run.lanes) if run.lanes else lanes):
            if run.last_day is not None or (run.first_day is not None and lane.read_up_to is not None):
                _read_days(run, lane)
            else:
                _read_lane(run, lane)
        # Of what it has read the newest is known now; what is small and old is given up.
        enter_due(run)
    with transaction.atomic():
        if in_date_order(run.bridge):
            # A later page may have brought an earlier date, so nothing goes before everything was read.
            pending = Crossing.objects.filter(entries__run=run, entries__outcome=EntryOutcome.PENDING)
            defer_carrying(pending.select_related("bridge__books"))
        Run.objects.filter(pk=run.pk, state=RunState.READING).update(
            state=RunState.CARRYING, trouble="", next_try_at=None
        )
        end_if_done([run.pk])


def in_order_of_work(lanes: Iterable[Lane]) -> list[Lane]:
    """Lanes as their kinds are registered: what belongs to something is read after it, refunds after orders and payouts
    after both, or it would be held for what is about to come."""
    places = {name: place for place, name in enumerate(all_kinds())}
    return sorted(lanes, key=lambda lane: (places.get(lane.kind, len(places)), lane.kind))


def _read_numbers(run: Run) -> None:
    """Read the orders named; one that the source does not have ends the run with its number."""
    kind, end = kind_named(BY_NUMBER), sales_end(run.bridge.source)
    keep_page(run.bridge, kind, [end.document(kind.source_kind, number) for number in run.numbers], run=run)


def _read_lane(run: Run, lane: Lane) -> None:
    try:
        kind = kind_named(lane.kind)
    except UnknownKind as error:
        raise Away(str(error)) from error
    newest = lane.read_up_to
    started = clock.now()
    looks_back = lane.looked_back_at is None or started - lane.looked_back_at > LOOKS_BACK_EVERY
    overlap = LOOKS_BACK if looks_back and lane.looked_back_at is not None else OVERLAP
    # The first run has no place to begin at: it reads everything that there is, or from the day that it was given.
    since = lane.read_up_to - overlap if lane.read_up_to else _begin_of_first_day(run)
    for page in _pages(run, kind, since):
        keep_page(run.bridge, kind, page.documents, run=run)
        changes = [document.changed_at for document in page.documents if document.changed_at]
        newest = max([*changes, *([newest] if newest else [])], default=None)
        # Pages come oldest change first, so whatever happens later is read from here on.
        Lane.objects.filter(pk=lane.pk).update(read_up_to=newest)
    if kind.direction is Direction.SALES_TO_BOOKS:
        _read_open_again(run, kind)
    if looks_back:
        Lane.objects.filter(pk=lane.pk).update(looked_back_at=started)


def _read_days(run: Run, lane: Lane) -> None:
    """Read what is dated on certain days, whenever it was changed; the place that the lane has reached stays."""
    kind = kind_named(lane.kind)
    zone = ZoneInfo(run.bridge.company.time_zone)
    for page in _pages(run, kind, _begin_of_first_day(run)):
        chosen = [document for document in page.documents if _is_of_days(run, kind, document, zone)]
        if chosen:
            keep_page(run.bridge, kind, chosen, run=run)


def _is_of_days(run: Run, kind: Kind, document: Fetched, zone: ZoneInfo) -> bool:
    """Whether it is dated on the days of the run; what could not be understood has no date, and is not of them."""
    moment = _listed(kind, document).moment
    if moment is None:
        return False
    day = moment.astimezone(zone).date()
    return (run.first_day is None or run.first_day <= day) and (run.last_day is None or day <= run.last_day)


def _begin_of_first_day(run: Run) -> datetime | None:
    """What is dated on a day was changed on it, or later."""
    if run.first_day is None:
        return None
    return datetime.combine(run.first_day, time(), tzinfo=ZoneInfo(run.bridge.company.time_zone)).astimezone(UTC)


def _read_again(run: Run) -> None:
    """Read anew what came to certain outcomes in an earlier run, and let it go again."""
    rows = Crossing.objects.filter(entries__run=run.again_id, entries__outcome__in=run.outcomes)
    of_kind: dict[str, list[str]] = defaultdict(list)
    for name, source_id in rows.order_by("pk").values_list("kind", "source_id"):
        of_kind[name].append(source_id)
    for name, ids in of_kind.items():
        kind = kind_named(name)
        end: Any = end_of(origin_of(kind, run.bridge))
        for start in range(0, len(ids), MOST_OPEN):
            chosen = ids[start : start + MOST_OPEN]
            if run.started_by is not None:
                here = Crossing.objects.filter(bridge=run.bridge_id, kind=name, source_id__in=chosen)
                release(here, run.workspace, run.started_by, queue=False)
            # Let go first: then what has not changed at its origin is on its way, and this run waits for it.
            keep_page(run.bridge, kind, end.fetch_by_ids(kind.source_kind, chosen), run=run)


def _pages(run: Run, kind: Kind, since: datetime | None) -> Iterator[Page]:
    end: Any = end_of(origin_of(kind, run.bridge))
    page = end.documents(kind.source_kind, changed_since=since)
    yield page
    # An end whose pages lead in a circle would keep a worker for ever.
    known = set() if page.next is None else {page.next}
    empty = 0
    while page.next:
        page = end.documents(kind.source_kind, changed_since=since, page=page.next)
        yield page
        empty = 0 if page.documents else empty + 1
        if empty > MOST_EMPTY_PAGES:
            raise Away("The source's pages lead on and on without a document.")
        if page.next is not None and (page.next in known or len(known) >= MOST_PAGES):
            raise Away("The source's pages lead in a circle, so they could not be read to the end.")
        known.add(page.next or "")


def _read_open_again(run: Run, kind: Kind) -> None:
    """Read again by id what has not crossed yet and is due, the longest unread first.

    Left-out documents among them are read once a day: what changes them changes their time of change.
    """
    recent = Q(business_date__gte=(clock.now() - STAYS_OPEN).date())
    # What could not be understood has no date; it is read again until it can be.
    undated = Q(business_date__isnull=True)
    now = timezone.now()
    due = Crossing.objects.filter(
        recent | undated, Q(read_again_at__lte=now) | Q(read_again_at__isnull=True),
        workspace=run.workspace_id, bridge=run.bridge_id, kind=kind.name,
        state__in=(*OPEN_STATES, CrossingState.LEFT_OUT),
    ).exclude(entries__run=run).exclude(source_id="")  # fmt: skip
    found = list(due.order_by(F("read_again_at").asc(nulls_first=True), "pk")[:MOST_OPEN])
    if not found:
        return
    pages = sales_end(run.bridge.source).fetch_by_ids(kind.source_kind, [crossing.source_id for crossing in found])
    keep_page(run.bridge, kind, pages, run=run)
    for crossing in found:
        left_out = crossing.state == CrossingState.LEFT_OUT
        waited = now - crossing.read_again_at if crossing.read_again_at else timedelta()
        pause = READ_AGAIN_AT_LEAST if left_out else min(READ_AGAIN_AFTER + 2 * waited, READ_AGAIN_AT_LEAST)
        crossing.read_again_at = now + pause
    write_rows(found, ("read_again_at",))


def keep_page(
    bridge: Bridge, kind: Kind, documents: Sequence[Fetched], *, run: Run | None = None, carry: bool = True,
    said: str = "",
) -> None:  # fmt: skip
    """Keep one page: snapshots, crossings, figures, the entries of the run that read it (where one did) and, with
    ``carry``, the jobs that carry them.

    One transaction under the bridge's own lock, for a run and a call from outside may bring the same document at the
    same moment; the same number of statements whatever is on the page. A document that could not be understood, or
    cannot be kept as it is, is a crossing that will be held; the others do not wait for it. ``said`` is what their
    history tells, where money came that others told of.

    Calls: one for the documents that new ones belong to, where their kind belongs to another.
    """
    if carry and kind.parent_kind:
        _read_parents(bridge, kind, documents, run)
    with transaction_under(gone.staging_lock(bridge)):
        _keep_page(bridge, kind, documents, run, carry=carry, said=said)


def _read_parents(bridge: Bridge, kind: Kind, documents: Sequence[Fetched], run: Run | None) -> None:
    """Read again what new documents of a page belong to, before they are kept: a refund may be told of before the
    change of its order that it pays for, and would be credited besides it."""
    parent = kind_named(kind.parent_kind)
    lane = Lane.objects.filter(workspace=bridge.workspace_id, bridge=bridge, kind=parent.name, on=True)
    new = _new_or_changed(bridge, kind, documents)
    ids = {_listed(kind, document).parent_source_id for document in new} - {""}
    if not ids or not lane.exists():
        return
    here = Crossing.objects.filter(
        workspace=bridge.workspace_id, bridge=bridge, kind=parent.name, source_id__in=ids, state=CrossingState.CARRIED
    )
    known = list(here.values_list("source_id", flat=True))
    if known:
        end: Any = end_of(origin_of(parent, bridge))
        keep_page(bridge, parent, end.fetch_by_ids(parent.source_kind, known), run=run)


def _new_or_changed(bridge: Bridge, kind: Kind, documents: Sequence[Fetched]) -> list[Fetched]:
    # Made fit first: an id that no statement takes would fail the whole page.
    fit = told_payments.with_told(bridge, kind, [snapshots.fit_to_keep(document) for document in documents])
    rows = Crossing.objects.select_related("snapshot").defer("planned", "snapshot__content").filter(
        workspace=bridge.workspace_id, bridge=bridge, kind=kind.name, source_id__in=[one.id for one in fit]
    )  # fmt: skip
    known = {row.source_id: row for row in rows}
    return [document for document in fit if _is_news(known.get(document.id), document)]


def _is_news(known: Crossing | None, document: Fetched) -> bool:
    """Whether a document was never read, or says something else than it did.

    Recognised by what it says and not by its time of change, which shops move for reasons of their own.
    """
    return known is None or not snapshots.is_unchanged(known.snapshot, document, known.written_back)


def _keep_page(
    bridge: Bridge, kind: Kind, documents: Sequence[Fetched], run: Run | None, *, carry: bool, said: str
) -> None:  # fmt: skip
    # The same document may stand on one page twice: the later one is what it says now.
    fit = {document.id: document for document in map(snapshots.fit_to_keep, documents)}
    # Under the lock: what is told meanwhile would be lost with the page that was read before.
    latest = {document.id: document for document in told_payments.with_told(bridge, kind, list(fit.values()))}
    known = {
        crossing.source_id: crossing
        for crossing in Crossing.objects.select_related("snapshot", "bridge__books", "bridge__company")
        .defer("planned", "snapshot__content")
        .filter(workspace=bridge.workspace_id, bridge=bridge, kind=kind.name, source_id__in=latest)
    }
    # What was on trial and was taken back goes like any other, now that a run has come to it.
    over = [one for one in known.values() if one.trial == Trial.TAKEN_BACK and one.state == CrossingState.LEFT_OUT]
    if (run is None or run.purpose == RunPurpose.CARRY) and over:
        for crossing in over:
            crossing.trial, crossing.state, crossing.left_out_by = Trial.NONE, CrossingState.WAITING, ""
        write_rows(over, ("trial", "state", "left_out_by"))
    passed_over = {key for key, document in latest.items() if key not in known and _is_passed_over(kind, document)}
    changed = [document for key, document in latest.items()
               if key not in passed_over and _is_news(known.get(key), document)]  # fmt: skip
    # Before the crossings, which stand on them.
    kept = snapshots.keep(origin_of(kind, bridge), kind.name, changed, at=timezone.now())
    listed = {document.id: _listed(kind, document) for document in changed}
    # New ones and changed ones are written apart, for only the former need a key.
    fresh = [
        _set(_new(bridge, kind, document), document, kept[document.id], listed[document.id])
        for document in changed
        if document.id not in known
    ]
    insert_rows(fresh)
    renewed = [
        _set(known[document.id], document, kept[document.id], listed[document.id])
        for document in changed
        if document.id in known
    ]
    write_rows(renewed, ("snapshot", "number", "state", "cause", "tries", "gone_at", *_LISTED))
    _count(bridge, kind, [*fresh, *renewed], listed)
    _tell(run, fresh, renewed, said)
    again = [crossing for crossing in known.values() if crossing.gone_at and crossing.source_id not in kept]
    if again:
        gone.there_again(bridge, kind, again, {one.source_id: _listed(kind, latest[one.source_id]) for one in again})
    # Unchanged, and still on its way from an earlier run: this run waits for it too.
    unfinished = [
        crossing
        for crossing in known.values()
        if crossing.state == CrossingState.WAITING and crossing.source_id not in kept
    ]
    pending = [*fresh, *renewed, *unfinished]
    if run is not None:
        # Before rows of crossings are touched: somebody may be carrying one of them, and is not to wait for a run.
        _enter(run, pending, known.values(), passed_over=len(passed_over))
    still_open = [
        crossing.pk
        for crossing in known.values()
        if crossing.source_id not in kept and crossing.state in (*OPEN_STATES, CrossingState.LEFT_OUT)
    ]
    if still_open:
        # Read just now, so that it need not be asked for by its id as well.
        Crossing.objects.filter(pk__in=still_open).update(read_again_at=timezone.now() + READ_AGAIN_AFTER)
    # Such books wait for the last page: a later one may bring an earlier date.
    if carry and (run is None or not in_date_order(bridge)):
        defer_carrying(pending)


def _is_passed_over(kind: Kind, document: Fetched) -> bool:
    return document.document is not None and kind.passes_over(document.document)


def _enter(run: Run, pending: Sequence[Crossing], known: Iterable[Crossing], *, passed_over: int) -> None:
    """What a run has to do with, and how much it found that is nothing new: unchanged, or not worth keeping."""
    RunEntry.objects.bulk_create(
        [RunEntry(workspace_id=run.workspace_id, run=run, crossing=crossing) for crossing in pending],
        ignore_conflicts=True,
    )
    done = {crossing.pk for crossing in pending}
    idle = [crossing.pk for crossing in known if crossing.pk not in done]
    # What this run has worked on already is counted there; the same page may be read twice.
    unchanged = len(idle) - RunEntry.objects.filter(run=run, crossing__in=idle).count() if idle else 0
    unchanged += passed_over
    if unchanged:
        Run.objects.filter(pk=run.pk).update(unchanged=F("unchanged") + unchanged)


_LISTED = ("parent_source_id", "moment", "business_date", "currency", "net", "tax", "gross")


def _listed(kind: Kind, document: Fetched) -> Listed:
    return kind.listed(document.document) if document.document is not None else Listed()


def _new(bridge: Bridge, kind: Kind, document: Fetched) -> Crossing:
    return Crossing(workspace_id=bridge.workspace_id, bridge=bridge, kind=kind.name, source_id=document.id)


def _set(crossing: Crossing, document: Fetched, snapshot: Snapshot, listed: Listed) -> Crossing:
    crossing.snapshot, crossing.number = snapshot, document.number
    # Whatever became of the version before, this one is asked anew; posted documents keep what they were made from.
    crossing.state, crossing.cause, crossing.tries = CrossingState.WAITING, "", 0
    crossing.gone_at = None
    if document.document is None:
        # What it takes off its order nobody knows, but that it belongs to it stops what would be too early there.
        crossing.parent_source_id = document.parent_id or crossing.parent_source_id
        return crossing
    crossing.parent_source_id = listed.parent_source_id
    crossing.moment, crossing.currency = listed.moment, listed.currency
    crossing.net, crossing.tax, crossing.gross = listed.net, listed.tax, listed.gross
    if crossing.moment:
        # A sale just before midnight belongs to the day that the company's own clocks showed.
        zone = ZoneInfo(crossing.bridge.company.time_zone)
        crossing.business_date = crossing.moment.astimezone(zone).date()
    return crossing


def _count(bridge: Bridge, kind: Kind, crossings: Sequence[Crossing], listed: dict[str, Listed]) -> None:
    """The source's figures of what is new or changed, and the money that it tells of."""
    wanted = {
        crossing: figures.of_source(kind, listed[crossing.source_id], crossing.business_date, bridge)
        for crossing in crossings
    }
    figures.write(wanted, (Side.SOURCE,))
    told = {crossing: listed[crossing.source_id] for crossing in crossings}
    movements.reported(origin_of(kind, bridge), told)


def _tell(run: Run | None, fresh: Sequence[Crossing], renewed: Sequence[Crossing], said: str) -> None:
    now = timezone.now()
    changed, detail = (EventKind.TOLD, {"text": said}) if said else (EventKind.CHANGED, {})
    events = [(EventKind.STAGED, crossing, {}) for crossing in fresh]
    events += [(changed, crossing, detail) for crossing in renewed]
    insert_rows(
        [
            CrossingEvent(
                workspace_id=crossing.workspace_id, crossing=crossing, at=now, kind=kind, run=run, detail=detail
            )
            for kind, crossing, detail in events
        ]
    )
