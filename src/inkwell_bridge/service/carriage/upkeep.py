"""What keeps the rest going: dead workers' jobs, timetables, connections, what lost its job, what is too old.

Each worker process has one thread for it, beside its queues and never behind them; of several processes one at a time
does it. While nothing happens it only reads, so an idle installation writes nothing.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Callable

import structlog
from django.conf import settings
from django.db import connection, connections

from inkwell_bridge.service.carriage import day_totals, reading_again, sweeping
from inkwell_bridge.service.carriage.timetables import start_due
from inkwell_bridge.service.locks import try_advisory_lock
from inkwell_bridge.service.people.browser_sessions import SessionStore
from inkwell_bridge.service.reference.jobs import tend

log = structlog.get_logger("inkwell.upkeep")

# A worker that was restarted under another number leaves its jobs to nobody; one that fell silent keeps them until it
# is thought dead. Both are put back.
_RECOVER = """
    WITH stalled AS (
        SELECT job.id FROM procrastinate_jobs AS job
        LEFT JOIN procrastinate_workers AS worker ON worker.id = job.worker_id
        WHERE job.status = 'doing'
          AND (worker.id IS NULL OR worker.last_heartbeat < now() - %(silent)s * interval '1 second')
        FOR UPDATE OF job SKIP LOCKED)
    SELECT procrastinate_retry_job_v2(id, now(), NULL, NULL, NULL) FROM stalled
"""
_OURS = "SELECT id FROM procrastinate_jobs WHERE status = 'doing' AND worker_id = ANY(%s)"
_RETRY = "SELECT procrastinate_retry_job_v2(id, now(), NULL, NULL, NULL) FROM unnest(%s::bigint[]) AS id"
RETENTION_EVERY_SECONDS = 3600.0


class RunningJobs:
    """The jobs that this process really works on, beside what the queue believes.

    The database may go away just when a job is to be noted as done: its worker lives, has forgotten the job, and the
    queue waits for it for ever.
    """

    def __init__(self) -> None:
        self._guard = threading.Lock()
        self._running: set[int] = set()
        self._workers: set[int] = set()
        self._suspected: set[int] = set()

    def begin(self, job_id: int, worker_id: int) -> None:
        """A worker of this process begins a job."""
        with self._guard:
            self._running.add(job_id)
            self._workers.add(worker_id)

    def end(self, job_id: int) -> None:
        """It is over, and about to be noted as such."""
        with self._guard:
            self._running.discard(job_id)

    def retry_forgotten(self) -> int:
        """Put back what the queue believes to be ours and nobody works on, when seen so twice in a row."""
        with self._guard:
            workers = list(self._workers)
        if not workers:
            return 0
        with connection.cursor() as cursor:
            cursor.execute(_OURS, [workers])
            ours = {row[0] for row in cursor.fetchall()}
            with self._guard:
                idle = ours - self._running
            forgotten, self._suspected = idle & self._suspected, idle
            if forgotten:
                log.warning("jobs.forgotten", number=len(forgotten))
                cursor.execute(_RETRY, [list(forgotten)])
        return len(forgotten)


def recover_stalled() -> int:
    """Put the jobs of dead workers back on the queue; answers how many. One statement, which writes only then."""
    with connection.cursor() as cursor:
        cursor.execute(_RECOVER, {"silent": settings.STALLED_AFTER_SECONDS})
        recovered = cursor.rowcount
    if recovered > 0:
        log.warning("jobs.recovered", number=recovered)
    return recovered


_further: list[tuple[Callable[[], object], int]] = []


def also(task: Callable[[], object], *, every_rounds: int) -> None:
    """Let upkeep do one thing more, every so many of its rounds; for rooms that stand above."""
    _further.append((task, every_rounds))


class Upkeep:
    """The thread that keeps the rest going, until it is stopped."""

    def __init__(self, running: RunningJobs) -> None:
        self._running, self._looked_at = running, 0.0
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._run, name="upkeep", daemon=True)
        self._due: dict[Callable[[], object], tuple[float, float]] = {
            task: (0.0, every)
            for task, every in (
                (recover_stalled, settings.UPKEEP_SECONDS),
                (start_due, settings.UPKEEP_SECONDS),
                (tend, 5 * settings.UPKEEP_SECONDS),
                (sweeping.sweep, 10 * settings.UPKEEP_SECONDS),
                (reading_again.ask_due, 10 * settings.UPKEEP_SECONDS),
                (day_totals.merge, 60 * settings.UPKEEP_SECONDS),
                (_remove_all_old, RETENTION_EVERY_SECONDS),
                *((further, rounds * settings.UPKEEP_SECONDS) for further, rounds in _further),
            )
        }

    def start(self) -> None:
        """Begin."""
        self._thread.start()

    def stop(self) -> None:
        """End after what is under way."""
        self._stop.set()
        self._thread.join(timeout=10)

    def _run(self) -> None:
        while not self._stop.wait(settings.UPKEEP_SECONDS):
            try:
                self._look_at_own()
                with try_advisory_lock("upkeep") as ours:
                    if ours:
                        self._all_due()
            except Exception:
                # The database is away, or one of them failed: the next round tries again.
                log.exception("upkeep.failed")
            finally:
                connections.close_all()

    def _look_at_own(self) -> None:
        """Each process looks after its own jobs: no other knows which of them it really works on."""
        now = time.monotonic()
        if now - self._looked_at > settings.STALLED_AFTER_SECONDS / 2:
            self._looked_at = now
            self._running.retry_forgotten()

    def _all_due(self) -> None:
        for task, (at, every) in self._due.items():
            now = time.monotonic()
            if now < at or self._stop.is_set():
                continue
            self._due[task] = (now + every, every)
            try:
                task()
            except Exception:
                # One that fails must not keep the others from their turn.
                log.exception("upkeep.failed", task=getattr(task, "__name__", ""))
                connections.close_all()


def _remove_all_old() -> None:
    SessionStore.clear_expired()
    while sweeping.remove_old():
        time.sleep(0.2)
