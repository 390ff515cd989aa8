"""What lost its job is found and queued anew; what is older than it is kept is taken away, in small steps.

A job can be lost: the database goes away between the job's end and the note of it, an operator empties the queue, a
backup is restored. The crossing and the run are the truth; the queue is only how they come to be worked on.
"""

from __future__ import annotations

from collections import defaultdict
from datetime import datetime, timedelta

import structlog
from django.conf import settings
from django.db import connection, transaction
from django.utils import timezone

from inkwell_bridge.core.findings import Cause
from inkwell_bridge.service import queue
from inkwell_bridge.service.carriage.kinds import all_kinds
from inkwell_bridge.service.carriage.kinds.protocol import Concluded
from inkwell_bridge.service.carriage.models import Crossing, CrossingEvent, Run
from inkwell_bridge.service.carriage.runs import defer_carrying, defer_reading, end_if_done
from inkwell_bridge.service.carriage.states import CrossingState, EventKind, RunState

log = structlog.get_logger("inkwell.upkeep")

# Younger ones may be on their way to the queue, in a transaction that is not over yet.
GRACE = timedelta(seconds=10)
MOST_SWEPT = 1000
STEP = 1000
_JOBLESS_CROSSINGS = """
    SELECT crossing.id FROM carriage_crossing AS crossing
    WHERE crossing.state = %(waiting)s AND crossing.updated_at < %(before)s
      AND (crossing.next_try_at IS NULL OR crossing.next_try_at < %(before)s)
      AND crossing.id NOT IN (
          SELECT queued::bigint FROM procrastinate_jobs AS job, jsonb_array_elements_text(job.args -> 'crossing_ids')
              AS queued
          WHERE job.status IN ('todo', 'doing') AND job.task_name = %(task)s)
    LIMIT %(most)s
"""
_JOBLESS_RUNS = """
    SELECT run.id FROM carriage_run AS run
    WHERE run.state = %(reading)s AND run.started_at < %(before)s
      AND NOT EXISTS (
          SELECT 1 FROM procrastinate_jobs AS job
          WHERE job.status IN ('todo', 'doing') AND job.task_name = %(task)s
            AND (job.args ->> 'run_id')::bigint = run.id)
"""
_UNFOLLOWED_RUNS = """
    SELECT entry.run_id FROM carriage_run AS run JOIN carriage_runentry AS entry ON entry.run_id = run.id
    JOIN carriage_crossing AS crossing ON crossing.id = entry.crossing_id
    WHERE run.state = %(carrying)s AND entry.outcome = 'pending' AND crossing.state <> %(waiting)s
      AND crossing.updated_at < %(before)s
    GROUP BY entry.run_id
"""
_CONCLUDE = """
    UPDATE carriage_runentry AS entry SET outcome = crossing.state FROM carriage_crossing AS crossing
    WHERE crossing.id = entry.crossing_id AND entry.run_id = ANY(%s) AND entry.outcome = 'pending'
      AND crossing.state <> 'waiting'
"""


def sweep() -> int:
    """Queue anew what waits without a job, end runs whose documents are all done, and let go what is held for something
    that has come; answers how much was found."""
    before = timezone.now() - GRACE
    found = _ids(_JOBLESS_CROSSINGS, waiting=CrossingState.WAITING, before=before, task=queue.CARRY, most=MOST_SWEPT)
    if found:
        _queue_anew(found)
    # A run's own clock may be the demo's, so its age is judged by the row of its job alone.
    runs = _ids(_JOBLESS_RUNS, reading=RunState.READING, before=before, task=queue.READ_RUN)
    for run in Run.objects.filter(pk__in=runs, state=RunState.READING):
        log.warning("run.requeued", run=run.pk)
        defer_reading(run)
    unfollowed = _ids(
        _UNFOLLOWED_RUNS, carrying=RunState.CARRYING, waiting=CrossingState.WAITING, before=before
    )  # fmt: skip
    if unfollowed:
        with transaction.atomic(), connection.cursor() as cursor:
            cursor.execute(_CONCLUDE, [unfollowed])
            end_if_done(unfollowed)
    end_if_done(list(Run.objects.filter(state=RunState.CARRYING).values_list("pk", flat=True)[:MOST_SWEPT]))
    _look_again(before)
    return len(found) + len(runs) + len(unfollowed)


def _look_again(before: datetime) -> None:
    """Let go what is held for something that has come since: whoever was to wake it may have been killed just before.

    The newest first, for what has waited long was looked at often.
    """
    for kind in all_kinds().values():
        kind.look_again()
        if not kind.passing_causes:
            continue
        rows = Crossing.objects.filter(
            kind=kind.name, state=CrossingState.HELD, cause__in=kind.passing_causes, updated_at__lt=before
        ).select_related("bridge__books")
        by_bridge: dict[int, list[Concluded]] = defaultdict(list)
        for row in rows.order_by("-updated_at")[:MOST_SWEPT]:
            by_bridge[row.bridge_id].append(Concluded(row, CrossingState.HELD, Cause(row.cause)))
        for of_bridge in by_bridge.values():
            kind.after(of_bridge)


@transaction.atomic
def _queue_anew(found: list[int]) -> None:
    rows = list(Crossing.objects.select_related("bridge__books").filter(pk__in=found, state=CrossingState.WAITING))
    log.warning("crossings.requeued", number=len(rows))
    now = timezone.now()
    CrossingEvent.objects.bulk_create(
        CrossingEvent(workspace_id=row.workspace_id, crossing=row, at=now, kind=EventKind.REQUEUED) for row in rows
    )
    defer_carrying(rows)


def _ids(statement: str, **parameters: object) -> list[int]:
    with connection.cursor() as cursor:
        cursor.execute(statement, parameters)
        return [row[0] for row in cursor.fetchall()]


# What no crossing stands on any more, and no document was made from.
_SUPERSEDED = """
    SELECT snapshot.id FROM carriage_snapshot AS snapshot
    WHERE snapshot.fetched_at < %(before)s
      AND NOT EXISTS (SELECT 1 FROM carriage_crossing AS now WHERE now.snapshot_id = snapshot.id)
      AND NOT EXISTS (SELECT 1 FROM carriage_crossing AS posted WHERE posted.posted_snapshot_id = snapshot.id)
      AND NOT EXISTS (SELECT 1 FROM carriage_document AS made WHERE made.snapshot_id = snapshot.id)
    LIMIT %(step)s
"""
_OLD = {
    "carriage_runentry": (
        "SELECT entry.id FROM carriage_runentry AS entry JOIN carriage_run AS run ON run.id = entry.run_id "
        "WHERE run.ended_at < %(before)s LIMIT %(step)s"
    ),
    "carriage_exchange": "SELECT id FROM carriage_exchange WHERE at < %(before)s LIMIT %(step)s",
    "procrastinate_jobs": (
        "SELECT job.id FROM procrastinate_jobs AS job WHERE job.status IN ('failed', 'aborted', 'cancelled', "
        "'succeeded') AND NOT EXISTS (SELECT 1 FROM procrastinate_events AS event WHERE event.job_id = job.id "
        "AND event.at >= %(before)s) LIMIT %(step)s"
    ),
}


def remove_old() -> int:
    """Take away run entries, records of calls and done jobs that are older than they are kept; one small step each.

    Answers how many rows went, so that whoever calls goes on until nothing does. Snapshots that a later one took the
    place of go by ``remove_superseded``.
    """
    before = timezone.now() - timedelta(days=settings.KEEP_DAYS)
    removed = 0
    with connection.cursor() as cursor:
        for table, chosen in _OLD.items():
            cursor.execute(f"DELETE FROM {table} WHERE id IN ({chosen})", {"before": before, "step": STEP})
            removed += cursor.rowcount
    return removed + _remove_superseded_snapshots(before)


def _remove_superseded_snapshots(before: object) -> int:
    """Snapshots that no crossing stands on any more; never one that something was posted from."""
    with transaction.atomic(), connection.cursor() as cursor:
        # The table refuses deletions; this one alone is let through, for this transaction.
        cursor.execute("SET LOCAL inkwell.retention = 'on'")
        cursor.execute(
            f"WITH old AS ({_SUPERSEDED}), "
            "personal AS (DELETE FROM carriage_personaldata WHERE snapshot_id IN (SELECT id FROM old)) "
            "DELETE FROM carriage_snapshot WHERE id IN (SELECT id FROM old)",
            {"before": before, "step": STEP},
        )
        return int(cursor.rowcount)
