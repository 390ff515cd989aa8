"""Run one worker: it carries until it is told to stop."""

from __future__ import annotations

import asyncio
import signal
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import structlog
from django.conf import settings
from django.core.management.base import BaseCommand, CommandParser
from django.db import connections
from procrastinate.contrib.django import app

from inkwell_bridge.service import queue
from inkwell_bridge.service.carriage.lot import MOST_CALLS
from inkwell_bridge.service.carriage.runs import LOT
from inkwell_bridge.service.carriage.upkeep import RunningJobs, Upkeep

log = structlog.get_logger("inkwell.worker")

# Documents in flight: as many as an end that takes 150 ms to answer leaves time for.
CONCURRENCY = 100
READING_CONCURRENCY = 4
LONGEST_PAUSE_SECONDS = 15.0
_running = RunningJobs()


class Command(BaseCommand):
    """``work``: start as many as wanted, on any number of machines; they share the queues.

    Where the database goes away the process stays: it asks again, more and more slowly, and goes on when it is back.
    """

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """What can be set."""
        parser.add_argument("--concurrency", type=int, default=CONCURRENCY, help="Documents in flight at a time.")

    def handle(self, *args: Any, **options: Any) -> None:
        """Work until a signal comes; jobs under way are finished first."""
        upkeep = Upkeep(_running)
        upkeep.start()
        try:
            asyncio.run(_work(options["concurrency"]))
        finally:
            upkeep.stop()


async def _work(concurrency: int) -> None:
    loop = asyncio.get_running_loop()
    # The loop's own executor has as many threads as the machine has cores and a few more, whatever is asked for here.
    loop.set_default_executor(
        ThreadPoolExecutor(_lots(concurrency) + READING_CONCURRENCY + 2, thread_name_prefix="job")
    )
    stopping = asyncio.Event()
    for number in (signal.SIGTERM, signal.SIGINT):
        loop.add_signal_handler(number, stopping.set)
    pause = 0.5
    while not stopping.is_set():
        try:
            await _until(stopping, concurrency)
            pause = 0.5
        except Exception:
            log.exception("worker.interrupted", again_in_seconds=pause)
            await _wait(stopping, pause)
            pause = min(pause * 2, LONGEST_PAUSE_SECONDS)


async def _until(stopping: asyncio.Event, concurrency: int) -> None:
    """Work both queues until told to stop, or until one of the workers fails; then both are ended."""
    with app.replace_connector(app.connector.get_worker_connector()):
        async with app.open_async():
            workers = [
                asyncio.create_task(_worker(queue.READING, READING_CONCURRENCY)),
                asyncio.create_task(_worker(queue.CARRYING, _lots(concurrency))),
            ]
            told = asyncio.create_task(stopping.wait())
            await asyncio.wait([*workers, told], return_when=asyncio.FIRST_COMPLETED)
            told.cancel()
            for worker in workers:
                worker.cancel()
            ended = await asyncio.gather(*workers, return_exceptions=True)
    for outcome in ended:
        if isinstance(outcome, Exception):
            raise outcome


def _lots(documents: int) -> int:
    """How many lots hold so many documents; each is one job, and makes the calls of all its documents at once."""
    return max(1, min(documents, MOST_CALLS) // LOT)


async def _worker(name: str, concurrency: int) -> None:
    await app.run_worker_async(
        queues=[name],
        name=name,
        concurrency=concurrency,
        install_signal_handlers=False,
        fetch_job_polling_interval=settings.POLL_SECONDS,
        shutdown_graceful_timeout=20.0,
        update_heartbeat_interval=settings.HEARTBEAT_SECONDS,
        stalled_worker_timeout=settings.STALLED_AFTER_SECONDS,
        delete_jobs="successful",
        task_middleware=[_accompany],
    )


def _accompany(call: Callable[[], Any], context: Any, worker: Any) -> Any:
    """Know that the job is worked on; a thread keeps no database session between two jobs."""
    _running.begin(context.job.id, worker.worker_id)
    try:
        return call()
    finally:
        connections.close_all()
        _running.end(context.job.id)


async def _wait(stopping: asyncio.Event, seconds: float) -> None:
    try:
        await asyncio.wait_for(stopping.wait(), timeout=seconds)
    except TimeoutError:
        return
