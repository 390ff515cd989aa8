"""The jobs of the queue. Each is called with numbers alone and does one action."""

from __future__ import annotations

import structlog
from django.conf import settings
from django.utils import timezone
from procrastinate.contrib.django import app

from inkwell_bridge.ends.errors import EndError, Temporary
from inkwell_bridge.service import queue
from inkwell_bridge.service.carriage import adoption, runs, staging
from inkwell_bridge.service.carriage import carry as carrying
from inkwell_bridge.service.carriage.models import Run
from inkwell_bridge.service.carriage.states import RunPurpose, RunState
from inkwell_bridge.service.carriage.timetables import start_due
from inkwell_bridge.service.connections import actions as connections
from inkwell_bridge.service.connections.ends import books_end, sales_end
from inkwell_bridge.service.connections.vault import Unreadable
from inkwell_bridge.service.later import AsTold, TryLater, after_pause
from inkwell_bridge.service.reference.pinned import load_reference

log = structlog.get_logger("inkwell.jobs")

MOST_READING_TRIES = 5
# The sixth field counts seconds.
EVERY_TWO_SECONDS = "* * * * * */2"


@app.task(name=queue.READ_RUN, queue=queue.QUEUE, retry=AsTold(), pass_context=True)
def read_run(context, *, workspace_id: int, run_id: int) -> None:  # type: ignore[no-untyped-def]
    """Read what is new at the source of a run's bridge."""
    run = Run.objects.select_related("bridge__source__workspace", "bridge__books__workspace", "bridge__company").get(
        workspace=workspace_id, pk=run_id
    )
    if run.state != RunState.READING:
        return
    log.info("run.reading", workspace=workspace_id, run=run_id)
    blamed = run.bridge.books
    try:
        load_reference(run.bridge.books)
        blamed = run.bridge.source
        if run.purpose == RunPurpose.ADOPT:
            adoption.read_marked(run, sales_end(run.bridge.source), books_end(run.bridge.books))
        else:
            staging.read_all(run, sales_end(run.bridge.source))
    except (EndError, Unreadable) as error:
        connections.note(blamed, error)
        tries = context.job.attempts
        if not isinstance(error, Temporary) or tries >= MOST_READING_TRIES:
            runs.fail(run, f"{blamed.name}: {error}")
            return
        at = after_pause(tries, error.retry_after_seconds)
        Run.objects.filter(pk=run.pk).update(trouble=f"{blamed.name}: {error} Trying again by itself.")
        raise TryLater(str(error), at) from error


@app.task(name=queue.CARRY, queue=queue.QUEUE, retry=AsTold())
def carry(*, workspace_id: int, crossing_id: int) -> None:
    """Carry one crossing as far as it will go."""
    try:
        carrying.carry(workspace_id, crossing_id)
    except TryLater:
        raise
    except Exception:
        # At the rim nothing may vanish: what we did not foresee is held for a person, with its trace in the log.
        log.exception("crossing.failed", workspace=workspace_id, crossing=crossing_id)
        carrying.hold_unforeseen(workspace_id, crossing_id)


@app.periodic(cron=EVERY_TWO_SECONDS)
@app.task(name="start_due_runs", queue=queue.QUEUE, queueing_lock="start_due_runs", pass_context=False)
def start_due_runs(timestamp: int) -> None:
    """Start the runs that are due by their timetables."""
    start_due()


@app.periodic(cron=EVERY_TWO_SECONDS)
@app.task(name="recover_stalled", queue=queue.QUEUE, queueing_lock="recover_stalled")
async def recover_stalled(timestamp: int) -> None:
    """Put the jobs of dead workers back on the queue."""
    manager = app.job_manager
    for job in await manager.get_stalled_jobs(seconds_since_heartbeat=settings.STALLED_AFTER_SECONDS):
        log.warning("job.recovered", job=job.id, task=job.task_name)
        await manager.retry_job(job, retry_at=timezone.now())
