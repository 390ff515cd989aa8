"""The jobs of the queue. Each is called with numbers alone and does one action."""

from __future__ import annotations

import structlog
from django.db import InterfaceError, OperationalError
from django.utils import timezone
from procrastinate.contrib.django import app

from inkwell_bridge.ends.errors import EndError, Temporary
from inkwell_bridge.service import queue
from inkwell_bridge.service.carriage import adoption, erasing, reading_again, runs, staging, trials
from inkwell_bridge.service.carriage import carry as carrying
from inkwell_bridge.service.carriage.models import Erasure, Run
from inkwell_bridge.service.carriage.states import RunPurpose, RunState
from inkwell_bridge.service.connections import actions as connections
from inkwell_bridge.service.connections.ends import books_end, sales_end
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.later import RetryWhenAsked, TryLater, after_pause
from inkwell_bridge.service.locks import ClaimLost, try_advisory_lock
from inkwell_bridge.service.reference.pinned import load_master_data
from inkwell_bridge.service.vault import Unreadable

log = structlog.get_logger("inkwell.jobs")

MOST_READING_TRIES = 5
# The database went away under a job: it goes on from what is written down, and is no failure of the document.
_DATABASE_AWAY = (OperationalError, InterfaceError)


@app.task(name=queue.READ_RUN, queue=queue.READING, retry=RetryWhenAsked(), pass_context=True)
def read_run(context, *, workspace_id: int, run_id: int) -> None:  # type: ignore[no-untyped-def]
    """Read what is new at the source of a run's bridge."""
    try:
        with try_advisory_lock(f"run:{workspace_id}:{run_id}") as ours:
            # A worker that was thought dead may only be slow, and is still reading: two would keep the same page twice.
            if not ours:
                raise TryLater("Another worker is reading for this run.", after_pause(0))
            _read_run(workspace_id, run_id, tries=context.job.attempts)
    except TryLater:
        raise
    except _DATABASE_AWAY as error:
        raise TryLater("The database went away.", after_pause(0)) from error
    except Exception:
        # At the rim nothing may vanish: a run that the program failed on ends, so that the bridge can start another.
        log.exception("run.failed", workspace=workspace_id, run=run_id)
        run = Run.objects.get(workspace=workspace_id, pk=run_id)
        runs.fail(run, "Inkwell Bridge itself failed on reading; its log names the failure under this run's number.")


def _read_run(workspace_id: int, run_id: int, *, tries: int) -> None:
    run = Run.objects.select_related(
        "bridge__source__workspace", "bridge__books__workspace", "bridge__company", "rulebook"
    ).get(workspace=workspace_id, pk=run_id)
    if run.state != RunState.READING:
        return
    log.info("run.reading", workspace=workspace_id, run=run_id)
    blamed = run.bridge.books
    try:
        load_master_data(run.bridge.books)
        blamed = run.bridge.source
        if run.purpose == RunPurpose.ADOPT:
            adoption.read_ours(run, sales_end(run.bridge.source), books_end(run.bridge.books))
        elif run.purpose == RunPurpose.TRIAL:
            trials.read(run)
        else:
            staging.read_all(run)
        for end in (run.bridge.books, run.bridge.source):
            connections.answered(end)
    except (EndError, Unreadable) as error:
        connections.note(blamed, error)
        if not isinstance(error, Temporary) or tries >= MOST_READING_TRIES:
            runs.fail(run, f"{blamed.name}: {error}")
            return
        at = after_pause(tries, error.retry_after_seconds)
        Run.objects.filter(pk=run.pk).update(trouble=f"{blamed.name}: {error}", next_try_at=at)
        raise TryLater(str(error), at) from error


@app.task(name=queue.ERASE, queue=queue.READING, retry=RetryWhenAsked())
def erase_buyer(*, workspace_id: int, erasure_id: int) -> None:
    """Erase what tells of one buyer."""
    try:
        erasing.erase(Erasure.objects.get(workspace=workspace_id, pk=erasure_id, ended_at__isnull=True))
    except Erasure.DoesNotExist:
        return
    except _DATABASE_AWAY as error:
        raise TryLater("The database went away.", after_pause(0)) from error


@app.task(name=queue.CARRY, queue=queue.CARRYING, retry=RetryWhenAsked())
def carry(*, workspace_id: int, crossing_ids: list[int]) -> None:
    """Carry a lot of crossings as far as they will go."""
    try:
        carrying.carry(workspace_id, crossing_ids)
    except ClaimLost as lost:
        raise TryLater(str(lost), timezone.now()) from lost
    except _DATABASE_AWAY as error:
        raise TryLater("The database went away.", timezone.now()) from error
    except Exception:
        # At the rim nothing may vanish: what we did not foresee is held for a person, with its trace in the log.
        log.exception("crossings.failed", workspace=workspace_id, crossings=crossing_ids)
        if len(crossing_ids) > 1:
            carrying.carry_each(workspace_id, crossing_ids)
        else:
            carrying.hold_unforeseen(workspace_id, crossing_ids)


@app.task(name=queue.READ_AGAIN, queue=queue.READING, retry=RetryWhenAsked(), pass_context=True)
def read_again(context, *, connection_id: int) -> None:  # type: ignore[no-untyped-def]
    """Read again what is due at one end of the books."""
    books = Connection.objects.select_related("workspace").get(pk=connection_id)
    try:
        reading_again.read(books)
        connections.answered(books)
    except (EndError, Unreadable) as error:
        connections.note(books, error)
        if not isinstance(error, Temporary) or context.job.attempts >= MOST_READING_TRIES:
            # Asked again in a while; meanwhile the connection says what is wrong with it.
            reading_again.put_off(books)
            return
        raise TryLater(str(error), after_pause(context.job.attempts, error.retry_after_seconds)) from error
    except _DATABASE_AWAY as error:
        raise TryLater("The database went away.", after_pause(0)) from error
